"""Card: one page for print, readable at arm's length, on the paper that the shop has."""

from __future__ import annotations

import json
from dataclasses import dataclass, replace
from typing import Any, Literal
from urllib.parse import quote

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core import say
from anvilsong.core.complaints import validated
from anvilsong.core.errors import CannotRead
from anvilsong.core.model import situation
from anvilsong.core.plan import worked_out
from anvilsong.core.prep import limit_for
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.units import UnitSystem
from anvilsong.web.codes import qr_code
from anvilsong.web.door.addresses import seen_from_outside
from anvilsong.web.drawings.panel import panel_drawing
from anvilsong.web.drawings.pedal import pedal_drawing
from anvilsong.web.drawings.section import section_drawing
from anvilsong.web.frame import part, render, units
from anvilsong.web.guard.origins import is_loopback
from anvilsong.web.job_view import JobView, job_view, kit_of
from anvilsong.web.known import border_range
from anvilsong.web.on_part import on_part
from anvilsong.web.one_file import one_style
from anvilsong.web.requests import Fields, Revision, RowId, found
from anvilsong.web.set_line import set_line

router = APIRouter(include_in_schema=False)

Size = Literal["a4", "letter", "a6"]
SIZES: dict[Size, str] = {"a4": "A4", "letter": "Letter", "a6": "A6"}


# The styles of a card that is sent as one file, in their order.
STYLES = (
    "theme.css", "frame.css", "set_line.css", "told.css", "drawings.css", "prep.css", "board.css", "card.css",
    "narrow.css",
)  # fmt: skip


@dataclass(frozen=True)
class Paper:
    """What a card is printed on, whether the steps go along, and whether its settings are saved."""

    size: Size
    steps: bool
    unsaved: bool = False


def settings_text(view: JobView, system: UnitSystem, unsaved: bool = False) -> str:
    """The card's settings as text, for a code that has no address which another device could open."""
    state = "not saved" if unsaved else f"version {view.plan_row.revision}"
    lines: list[Words] = [f"{view.row.title}, {state}", view.plan.panel.machine]
    lines += [f"{item.label}: {item.shown} {item.unit}".strip() for item in view.set_line if item.large]
    settings = view.settings
    if settings.tungsten:
        lines.append(
            say.joined(f"Tungsten: {settings.tungsten.class_} ", say.size(settings.tungsten.diameter_mm))
        )
    lines.append(f"Cup: {settings.cup.number}{' lens' if settings.cup.gas_lens else ' plain'}")
    if settings.filler:
        lines.append(say.joined("Filler rod: ", rod_words(view)))
    lines.append(say.joined("Travel: ", say.mm_s(settings.travel_mm_s)))
    return "\n".join(say.in_units(line, system) for line in lines)


def rod_words(view: JobView) -> Words:
    """The rod, and that of the passes after the first where it is another."""
    filler = view.settings.filler
    if filler is None:
        return "none"
    sizes = list(dict.fromkeys(each.rod_mm for each in view.plan.passes if each.rod_mm))
    first, *after = sizes or [filler.diameter_mm]
    said = say.joined(f"{filler.class_}, ", say.size(first))
    return (
        say.joined(said, f" for the {view.plan.passes[0].kind}, then ", say.size(after[0])) if after else said
    )


def code_for(request: Request, view: JobView) -> tuple[str, str]:
    """What the card's code says, and what that is in words: the card's address where others can reach it,
    else the settings.
    """
    config = request.app.state.config
    at_this_machine = is_loopback(request.url.hostname or "")
    if at_this_machine and not config.asks_who:
        return settings_text(view, units(request)), "the settings as text"
    begins = seen_from_outside(config, str(request.base_url))
    path = request.app.url_path_for("show_card", job_id=view.row.id)
    return f"{begins}{path}?revision={view.plan_row.revision}", "this card on a phone"


