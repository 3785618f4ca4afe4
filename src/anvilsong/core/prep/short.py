"""When the machine is short: the ways that reach, each computed, cheapest first, and the combination that
just does.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from pydantic import BaseModel, ConfigDict

from anvilsong.core import say
from anvilsong.core.arc.waveform import Wave, heat_per_amp_w
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.job import Bevel, Job
from anvilsong.core.joint import LARGEST_ONE_PASS_LEG_MM, Fillet
from anvilsong.core.machine import Machine
from anvilsong.core.model import later_within, situation
from anvilsong.core.prep import trade
from anvilsong.core.prep.preheat import limit_for
from anvilsong.core.said import Words
from anvilsong.core.shown import percent
from anvilsong.core.words import sentence

LEAN_SHARE, SLOWER, MIX_AC_SHARE, MIX_LEVEL, HELIUM = 0.25, 0.75, 0.7, 1.0, 0.5
SMALL_LEG_SHARE, SMALLEST_LEG_MM = 0.5, 3.0
THIN_FOR_A_BEVEL_MM, THICK_FOR_MIX_MM, LEAST_PREHEAT_K = 4.0, 6.0, 20.0


@dataclass(frozen=True)
class Case:
    """A job as it would be welded: its travel, a wave of one ampere, and the amps there are."""

    job: Job
    travel_mm_s: float
    wave: Wave
    most_a: float

    def with_job(self, **changes: Any) -> Case:
        """The same of a changed job."""
        return replace(self, job=self.job.model_copy(update=changes))


@dataclass(frozen=True)
class Change:
    """One thing to do: its words, what it costs, and what it makes of a case."""

    key: str
    words: Words
    costs: Words
    made: Callable[[Case], Case]


class Way(BaseModel):
    """One way to need fewer amps: alone, and on top of the ways before it."""

    model_config = ConfigDict(frozen=True)

    key: str
    words: Words
    amps_alone: float
    amps_together: float
    reaches_alone: bool
    costs: Words


class Short(BaseModel):
    """Whether and how a machine reaches a job."""

    model_config = ConfigDict(frozen=True)

    machine: str
    most_a: float
    need_a: float
    ways: list[Way]
    together: list[str]
    reaches: bool
    said: Words


def need_a(case: Case, c: Coefficients) -> float:
    """Amps of the hottest pass of a case, the later ones as small as the amps there are want them: (pool heat
    + rod heat)/heat per ampere.
    """
    job, at = case.job, situation(case.job)
    per_amp = heat_per_amp_w(case.wave, c, job.arc_length_mm, job.helium_share)
    first = trade.need_a(at, per_amp, case.travel_mm_s, job.part_temperature_c, c)
    later = later_within(at, per_amp, case.most_a, case.travel_mm_s, None, c)
    return max(first, later.hottest_w / per_amp)


def as_planned(job: Job, machine: Machine, ep_share: float) -> Case:
    """The job as it is, at its own or the usual speed. A machine that has no square wave is short by its wave
    too.
    """
    shape = machine.shapes[0]
    travel = job.travel_mm_s or situation(job).usual_travel_mm_s
    return Case(job, travel, Wave(1.0, ep_share, 100.0, 0.0, shape, shape), machine.most_a)


def ways_to_reach(
    job: Job,
    machine: Machine,
    ep_share: float,
    shop: Sequence[Machine] = (),
    c: Coefficients | None = None,
    may: Callable[[Case], bool] = lambda case: True,
) -> Short:
    """Offer each way alone, then add them cheapest first until the machine reaches; say no when none does.

    Parameters
    ----------
    may : whether a case may be offered; what breaks a limit is not
    """
    c = c or nominal()
    start = as_planned(job, machine, ep_share)
    travel, need = start.travel_mm_s, need_a(start, c)
    ways: list[Way] = []
    together, names = start, []
    for change in changes_for(job, machine, travel):
        alone, added = need_a(change.made(start), c), need_a(change.made(together), c)
        if alone >= need - 0.5 or not may(change.made(start)):
            continue
        ways.append(
            Way(
                key=change.key,
                words=change.words,
                amps_alone=alone,
                amps_together=added,
                reaches_alone=alone <= machine.most_a,
                costs=change.costs,
            )
        )
        if need_a(together, c) > machine.most_a and may(change.made(together)):
            together = change.made(together)
            names.append(change.key)
    reached = need_a(together, c)
    if reached <= machine.most_a:
        said = (
            sentence("prep.together_these_just_reach", reached=reached, most_a=machine.most_a)
            if len(names) > 1
            else f"This alone reaches: {reached:.0f} A of {machine.most_a:.0f} A."
        )
    else:
        said = sentence(
            "prep.no_with_everything_still", reached=reached, name=machine.name, most_a=machine.most_a
        )
    if another := _another(job, machine, ep_share, shop, c, len(names)):
        said = say.joined(said, another, by=" ")
    return Short(
        machine=machine.name,
        most_a=machine.most_a,
        need_a=need,
        ways=ways,
        together=names,
        reaches=reached <= machine.most_a,
        said=said,
    )


def _another(
    job: Job, machine: Machine, ep_share: float, shop: Sequence[Machine], c: Coefficients, ways: int
) -> Words:
    """The other machine of the shop that reaches with the fewest ways, if fewer than this one needs."""
    others = [
        ways_to_reach(job, other, ep_share, (), c)
        for other in shop
        if other.name != machine.name and other.most_a > machine.most_a
    ]
    reaching = sorted(
        (short for short in others if short.reaches), key=lambda short: (len(short.together), short.most_a)
    )
    if not reaching or len(reaching[0].together) >= ways:
        return ""
    best = reaching[0]
    if not best.together:
        return sentence("prep.does_it_as_it", machine=best.machine)
    words = [say.small(way.words) for way in best.ways if way.key in best.together]
    return say.joined(f"{best.machine} reaches with less: ", say.joined(*words, by=", "), ".")


def changes_for(job: Job, machine: Machine, travel_mm_s: float) -> list[Change]:
    """The ways that need no transient model and that this job and machine have, cheapest first."""
    at = situation(job)
    limit = limit_for(at)
    leg = at.weld.leg_mm(job) if isinstance(at.weld, Fillet) else 0.0
    small_leg = max(SMALLEST_LEG_MM, SMALL_LEG_SHARE * min(leg, LARGEST_ONE_PASS_LEG_MM))
    every = (
        (
            "square" in machine.shapes and machine.least_ep_share < machine.most_ep_share,
            Change(
                "lean_square",
                f"Square wave and {percent(max(LEAN_SHARE, machine.least_ep_share))} EP",
                "Less cleaning: brush well.",
                lambda case: replace(case, wave=_lean(case.wave, machine.least_ep_share)),
            ),
        ),
        (
            travel_mm_s * SLOWER >= trade.SLOWEST_HAND_MM_S,
            Change(
                "slower",
                sentence("prep.travel_usual_speed", slower=SLOWER),
                sentence("prep.wider_border_more_heat"),
                lambda case: replace(case, travel_mm_s=case.travel_mm_s * SLOWER),
            ),
        ),
        (
            at.weld.takes_bevel and at.job.bevel is None and at.mean_thickness_mm > THIN_FOR_A_BEVEL_MM,
            Change(
                "bevel",
                sentence("prep.bevel_root_face_more", root_face_mm=1.6),
                sentence("prep.grinding_more_filler_rod"),
                lambda case: case.with_job(bevel=Bevel(), edge_prep=None),
            ),
        ),
        (
            leg > SMALLEST_LEG_MM,
            Change(
                "more_passes",
                sentence("prep.first_pass_with_leg", small_leg=small_leg),
                "More passes.",
                lambda case: case.with_job(leg_mm=small_leg),
            ),
        ),
        (
            limit.limit_c > job.part_temperature_c + LEAST_PREHEAT_K,
            Change(
                "preheat",
                say.joined("Preheat to ", say.celsius(limit.limit_c)),
                say.capital(limit.words) + ".",
                lambda case: case.with_job(part_temperature_c=limit.limit_c),
            ),
        ),
        (
            machine.can_mix and max(job.a.thickness_mm, job.b.thickness_mm) >= THICK_FOR_MIX_MM,
            Change(
                "mix",
                sentence("prep.mixed_ac_dc_ac", mix_ac_share=MIX_AC_SHARE),
                "Less cleaning, rougher bead.",
                lambda case: replace(case, wave=_mixed(case.wave)),
            ),
        ),
        (
            True,
            Change(
                "helium",
                f"Argon with {percent(HELIUM)} helium",
                sentence("prep.dear_gas_more_flow"),
                lambda case: case.with_job(helium_share=HELIUM),
            ),
        ),
    )
    return [change for there_is, change in every if there_is]


def _lean(wave: Wave, least_share: float) -> Wave:
    share = min(float(wave.ep_share), max(LEAN_SHARE, least_share))
    return replace(wave, ep_share=share, ep_trim=0.0, shape_en="square", shape_ep="square", pulse=None)


def _mixed(wave: Wave) -> Wave:
    return replace(wave, mix=(MIX_AC_SHARE, 0.5, MIX_LEVEL), pulse=None)
