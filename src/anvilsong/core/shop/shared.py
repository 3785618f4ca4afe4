"""One setting of the machine for several jobs: what the pedal makes of it at each, and who compromises.

Machine amps, AC balance, AC frequency, waveform, EP amplitude and gas are set once; the welding amps of each
job keep its own heat and lie on the pedal. Settings are compared by

cost = Σ over the jobs of 100·(stops the job's own plan does not break) + 10·(such watches) + border² + pedal²
       + (balance² + frequency²)/2

with the border's miss in its tolerances, how far the pedal lies outside 35 to 95 % of its travel, in tenths,
and how far balance and frequency lie from the job's own plan, in ten points of EP and in steps of 1.5 times.
Balance and frequency are searched by turns, from the least to the most of any plan, until neither gains.
"""

from __future__ import annotations

from collections.abc import Sequence
from math import log
from typing import NamedTuple

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.checks import Outcome, outcome
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.heat.pedal import NO_RESERVE, TOO_COARSE
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine
from anvilsong.core.model import with_equal_heat
from anvilsong.core.plan import decide
from anvilsong.core.registry import with_value
from anvilsong.core.settings import Settings
from anvilsong.core.torch.kit import Kit

HEADROOM = 1.1
STOP_COSTS, WATCH_COSTS, TENTH = 100.0, 10.0, 0.1
SHARE_APART, FREQUENCY_TIMES = 0.1, 1.5
SHARE_STEP, FREQUENCY_STEP_HZ = 0.01, 5.0
MOST_TURNS = 4


class OneJob(NamedTuple):
    """What a common setting is for one job: its settings, what they do, its own plan's, and how far it
    compromises.
    """

    job: Job
    settings: Settings
    own: Settings
    seen: Outcome
    border_miss: float
    """In its tolerances; 1 is the edge of what is wanted."""
    broken: tuple[str, ...]
    """Codes of stops and watches that its own plan does not have."""
    cost: float


class Shared(NamedTuple):
    """A setting for several jobs."""

    jobs: tuple[OneJob, ...]

    @property
    def cost(self) -> float:
        """Of all of them."""
        return sum(one.cost for one in self.jobs)


class Planned(NamedTuple):
    """A job with its own plan, and what that breaks already."""

    job: Job
    own: Settings
    codes: frozenset[str]


def shared_setting(
    jobs: Sequence[Job], machine: Machine, kit: Kit | None = None, c: Coefficients | None = None
) -> Shared | None:
    """The one setting that costs the jobs least; None where one of them has no settings at all.

    Parameters
    ----------
    jobs : two or more, welded under a pedal on this machine
    """
    planned = planned_jobs(jobs, machine, kit, c)
    if planned is None:
        return None
    shares = _steps([one.own.ep_share for one in planned], SHARE_STEP)
    frequencies = _steps([one.own.frequency_hz for one in planned], FREQUENCY_STEP_HZ)
    share, frequency = shares[len(shares) // 2], frequencies[len(frequencies) // 2]
    best = at_setting(planned, (share, frequency), machine, kit, c)
    for _ in range(MOST_TURNS):
        before = best.cost
        tried = [(at_setting(planned, (each, frequency), machine, kit, c), each) for each in shares]
        best, share = min(tried, key=lambda one: one[0].cost)
        tried = [(at_setting(planned, (share, each), machine, kit, c), each) for each in frequencies]
        best, frequency = min(tried, key=lambda one: one[0].cost)
        if best.cost >= before - 1e-9:
            break
    return best


def planned_jobs(
    jobs: Sequence[Job], machine: Machine, kit: Kit | None = None, c: Coefficients | None = None
) -> list[Planned] | None:
    """Each job with its own plan; None where one is refused."""
    planned = []
    for job in jobs:
        made = decide(job, machine, kit, c)
        if made is None:
            return None
        seen = outcome(job, made.settings, machine, kit, c)
        planned.append(Planned(job, made.settings, frozenset(each.code for each in seen.warnings)))
    return planned


def _steps(values: Sequence[float], step: float) -> list[float]:
    """From the least to the greatest, a step apart, both ends in it."""
    low, high = min(values), max(values)
    count = max(1, round((high - low) / step))
    return [low + (high - low) * place / count for place in range(count + 1)]


def at_setting(
    planned: Sequence[Planned], wave: tuple[float, float], machine: Machine,
    kit: Kit | None = None, c: Coefficients | None = None,
) -> Shared:  # fmt: skip
    """What a balance and a frequency, ``wave``, are for each of some planned jobs. The torch is that of the
    job that wants most heat, and so are waveform and amplitude; pulse and mix are off.
    """
    ep_share, frequency_hz = wave
    heats = [one.own.amps_run * heat_per_amp_w(one.own.wave(), c or nominal()) for one in planned]
    leading = planned[heats.index(max(heats))].own
    runs = []
    for one in planned:
        # Steady, as the common setting is: a pulse's peak as steady amps would be far too hot.
        steady = one.own.model_copy(update={"pulse": None, "mix": None})
        after = with_value(with_value(steady, "ep_share", ep_share), "frequency_hz", frequency_hz)
        after = after.model_copy(
            update={"shape_en": leading.shape_en, "shape_ep": leading.shape_ep, "ep_trim": leading.ep_trim}
        )
        runs.append(with_equal_heat(one.own, after, c).amps_run)
    full = min(max(runs) * HEADROOM, machine.most_a)
    tungsten = leading.tungsten
    lights = (machine.least_start_a(tungsten.diameter_mm) if tungsten is not None else None) or 0.0
    common = {
        "amps_set": round(full, 1),
        "ep_share": ep_share,
        "frequency_hz": frequency_hz,
        "shape_en": leading.shape_en,
        "shape_ep": leading.shape_ep,
        "ep_trim": leading.ep_trim,
        "tungsten": tungsten,
        "cup": leading.cup,
        "gas": leading.gas,
        "start_amps": max(min(one.own.start_amps for one in planned), lights),
        "finish_amps": min(one.own.finish_amps for one in planned),
        "pre_flow_s": max(one.own.pre_flow_s for one in planned),
        "post_flow_s": max(one.own.post_flow_s for one in planned),
        "pulse": None,
        "mix": None,
    }
    return Shared(
        tuple(
            _one(
                one,
                one.own.model_copy(update=common | {"amps_run": round(min(run, full), 1)}),
                machine,
                kit,
                c,
            )
            for one, run in zip(planned, runs, strict=True)
        )
    )


def _one(
    planned: Planned, settings: Settings, machine: Machine, kit: Kit | None, c: Coefficients | None
) -> OneJob:
    seen = outcome(planned.job, settings, machine, kit, c)
    aim, figures = seen.at.aim, seen.consequences
    miss = (figures.border_mm - aim.aim_mm) / aim.tolerance_mm
    broken = [each for each in seen.warnings if each.level != "note" and each.code not in planned.codes]
    used = figures.pedal_used
    outside = max(TOO_COARSE - used, used - NO_RESERVE, 0.0) / TENTH
    cost = sum(STOP_COSTS if each.level == "stop" else WATCH_COSTS for each in broken) + miss**2 + outside**2
    share_off = (settings.ep_share - planned.own.ep_share) / SHARE_APART
    frequency_off = log(settings.frequency_hz / planned.own.frequency_hz) / log(FREQUENCY_TIMES)
    cost += (share_off**2 + frequency_off**2) / 2
    return OneJob(planned.job, settings, planned.own, seen, miss, tuple(each.code for each in broken), cost)
