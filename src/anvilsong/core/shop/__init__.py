"""Between machines and people: ranking a workshop's machines, swapping settings, ways of working."""

from anvilsong.core.shop.ranking import rank_shop
from anvilsong.core.shop.schools import answer_words, question_words, school_choices, way_words
from anvilsong.core.shop.swapping import swap

__all__ = ["answer_words", "question_words", "rank_shop", "school_choices", "swap", "way_words"]
