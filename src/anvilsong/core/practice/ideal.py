"""The pedal that holds the pool of a practised weld: Part's own, put on the same plate."""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

import numpy as np

from anvilsong.core.practice.pedal_run import PedalRun, PedalTask
from anvilsong.core.practice.seen import LONGEST_STEP_S
from anvilsong.core.warming.foot import Foot

IDEAL_PLACES = 300


class Ideal(NamedTuple):
    """How Part's own pedal holds the pool along a practised weld: how long it stood for its pool, and along
    the way mm the pedal, 0 to 1, and the pool as a share of the wanted one.
    """

    stood_s: float
    way_mm: tuple[float, ...]
    pedal: tuple[float, ...]
    pool: tuple[float, ...]

    def pedal_at(self, way_mm: float) -> float:
        """Where the pedal stands at a place."""
        return float(np.interp(way_mm, self.way_mm, self.pedal))


def ideal_of(task: PedalTask) -> Ideal:
    """The same weld with Part's pedal on it: fully down until the pool is there, then after its width."""
    held = replace(task, mode="hold")
    run, arc = PedalRun(held), task.arc
    foot, stood_s = Foot(arc, 1.0, arc.most), 0.0
    found: list[tuple[float, float, float]] = []
    while not run.has_ended:
        seen = run.step(LONGEST_STEP_S, held.pedal_of(foot.share))
        if seen.state != "moves":
            stood_s = stood_s if found else seen.time_s
            continue
        if not found:
            foot.share = min(foot.share, max(1.0, arc.least))
        foot.press(seen.width_mm, LONGEST_STEP_S)
        found.append((seen.way_mm, seen.pedal, seen.width_mm / arc.width_mm))
    kept = found[:: max(1, len(found) // IDEAL_PLACES)] or [(task.begins_mm, 1.0, 0.0)]
    way, pedal, pool = zip(*kept, strict=True)
    return Ideal(stood_s, way, pedal, pool)
