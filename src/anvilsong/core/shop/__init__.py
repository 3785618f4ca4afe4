"""Between machines and people: ranking machines, swapping settings, ways of working, one for several jobs."""

from anvilsong.core.shop.ranking import rank_shop
from anvilsong.core.shop.schools import answer_words, question_words, school_choices, way_words
from anvilsong.core.shop.shared import OneJob, Shared, at_setting, planned_jobs, shared_setting
from anvilsong.core.shop.swapping import swap

__all__ = [
    "OneJob",
    "Shared",
    "answer_words",
    "at_setting",
    "planned_jobs",
    "question_words",
    "rank_shop",
    "school_choices",
    "shared_setting",
    "swap",
    "way_words",
]
