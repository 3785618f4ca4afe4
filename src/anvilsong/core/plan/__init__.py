"""Planning: settings with their reasons and windows, and all that follows from settings a person chose."""

from anvilsong.core.plan.cleaning import BALANCE_SHIFT, TRIM_WHEN_TRIMMED
from anvilsong.core.plan.planner import Decision, decide, make_plan
from anvilsong.core.plan.pulse import dab_pulse, pulse_advice
from anvilsong.core.plan.torch_fit import fitted_flow_l_min, with_cup, with_tungsten
from anvilsong.core.plan.ways import may_be_offered
from anvilsong.core.plan.whole import worked_out
from anvilsong.core.plan.window_ends import end_words

__all__ = [
    "BALANCE_SHIFT",
    "TRIM_WHEN_TRIMMED",
    "Decision",
    "dab_pulse",
    "decide",
    "end_words",
    "fitted_flow_l_min",
    "make_plan",
    "may_be_offered",
    "pulse_advice",
    "with_cup",
    "with_tungsten",
    "worked_out",
]
