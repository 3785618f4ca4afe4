"""Metal that is welded bare, without rod."""

from __future__ import annotations

from anvilsong.core.metal.alloys import Alloy
from anvilsong.core.metal.chemistry import crack_sensitivity, mix
from anvilsong.core.said import Words
from anvilsong.core.words import sentence

WATCH_WITHOUT_ROD = 0.4  # of the crack range, with nothing in the pool to lead out of it


def without_rod(a: Alloy, b: Alloy) -> list[Words]:
    """A word where the base metal by itself stands high in the crack range."""
    bare = crack_sensitivity(mix(a, b, 0.5))
    if bare < WATCH_WITHOUT_ROD:
        return []
    names = " to ".join(dict.fromkeys((a.name, b.name)))
    return [sentence("metal.without_filler_rod_weld", names=names, bare=bare)]
