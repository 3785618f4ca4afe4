"""Plate, border, bead, border, plate: the four edges of a profile by its change points."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter1d

from anvilsong.instruments.profiles import Profiles, centred, whole
from anvilsong.instruments.strip import Floats

LEAST_COLUMNS, MOST_COLUMNS = 40, 260
LEAST_BEAD_MM, LEAST_BORDER_MM, LEAST_PLATE_MM = 1.5, 0.25, 0.6
MOST_SOFT_MM = 0.6
BRIGHT_OF_EDGE, ROUGH_OF_EDGE = 0.10, 0.4  # spreads that an edge itself may have
LEAST_BETWEEN_MM = 2.0  # of plate before it
BRIGHT_FLOOR, ROUGH_FLOOR = 0.02, 0.10  # of a section's spread: flatter than this is chance
USUAL_BORDER_MM = 2.0
# How far the bead's middle lies beside the line: at most, and usually, as a share of its width and more.
MOST_ASIDE, ASIDE, ASIDE_MM = 0.4, 0.1, 0.4
CORRELATED_MM = 0.25  # about as far as neighbouring columns say the same


@dataclass(frozen=True)
class Way:
    """A way to tell sections: the degrees of the bead's brightness and roughness, which is lit from one side,
    mirrors a window, and ripples fade to its toes; and how many nats it takes to believe in something else
    beyond the plate.
    """

    of_bead: tuple[int, int]
    other_plate: float


USUAL = Way((7, 5), 12.0)
OTHERWISE = (Way((7, 5), 6.0), Way((5, 4), 25.0))


@dataclass(frozen=True)
class Sections:
    """Where the edges lie across, mm, left to right: border, toe, toe, border; each from where to where.

    ``doubt`` is how little worse the next best place of each is, more than ``ELSEWHERE_MM`` away: the
    difference of the logarithm of likelihood.
    """

    edges_mm: tuple[tuple[float, float], ...]
    doubt: tuple[float, ...]


ELSEWHERE_MM = 0.6


def sections_of(profiles: Profiles, way: Way = USUAL) -> Sections | None:
    """The most likely sections of the whole profile; None where the strip is too narrow for five.

    Notes
    -----
    Brightness and roughness of each section are taken as normal about a curve of their own with a spread of
    their own: a level for a border, a slope for the plate, a polynomial for the bead, which is lit from one
    side. The sum over sections of n log(spread) is least over all four edges by dynamic programming.
    The bead lies about the drawn line.
    """
    u, bright, rough = _thinned(profiles)
    if u.size < LEAST_COLUMNS:
        return None
    step = float(u[1] - u[0])
    places = np.append(u - step / 2, u[-1] + step / 2)

    def worth(of_bright: int, of_rough: int) -> Floats:
        found = _costs(bright, BRIGHT_FLOOR, of_bright) + _costs(rough, ROUGH_FLOOR, of_rough)
        return found * (step / CORRELATED_MM)

    border = worth(0, 0) + _unlike_a_border(places)
    inner = [border, worth(*way.of_bead) + _unlike_the_bead(places), border]
    plate = worth(1, 0)
    plate = np.where(places[None, :] - places[:, None] >= LEAST_PLATE_MM, plate, np.inf)
    # Beyond the plate may lie something else: a ruler, a shadow, the bench.
    wide = np.where(places[None, :] - places[:, None] >= LEAST_BETWEEN_MM, plate + way.other_plate, np.inf)
    left = np.minimum(plate[0], np.min(plate[0][:, None] + wide, axis=0))
    right = np.minimum(plate[:, -1], np.min(wide + plate[:, -1][None, :], axis=1))
    ends, starts = [left], []
    width = int(MOST_SOFT_MM / step)
    for section in inner:
        starts.append(_over(ends[-1], width, step))
        ends.append(np.min(starts[-1][:, None] + section, axis=0))
    starts.append(_over(ends[-1], width, step))
    after_starts = [right]
    after_ends = [_over(after_starts[0][::-1], width, step)[::-1]]
    for section in reversed(inner):
        after_starts.append(np.min(section + after_ends[-1][None, :], axis=1))
        after_ends.append(_over(after_starts[-1][::-1], width, step)[::-1])
    if not np.isfinite(np.min(ends[0] + after_ends[-1])):
        return None
    edges, doubts = [], []
    for k in range(4):
        end, start = ends[k] + after_ends[3 - k], starts[k] + after_starts[3 - k]
        from_at, to_at = int(np.argmin(end)), int(np.argmin(start))
        edges.append((float(places[from_at]), float(places[to_at])))
        away = np.abs(places - (places[from_at] + places[to_at]) / 2) > ELSEWHERE_MM
        doubts.append(float(np.min(np.where(away, np.minimum(end, start), np.inf)) - end[from_at]))
    return Sections(tuple(edges), tuple(doubts))


def _over(worth: Floats, width: int, step_mm: float) -> Floats:
    """The least worth with up to some columns of an edge passed over: a soft edge, or the shadow of a toe, is
    neither what lies before it nor what lies behind.
    """
    a_column = step_mm / CORRELATED_MM * (np.log(BRIGHT_OF_EDGE) + np.log(ROUGH_OF_EDGE))
    best = worth.copy()
    for columns in range(1, width + 1):
        best[columns:] = np.minimum(best[columns:], worth[:-columns] + columns * a_column)
    return best


def _unlike_a_border(places: Floats) -> Floats:
    """What a section costs as a border for its width: borders are a millimetre or two, and seldom more."""
    width = places[None, :] - places[:, None]
    return np.where(width >= LEAST_BORDER_MM, 0.5 * (width / USUAL_BORDER_MM) ** 2, np.inf)


def _unlike_the_bead(places: Floats) -> Floats:
    """What a section costs as the bead for lying beside the drawn line."""
    start, end = places[:, None], places[None, :]
    width, aside = np.maximum(end - start, 1e-9), (start + end) / 2
    cost = 0.5 * (aside / (ASIDE * width + ASIDE_MM)) ** 2
    return np.where((width >= LEAST_BEAD_MM) & (np.abs(aside) <= MOST_ASIDE * width), cost, np.inf)


def _thinned(profiles: Profiles) -> tuple[Floats, Floats, Floats]:
    """The whole profile in fewer columns, without those that nothing is seen in."""
    bright, rough = whole(centred(profiles.bright)), whole(profiles.rough)
    seen = ~np.isnan(bright) & ~np.isnan(rough)
    u, bright, rough = profiles.u_mm[seen], bright[seen], rough[seen]
    every = max(1, int(np.ceil(u.size / MOST_COLUMNS)))
    if every > 1:
        bright, rough = gaussian_filter1d(bright, every / 2), gaussian_filter1d(rough, every / 2)
    return u[::every], bright[::every], rough[::every]


def _costs(values: Floats, floor: float, degree: int) -> Floats:
    """n log(spread) about a polynomial, of the columns between any two places, (n + 1, n + 1); infinite where
    there are too few.
    """
    cost = np.full((values.size + 1, values.size + 1), np.inf)
    for n in range(degree + 2, values.size + 1):
        x = np.linspace(-1, 1, n)
        basis, _ = np.linalg.qr(np.polynomial.legendre.legvander(x, degree))
        pieces = np.lib.stride_tricks.sliding_window_view(values, n)
        left = np.sum(pieces**2, axis=1) - np.sum((pieces @ basis) ** 2, axis=1)
        start = np.arange(pieces.shape[0])
        cost[start, start + n] = 0.5 * n * np.log(np.maximum(left, 0) / n + floor**2)
    return cost
