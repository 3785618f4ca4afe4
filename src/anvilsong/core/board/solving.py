"""Solving the other lanes when some are locked."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.checks import Outcome, newly_broken, outcome
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.heat.pedal import HEADROOM
from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL, Machine
from anvilsong.core.model import LimitWarning, Situation, situation
from anvilsong.core.plan import fitted_flow_l_min, with_tungsten
from anvilsong.core.prep import need_a as amps_needed_at
from anvilsong.core.registry import BY_KEY, get_value
from anvilsong.core.roots import root
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.torch.kit import Kit
from anvilsong.core.torch.tungsten import choose_tungsten
from anvilsong.core.words import sentence

SLOWEST, FASTEST = 0.7, 1.4
HEAT_MISSED, HEAT_NOT_KEPT = 0.05, "heat_not_kept"


@dataclass(frozen=True)
class Resolved:
    """The settings that keep the locked lanes, what moved, and what still conflicts, the heat first.

    ``kept_back``: nothing was moved, since it would break what is whole now; the conflicts say what.
    """

    settings: Settings
    moved: list[str]
    conflicts: list[LimitWarning]
    kept_back: bool = False


def resolve(
    job: Job,
    settings: Settings,
    locked: Iterable[str],
    machine: Machine = IDEAL,
    kit: Kit | None = None,
    c: Coefficients | None = None,
) -> Resolved:
    """Solve the free lanes again around the locked ones, so that the pool gets its heat and every limit is
    kept.

    Frequency gives way to the shortest half; amps give the wanted heat, or travel does when amps are
    locked; the tungsten is
    chosen anew from the shelf; flow follows the cup. Whatever limit is still broken is named, and heat that
    is missed by over 5 % first. What would break a limit that is whole now is not done.
    """
    c, kit, held = c or nominal(), kit or Kit(), set(locked)
    at = situation(job)
    solved = _free_frequency(settings, held, machine)
    solved = _free_heat(at, solved, held, machine, c)
    solved = _free_tungsten(solved, held, kit, c)
    if "flow_l_min" not in held:
        solved = solved.model_copy(
            update={"gas": solved.gas.model_copy(update={"flow_l_min": fitted_flow_l_min(at, solved.cup)[0]})}
        )
    if broken := newly_broken(job, settings, solved, machine, kit, c):
        return Resolved(settings, [], broken, kept_back=True)
    what = outcome(job, solved, machine, kit, c)
    conflicts = [
        *_heat_missed(what, held),
        *(each for each in what.warnings if each.level != "note" and each.setting in BY_KEY),
    ]
    moved = [
        key
        for key in ("frequency_hz", "amps_run", "amps_set", "travel_mm_s", "tungsten_mm", "flow_l_min")
        if _differs(settings, solved, key)
    ]
    return Resolved(solved, moved, conflicts)


def _heat_missed(what: Outcome, held: set[str]) -> Iterator[LimitWarning]:
    """The heat that could not be kept, with what stands in its way."""
    seen = what.consequences
    share = seen.work_heat_w / max(seen.heat_wanted_w, 1e-9)
    if abs(share - 1) <= HEAT_MISSED:
        return
    way = "faster" if share > 1 else "slower"
    amps = [key for key in ("amps_run", "amps_set") if key in held]
    why: Words = "The machine ends here"
    if amps:
        at_travel = (
            sentence("board.travel_locked_too")
            if "travel_mm_s" in held
            else sentence("board.such_bead_cannot_run", way=way)
        )
        why = sentence("board.amps_are_locked", at_travel=at_travel)
    yield LimitWarning(
        code=HEAT_NOT_KEPT,
        level="watch",
        setting=amps[0] if amps else "amps_set",
        message=sentence(
            "board.heat_could_not_stay",
            share=abs(share - 1),
            little="much" if share > 1 else "little",
            why=why,
        ),
        numbers={"share": share},
    )


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
        return amps_needed_at(at, per_amp, travel, settings.preheat_c, c)

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
        travel = root(lambda speed: need_a(speed) - settings.amps_run, low, high, near=1e-6)
    return settings.model_copy(update={"travel_mm_s": round(travel, 2)})


def _with_foot(settings: Settings, run: float, held: set[str], job: Job, machine: Machine) -> Settings:
    """The foot at some amps, and the ceiling where the pedal school wants it unless it is held."""
    if "amps_set" in held:
        return settings.model_copy(update={"amps_run": min(run, settings.amps_set)})
    headroom = HEADROOM[job.school.pedal] if job.control == "pedal" else 1.0
    full = max(round(min(run * headroom, machine.most_a), 1), run)
    return settings.model_copy(update={"amps_run": run, "amps_set": full})


def _free_tungsten(settings: Settings, held: set[str], kit: Kit, c: Coefficients) -> Settings:
    if "tungsten_mm" in held or settings.tungsten is None:
        return settings
    stocked = [(item.class_, item.diameter_mm) for item in kit.tungstens]
    waves = (settings.wave(), settings.wave(settings.amps_set))
    chosen = choose_tungsten(*waves, stocked, settings.tungsten.tip, c.tungsten_limit)
    if chosen is None or chosen == (settings.tungsten.class_, settings.tungsten.diameter_mm):
        return settings
    return with_tungsten(settings, *chosen)
