"""The passes that follow the first: what each fills, how wide its pool is, and the heat it wants."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal, NamedTuple, overload

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.arc.waveform import Numbers
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.joint import POOL_PER_LEG, fillet_mm2, groove_face_mm, pool_wet_mm
from anvilsong.core.model.situations import Situation

CAP_OVER_FACE_MM, MOST_CAP_MM = 1.5, 10.5  # beyond the groove; wider ones get beads side by side
WIDE_OVER_THICKNESS = 0.5  # a gap over this share of the thinner side is bridged
SMALL_LEG_MM = 3.5  # the least that is worth a pass
MOST_OVER = 1.01  # of a machine's amps: panels round


@dataclass(frozen=True)
class Later:
    """A pass after the first: filler section mm², pool width mm."""

    kind: Literal["fill", "cap"]
    section_mm2: float
    width_mm: float


def needs_bridging(at: Situation) -> bool:
    """Whether the gap is wider than about half the thinner side, in a joint that runs along a gap."""
    return (
        at.weld.follows_a_gap
        and at.job.bevel is None
        and at.job.gap_mm > WIDE_OVER_THICKNESS * at.job.thin_mm
    )


def later_passes(at: Situation, count: int | None = None) -> list[Later]:
    """The passes that follow the first, each with its share of what is left to fill.

    A pool is as wide as the fillet rule wants it, leg × 1.4 with leg = √(2·section), at least 2.5 + 0.6·t;
    the cap also
    wets both edges of the groove, as far as one pool reaches.

    Parameters
    ----------
    count : that many beads, each wetting what lies under it and not the whole groove, the cap of several
        side by side: fewer amps for each
    """
    rest = at.whole.total_mm2 - at.section_mm2
    more = count or _usual_count(at)
    if more == 0:
        return []
    section = rest / more
    beads = POOL_PER_LEG * math.sqrt(2 * section)
    if count is not None:
        return [*[Later("fill", section, beads)] * (more - 1), Later("cap", section, beads)]
    width = max(beads, pool_wet_mm(at.mean_thickness_mm))
    face = groove_face_mm(at.job, at.mean_thickness_mm)
    cap = max(width, min(face + CAP_OVER_FACE_MM, MOST_CAP_MM)) if face > 0 else width
    fills = [Later("fill", section, width)] * (more - 1)
    return [*fills, Later("cap", section, cap)]


def _usual_count(at: Situation) -> int:
    return _passes_of(at, at.weld.one_pass_leg_mm(at.job))


def _passes_of(at: Situation, leg_mm: float) -> int:
    """How many passes of a fillet of this leg fill what the first leaves; none for next to nothing."""
    rest = at.whole.total_mm2 - at.section_mm2
    return math.ceil(rest / fillet_mm2(leg_mm) - 1e-9) if rest > 0.05 * at.section_mm2 else 0


@overload
def later_heat_w(
    at: Situation, later: Later, travel_mm_s: float, preheat_c: float | None, c: Coefficients
) -> float: ...


@overload
def later_heat_w(
    at: Situation, later: Later, travel_mm_s: Numbers, preheat_c: Numbers | None, c: Coefficients
) -> Numbers: ...


def later_heat_w(
    at: Situation, later: Later, travel_mm_s: Numbers, preheat_c: Numbers | None, c: Coefficients
) -> Numbers:
    """Heat of a fill or cap pass, W: that of its pool in the whole thickness, and its rod."""
    plate = replace(at.plate(travel_mm_s), thickness_mm=at.mean_thickness_mm)
    plain = at.heat_model.heat_w(plate, later.width_mm, at.contour_k(preheat_c))
    heat = at.heat_factor * at.position_factor * plain + later.section_mm2 * travel_mm_s * c.filler_j_per_mm3
    return heat if isinstance(heat, np.ndarray) and heat.ndim else float(heat)


class LaterPasses(NamedTuple):
    """The passes after the first as a machine can lay them, and the heat of the hottest, W."""

    passes: list[Later]
    hottest_w: float
    is_small: bool
    """Smaller beads than usual, since the usual ones want more amps than there are."""
    usual_w: float


def later_within(
    at: Situation,
    per_amp_w: float,
    most_a: float,
    travel_mm_s: float,
    preheat_c: float | None,
    c: Coefficients,
) -> LaterPasses:
    """The usual passes after the first, or more and smaller ones where a machine has not the amps for the
    usual; none where a gap is bridged, which has steps of its own.
    """
    if needs_bridging(at):
        return LaterPasses([], 0.0, False, 0.0)

    def hottest_w(passes: list[Later]) -> float:
        return max((later_heat_w(at, each, travel_mm_s, preheat_c, c) for each in set(passes)), default=0.0)

    usual = later_passes(at)
    heat = hottest_w(usual)
    if heat <= MOST_OVER * most_a * per_amp_w:
        return LaterPasses(usual, heat, False, heat)
    small = usual
    for count in range(len(usual), max(len(usual), _passes_of(at, SMALL_LEG_MM)) + 1):
        small = later_passes(at, count)
        if hottest_w(small) <= most_a * per_amp_w:
            break
    return LaterPasses(small, hottest_w(small), True, heat)


class HottestLater(NamedTuple):
    """Heat of the hottest pass after the first, W: as usual, and as a machine can lay it."""

    usual_w: Numbers
    laid_w: Numbers


def hottest_later_w(
    at: Situation,
    per_amp_w: Numbers,
    most_a: float,
    travel_mm_s: Numbers,
    preheat_c: Numbers | None,
    c: Coefficients,
) -> HottestLater | None:
    """``later_within`` at many speeds, preheats and heats per ampere at once; None where no pass follows."""
    usual = later_passes(at)
    if needs_bridging(at) or not usual:
        return None

    def hottest_w(passes: list[Later]) -> NDArray[np.float64]:
        each = [np.asarray(later_heat_w(at, one, travel_mm_s, preheat_c, c)) for one in set(passes)]
        return np.asarray(np.max(np.stack(np.broadcast_arrays(*each)), axis=0))

    as_usual, there = hottest_w(usual), most_a * np.asarray(per_amp_w)
    laid = np.broadcast_to(as_usual, np.broadcast_shapes(as_usual.shape, there.shape)).copy()
    is_open = laid > MOST_OVER * there
    for count in range(len(usual), max(len(usual), _passes_of(at, SMALL_LEG_MM)) + 1):
        if not is_open.any():
            break
        small = np.broadcast_to(hottest_w(later_passes(at, count)), laid.shape)
        laid[is_open] = small[is_open]
        is_open &= laid > there
    return HottestLater(as_usual, laid)
