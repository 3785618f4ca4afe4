"""The eye: coupons and tungsten tips as the model has them, with one hidden cause, to be judged by sight."""

from anvilsong.core.practice.eye.by_sight import (
    BORDERS,
    EP_APART,
    OF_FOUR,
    OddQuestion,
    SizeQuestion,
    TwoQuestion,
    near,
    odd_question,
    size_question,
    two_question,
)
from anvilsong.core.practice.eye.coupon_run import SIGNS, CouponRun, Sight, mean_sight
from anvilsong.core.practice.eye.facts import Fact, facts_of
from anvilsong.core.practice.eye.fault_question import (
    LEVELS,
    FaultQuestion,
    answers_of,
    choices_of,
    ends_with,
    fault_question,
    right_answers,
    score_of,
)
from anvilsong.core.practice.eye.mishaps import MENDS, MISHAPS
from anvilsong.core.practice.eye.tips import TIPS, TipQuestion, tip_question

__all__ = [
    "BORDERS",
    "EP_APART",
    "LEVELS",
    "MENDS",
    "MISHAPS",
    "OF_FOUR",
    "SIGNS",
    "TIPS",
    "CouponRun",
    "Fact",
    "FaultQuestion",
    "OddQuestion",
    "Sight",
    "SizeQuestion",
    "TipQuestion",
    "TwoQuestion",
    "answers_of",
    "choices_of",
    "ends_with",
    "facts_of",
    "fault_question",
    "mean_sight",
    "near",
    "odd_question",
    "right_answers",
    "score_of",
    "size_question",
    "tip_question",
    "two_question",
]
