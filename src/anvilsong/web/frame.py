"""The frame around every page: units, words, rendering, and what one page tells the next."""

from __future__ import annotations

import json
import logging
from collections.abc import Callable, Mapping
from contextvars import ContextVar
from functools import cache
from importlib.resources import files
from typing import Any
from urllib.parse import quote, unquote

from fastapi.responses import HTMLResponse, RedirectResponse, Response
from fastapi.templating import Jinja2Templates
from jinja2 import pass_context
from jinja2.runtime import Context
from markupsafe import Markup
from pydantic import BaseModel
from starlette.requests import HTTPConnection
from starlette.requests import Request as AnyRequest

from anvilsong import __version__
from anvilsong.core import say
from anvilsong.core.glossary import find_term
from anvilsong.core.joint import find_joint
from anvilsong.core.phrases import capital
from anvilsong.core.registry import BY_KEY
from anvilsong.core.said import Said, Words, in_units, joined, plain, read_said
from anvilsong.core.shop import answer_words, question_words, way_words
from anvilsong.core.shown import figure, percent, size_words, unit_words
from anvilsong.core.spoken import spoken
from anvilsong.core.units import UnitSystem
from anvilsong.store.models import fresh_uid
from anvilsong.web.asgi import VISIT
from anvilsong.web.field_words import named
from anvilsong.web.files import mark, script

log = logging.getLogger("anvilsong")
UNITS_COOKIE, UNITS_FIELD, SAID_COOKIE = "units", "typed_in", "said"
MOST_SAID = 1200  # letters of a cookie
YEAR_S = 365 * 24 * 3600


@cache
def _templates() -> Jinja2Templates:
    made = Jinja2Templates(directory=str(files("anvilsong.web").joinpath("templates")))
    made.env.globals.update(
        named=named,
        version=__version__,
        static=f"/static/{mark()}",
        script=script,
        by_key=BY_KEY,
        say=say,
        percent=percent,
        word=word,
        question_words=question_words,
        answer_words=answer_words,
        way_words=way_words,
        joint_words=lambda key: find_joint(key).words,
    )
    made.env.finalize = _in_reader_units
    made.env.filters |= {"capital": capital, "as_text": _as_text}
    made.env.trim_blocks = made.env.lstrip_blocks = True
    return made


@pass_context
def _in_reader_units(context: Context, value: Any) -> Any:
    """Whatever a page prints: its quantities in the reader's units."""
    return value.in_units(context.get("units", "mm")) if isinstance(value, Said) else value


@pass_context
def _as_text(context: Context, value: Any) -> Any:
    """Words as a text, or a list of them as texts, for filters that change texts."""
    if isinstance(value, list | tuple):
        return [_in_reader_units(context, each) for each in value]
    return _in_reader_units(context, value)


def spoken_json(request: AnyRequest, content: Any) -> Response:
    """An answer for a script, its sentences in the units of the browser that asked."""
    system = units(request)
    data = content.model_dump(by_alias=True) if isinstance(content, BaseModel) else content
    text = json.dumps(spoken(data, system), ensure_ascii=False, allow_nan=False, separators=(",", ":"))
    return Response(text, media_type="application/json")


def units(request: HTTPConnection) -> UnitSystem:
    """The unit system of the form that was sent, else the one this browser asked for."""
    form: UnitSystem | None = getattr(request.state, "units_of_form", None)
    return form or ("inch" if request.cookies.get(UNITS_COOKIE) == "inch" else "mm")


def read_in_units_of(request: AnyRequest, form: Mapping[str, Any]) -> None:
    """From now on this request's numbers are in the units that its form was printed in, whatever this browser
    has been switched to since.
    """
    said = form.get(UNITS_FIELD)
    if said in ("mm", "inch"):
        request.state.units_of_form = said


def word(key: str, text: str | None = None) -> Markup:
    """A word of the trade as a link to what it means."""
    term = find_term(key)
    return Markup('<a class="word" href="/help#{}" title="{}">{}</a>').format(
        key, term.says, text or term.words
    )


