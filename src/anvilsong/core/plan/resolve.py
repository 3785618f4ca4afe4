"""Lanes that fight, and solving the others when some are locked."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from pydantic import BaseModel, ConfigDict

from anvilsong.core.arc.sampling import ac_cycles_in_shorter_phase
from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.heat.pedal import HEADROOM
from anvilsong.core.job import Job
from anvilsong.core.machine.model import IDEAL, Machine
from anvilsong.core.plan import trade
from anvilsong.core.plan.checks import warnings_for
from anvilsong.core.plan.consequences import consequences
from anvilsong.core.plan.situation import Situation, situation
from anvilsong.core.plan.torch_fit import fitted_flow_l_min, with_tungsten
from anvilsong.core.plan.values import Consequences, Warning
from anvilsong.core.quantities import percent
from anvilsong.core.registry import BY_KEY, get_value
from anvilsong.core.settings import Settings
from anvilsong.core.torch.kit import Kit
from anvilsong.core.torch.tungsten import LOAD_AT_RUN, LOAD_AT_SET, choose_tungsten

SLOWEST, FASTEST = 0.7, 1.4


class Tie(BaseModel):
    """Two lanes that fight just now, and over what."""

    model_config = ConfigDict(frozen=True)

    a: str
    b: str
    words: str


def ties(settings: Settings, seen: Consequences, machine: Machine) -> list[Tie]:
    """Every pair of lanes that is in conflict or near it, in words."""
    found: list[Tie] = []
    if max(seen.tungsten_load / LOAD_AT_RUN, seen.tungsten_load_set / LOAD_AT_SET) > 0.97:
        found.append(
            Tie(
                a="ep_share",
                b="tungsten_mm",
                words=f"Positive share heats the tungsten: {percent(seen.tungsten_load)} under the foot, {percent(seen.tungsten_load_set)} at full press.",
            )
        )
    if seen.shortest_half_ms < 1.25 * machine.least_half_ms:
        found.append(
            Tie(
                a="ep_share",
                b="frequency_hz",
                words=f"The shorter half lasts {seen.shortest_half_ms:.2f} ms; this machine needs {machine.least_half_ms:g} ms.",
            )
        )
    cycles = ac_cycles_in_shorter_phase(settings.wave())
    if cycles < 2:
        found.append(
            Tie(
                a="pulse_rate_hz",
                b="frequency_hz",
                words=f"Only {cycles:.1f} AC cycles fit the pulse's shorter phase: pulse and AC beat. Two are wanted.",
            )
        )
    if seen.duty_used > 0.9:
        found.append(
            Tie(
                a="amps_set",
                b="travel_mm_s",
                words=f"The run takes {percent(seen.duty_used)} of the duty this machine has at full press.",
            )
        )
    if settings.ep_trim < -0.30 and settings.ep_share > 0.35:
        found.append(
            Tie(
                a="ep_share",
                b="ep_trim",
                words="A long positive half trimmed low: share and trim undo one another.",
            )
        )
    if seen.shield_used > 0.9:
        found.append(
            Tie(
                a="cup_number",
                b="stick_out_mm",
                words=f"Stick-out takes {percent(seen.shield_used)} of what this cup covers.",
            )
        )
    if seen.reynolds > 1800:
        found.append(
            Tie(
                a="cup_number",
                b="flow_l_min",
                words=f"Reynolds number {seen.reynolds:.0f}: this flow is near turbulent in this cup.",
            )
        )
    if seen.filler_heat_share > 0.15:
        found.append(
            Tie(
                a="travel_mm_s",
                b="filler_mm",
                words=f"The rod takes {percent(seen.filler_heat_share)} of the heat at this speed.",
            )
        )
    return found


@dataclass(frozen=True)
class Resolved:
    """The settings that keep the locked lanes, what moved, and what still conflicts."""

    settings: Settings
    moved: list[str]
    conflicts: list[Warning]


def resolve(
    job: Job,
    settings: Settings,
    locked: Iterable[str],
    machine: Machine = IDEAL,
    kit: Kit | None = None,
    c: Coefficients | None = None,
) -> Resolved:
    """Solve the free lanes again around the locked ones, so that the pool gets its heat and every limit is kept.

    Frequency gives way to the shortest half; amps give the wanted heat, or travel does when amps are locked; the tungsten is
    chosen anew from the shelf; flow follows the cup. Whatever limit is still broken is named.
    """
    c, kit, held = c or nominal(), kit or Kit(), set(locked)
    at = situation(job)
    solved = _free_frequency(settings, held, machine)
    solved = _free_heat(at, solved, held, machine, c)
    solved = _free_tungsten(job, solved, held, kit)
    if "flow_l_min" not in held:
        solved = solved.model_copy(
            update={"gas": solved.gas.model_copy(update={"flow_l_min": fitted_flow_l_min(at, solved.cup)[0]})}
        )
    seen = consequences(job, solved, machine, c)
    conflicts = [
        warning
        for warning in warnings_for(at, solved, seen, machine)
        if warning.level != "note" and warning.setting in BY_KEY
    ]
    moved = [
        key
        for key in ("frequency_hz", "amps_run", "amps_set", "travel_mm_s", "tungsten_mm", "flow_l_min")
        if _differs(settings, solved, key)
    ]
    return Resolved(solved, moved, conflicts)


def _differs(before: Settings, after: Settings, key: str) -> bool:
    was, now = get_value(before, key), get_value(after, key)
    return (
        (was is None) != (now is None)
        if was is None or now is None
        else abs(was - now) > 0.02 * BY_KEY[key].step
    )


def _free_frequency(settings: Settings, held: set[str], machine: Machine) -> Settings:
    if "frequency_hz" in held:
        return settings
    highest = 1000 * min(settings.ep_share, 1 - settings.ep_share) / machine.least_half_ms
    frequency = min(
        max(min(settings.frequency_hz, highest), machine.least_frequency_hz), machine.most_frequency_hz
    )
    return settings.model_copy(update={"frequency_hz": frequency})


def _free_heat(
    at: Situation, settings: Settings, held: set[str], machine: Machine, c: Coefficients
) -> Settings:
    job = at.job
    per_amp = heat_per_amp_w(settings.wave(), c, job.arc_length_mm, job.helium_share)

    def need_a(travel: float) -> float:
        return trade.need_a(at, per_amp, travel, settings.preheat_c, c)

    pedal = job.control == "pedal"
    if not ({"amps_run"} if pedal else {"amps_run", "amps_set"}) & held:
        # A ceiling that is held holds the foot under it; what the foot lacks there, travel gives.
        most = settings.amps_set if pedal and "amps_set" in held else machine.most_a
        run = min(max(need_a(settings.travel_mm_s), machine.least_a), most)
        settings = _with_foot(settings, round(run, 1), held, job, machine)
        if need_a(settings.travel_mm_s) <= 1.01 * most or "amps_set" not in held:
            return settings
    if "travel_mm_s" in held:
        return settings
    low, high = SLOWEST * at.usual_travel_mm_s, FASTEST * at.usual_travel_mm_s
    if need_a(low) > settings.amps_run or need_a(high) < settings.amps_run:
        travel = low if need_a(low) > settings.amps_run else high
    else:
        for _ in range(40):
            middle = (low + high) / 2
            low, high = (middle, high) if need_a(middle) < settings.amps_run else (low, middle)
        travel = low
    return settings.model_copy(update={"travel_mm_s": round(travel, 2)})


def _with_foot(settings: Settings, run: float, held: set[str], job: Job, machine: Machine) -> Settings:
    """The foot at some amps, and the ceiling where the pedal school wants it unless it is held."""
    if "amps_set" in held:
        return settings.model_copy(update={"amps_run": min(run, settings.amps_set)})
    headroom = HEADROOM[job.school.pedal] if job.control == "pedal" else 1.0
    full = max(round(min(run * headroom, machine.most_a), 1), run)
    return settings.model_copy(update={"amps_run": run, "amps_set": full})


def _free_tungsten(job: Job, settings: Settings, held: set[str], kit: Kit) -> Settings:
    if "tungsten_mm" in held or settings.tungsten is None:
        return settings
    stocked = [(item.class_, item.diameter_mm) for item in kit.tungstens]
    chosen = choose_tungsten(
        settings.wave(), settings.wave(settings.amps_set), stocked, settings.tungsten.tip
    )
    if chosen is None or chosen == (settings.tungsten.class_, settings.tungsten.diameter_mm):
        return settings
    return with_tungsten(settings, *chosen)
