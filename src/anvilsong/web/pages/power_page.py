"""Power: how long the machine may weld, what the outlet or generator gives, and the energy for records."""

from __future__ import annotations

from contextlib import suppress

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from anvilsong.core import say
from anvilsong.core.errors import BadInput
from anvilsong.core.machine import (
    arc_energy_kj_mm,
    at_supply,
    duty_use,
    heat_input_kj_mm,
    load_voltage_v,
    supply_use,
)
from anvilsong.core.model import Consequences, consequences
from anvilsong.core.quantities import parse
from anvilsong.core.said import Words
from anvilsong.core.shown import percent
from anvilsong.core.words import sentence
from anvilsong.web.frame import render, units
from anvilsong.web.job_view import JobView, job_view
from anvilsong.web.requests import RowId, typed_query

router = APIRouter(include_in_schema=False)

USUAL = {"volts": "230", "fuse": "16", "factor": "corrected"}
SHORTEST_S = 5.0


@router.get("/jobs/{job_id}/power", response_class=HTMLResponse)
def show_power(request: Request, job_id: RowId) -> HTMLResponse:
    """For an outlet as it is typed; the usual one until then."""
    form = USUAL | {name: text for name, text in typed_query(request).items() if name in USUAL}
    with request.app.state.sessions() as session:
        view = job_view(session, job_id, units(request))
        if view.plan.refused:
            return render(request, "power.html", view=view, here="torch")
        trouble, supply = None, []
        try:
            volts, fuse = (
                _number(form[name], name, most) for name, most in (("volts", 700.0), ("fuse", 125.0))
            )
            supply = [
                (words, amps, supply_use(amps, volts, fuse, form["factor"] != "plain"))
                for words, amps in _amps(view)
            ]
        except BadInput as problem:
            trouble = problem
        return render(
            request,
            "power.html",
            422 if trouble else 200,
            view=view,
            here="torch",
            low=_low_words(view, form),
            form=form,
            trouble=trouble,
            supply=supply,
            duty=_duty(view),
            records=_records(view),
        )


def _low_words(view: JobView, form: dict[str, str]) -> Words:
    """What a machine of two voltages has left on the supply that was typed; empty where it has all."""
    with suppress(BadInput):
        low = at_supply(view.machine, _number(form["volts"], "volts", 700.0))
        if low == view.machine:
            return ""
        short = view.settings.amps_set > low.most_a + 0.5
        return sentence(
            "web.on_low_supply",
            name=low.name,
            most_a=low.most_a,
            duty_share=low.duty.share,
            duty_a=low.duty.amps,
            amps_set=view.settings.amps_set,
            fits=sentence("web.low_supply_short") if short else sentence("web.low_supply_enough"),
        )
    return ""


def _number(text: str, name: str, most: float) -> float:
    value = parse(text, "number", name)
    if not 1 <= value <= most:
        raise BadInput.one(name, text[:40], f"1 to {most:.0f}")
    return value


def _seen(view: JobView) -> Consequences:
    """What the settings do; a plan that is not refused always knows."""
    seen = view.plan.consequences
    return seen if seen is not None else consequences(view.job, view.settings, view.machine, view.c)


def _amps(view: JobView) -> list[tuple[str, float]]:
    """The rms of the whole wave, pulse and mix included: what a supply has to give, and what records mean."""
    seen = _seen(view)
    if view.job.control != "pedal":
        return [("set", seen.rms_set_a)]
    return [("while welding", seen.rms_a), ("pedal fully down", seen.rms_set_a)]


def _duty(view: JobView) -> list[tuple[str, Words]]:
    """Lines of what is used and what limits it, each with its number."""
    run_s = max(view.job.weld_length_mm / view.settings.travel_mm_s, SHORTEST_S)
    amps = view.settings.amps_run if view.job.control == "pedal" else view.settings.amps_set
    use, machine = duty_use(view.machine, amps, run_s), view.machine
    rated = f"{machine.duty.amps:.0f} A at {percent(machine.duty.share)} of ten minutes"
    lines: list[tuple[str, Words]] = [
        ("Rated", rated),
        ("Allowed at this current", f"{percent(use.allowed)} of ten minutes, at {amps:.0f} A"),
    ]
    if use.allowed >= 1:
        return [*lines, ("Longest weld", sentence("web.no_limit_machine_current"))]
    fits = "" if use.is_within else sentence("web.shorter_than_run_s", run_s=run_s)
    return [
        *lines,
        ("Longest weld", say.joined(f"{use.longest_s / 60:.1f} min", fits)),
        ("Rest after each run", f"{use.rest_s:.0f} s, for runs of {run_s:.0f} s"),
        ("Runs an hour", f"{use.runs_an_hour:.0f} at most"),
    ]


def _records(view: JobView) -> list[tuple[str, Words]]:
    """Arc energy and heat input, both by name, since codes differ."""
    amps, travel = _seen(view).rms_a, view.settings.travel_mm_s
    energy, heat = (way(amps, travel) for way in (arc_energy_kj_mm, heat_input_kj_mm))
    return [
        ("Current", sentence("web.rms_over_whole_wave", amps=amps)),
        (
            "Arc voltage",
            sentence("web.v_conventional_load_i", amps=load_voltage_v(amps)),
        ),
        ("Arc energy", say.joined(say.per_mm(energy, "kJ", 2), " (U·I/v)")),
        ("Heat input", say.joined(say.per_mm(heat, "kJ", 2), " (0.6 of it, for TIG)")),
    ]
