"""Reading a bead: readings, verdict, coefficients that a coupon moves, the one next change."""

from anvilsong.core.bead.change import next_change
from anvilsong.core.bead.change_words import effect_words
from anvilsong.core.bead.coupon import Readings
from anvilsong.core.bead.next import NextChange
from anvilsong.core.bead.verdict import Verdict, as_run, read

__all__ = ["NextChange", "Readings", "Verdict", "as_run", "effect_words", "next_change", "read"]
