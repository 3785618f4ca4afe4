"""The one next change after a coupon, through the model, in steps that the panel can really make."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from anvilsong.core import say
from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.bead.calibration import fit_one
from anvilsong.core.bead.change_words import change_on_panel, change_said, effects_of
from anvilsong.core.bead.coupon import Readings
from anvilsong.core.bead.levers import lever_steps, levers, panel_step
from anvilsong.core.bead.next import NextChange
from anvilsong.core.bead.verdict import Verdict, as_run
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.heat.pedal import HEADROOM, NO_RESERVE, pedal_used
from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL, Machine
from anvilsong.core.model import Consequences, Situation, consequences, situation
from anvilsong.core.registry import BY_KEY, get_value, with_value
from anvilsong.core.settings import Settings
from anvilsong.core.torch.tungsten import LOAD_AT_RUN, LOAD_AT_SET

CLEARLY_BETTER = 0.5  # of the tolerance


@dataclass(frozen=True)
class _Ran:
    """A coupon that was run: on what, with what, what came out, and the model moved to agree with it."""

    job: Job
    settings: Settings
    readings: Readings
    verdict: Verdict
    machine: Machine
    c: Coefficients

    def would(self, settings: Settings) -> Consequences:
        """What other settings would do, at the speed that the hand went."""
        return consequences(self.job, as_run(settings, self.readings), self.machine, self.c)


def next_change(
    job: Job,
    settings: Settings,
    readings: Readings,
    verdict: Verdict,
    machine: Machine = IDEAL,
    c: Coefficients | None = None,
) -> NextChange:
    """Propose one change from the biggest miss.

    The model is first moved to agree with this coupon; its answers then start from what was measured.
    Appearance prefers the trim, cleaning the share; never past the tungsten's limit.
    """
    c = fit_one(job, as_run(settings, readings), readings, c)
    ran = _Ran(job, settings, readings, verdict, machine, c)
    if verdict.is_good:
        return NextChange(
            kind="keep",
            said="Keep these settings.",
            why="Border and bead are as wanted; another change would be lost in the spread of the hand.",
            settings=settings,
        )
    if verdict.flaws and abs(verdict.border_miss) <= 1 and abs(verdict.width_miss) <= 1:
        return NextChange(
            kind="hand",
            settings=settings,
            said=f"Leave the settings. {verdict.flaws[0]}",
            why="Border and bead are as wanted; what is left is in the hand, the ends or the fit.",
        )
    if verdict.uneven and abs(verdict.border_miss) <= 1.5:
        return NextChange(
            kind="hand",
            settings=settings,
            said="Leave the settings. Hold the torch square to the joint and run again.",
            why="The two borders differ more than any setting makes them; the hand comes first.",
            otherwise="If it stays, look for a draught or a magnetised clamp.",
        )
    if abs(verdict.width_miss) > 1 and abs(verdict.width_miss) > abs(verdict.border_miss):
        return _amps_change(ran)
    return _border_change(ran)


def _amps_change(ran: _Ran) -> NextChange:
    job, settings, readings, verdict = ran.job, ran.settings, ran.readings, ran.verdict
    hand = readings.travel_mm_s / settings.travel_mm_s
    if hand < 0.8 or hand > 1.25:
        way = "faster" if hand < 1 else "slower"
        return NextChange(
            kind="hand",
            settings=settings,
            said=f"Leave the settings. Travel {way}, near {say.mm_s(settings.travel_mm_s)}.",
            why=(
                f"The bead is {'wide' if verdict.width_miss > 0 else 'narrow'} and your hand went "
                f"{say.mm_s(readings.travel_mm_s)}."
            ),
            otherwise="If this speed suits you, plan again with it as your own speed.",
        )
    at, run = situation(job), as_run(settings, readings)
    heats = (
        at.wanted_pool_heat_w(run.travel_mm_s, run.preheat_c)
        / at.heat_factor
        / _pool_heat_w(at, run, readings.bead_width_mm)
    )
    factor = float(np.clip(heats, 0.8, 1.25))
    why = (
        f"The bead is {say.mm(readings.bead_width_mm)} wide and {say.mm(verdict.wanted_width_mm)} is "
        f"wanted: {'less' if factor < 1 else 'more'} heat."
    )
    key, changed = _with_heat(job, settings, factor, ran.machine)
    return _changed(ran, changed, key, why)


def _with_heat(job: Job, settings: Settings, factor: float, machine: Machine) -> tuple[str, Settings]:
    """Which amps give ``factor`` times the heat: the foot's as far as the ceiling lets it, else the
    machine's with it.
    """
    step = max(1.0, panel_step(machine, "amps_set"))

    def stepped(from_a: float, to_a: float) -> float:
        wanted = min(max(to_a, machine.least_a), machine.most_a)
        return from_a + step * round((wanted - from_a) / step)

    if job.control != "pedal":
        full = stepped(settings.amps_set, settings.amps_set * factor)
        return "amps_set", with_value(settings, "amps_set", full, job.control)
    run = min(max(round(settings.amps_run * factor), machine.least_a), machine.most_a)
    if pedal_used(run, settings.start_amps, settings.amps_set) <= NO_RESERVE:
        return "amps_run", with_value(settings, "amps_run", run)
    full = stepped(settings.amps_set, run * HEADROOM[job.school.pedal])
    return "amps_set", with_value(with_value(settings, "amps_set", full), "amps_run", min(run, full))


def _pool_heat_w(at: Situation, run: Settings, width_mm: float) -> float:
    """Heat, W, of a pool of this width in the effective plate alone."""
    return float(at.heat_model.heat_w(at.plate(run.travel_mm_s), width_mm, at.contour_k(run.preheat_c)))


def _border_change(ran: _Ran) -> NextChange:
    verdict = ran.verdict
    aim = (verdict.aim_mm[0] + verdict.aim_mm[1]) / 2
    wider = aim > verdict.border_mm
    tolerance = (verdict.aim_mm[1] - verdict.aim_mm[0]) / 2
    best: tuple[float, str, Settings] | None = None
    for lever in levers(ran.job, ran.settings, verdict, ran.machine):
        found = _best_step(ran, lever, aim, wider)
        # The preferred lever stands unless the other one does plainly better.
        if found is not None and (best is None or found[0] < best[0] - CLEARLY_BETTER * tolerance):
            best = found
    if best is None:
        return _no_lever(ran.settings, verdict)
    _, lever, changed = best
    why = (
        f"The border is {say.mm(verdict.border_mm)} and {say.mm(aim)} is wanted: "
        f"{'more' if wider else 'less'} cleaning."
    )
    return _changed(ran, changed, lever, why)


def _best_step(ran: _Ran, lever: str, aim: float, wider: bool) -> tuple[float, str, Settings] | None:
    """The step of one lever that comes nearest to the aim without overloading the tungsten; None when there
    is none.
    """
    best: tuple[float, str, Settings] | None = None
    now = get_value(ran.settings, lever)
    for value in lever_steps(lever, ran.machine, now):
        if (value > now) != wider:
            continue
        tried = _held(ran.job, with_value(ran.settings, lever, value), ran.settings, ran.c)
        seen = ran.would(tried)
        if wider and (seen.tungsten_load > LOAD_AT_RUN or seen.tungsten_load_set > LOAD_AT_SET):
            continue
        miss = abs((seen.cleaned_width_mm - seen.pool_width_mm) / 2 - aim)
        if best is None or miss < best[0] - 1e-6:
            best = (miss, lever, tried)
    return best


def _held(job: Job, changed: Settings, before: Settings, c: Coefficients) -> Settings:
    """With a pedal the foot holds the pool: it moves so that the heat stays, as far as its ceiling."""
    if job.control != "pedal":
        return changed
    ratio = heat_per_amp_w(before.wave(), c) / heat_per_amp_w(changed.wave(), c)
    return changed.model_copy(update={"amps_run": min(round(before.amps_run * ratio, 1), changed.amps_set)})


def _no_lever(settings: Settings, verdict: Verdict) -> NextChange:
    if verdict.border_miss < 0:
        return NextChange(
            kind="prep",
            settings=settings,
            said=(
                "Leave the settings. Degrease and brush again, and use a bigger tungsten before more "
                "positive share."
            ),
            why="The tungsten bears no more positive current, and the border is still thin.",
            otherwise="Travel slower, or check which way this panel counts its balance.",
        )
    return NextChange(
        kind="hand",
        settings=settings,
        said="Leave the settings. Travel faster with a shorter arc, or fit a smaller cup.",
        why="Balance and trim are at their least, and the border is still wide.",
    )


def _changed(ran: _Ran, after: Settings, key: str, why: str) -> NextChange:
    before, verdict = ran.settings, ran.verdict
    was, now = ran.would(before), ran.would(after)
    entry = BY_KEY[key]
    old, new = (
        say.setting(get_value(s, key), entry.dimension, entry.decimals)
        if entry.dimension
        else str(get_value(s, key))
        for s in (before, after)
    )
    border = now.border_mm
    otherwise = (
        ""
        if abs(border - sum(verdict.aim_mm) / 2) <= (verdict.aim_mm[1] - verdict.aim_mm[0]) / 2
        or key in ("amps_set", "amps_run")
        else "One change may not reach: clean better, another cup, or another speed is next."
    )
    return NextChange(
        kind="setting",
        setting=key,
        settings=after,
        why=why,
        said=change_said(
            before, after, key, f"Change {entry.words.lower()} from {old} to {new}. Nothing else."
        ),
        on_panel=change_on_panel(before, after, key, ran.machine),
        effects=effects_of(was, now),
        expected_border_mm=border,
        expected_width_mm=now.pool_width_mm,
        otherwise=otherwise,
    )
