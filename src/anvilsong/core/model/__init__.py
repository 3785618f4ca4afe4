"""What a job is as numbers, what settings do to it, and the values that a plan is made of."""

from anvilsong.core.model.effects import (
    FASTEST_DAB_HZ,
    OVER_WIDTH_AMBER,
    OVER_WIDTH_RED,
    ROOT_SHORT,
    Figures,
    consequences,
    figures,
    pool_width_mm,
)
from anvilsong.core.model.equal_heat import with_equal_heat
from anvilsong.core.model.equipment import equipped, run_duty, torch_for
from anvilsong.core.model.situations import (
    BOTH_THIN_MM,
    DEEPEST_TRIM,
    LEAST_BORDER_MM,
    LEAST_EP_SHARE,
    MOST_BORDER_MM,
    MOST_CAST_EP_SHARE,
    MOST_EP_SHARE,
    STILL_GOOD_BORDER_MM,
    Situation,
    situation,
)
from anvilsong.core.model.values import (
    Consequences,
    FillerRows,
    LimitWarning,
    Margin,
    Pass,
    Plan,
    Reason,
    Step,
)

__all__ = [
    "BOTH_THIN_MM",
    "DEEPEST_TRIM",
    "FASTEST_DAB_HZ",
    "LEAST_BORDER_MM",
    "LEAST_EP_SHARE",
    "MOST_BORDER_MM",
    "MOST_CAST_EP_SHARE",
    "MOST_EP_SHARE",
    "OVER_WIDTH_AMBER",
    "OVER_WIDTH_RED",
    "ROOT_SHORT",
    "STILL_GOOD_BORDER_MM",
    "Consequences",
    "Figures",
    "FillerRows",
    "LimitWarning",
    "Margin",
    "Pass",
    "Plan",
    "Reason",
    "Situation",
    "Step",
    "consequences",
    "equipped",
    "figures",
    "pool_width_mm",
    "run_duty",
    "situation",
    "torch_for",
    "with_equal_heat",
]
