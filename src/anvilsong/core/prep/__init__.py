"""Getting ready: passes, gaps, tacks, rod, preheat, what amps trade against, ways to reach, the run sheet."""

from anvilsong.core.prep.bench_setup import bench_steps
from anvilsong.core.prep.gap import FIRST_SHARE, GapStep
from anvilsong.core.prep.open_gap import Slice, wedge
from anvilsong.core.prep.pass_list import passes
from anvilsong.core.prep.preheat import limit_for
from anvilsong.core.prep.rod import STUB_LOSS, rod_use
from anvilsong.core.prep.sheet import run_sheet
from anvilsong.core.prep.short import Case, as_planned
from anvilsong.core.prep.short import need_a as case_need_a
from anvilsong.core.prep.tacks import tack_plan
from anvilsong.core.prep.trade import (
    COMFORT_MM_S,
    FASTEST_HAND_MM_S,
    SLOWEST_HAND_MM_S,
    amps_for_warmth,
    need_a,
    travel_for_amps,
    travel_up_to,
    travel_within,
)
from anvilsong.core.prep.trigger import Course, Levels, SpotTimes, course_of
from anvilsong.core.prep.trigger_panel import clashes, means_under, set_for
from anvilsong.core.prep.trigger_times import second_level, spot_times
from anvilsong.core.prep.whole import aim_words, mix_words, prepare

__all__ = [
    "COMFORT_MM_S",
    "FASTEST_HAND_MM_S",
    "FIRST_SHARE",
    "SLOWEST_HAND_MM_S",
    "STUB_LOSS",
    "Case",
    "Course",
    "GapStep",
    "Levels",
    "Slice",
    "SpotTimes",
    "aim_words",
    "amps_for_warmth",
    "as_planned",
    "bench_steps",
    "case_need_a",
    "clashes",
    "course_of",
    "limit_for",
    "means_under",
    "mix_words",
    "need_a",
    "passes",
    "prepare",
    "rod_use",
    "run_sheet",
    "second_level",
    "set_for",
    "spot_times",
    "tack_plan",
    "travel_for_amps",
    "travel_up_to",
    "travel_within",
    "wedge",
]
