"""Errors, mapped once: problem+json for programs, a page for people."""

from __future__ import annotations

import re
from dataclasses import replace
from typing import Any
from urllib.parse import parse_qsl, urlsplit

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse, Response
from starlette.exceptions import HTTPException
from starlette.requests import Request as AnyRequest

from anvilsong.core.complaints import problems_of
from anvilsong.core.errors import AnvilsongError, BadInput, Problem
from anvilsong.core.said import Words
from anvilsong.core.spoken import spoken
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.web.asgi import BODY
from anvilsong.web.frame import render, units
from anvilsong.web.job_view import UnreadableJob

_WRAPPING = re.compile(r"^(?:job|settings)\.|\.\d+$")
NOT_HERE = sentence("web.there_no_such_page")
TITLES = {404: "Not here", 405: "Not this way", 400: "This cannot be understood"}


def problem_json(
    status: int, title: Words, detail: Words, problems: tuple[Problem, ...] = (), system: UnitSystem = "mm"
) -> Response:
    """An RFC 9457 answer, with the fields named."""
    body: dict[str, Any] = {"type": "about:blank", "title": title, "status": status, "detail": detail}
    if problems:
        body["field"] = problems[0].field
        body["problems"] = [
            {"field": problem.field, "given": problem.given, "allowed": problem.allowed}
            for problem in problems
        ]
    return JSONResponse(spoken(body, system), status, media_type="application/problem+json")


def wants_page(request: AnyRequest) -> bool:
    """Whether a person's browser asks, and not a program."""
    path = request.url.path
    return (
        not path.startswith("/api")
        and path != "/healthz"
        and "text/html" in request.headers.get("accept", "text/html")
    )


def typed_fields(request: AnyRequest) -> list[tuple[str, str]]:
    """The fields of the form that was sent, so that an error page can keep them and send them again."""
    body = request.scope.get(BODY, b"")
    text = body.decode("utf-8", "replace")
    return parse_qsl(text, keep_blank_values=True, max_num_fields=2000) if body else []


def way_back(request: AnyRequest) -> str:
    """The page of ours that somebody came from; the book when none is known."""
    came = urlsplit(request.headers.get("referer", ""))
    if (
        came.netloc == request.headers.get("host")
        and came.path.startswith("/")
        and not came.path.startswith("//")
    ):
        return came.path + (f"?{came.query}" if came.query else "")
    return "/book"


def answer(
    request: AnyRequest,
    status: int,
    title: Words,
    detail: Words,
    problems: tuple[Problem, ...] = (),
    resend: bool = True,
) -> Response:
    """An error, as a page or as JSON, by who asks. ``resend``: whether what was typed can be sent again."""
    if not wants_page(request):
        return problem_json(status, title, detail, problems, units(request))
    kept = typed_fields(request) if request.method == "POST" else []
    again = request.url.path + (f"?{request.url.query}" if request.url.query else "")
    return render(
        request,
        "error.html",
        status,
        title=title,
        detail=detail,
        problems=problems,
        kept=kept,
        again=again if resend else "",
        back=way_back(request),
    )


def _as_sent(problem: Problem) -> Problem:
    """A field by the name that who sent it knows: without the wrapping of the body, and a list by its own
    name.
    """
    return replace(problem, field=_WRAPPING.sub("", problem.field))


def register_errors(app: FastAPI) -> None:
    """Every error of the tree, and the framework's own, in one place."""

    @app.exception_handler(AnvilsongError)
    async def _own(request: Request, error: AnvilsongError) -> Response:
        problems = error.problems if isinstance(error, BadInput) else ()
        return answer(request, 422, "This cannot be used", error.words, problems)

    @app.exception_handler(UnreadableJob)
    async def _unreadable(request: Request, error: UnreadableJob) -> Response:
        return render(
            request, "unreadable.html", row=error.row, plan_row=error.plan_row, revisions=error.revisions
        )

    @app.exception_handler(RequestValidationError)
    async def _request(request: Request, error: RequestValidationError) -> Response:
        first = error.errors()[0]
        if first["loc"][:1] == ("path",):
            return answer(request, 404, TITLES[404], NOT_HERE)
        if first["loc"] == ("body",) and first["type"] == "missing":
            nothing = Problem("body", "nothing", "send a JSON object")
            return answer(request, 422, "This cannot be used", str(nothing), (nothing,))
        problems = tuple(map(_as_sent, problems_of(error.errors(), skip=1))) or (
            Problem("body", "what was sent", "send a JSON object"),
        )
        return answer(request, 422, "This cannot be used", BadInput(*problems).words, problems)

    @app.exception_handler(HTTPException)
    async def _http(request: Request, error: HTTPException) -> Response:
        title = TITLES.get(error.status_code, str(error.detail))
        detail = NOT_HERE if error.status_code == 404 else str(error.detail)
        response = answer(request, error.status_code, title, detail)
        response.headers.update(error.headers or {})
        return response
