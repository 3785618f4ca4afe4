"""What is told of a coupon beside its picture: what was set, and what hand, metal and gas were like; what is
to be seen is not told.
"""

from __future__ import annotations

from typing import NamedTuple

from anvilsong.core import say
from anvilsong.core.metal.surfaces import find_surface
from anvilsong.core.practice.eye.coupon_run import RUN_MM, CouponRun
from anvilsong.core.registry import BY_KEY, get_value
from anvilsong.core.said import Words

SET = ("amps_run", "ep_share", "ep_trim", "frequency_hz", "pulse_rate_hz", "flow_l_min", "post_flow_s")


class Fact(NamedTuple):
    """One thing told: its name, how it was, and how it was planned."""

    words: Words
    ran: Words
    planned: Words


def facts_of(run: CouponRun, planned: CouponRun, seconds: float) -> list[Fact]:
    """Every fact that is told of a coupon; the same ones whatever went wrong."""
    return [
        *(
            Fact(BY_KEY[key].words, _set(run, key), _set(planned, key))
            for key in SET
            if key != "ep_trim" or planned.bench.machine.can_trim
        ),
        Fact(
            say.joined("Time for ", say.mm(RUN_MM, 0)),
            f"{seconds:.0f} s",
            f"{RUN_MM / planned.settings.travel_mm_s:.0f} s",
        ),
        Fact("Arc length", _arc(run), _arc(planned)),
        Fact("Metal", _surface(run), _surface(planned)),
        Fact("Part", _warm(run), _warm(planned)),
        Fact("Draught", say.m_s(run.job.draught_m_s), say.m_s(planned.job.draught_m_s)),
        Fact("Filler rod", _filler(run), _filler(planned)),
        Fact("Full amps to none", f"{run.end_s:.1f} s", f"{planned.end_s:.1f} s"),
    ]


def _set(run: CouponRun, key: str) -> Words:
    entry, value = BY_KEY[key], get_value(run.settings, key)
    if value is None or entry.dimension is None:
        return "none"
    return say.setting(value, entry.dimension, entry.decimals)


def _arc(run: CouponRun) -> Words:
    return say.mm(run.job.arc_length_mm)


def _surface(run: CouponRun) -> Words:
    return find_surface(run.job.surface).words


def _warm(run: CouponRun) -> Words:
    return say.celsius(run.job.part_temperature_c)


def _filler(run: CouponRun) -> Words:
    filler = run.settings.filler
    return "none" if filler is None else say.joined(f"{filler.class_}, ", say.size(filler.diameter_mm))
