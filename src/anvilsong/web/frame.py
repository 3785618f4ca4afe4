"""The frame around every page: units, rail, set line, and rendering."""

from __future__ import annotations

import json
import logging
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import cache
from importlib.resources import files
from typing import Any
from urllib.parse import quote, unquote

from fastapi import HTTPException
from fastapi.responses import HTMLResponse, JSONResponse, RedirectResponse
from fastapi.templating import Jinja2Templates
from jinja2 import pass_context
from jinja2.runtime import Context
from markupsafe import Markup
from sqlalchemy.orm import Session
from starlette.requests import Request as AnyRequest

from anvilsong import __version__
from anvilsong.core import say
from anvilsong.core.errors import BadInput
from anvilsong.core.glossary import find_term
from anvilsong.core.job import Job
from anvilsong.core.machine.model import Machine
from anvilsong.core.machine.panel import PanelLine
from anvilsong.core.metal.joints import find_joint
from anvilsong.core.plan.values import Plan
from anvilsong.core.quantities import UnitSystem, figure, percent, size_words, unit_words
from anvilsong.core.registry import BY_KEY, get_value
from anvilsong.core.settings import Settings
from anvilsong.core.torch.kit import Kit
from anvilsong.store import book, shop
from anvilsong.store.models import CouponRow, JobRow, PlanRow
from anvilsong.store.reading import readable
from anvilsong.web.field_words import named

log = logging.getLogger("anvilsong")
UNITS_COOKIE, SAID_COOKIE = "units", "said"
YEAR_S = 365 * 24 * 3600
# On the set line these stand large; the rest of the panel follows small.
LARGE = ("amps_set", "amps_run", "ep_share", "frequency_hz", "ep_trim", "shape_en", "post_flow_s")


