"""The frame around every page: units, rail, set line, and rendering."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from fastapi import HTTPException, Request
from fastapi.responses import HTMLResponse, RedirectResponse
from fastapi.templating import Jinja2Templates
from sqlalchemy.orm import Session

from anvilsong import __version__
from anvilsong.core.job import Job
from anvilsong.core.machine.model import Machine
from anvilsong.core.machine.panel import PanelLine
from anvilsong.core.metal.joints import find_joint
from anvilsong.core.plan.values import Plan
from anvilsong.core.quantities import UnitSystem, figure, percent, show, unit_words
from anvilsong.core.registry import BY_KEY, get_value
from anvilsong.core.settings import Settings
from anvilsong.store import book
from anvilsong.store.models import JobRow, PlanRow

UNITS_COOKIE = "units"
YEAR_S = 365 * 24 * 3600
# On the set line these stand large; the rest of the panel follows small.
LARGE = ("amps_set", "ep_share", "frequency_hz", "ep_trim", "shape_en", "post_flow_s")


@cache
def _templates() -> Jinja2Templates:
    made = Jinja2Templates(directory=str(files("anvilsong.web").joinpath("templates")))
    made.env.globals.update(version=__version__, by_key=BY_KEY, percent=percent)
    made.env.trim_blocks = made.env.lstrip_blocks = True
    return made


def units(request: Request) -> UnitSystem:
    """The unit system this browser asked for."""
    return "inch" if request.cookies.get(UNITS_COOKIE) == "inch" else "mm"


def _helpers(system: UnitSystem) -> dict[str, Any]:
    """What templates print quantities with, in the reader's units."""
    return {
        "units": system,
        "show": lambda value, dimension, decimals=None: show(value, dimension, system, decimals),
        "figure": lambda value, dimension, decimals=None: figure(value, dimension, system, decimals),
        "unit_words": lambda dimension: unit_words(dimension, system),
    }


def render(request: Request, template: str, status: int = 200, **values: Any) -> HTMLResponse:
    """A page, with the helpers every template uses."""
    context = {"view": None, "path": request.url.path, **_helpers(units(request)), **values}
    return _templates().TemplateResponse(request, template, context, status_code=status)


def fragment(request: Request, template: str, **values: Any) -> str:
    """A piece of a page."""
    return str(_templates().get_template(template).render(**_helpers(units(request)), **values))


def see_other(address: str) -> RedirectResponse:
    """After a write: go and look at the result."""
    return RedirectResponse(address, 303)


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
            return f"{a.thickness} {a.alloy}" if isinstance(a.thickness, str) else f"{a.thickness:g} mm {a.alloy}"
        return f"{a.alloy} {a.thickness} to {b.alloy} {b.thickness}"


def job_view(session: Session, job_id: int, system: UnitSystem = "mm", revision: int | None = None) -> JobView:
    """The view of a job, at a revision or the newest; 404 when there is no such job."""
    row = book.get_job(session, job_id)
    if row is None:
        raise HTTPException(404)
    wanted = [plan for plan in row.plans if plan.revision == revision] if revision else row.plans[-1:]
    if not wanted:
        raise HTTPException(404)
    plan_row = wanted[0]
    plan = Plan.model_validate(plan_row.plan)
    machine = Machine.model_validate(plan_row.machine_document)
    planned = _planned_settings(row, plan_row)
    line = set_line(plan, planned, machine, system) if plan.settings else []
    return JobView(row, plan_row, plan.job, machine, plan, planned, line, _stations(row, plan))


def _planned_settings(row: JobRow, upto: PlanRow) -> Settings | None:
    """What the planner itself gave, in the last revision that was planned afresh."""
    for plan in reversed(row.plans):
        if plan.revision <= upto.revision and plan.origin == "plan":
            return Settings.model_validate(plan.settings) if plan.settings else None
    return None


def set_line(plan: Plan, planned: Settings | None, machine: Machine, system: UnitSystem) -> list[SetFigure]:
    """The panel's lines and the gas, in dial order."""
    assert plan.settings is not None
    found = [_figure(line, plan.settings, planned, system) for line in plan.panel.lines if line.shown != "off"]
    flow = plan.settings.gas.flow_l_min
    words, changed = figure(flow, "flow", system), planned is not None and abs(planned.gas.flow_l_min - flow) > 0.04
    label = plan.settings.gas.kind.split()[0].capitalize()
    found.append(SetFigure("flow_l_min", label, words, unit_words("flow", system), "Gas flow", words, unit_words("flow", system), changed, False, "", True))
    return found


def _figure(line: PanelLine, settings: Settings, planned: Settings | None, system: UnitSystem) -> SetFigure:
    entry, value = BY_KEY[line.setting], get_value(settings, line.setting)
    was = get_value(planned, line.setting) if planned else value
    if entry.dimension is None:
        canonical, unit, changed = str(value), "", value != was
    else:
        canonical, unit = figure(value, entry.dimension, system, entry.decimals), unit_words(entry.dimension, system)
        changed = abs(value - was) > 0.4 * entry.step
    unit = f"{unit} EP" if line.setting == "ep_share" else unit
    return SetFigure(line.setting, line.label, line.shown, line.unit, entry.words, canonical, unit, changed, line.clipped, line.said, line.setting in LARGE)


def _stations(row: JobRow, plan: Plan) -> list[Station]:
    base = f"/jobs/{row.id}"
    steps = [step for step in plan.run_sheet if step.station == "prep"]
    torch = [step for step in plan.run_sheet if step.station == "torch"]
    ticked = {tick.step for tick in row.ticks}
    done, torch_done = (sum(f"{step.station}:{step.key}" in ticked for step in group) for group in (steps, torch))
    stops = sum(warning.level == "stop" for warning in plan.warnings)
    last = row.coupons[-1] if row.coupons else None
    verdict = last.readings[-1].verdict["border_state"].replace("_", " ") if last else "no coupon"
    keep = bool(last and last.readings[-1].change["kind"] == "keep")
    rows = [
        ("job", "Job", "look" if plan.refused else "done", "refused" if plan.refused else f"revision {len(row.plans)}"),
        ("prep", "Prep", _state(done, len(steps)), f"{done} of {len(steps)}" if steps else "—"),
        ("torch", "Torch", _state(torch_done, len(torch)), f"{torch_done} of {len(torch)}" if torch else "—"),
        ("tune", "Tune", "look" if stops else "open", f"{stops} stop" if stops else row.plans[-1].origin if not plan.refused else "—"),
        ("coupon", "Coupon", "done" if last else "open", f"{len(row.coupons)} run" if last else "none yet"),
        ("read", "Read", "done" if keep else "look" if last else "open", verdict),
    ]
    return [Station(key, number, words, state, mark, f"{base}/{key}") for number, (key, words, state, mark) in enumerate(rows, 1)]


def _state(done: int, all_of_them: int) -> str:
    return "done" if all_of_them and done == all_of_them else "open"
