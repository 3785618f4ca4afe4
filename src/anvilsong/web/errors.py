"""Errors, mapped once: problem+json for programs, a page for people."""

from __future__ import annotations

from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, Response
from starlette.exceptions import HTTPException

from anvilsong.core.errors import AnvilsongError, BadInput, Problem
from anvilsong.web.frame import render


def problem_json(status: int, title: str, detail: str, problems: tuple[Problem, ...] = ()) -> JSONResponse:
    """An RFC 9457 answer, with the fields named."""
    body: dict[str, Any] = {"type": "about:blank", "title": title, "status": status, "detail": detail}
    if problems:
        body["field"] = problems[0].field
        body["problems"] = [{"field": problem.field, "given": problem.given, "allowed": problem.allowed} for problem in problems]
    return JSONResponse(body, status, media_type="application/problem+json")


def _wants_page(request: Request) -> bool:
    return not request.url.path.startswith("/api") and "text/html" in request.headers.get("accept", "text/html")


def _answer(request: Request, status: int, title: str, detail: str, problems: tuple[Problem, ...] = ()) -> Response:
    if _wants_page(request):
        return render(request, "error.html", status=status, title=title, detail=detail, problems=problems)
    return problem_json(status, title, detail, problems)


def register_errors(app: FastAPI) -> None:
    """Every error of the tree, and the framework's own, in one place."""

    @app.exception_handler(AnvilsongError)
    async def _own(request: Request, error: AnvilsongError) -> Response:
        problems = error.problems if isinstance(error, BadInput) else ()
        return _answer(request, 422, "This cannot be used", str(error), problems)

    @app.exception_handler(RequestValidationError)
    async def _request(request: Request, error: RequestValidationError) -> Response:
        first = error.errors()[0]
        field = ".".join(str(part) for part in first["loc"][1:]) or "body"
        problem = Problem(field, "what was sent", "send a JSON object" if first["type"].startswith("json") else str(first["msg"]))
        return _answer(request, 422, "This cannot be used", str(problem), (problem,))

    @app.exception_handler(HTTPException)
    async def _http(request: Request, error: HTTPException) -> Response:
        title = "Not here" if error.status_code == 404 else str(error.detail)
        detail = "There is no such page or job. The book lists them all." if error.status_code == 404 else str(error.detail)
        return _answer(request, error.status_code, title, detail)