def _helpers(system: UnitSystem) -> dict[str, Any]:
    """What templates print quantities with, in the reader's units."""
    return {
        "units": system,
        "show": lambda value, dimension, decimals=None: say.in_units(
            say.setting(value, dimension, decimals), system
        ),
        "figure": lambda value, dimension, decimals=None: figure(value, dimension, system, decimals),
        "unit_words": lambda dimension: unit_words(dimension, system),
        "size_words": lambda value: size_words(value, system),
    }


def render(request: AnyRequest, template: str, status: int = 200, **values: Any) -> HTMLResponse:
    """A page, with the helpers every template uses."""
    told = _said(request)
    context = {
        "view": None,
        "path": request.url.path,
        "address": _address(request),
        "once": _hidden_fields(request),
        "told": told,
        "visit": request.scope.get(VISIT),
        "asks_who": request.app.state.keeper is not None,
        **_helpers(units(request)),
        **values,
    }
    response = _templates().TemplateResponse(request, template, context, status_code=status)
    if told:
        response.delete_cookie(SAID_COOKIE, samesite="strict", httponly=True)
    return response


def _address(request: AnyRequest) -> str:
    """Path and query of the page, to come back to the same one; after a form, the page the form stood on."""
    query = f"?{request.url.query}" if request.url.query else ""
    return request.url.path + query


def _hidden_fields(request: AnyRequest) -> Callable[[], Markup]:
    """What every form that writes carries: a name of its own, the book it is filled from (`web.once`), and
    the units that its numbers are in.
    """

    @cache
    def same_in_each() -> str:
        return (
            f'<input type="hidden" name="book" value="{request.app.state.sessions.generation()}">'
            f'<input type="hidden" name="{UNITS_FIELD}" value="{units(request)}">'
        )

    return lambda: Markup(f'<input type="hidden" name="uid" value="{fresh_uid()}">{same_in_each()}')


def fragment(request: AnyRequest, template: str, **values: Any) -> Markup:
    """A piece of a page."""
    return Markup(_templates().get_template(template).render(**_helpers(units(request)), **values))


def part(words: str, make: Callable[[], Words]) -> Words:
    """A drawing; or, when these values cannot be drawn, a line that says so: the rest of the page stands."""
    try:
        return make()
    except Exception as error:
        log.error("The %s could not be drawn", words, exc_info=error)
        return Markup('<p class="cannot-draw">The {} cannot be drawn for these values.</p>').format(words)


_ALSO: ContextVar[Words] = ContextVar("also", default="")


def also_said(words: Words) -> None:
    """Something to be said on the next page of this request, whatever it says by itself."""
    _ALSO.set(words)


def see_other(address: str, said: Words = "", undo: str = "") -> RedirectResponse:
    """After a write: go and look at the result. ``said`` and ``undo`` come along once, as a line on top of
    the page.
    """
    answer = RedirectResponse(address, 303)
    said = joined(*(each for each in (said, _ALSO.get()) if each), by=" ")
    if said:
        answer.set_cookie(
            SAID_COOKIE,
            quote(json.dumps({"said": plain(_cut(said)), "undo": undo})),
            max_age=30,
            samesite="strict",
            httponly=True,
        )
    return answer


def _cut(said: Words) -> Words:
    """Words short enough for a cookie; where they are not, their beginning as millimetres read it."""
    return said if len(json.dumps(plain(said))) <= MOST_SAID else in_units(said)[:300]


def _said(request: AnyRequest) -> dict[str, Words]:
    """What the page before wanted said here."""
    try:
        given = json.loads(unquote(request.cookies.get(SAID_COOKIE, "")))
        said = given["said"]
        return {"said": said if isinstance(said, str) else read_said(said), "undo": str(given["undo"])}
    except (ValueError, TypeError, KeyError, RecursionError):
        return {}