@router.get("/jobs/{job_id}/card", response_class=HTMLResponse)
def show_card(
    request: Request, job_id: RowId, revision: Revision = None, size: Size = "a4", steps: bool = False
) -> HTMLResponse:
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request), revision)
        return _card(request, session, view, Paper(size, steps))


@router.get("/jobs/{job_id}/card/file", response_class=HTMLResponse)
def download_card(
    request: Request, job_id: RowId, revision: Revision = None, size: Size = "a4", steps: bool = False
) -> Response:
    """The card as one file with everything in it, to be sent to somebody's phone; its code carries the
    settings as text, since the file is read where these pages are not.
    """
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request), revision)
        found(None if view.plan.refused else view)
        shown = _shown(request, session, view, Paper(size, steps)) | {
            "code": part("code", lambda: qr_code(settings_text(view, units(request)))),
            "code_words": "the settings as text",
            "styles": one_style(STYLES),
            "print_styles": one_style(("print.css",)),
        }
        page = render(request, "card_file.html", view=view, **shown)
    name = quote(f"{view.row.title}, version {view.plan_row.revision}.html", safe="")
    page.headers["content-disposition"] = f"attachment; filename*=UTF-8''{name}"
    return page


@router.post("/jobs/{job_id}/card", response_class=HTMLResponse)
def show_card_of_the_board(request: Request, job_id: RowId, form: Fields) -> HTMLResponse:
    """The card of settings that stand on a board and are not saved; it says so, and stores nothing."""
    try:
        settings = validated(Settings, json.loads(form.get("settings", "")))
    except (ValueError, RecursionError):
        raise CannotRead("The board's settings", "they are no JSON") from None
    size: Size = next((size for size in SIZES if size == form.get("size")), "a4")
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        plan = worked_out(view.job, settings, view.machine, kit_of(session, view), view.c)
        if plan.settings is not None:
            figures = set_line(plan, view.planned, view.machine, units(request))
            view = replace(view, plan=plan, set_line=figures)
        return _card(request, session, view, Paper(size, bool(form.get("steps")), unsaved=True))


def _shown(request: Request, session: Session, view: JobView, paper: Paper) -> dict[str, Any]:
    """What stands on the card, drawn and said."""
    system = units(request)
    seen = view.plan.consequences
    shown: dict[str, Any] = {"section": "", "panel": "", "pedal": "", "code": "", "code_words": ""}
    interpass: Words = ""
    if len(view.plan.passes) > 1:
        interpass = say.celsius(limit_for(situation(view.job)).limit_c)
    if not view.plan.refused and seen:
        text, words = code_for(request, view)
        if paper.unsaved:  # nothing stands under an address yet
            text, words = settings_text(view, system, unsaved=True), "the settings as text"
        best = view.plan.best.get("amps_run")
        shown = {
            "section": part("section", lambda: section_drawing(view.job, view.settings, seen, system)),
            "panel": part("panel", lambda: panel_drawing(view.plan.panel, view.machine, pointers_only=True)),
            "pedal": part("pedal", lambda: pedal_drawing(view.job, view.settings, best)),
            "code": part("code", lambda: qr_code(text)),
            "code_words": words,
        }
    return shown | {
        "size": paper.size,
        "steps": paper.steps,
        "unsaved": paper.unsaved,
        "interpass": interpass,
        "rod": "" if view.plan.refused else rod_words(view),
        "on_part": on_part(session, view),
        "border": border_range(session, view) if seen else None,
    }


def _card(request: Request, session: Session, view: JobView, paper: Paper) -> HTMLResponse:
    is_newest = view.plan_row.revision == max(each.revision for each in view.revisions)
    return render(
        request,
        "card.html",
        view=view,
        here="card",
        sizes=SIZES,
        state=None
        if view.plan.refused or paper.unsaved or not is_newest
        else {"job_id": view.row.id, "settings": view.settings.model_dump(mode="json", by_alias=True)},
        **_shown(request, session, view, paper),
    )
