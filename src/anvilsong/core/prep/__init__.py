"""Getting ready: passes, gaps, tacks, rod, preheat, what amps trade against, ways to reach, the run sheet."""

from anvilsong.core.prep.bench_setup import bench_steps
from anvilsong.core.prep.gap import FIRST_SHARE, GapStep
from anvilsong.core.prep.groove_repair import CutOut, cut_out, groove, groove_half_mm
from anvilsong.core.prep.open_gap import Slice, wedge
from anvilsong.core.prep.order import (
    GloveHeat,
    Stretch,
    TieIn,
    Turning,
    glove_heat,
    sides,
    stretches,
    tie_in,
    turning,
)
from anvilsong.core.prep.pass_list import passes
from anvilsong.core.prep.preheat import limit_for
from anvilsong.core.prep.pull import Pull, pulled
from anvilsong.core.prep.rod import STUB_LOSS, rod_use
from anvilsong.core.prep.second_run import GoingOver, going_over
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
from anvilsong.core.prep.trigger_panel import clashes, means_under, set_for, trigger_settings
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
    "CutOut",
    "GapStep",
    "GloveHeat",
    "GoingOver",
    "Levels",
    "Pull",
    "Slice",
    "SpotTimes",
    "Stretch",
    "TieIn",
    "Turning",
    "aim_words",
    "amps_for_warmth",
    "as_planned",
    "bench_steps",
    "case_need_a",
    "clashes",
    "course_of",
    "cut_out",
    "glove_heat",
    "going_over",
    "groove",
    "groove_half_mm",
    "limit_for",
    "means_under",
    "mix_words",
    "need_a",
    "passes",
    "prepare",
    "pulled",
    "rod_use",
    "run_sheet",
    "second_level",
    "set_for",
    "sides",
    "spot_times",
    "stretches",
    "tack_plan",
    "tie_in",
    "travel_for_amps",
    "travel_up_to",
    "travel_within",
    "trigger_settings",
    "turning",
    "wedge",
]
