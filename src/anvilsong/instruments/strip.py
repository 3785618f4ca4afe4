"""A picture's strip along a line: brightness by place along and across, with the way back to the picture."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline
from scipy.ndimage import gaussian_filter, map_coordinates

from anvilsong.instruments.marks import Marks

Floats = NDArray[np.float64]

MOST_ALONG, MOST_ACROSS = 2000, 560
FLOOR = 0.02  # of full brightness: what is darker is noise, and its logarithm would shout


@dataclass(frozen=True)
class Line:
    """The line of the bead as a smooth path."""

    along: CubicSpline
    """Pixel (x, y) by distance along, mm."""
    long_mm: float
    px_per_mm: float

    def pixel(self, s_mm: Floats, u_mm: Floats) -> Floats:
        """Pixels of places beside the line, (..., 2): u to the right-hand side of the travel."""
        middle, way = self.along(s_mm), self.along(s_mm, 1)
        way = way / np.linalg.norm(way, axis=-1, keepdims=True)
        right = np.stack([-way[..., 1], way[..., 0]], axis=-1)
        return np.asarray(middle + right * (np.asarray(u_mm) * self.px_per_mm)[..., None])


def line_of(marks: Marks) -> Line:
    """The marked points joined: straight between two, smooth through more."""
    points = np.array(marks.line, dtype=float)
    lengths = np.linalg.norm(np.diff(points, axis=0), axis=1) / marks.px_per_mm
    apart = np.concatenate([[0.0], np.cumsum(np.maximum(lengths, 1e-6))])
    smooth = CubicSpline(apart, points, bc_type="natural")  # through two points: straight
    return Line(smooth, float(apart[-1]), marks.px_per_mm)


@dataclass(frozen=True)
class Strip:
    """Logarithm of brightness at (along, across); where the picture ends or glares, nan."""

    line: Line
    s_mm: Floats
    u_mm: Floats
    bright: Floats


def unroll(grey: Floats, marks: Marks) -> Strip:
    """The strip of a picture along the marked line.

    Parameters
    ----------
    grey : brightness 0..1, (rows, columns)

    Notes
    -----
    Sampled at the picture's own scale, or coarser where the strip would be larger than is of use; the picture
    is then smoothed to the sampling first.
    """
    line, reach = line_of(marks), marks.reach_mm
    step_s = max(1 / marks.px_per_mm, line.long_mm / MOST_ALONG)
    step_u = max(1 / marks.px_per_mm, 2 * reach / MOST_ACROSS, 0.025)
    s = np.arange(step_s / 2, line.long_mm, step_s)
    u = np.arange(-reach, reach + step_u / 2, step_u)
    coarse = max(step_u, step_s) * marks.px_per_mm
    smooth = gaussian_filter(grey, 0.4 * coarse) if coarse > 1.3 else grey
    at = line.pixel(np.broadcast_to(s[:, None], (s.size, u.size)), np.broadcast_to(u, (s.size, u.size)))
    seen = map_coordinates(smooth, [at[..., 1], at[..., 0]], order=1, cval=np.nan, mode="constant")
    with np.errstate(invalid="ignore"):
        seen[seen > 0.985] = np.nan  # glare says nothing of what lies under it
    return Strip(line, s, u, np.log(np.maximum(seen, FLOOR)))


def beside_line(marks: Marks, along_mm: list[float]) -> list[list[float]]:
    """The line at some places: pixel (x, y), and how many pixels (x, y) a millimetre to its right is."""
    line, s = line_of(marks), np.array(along_mm)
    at = line.pixel(s, np.zeros(s.size))
    both = np.hstack([at, line.pixel(s, np.ones(s.size)) - at])
    return [[round(float(one), 3) for one in row] for row in both]
