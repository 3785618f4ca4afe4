"""Between machines and people: ranking machines, swapping settings, ways of working, one setting for several
jobs; what a shop keeps: how far recipes are borne out, the nearest to a job, runs on parts.
"""

from anvilsong.core.shop.carrying import Carried, Kept, ManyTraits, Traits, apart, keeps_heat, nearest, traits
from anvilsong.core.shop.part_runs import Account, PartRun, account, week_of
from anvilsong.core.shop.proof import STATE_WORDS, Evidence, Proof, State, proof_of
from anvilsong.core.shop.ranking import rank_shop
from anvilsong.core.shop.schools import answer_words, question_words, school_choices, way_words
from anvilsong.core.shop.shared import OneJob, Shared, at_setting, planned_jobs, shared_setting
from anvilsong.core.shop.swapping import Swap, brought_to, swap

__all__ = [
    "STATE_WORDS",
    "Account",
    "Carried",
    "Evidence",
    "Kept",
    "ManyTraits",
    "OneJob",
    "PartRun",
    "Proof",
    "Shared",
    "State",
    "Swap",
    "Traits",
    "account",
    "answer_words",
    "apart",
    "at_setting",
    "brought_to",
    "keeps_heat",
    "nearest",
    "planned_jobs",
    "proof_of",
    "question_words",
    "rank_shop",
    "school_choices",
    "shared_setting",
    "swap",
    "traits",
    "way_words",
    "week_of",
]
