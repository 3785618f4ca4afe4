"""The page that shows the JSON addresses, from files of this program alone."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, FastAPI, Request
from fastapi.openapi.utils import get_openapi
from fastapi.responses import HTMLResponse

from anvilsong.core.said import in_units
from anvilsong.core.words import sentence
from anvilsong.web.api.bodies import ProblemAnswer
from anvilsong.web.frame import render

router = APIRouter(include_in_schema=False)

ABOUT = sentence("web.job_plan_out_settings")


@router.get("/api/docs", response_class=HTMLResponse)
def show_docs(request: Request) -> HTMLResponse:
    return render(request, "docs.html")


def describe_api(app: FastAPI) -> None:
    """Give the application an OpenAPI in which errors have their shape too."""

    def openapi() -> dict[str, Any]:
        if app.openapi_schema is None:
            schema = get_openapi(
                title=app.title, version=app.version, description=in_units(ABOUT), routes=app.routes
            )
            schemas = schema.setdefault("components", {}).setdefault("schemas", {})
            problem = ProblemAnswer.model_json_schema(ref_template="#/components/schemas/{model}")
            schemas |= problem.pop("$defs", {})
            schemas["ProblemAnswer"] = problem
            app.openapi_schema = schema
        return app.openapi_schema

    app.openapi = openapi  # type: ignore[method-assign]