@cache
def _templates() -> Jinja2Templates:
    made = Jinja2Templates(directory=str(files("anvilsong.web").joinpath("templates")))
    made.env.globals.update(
        named=named, version=__version__, by_key=BY_KEY, say=say, percent=percent, word=word
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


def spoken_json(request: AnyRequest, content: Any) -> JSONResponse:
    """An answer for a script, its sentences in the units of the browser that asked."""
    return JSONResponse(say.spoken(content, units(request)))


def units(request: AnyRequest) -> UnitSystem:
    """The unit system this browser asked for."""
    return "inch" if request.cookies.get(UNITS_COOKIE) == "inch" else "mm"


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


def fragment(request: AnyRequest, template: str, **values: Any) -> str:
    """A piece of a page."""
    return str(_templates().get_template(template).render(**_helpers(units(request)), **values))


def part(words: str, make: Callable[[], str]) -> str:
    """A drawing; or, when these values cannot be drawn, a line that says so: the rest of the page stands."""
    try:
        return make()
    except Exception as error:
        log.error("The %s could not be drawn", words, exc_info=error)
        return f'<p class="cannot-draw">The {words} cannot be drawn for these values.</p>'


def see_other(address: str, said: str = "", undo: str = "") -> RedirectResponse:
    """After a write: go and look at the result. ``said`` and ``undo`` come along once, as a line on top of the page."""
    answer = RedirectResponse(address, 303)
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
    cut = said[:200]
    return cut[: cut.rindex("⟦")] if cut.count("⟦") > cut.count("⟧") else cut


def _said(request: AnyRequest) -> dict[str, str]:
    """What the page before wanted said here."""
    try:
        given = json.loads(unquote(request.cookies.get(SAID_COOKIE, "")))
        return {"said": str(given["said"]), "undo": str(given["undo"])}
    except (ValueError, TypeError, KeyError, RecursionError):
        return {}


@dataclass(frozen=True)
class SetFigure:
    """One figure of the set line: in the panel's words, and canonically."""

    key: str
    label: str
    shown: str
    unit: str
    canonical_label: str
    canonical: str
    canonical_unit: str
    changed: bool
    clipped: bool
    said: str
    large: bool


@dataclass(frozen=True)
class Station:
    key: str
    number: int
    words: str
    state: str
    mark: str
    address: str


class UnreadableJob(Exception):
    """What is stored of a job's revision is damaged beyond working it out again."""

    def __init__(self, row: JobRow, plan_row: PlanRow | None) -> None:
        self.row, self.plan_row = row, plan_row


@dataclass(frozen=True)
class JobView:
    """Everything a page of a job shows around its own content."""

    row: JobRow
    plan_row: PlanRow
    job: Job
    machine: Machine
    plan: Plan
    planned: Settings | None
    set_line: list[SetFigure]
    stations: list[Station]
    notices: list[str] = field(default_factory=list)
    """What of this job could not be read, and what is shown instead."""

    @property
    def settings(self) -> Settings:
        """The settings; only pages that have checked for a refusal ask."""
        assert self.plan.settings is not None
        return self.plan.settings

    @property
    def joint_words(self) -> str:
        return find_joint(self.job.joint).words.lower()

    @property
    def metal_words(self) -> str:
        a, b = self.job.a, self.job.b
        if (a.alloy, a.thickness_mm) == (b.alloy, b.thickness_mm):
            return (
                f"{a.thickness} {a.alloy}"
                if isinstance(a.thickness, str)
                else f"{a.thickness:g} mm {a.alloy}"
            )
        return f"{a.alloy} {a.thickness} to {b.alloy} {b.thickness}"


def job_view(
    session: Session, job_id: int, system: UnitSystem = "mm", revision: int | None = None
) -> JobView:
    """The view of a job, at a revision or the newest; 404 when there is no such job.

    Raises
    ------
    UnreadableJob : nothing of the revision can be read; ``register_errors`` makes a page of it
    """
    row = book.get_job(session, job_id)
    if row is None:
        raise HTTPException(404)
    wanted = [plan for plan in row.plans if plan.revision == revision] if revision else row.plans[-1:]
    if not wanted:
        if row.plans:
            raise HTTPException(404)
        raise UnreadableJob(row, None)
    read = book.read_plan(wanted[0])
    if read is None:
        raise UnreadableJob(row, wanted[0])
    planned = _planned_settings(row, wanted[0])
    line = set_line(read.plan, planned, read.machine, system) if read.plan.settings else []
    return JobView(
        row,
        wanted[0],
        read.plan.job,
        read.machine,
        read.plan,
        planned,
        line,
        _stations(row, read.plan),
        read.notices,
    )


def _planned_settings(row: JobRow, upto: PlanRow) -> Settings | None:
    """What the planner itself gave, in the last revision that was planned afresh."""
    for plan in reversed(row.plans):
        if plan.revision <= upto.revision and plan.origin == "plan":
            return readable(Settings, plan.settings) if plan.settings else None
    return None


def kit_of(session: Session, view: JobView) -> Kit:
    """The kit a job names; everything on the shelf, and a word about it, when that kit cannot be had."""
    try:
        return shop.find_kit(session, view.job.kit)
    except BadInput:
        view.notices.append(
            f"The kit {view.job.kit} is not in the shop or cannot be read: everything usual counts as on the shelf."
        )
        return Kit()


def set_line(plan: Plan, planned: Settings | None, machine: Machine, system: UnitSystem) -> list[SetFigure]:
    """The panel's lines and the gas, in dial order."""
    assert plan.settings is not None
    found = [
        _figure(line, plan.settings, planned, system) for line in plan.panel.lines if line.shown != "off"
    ]
    flow = plan.settings.gas.flow_l_min
    words, changed = (
        figure(flow, "flow", system),
        planned is not None and abs(planned.gas.flow_l_min - flow) > 0.04,
    )
    if plan.job.control == "pedal":
        found.insert(
            1 + next((i for i, item in enumerate(found) if item.key == "amps_set"), -1),
            _foot(plan.settings, planned),
        )
    label = plan.settings.gas.kind.split()[0].capitalize()
    found.append(
        SetFigure(
            "flow_l_min",
            label,
            words,
            unit_words("flow", system),
            "Gas flow",
            words,
            unit_words("flow", system),
            changed,
            False,
            "",
            True,
        )
    )
    return found


def _foot(settings: Settings, planned: Settings | None) -> SetFigure:
    """The amps under the foot, which no panel shows."""
    entry, text = BY_KEY["amps_run"], f"{settings.amps_run:.0f}"
    changed = planned is not None and abs(planned.amps_run - settings.amps_run) > 0.4 * entry.step
    return SetFigure("amps_run", entry.words, text, "A", entry.words, text, "A", changed, False, "", True)


def _figure(line: PanelLine, settings: Settings, planned: Settings | None, system: UnitSystem) -> SetFigure:
    entry, value = BY_KEY[line.setting], get_value(settings, line.setting)
    was = get_value(planned, line.setting) if planned else value
    if entry.dimension is None:
        canonical, unit, changed = str(value), "", value != was
    elif value is None:
        canonical, unit, changed = "off", "", was is not None
    else:
        canonical, unit = (
            figure(value, entry.dimension, system, entry.decimals),
            unit_words(entry.dimension, system),
        )
        # A pulse or a mix that was off has nothing to differ from but that.
        changed = was is None or abs(value - was) > 0.4 * entry.step
    unit = f"{unit} EP" if line.setting == "ep_share" else unit
    return SetFigure(
        line.setting,
        line.label,
        line.shown,
        line.unit,
        entry.words,
        canonical,
        unit,
        changed,
        line.clipped,
        line.said,
        line.setting in LARGE,
    )


def _stations(row: JobRow, plan: Plan) -> list[Station]:
    base = f"/jobs/{row.id}"
    steps = [step for step in plan.run_sheet if step.station == "prep"]
    torch = [step for step in plan.run_sheet if step.station == "torch"]
    ticked = {tick.step for tick in row.ticks}
    done, torch_done = (
        sum(f"{step.station}:{step.key}" in ticked for step in group) for group in (steps, torch)
    )
    stops = sum(warning.level == "stop" for warning in plan.warnings)
    last = row.coupons[-1] if row.coupons else None
    verdict, keep = _last_read(last) if last else ("no coupon", False)
    rows = [
        (
            "job",
            "Job",
            "look" if plan.refused else "done",
            "refused" if plan.refused else f"revision {len(row.plans)}",
        ),
        ("prep", "Prep", _state(done, len(steps)), f"{done} of {len(steps)}" if steps else "—"),
        ("torch", "Torch", _state(torch_done, len(torch)), f"{torch_done} of {len(torch)}" if torch else "—"),
        (
            "tune",
            "Tune",
            "look" if stops else "open",
            f"{stops} stop" if stops else row.plans[-1].origin if not plan.refused else "—",
        ),
        ("coupon", "Coupon", "done" if last else "open", f"{len(row.coupons)} run" if last else "none yet"),
        ("read", "Read", "done" if keep else "look" if last else "open", verdict),
    ]
    return [
        Station(key, number, words, state, mark, f"{base}/{key}")
        for number, (key, words, state, mark) in enumerate(rows, 1)
    ]


def _last_read(coupon: CouponRow) -> tuple[str, bool]:
    """The newest coupon's border in words, and whether its settings are to be kept."""
    reading = coupon.readings[-1] if coupon.readings else None
    state = reading.verdict.get("border_state") if reading else None
    change = reading.change.get("kind") if reading else None
    return str(state or "not readable").replace("_", " "), change == "keep"


def _state(done: int, all_of_them: int) -> str:
    return "done" if all_of_them and done == all_of_them else "open"
