"""A knob without numbers: known positions in, a monotone curve out, with how sure it is."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from anvilsong.core.errors import BadInput
from anvilsong.core.machine.model import Scale
from anvilsong.core.monotone import Monotone
from anvilsong.core.words import sentence

GUESS_SHARE = (
    0.18  # half of the way between two points, the value is known to about this share of their difference
)


class KnobPoint(BaseModel):
    """One known place: position in panel units, the value there, and how sure it is (one sd, value units)."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    position: float
    value: float
    sd: float = Field(0.0, ge=0)


class Knob(BaseModel):
    """A calibrated knob."""

    model_config = ConfigDict(frozen=True)

    points: tuple[KnobPoint, ...]

    def value_at(self, position: float) -> float:
        """The value at a position, along the monotone curve; the ends hold beyond the known points."""
        x, y = self._columns()
        inside = float(np.clip(position, x[0], x[-1]))
        return Monotone(x, y).one(inside) if len(x) > 2 else float(np.interp(inside, x, y))

    def sd_at(self, position: float) -> float:
        """How sure the value is, one sd: the points' own, and between them 0.18 × their difference at the
        middle, falling to 0.

        sd² = sd_points² + (0.18·|Δv|·4·s(1 − s))², s the share of the way between two neighbours.
        """
        x, y = self._columns()
        sds = [point.sd for point in self.points]
        inside = float(np.clip(position, x[0], x[-1]))
        place = min(max(int(np.searchsorted(x, inside)) - 1, 0), len(x) - 2)
        share = (inside - x[place]) / (x[place + 1] - x[place])
        own = float(np.interp(inside, x, sds))
        return float(np.hypot(own, GUESS_SHARE * abs(y[place + 1] - y[place]) * 4 * share * (1 - share)))

    def scale(self, step: float, shown_as: str = "clock", unit: str = "") -> Scale:
        """The scale of a panel's control, through these points."""
        return Scale.model_validate(
            {
                "points": tuple((p.position, p.value) for p in self.points),
                "step": step,
                "shown_as": shown_as,
                "unit": unit,
                "decimals": 1,
            }
        )

    def _columns(self) -> tuple[list[float], list[float]]:
        return [point.position for point in self.points], [point.value for point in self.points]


def calibrate(points: list[KnobPoint]) -> Knob:
    """A knob from its known points.

    Raises
    ------
    BadInput : fewer than two points, two at one position, or two that contradict the direction of the
    others; both are named
    """
    ordered = sorted(points, key=lambda point: point.position)
    if len(ordered) < 2:
        raise BadInput.one("points", f"{len(ordered)} points", sentence("machine.give_least_two_ends"))
    for first, second in pairwise(ordered):
        if second.position - first.position < 1e-9:
            raise BadInput.one(
                "points",
                f"{first.position:g} twice",
                sentence("machine.one_position_has_one", one=first.value, other=second.value),
            )
    rising = ordered[-1].value > ordered[0].value
    for first, second in pairwise(ordered):
        if first.value == second.value or (second.value > first.value) != rising:
            way = "rise" if rising else "fall"
            raise BadInput.one(
                "points",
                f"{first.position:g} → {first.value:g} and {second.position:g} → {second.value:g}",
                sentence("machine.values_along_knob_these", way=way),
            )
    return Knob(points=tuple(ordered))
