"""A coupon as somebody ran it: what was set, what hand, metal and gas did besides, and what is seen of it."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from anvilsong.core.bead import Case, Hand, Looks, Readings, figures_for, read_looks, run_coupon
from anvilsong.core.job import Job
from anvilsong.core.model import Bench, consequences
from anvilsong.core.settings import Settings

SMOOTH, EVEN = 0.06, 0.2  # scatter of the ripples, as a share of their pitch: of a good hand; seen over this
CLEAN_SPECKS, MANY_SPECKS = 2, 12
USUAL_END_S, SHORT_END_S = 2.5, 1.0
# Past these the gas no longer covers the pool, as the table of faults has them.
LONG_ARC_MM, DRAUGHT_M_S, RESTLESS_RE, THIN_RE = 4.0, 0.3, 2000.0, 700.0
SHORT_GAS, SLOW_PULSES_HZ = 0.8, (2.5, 10.0)
RUN_MM = 60.0  # as long as the coupon in the picture
FLAT_CROWN_MM = 1.3  # of a bead as wide as wanted


@dataclass(frozen=True)
class CouponRun:
    """What was set, and what hand and metal did: ``hand`` is the true travel over the planned one, ``end_s``
    the seconds from full amps to none, ``unevenness`` of the ripples as a share of their pitch.
    """

    job: Job
    settings: Settings
    bench: Bench
    hand: float = 1.0
    end_s: float = USUAL_END_S
    unevenness: float = SMOOTH
    specks: int = CLEAN_SPECKS

    def with_set(self, **changed: object) -> CouponRun:
        """The same run with other settings."""
        return replace(self, settings=self.settings.model_copy(update=changed))

    def with_job(self, **changed: object) -> CouponRun:
        """The same run on other metal, or with another arc."""
        return replace(self, job=self.job.model_copy(update=changed))


@dataclass(frozen=True)
class Sight:
    """What is seen of a coupon. Lengths mm, time s; ``crater`` as on a coupon's form."""

    bead_width_mm: float
    border_left_mm: float
    border_right_mm: float
    ripple_pitch_mm: float
    crown_mm: float
    seconds: float
    unevenness: float
    specks: int
    soot: bool
    grey_end: bool
    crater: str
    cracked: bool
    border_miss: float
    width_miss: float

    @property
    def border_mm(self) -> float:
        """Mean of both sides, mm."""
        return (self.border_left_mm + self.border_right_mm) / 2

    @property
    def signs(self) -> tuple[str, ...]:
        """The signs of faults that are seen, by their keys in the table."""
        seen = {
            "border_wide": self.border_miss > 1,
            "border_thin": self.border_miss < -1,
            "bead_wide": self.width_miss > 1,
            "bead_high": self.width_miss < -1,
            "black_specks": self.specks >= MANY_SPECKS,
            "soot": self.soot,
            "crater": self.crater != "filled",
            "end_grey": self.grey_end,
            "ripples_uneven": self.unevenness > EVEN,
            "crack_along": self.cracked,
        }
        return tuple(key for key, is_seen in seen.items() if is_seen)


SIGNS = (
    "border_wide", "border_thin", "bead_wide", "bead_high", "black_specks", "soot", "crater", "end_grey",
    "ripples_uneven", "crack_along",
)  # fmt: skip
"""Every sign that can be seen on such a coupon."""


def readings_of(run: CouponRun, rng: np.random.Generator, spread: float) -> Readings:
    """What a ruler would say; ``spread`` is how far the hand scatters, 1 as usual, 0 not at all."""
    truly = run.settings.model_copy(update={"travel_mm_s": run.settings.travel_mm_s * run.hand})
    return run_coupon(run.job, truly, run.bench.c, rng, Hand(spread))


def case_of(run: CouponRun, looks: Looks | None) -> Case:
    """The run as the fault finder is asked about it."""
    return Case(run.job, run.settings, run.bench.machine, run.bench.c, looks)


def sight_of(run: CouponRun, readings: Readings, planned: CouponRun) -> Sight:
    """What is seen of a coupon that measures so, against the aims of the plan it was to be run by."""
    figures = figures_for(case_of(run, None))
    judged = read_looks(planned.job, planned.settings, readings, run.bench.machine, run.bench.c)
    ripple_mm = consequences(planned.job, planned.settings, run.bench.machine, run.bench.c).ripple_mm
    reynolds, pulses = figures["reynolds"], figures["pulse_hz"]
    too_slow = SLOW_PULSES_HZ[0] < pulses < SLOW_PULSES_HZ[1]
    lacks_rod = bool(figures["no_filler"] and figures["six_series"])
    return Sight(
        bead_width_mm=readings.bead_width_mm,
        border_left_mm=readings.border_left_mm,
        border_right_mm=readings.border_right_mm,
        # The hand dabs in its own time: a faster torch lays its ripples farther apart.
        ripple_pitch_mm=ripple_mm * readings.travel_mm_s / planned.settings.travel_mm_s,
        crown_mm=0.2 if lacks_rod else FLAT_CROWN_MM * judged.wanted_width_mm / readings.bead_width_mm,
        seconds=RUN_MM / readings.travel_mm_s,
        unevenness=max(run.unevenness, 0.3) if too_slow else run.unevenness,
        specks=run.specks,
        soot=figures["arc_length_mm"] > LONG_ARC_MM
        or figures["draught_m_s"] > DRAUGHT_M_S
        or not THIN_RE <= reynolds <= RESTLESS_RE,
        grey_end=figures["post_flow_share"] < SHORT_GAS,
        crater="filled" if run.end_s >= SHORT_END_S else "cracked" if figures["six_series"] else "hollow",
        cracked=lacks_rod,
        border_miss=judged.border_miss or 0.0,
        width_miss=judged.width_miss or 0.0,
    )


def mean_sight(run: CouponRun, planned: CouponRun) -> Sight:
    """What is seen of such coupons on average, without any scatter."""
    return sight_of(run, readings_of(run, np.random.default_rng(0), 0.0), planned)
