"""Swap: somebody's settings on their machine → mine."""

from __future__ import annotations

from contextlib import suppress
from functools import cache
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse
from sqlalchemy.orm import Session

from anvilsong.core.checks import newly_broken
from anvilsong.core.errors import BadInput
from anvilsong.core.heat.pedal import pedal_used
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine, Understood, read_message, show_on_panel
from anvilsong.core.plan import make_plan
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.shop import swap
from anvilsong.core.shown import percent
from anvilsong.core.words import sentence
from anvilsong.store import shop
from anvilsong.store.models import JobRow
from anvilsong.web.drawings.panel import panel_drawing
from anvilsong.web.drawings.wave import wave_drawing
from anvilsong.web.frame import part, render, units
from anvilsong.web.job_view import JobView, UnreadableJob, job_view
from anvilsong.web.panel_fields import panel_values
from anvilsong.web.requests import typed_query, whole

router = APIRouter(include_in_schema=False)

SAMPLE = Job.model_validate({"a": {"alloy": "6061", "thickness": 3.0}, "joint": "butt"})


def _job(session: Session, job: int | None) -> JobView | None:
    """The job that a swap is for, where it has settings."""
    if job is not None and session.get(JobRow, job) is not None:
        with suppress(UnreadableJob):
            view = job_view(session, job)
            if not view.plan.refused:
                return view
    return None


def _brings(view: JobView, mine: Settings) -> list[Words]:
    """Why these settings are not offered for the job: what they would break that is whole now."""
    broken = newly_broken(view.job, view.settings, mine, view.machine, c=view.c)
    return [warning.message for warning in broken]


@cache
def _plain_settings() -> Settings:
    """Those of a plain job, for what their panel does not show."""
    plan = make_plan(SAMPLE)
    assert plan.settings is not None
    return plan.settings


def _pasted(text: str, theirs: Machine) -> Understood:
    """Settings out of a message, in the words of their panel.

    Raises
    ------
    BadInput : when no label of the panel stands in the text with a figure
    """
    message = read_message(text, theirs)
    if not message.found:
        labels = ", ".join(control.label for control in theirs.controls)
        raise BadInput.one("paste", text, sentence("web.name_controls_does", name=theirs.name, labels=labels))
    return message


@router.get("/swap", response_class=HTMLResponse)
def show_swap(request: Request) -> HTMLResponse:
    query = typed_query(request)
    with request.app.state.sessions() as session:
        machines = shop.machines(session)
        by_name = {machine.name: machine for machine in machines}
        if not machines:
            return render(request, "swap.html", machines=[], here="shop", trouble=None, result=None)
        theirs = by_name.get(query.get("theirs", ""), machines[0])
        mine = by_name.get(query.get("mine", ""), machines[min(1, len(machines) - 1)])
        job = whole(query.get("job"))
        view = _job(session, job)
        base, control = (view.settings, view.job.control) if view else (_plain_settings(), None)
        is_own = view is not None and mine.name == view.machine.name
        shown = {line.setting: line.shown for line in show_on_panel(base, theirs).lines}
        asked = query.get("theirs") == query.get("typed_for")
        typed = {
            control.setting: query.get(f"their_{control.setting}", shown.get(control.setting, ""))
            if asked
            else shown.get(control.setting, "")
            for control in theirs.controls
        }
        result, trouble, context = None, None, {}
        message: Understood | None = None
        try:
            if query.get("paste", "").strip():
                message = _pasted(query["paste"], theirs)
                # A figure that is not said is left empty; a list shows one of its words all the same.
                unsaid = {c.setting: typed[c.setting] if c.scale.names else "" for c in theirs.controls}
                typed = unsaid | message.found
            result = swap(
                panel_values(typed, theirs),
                theirs,
                mine,
                base,
                control=control or "pedal",
            )
            context = _drawn(result, mine)
        except BadInput as problem:
            trouble = problem
        return render(
            request,
            "swap.html",
            422 if trouble else 200,
            machines=machines,
            theirs=theirs,
            mine=mine,
            job=job,
            own_machine=is_own,
            brings=_brings(view, result.mine) if view and is_own and result else [],
            typed=typed,
            paste=query.get("paste", ""),
            result=result,
            message=message,
            foot=_foot_words(result.mine) if result and control == "pedal" else "",
            trouble=trouble,
            here="shop",
            units_now=units(request),
            **context,
        )


def _foot_words(mine: Settings) -> Words:
    """Where this job lies on my pedal with these settings."""
    used = percent(float(pedal_used(mine.amps_run, mine.start_amps, mine.amps_set)))
    return sentence("web.job_lies_while_welding", amps_run=mine.amps_run, used=used)


def _drawn(result: Any, mine: Machine) -> dict[str, Words]:
    return {
        "panel": part("panel", lambda: panel_drawing(result.panel, mine)),
        "wave": part("wave", lambda: wave_drawing(result.mine, result.theirs, handles=False)),
    }
