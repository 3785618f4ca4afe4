"""The one next change after a coupon, through the model, in steps that the panel can really make."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

import numpy as np

from anvilsong.core import say
from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.bead.calibration import fit_one
from anvilsong.core.bead.coupon import Readings
from anvilsong.core.bead.verdict import Verdict, as_run
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.heat.moving_source import heat_for_width_w
from anvilsong.core.heat.pedal import HEADROOM, NO_RESERVE, pedal_used
from anvilsong.core.job import Job
from anvilsong.core.machine.model import IDEAL, Machine
from anvilsong.core.machine.panel import PanelLine, show_on_panel, to_canonical
from anvilsong.core.plan.consequences import consequences
from anvilsong.core.plan.situation import Situation, situation
from anvilsong.core.plan.values import Consequences
from anvilsong.core.quantities import percent
from anvilsong.core.registry import BY_KEY, SettingKey, get_value, with_value
from anvilsong.core.settings import Settings
from anvilsong.core.torch.tungsten import LOAD_AT_RUN, LOAD_AT_SET
from anvilsong.core.value import Value

LEAST_SHARE, MOST_SHARE, LEAST_TRIM, MOST_TRIM = 0.20, 0.45, -0.40, 0.0
CLEARLY_BETTER = 0.5  # of the tolerance
MOST_SHARE_STEP = 0.10  # a coupon shows that much plainly; more hides what did it


class NextChange(Value):
    """One change, or none. ``settings`` is the next rung; ``effects`` are after minus before in the consequences."""

    kind: Literal["keep", "setting", "hand", "prep"]
    setting: SettingKey | None = None
    said: str
    why: str
    on_panel: str = ""
    settings: Settings
    effects: dict[str, float] = {}
    expected_border_mm: float | None = None
    expected_width_mm: float | None = None
    otherwise: str = ""


def next_change(
    job: Job,
    settings: Settings,
    readings: Readings,
    verdict: Verdict,
    machine: Machine = IDEAL,
    c: Coefficients | None = None,
) -> NextChange:
    """Propose one change from the biggest miss.

    The model is first moved to agree with this coupon; its answers then start from what was measured. Appearance prefers
    the trim, cleaning the share; never past the tungsten's limit.
    """
    c = fit_one(job, as_run(settings, readings), readings, c)
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
        return _amps_change(job, settings, readings, verdict, machine, c)
    return _border_change(job, settings, readings, verdict, machine, c)


def _amps_change(
    job: Job,
    settings: Settings,
    readings: Readings,
    verdict: Verdict,
    machine: Machine,
    c: Coefficients | None,
) -> NextChange:
    hand = readings.travel_mm_s / settings.travel_mm_s
    if hand < 0.8 or hand > 1.25:
        way = "faster" if hand < 1 else "slower"
        return NextChange(
            kind="hand",
            settings=settings,
            said=f"Leave the settings. Travel {way}, near {say.mm_s(settings.travel_mm_s)}.",
            why=f"The bead is {'wide' if verdict.width_miss > 0 else 'narrow'} and your hand went {say.mm_s(readings.travel_mm_s)}.",
            otherwise="If this speed suits you, plan again with it as your own speed.",
        )
    at, run = situation(job), as_run(settings, readings)
    heats = (
        at.wanted_pool_heat_w(run.travel_mm_s, run.preheat_c)
        / at.heat_factor
        / _pool_heat_w(at, run, readings.bead_width_mm)
    )
    factor = float(np.clip(heats, 0.8, 1.25))
    why = f"The bead is {say.mm(readings.bead_width_mm)} wide and {say.mm(verdict.wanted_width_mm)} is wanted: {'less' if factor < 1 else 'more'} heat."
    key, changed = _with_heat(job, settings, factor, machine)
    return _changed(job, settings, changed, key, why, readings, verdict, machine, c)


def _with_heat(job: Job, settings: Settings, factor: float, machine: Machine) -> tuple[str, Settings]:
    """Which amps give ``factor`` times the heat: the foot's as far as the ceiling lets it, else the machine's with it."""
    step = max(1.0, _panel_step(machine, "amps_set"))

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
    return heat_for_width_w(at.plate(run.travel_mm_s), width_mm, at.contour_k(run.preheat_c))


def _panel_step(machine: Machine, key: str) -> float:
    control = machine.control(key)
    return control.scale.step if control and control.basis == "peak" else 1.0


def _levers(job: Job, settings: Settings, verdict: Verdict, machine: Machine) -> Iterator[str]:
    """Which lever first: a trim that starves the border is undone first; appearance and a far too wide border take trim; else the share."""
    trims = machine.can_trim and (machine.control("ep_trim") is not None or not machine.controls)
    starved = verdict.border_miss < 0 and settings.ep_trim < 0
    looks = verdict.border_miss > 0 and (
        "appearance" in job.purposes or job.school.amplitude == "trimmed" or verdict.border_miss > 3
    )
    if trims and (starved or looks):
        yield "ep_trim"
        yield "ep_share"
    else:
        yield "ep_share"
        if trims:
            yield "ep_trim"


def _steps(key: str, machine: Machine, current: float) -> list[float]:
    """Every value of a lever that the panel can stand at, in canonical units, within what is advisable."""
    if key == "ep_share":
        low, high = (
            max(LEAST_SHARE, machine.least_ep_share, current - MOST_SHARE_STEP),
            min(MOST_SHARE, machine.most_ep_share, current + MOST_SHARE_STEP),
        )
    else:
        low, high = max(LEAST_TRIM, machine.least_trim), min(MOST_TRIM, machine.most_trim)
    control = machine.control(key)
    if control is None:
        values = np.arange(low, high + 1e-9, 0.01 if key == "ep_share" else 0.05).tolist()
    else:
        first, last = control.scale.points[0][0], control.scale.points[-1][0]
        panel = np.arange(first, last + control.scale.step / 2, control.scale.step)
        values = [to_canonical(control.scale, value) for value in panel]
    values = [round(value, 6) for value in values]
    return [value for value in values if low - 1e-9 <= value <= high + 1e-9 and abs(value - current) > 1e-6]


def _border_change(
    job: Job,
    settings: Settings,
    readings: Readings,
    verdict: Verdict,
    machine: Machine,
    c: Coefficients | None,
) -> NextChange:
    aim = (verdict.aim_mm[0] + verdict.aim_mm[1]) / 2
    wider = aim > verdict.border_mm
    tolerance = (verdict.aim_mm[1] - verdict.aim_mm[0]) / 2
    best: tuple[float, str, Settings] | None = None
    for lever in _levers(job, settings, verdict, machine):
        found = _best_step(job, settings, readings, machine, c, lever, aim, wider)
        # The preferred lever stands unless the other one does plainly better.
        if found is not None and (best is None or found[0] < best[0] - CLEARLY_BETTER * tolerance):
            best = found
    if best is None:
        return _no_lever(settings, verdict)
    _, lever, changed = best
    why = f"The border is {say.mm(verdict.border_mm)} and {say.mm(aim)} is wanted: {'more' if wider else 'less'} cleaning."
    return _changed(job, settings, changed, lever, why, readings, verdict, machine, c)


def _best_step(
    job: Job,
    settings: Settings,
    readings: Readings,
    machine: Machine,
    c: Coefficients | None,
    lever: str,
    aim: float,
    wider: bool,
) -> tuple[float, str, Settings] | None:
    """The step of one lever that comes nearest to the aim without overloading the tungsten; None when there is none."""
    best: tuple[float, str, Settings] | None = None
    for value in _steps(lever, machine, get_value(settings, lever)):
        if (value > get_value(settings, lever)) != wider:
            continue
        tried = _held(job, with_value(settings, lever, value), settings, c or nominal())
        seen = consequences(job, as_run(tried, readings), machine, c)
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
            said="Leave the settings. Degrease and brush again, and use a bigger tungsten before more positive share.",
            why="The tungsten bears no more positive current, and the border is still thin.",
            otherwise="Travel slower, or check which way this panel counts its balance.",
        )
    return NextChange(
        kind="hand",
        settings=settings,
        said="Leave the settings. Travel faster with a shorter arc, or fit a smaller cup.",
        why="Balance and trim are at their least, and the border is still wide.",
    )


def _changed(
    job: Job,
    before: Settings,
    after: Settings,
    key: str,
    why: str,
    readings: Readings,
    verdict: Verdict,
    machine: Machine,
    c: Coefficients | None,
) -> NextChange:
    was, now = (consequences(job, as_run(settings, readings), machine, c) for settings in (before, after))
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
        said=_said(before, after, key, f"Change {entry.words.lower()} from {old} to {new}. Nothing else."),
        on_panel=_on_panel(before, after, key, machine),
        effects=_effects(was, now),
        expected_border_mm=border,
        expected_width_mm=now.pool_width_mm,
        otherwise=otherwise,
    )


def _said(before: Settings, after: Settings, key: str, plainly: str) -> str:
    """A change in a sentence; one of the foot says which way to press."""
    if before.amps_run == after.amps_run or key not in ("amps_set", "amps_run"):
        return plainly
    more = after.amps_run > before.amps_run
    foot = f"about {after.amps_run:.0f} A under the foot instead of {before.amps_run:.0f} A"
    if key == "amps_run":
        return (
            f"{'Press further' if more else 'Ease off'}: {foot}. The machine stays at {after.amps_set:.0f} A."
        )
    if before.amps_run == before.amps_set and after.amps_run == after.amps_set:
        return plainly.replace("machine at", "the machine’s amps")
    return f"Set the machine to {after.amps_set:.0f} A instead of {before.amps_set:.0f} A and press further: {foot}."


def _on_panel(before: Settings, after: Settings, key: str, machine: Machine) -> str:
    if key == "amps_run":
        shares = [percent(float(pedal_used(s.amps_run, s.start_amps, s.amps_set))) for s in (before, after)]
        return f"Pedal: {shares[0]} → {shares[1]} of its way"
    lines: list[PanelLine | None] = [
        next((line for line in show_on_panel(s, machine).lines if line.setting == key), None)
        for s in (before, after)
    ]
    if lines[0] is None or lines[1] is None:
        return ""
    unit = f" {lines[1].unit}" if lines[1].unit else ""
    return f"{lines[1].label}: {lines[0].shown} → {lines[1].shown}{unit}"


def _effects(was: Consequences, now: Consequences) -> dict[str, float]:
    names = ("tungsten_load", "work_heat_w", "border_mm", "pool_width_mm")
    return {name: getattr(now, name) - getattr(was, name) for name in names}


def effect_words(change: NextChange, was: Consequences) -> list[str]:
    """The change's effects in words: tungsten, heat, border."""
    if not change.effects:
        return []
    load = change.effects["tungsten_load"]
    heat = change.effects["work_heat_w"] / was.work_heat_w
    same = abs(heat) < 0.005
    words = [f"Tungsten load {percent(was.tungsten_load)} → {percent(was.tungsten_load + load)}."]
    words.append(
        "Heat into the work stays: the foot holds the pool."
        if same
        else f"Heat into the work {'+' if heat >= 0 else '−'}{abs(heat) * 100:.0f} %."
    )
    if change.expected_border_mm is not None:
        words.append(f"Border expected {say.mm(change.expected_border_mm)}.")
    return words
