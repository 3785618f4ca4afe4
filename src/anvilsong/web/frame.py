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
from starlette.requests import Request as AnyRequest

from anvilsong import __version__
from anvilsong.core import say
from anvilsong.core.glossary import find_term
from anvilsong.core.joint import find_joint
from anvilsong.core.quantities import figure, percent, size_words, unit_words
from anvilsong.core.registry import BY_KEY
from anvilsong.core.shop import answer_words, question_words, way_words
from anvilsong.core.units import UnitSystem
from anvilsong.store.models import fresh_uid
from anvilsong.web.field_words import named
from anvilsong.web.files import mark

log = logging.getLogger("anvilsong")
UNITS_COOKIE, UNITS_FIELD, SAID_COOKIE = "units", "typed_in", "said"
YEAR_S = 365 * 24 * 3600


@cache
def _templates() -> Jinja2Templates:
    made = Jinja2Templates(directory=str(files("anvilsong.web").joinpath("templates")))
    made.env.globals.update(
        named=named,
        version=__version__,
        static=f"/static/{mark()}",
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
    made.env.trim_blocks = made.env.lstrip_blocks = True
    return made


@pass_context
def _in_reader_units(context: Context, value: Any) -> Any:
    """Whatever a page prints: its quantities in the reader's units."""
    if not isinstance(value, str) or "⟦" not in value:
        return value
    spoken = say.in_units(value, context.get("units", "mm"))
    return Markup(spoken) if isinstance(value, Markup) else spoken


def spoken_json(request: AnyRequest, content: Any) -> Response:
    """An answer for a script, its sentences in the units of the browser that asked.

    The text is spoken as a whole: no quantity's words hold a quotation mark.
    """
    if isinstance(content, BaseModel):
        text = content.model_dump_json(by_alias=True)
    else:
        text = json.dumps(content, ensure_ascii=False, allow_nan=False, separators=(",", ":"))
    return Response(say.in_units(text, units(request)), media_type="application/json")


def units(request: AnyRequest) -> UnitSystem:
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
    generation, system = cache(lambda: request.app.state.sessions.generation()), units(request)
    hidden = Markup(
        '<input type="hidden" name="uid" value="{}"><input type="hidden" name="book" value="{}">'
        f'<input type="hidden" name="{UNITS_FIELD}" value="{system}">'
    )
    return lambda: hidden.format(fresh_uid(), generation())


def fragment(request: AnyRequest, template: str, **values: Any) -> Markup:
    """A piece of a page."""
    return Markup(_templates().get_template(template).render(**_helpers(units(request)), **values))


def part(words: str, make: Callable[[], Markup]) -> Markup:
    """A drawing; or, when these values cannot be drawn, a line that says so: the rest of the page stands."""
    try:
        return make()
    except Exception as error:
        log.error("The %s could not be drawn", words, exc_info=error)
        return Markup('<p class="cannot-draw">The {} cannot be drawn for these values.</p>').format(words)


_ALSO: ContextVar[str] = ContextVar("also", default="")


def also_said(words: str) -> None:
    """Something to be said on the next page of this request, whatever it says by itself."""
    _ALSO.set(words)


def see_other(address: str, said: str = "", undo: str = "") -> RedirectResponse:
    """After a write: go and look at the result. ``said`` and ``undo`` come along once, as a line on top of
    the page.
    """
    answer = RedirectResponse(address, 303)
    said = " ".join(filter(None, (said, _ALSO.get())))
    if said:
        answer.set_cookie(
            SAID_COOKIE,
            quote(json.dumps({"said": _cut(said), "undo": undo})),
            max_age=30,
            samesite="strict",
            httponly=True,
        )
    return answer


def _cut(said: str) -> str:
    """A line short enough for a cookie, never in the middle of a quantity."""
    cut = said[:300]
    return cut[: cut.rindex("⟦")] if cut.count("⟦") > cut.count("⟧") else cut


def _said(request: AnyRequest) -> dict[str, str]:
    """What the page before wanted said here."""
    try:
        given = json.loads(unquote(request.cookies.get(SAID_COOKIE, "")))
        return {"said": str(given["said"]), "undo": str(given["undo"])}
    except (ValueError, TypeError, KeyError, RecursionError):
        return {}
