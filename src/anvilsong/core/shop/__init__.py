"""Between machines and people: ranking a shop's machines, swapping settings, the schools."""

from anvilsong.core.shop.ranking import rank_shop
from anvilsong.core.shop.schools import school_choices
from anvilsong.core.shop.swapping import swap

__all__ = ["rank_shop", "school_choices", "swap"]
