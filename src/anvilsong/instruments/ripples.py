"""The spacing of ripples by how alike the crest is to itself some way further on."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter1d

from anvilsong.instruments.profiles import middle_of
from anvilsong.instruments.strip import Floats, Strip

LEAST_PITCH_MM, MOST_PITCH_MM = 0.25, 6.0
LEAST_ALIKE = 0.12
CREST = 0.5  # of the bead's width, about its middle
PIECES = 5


@dataclass(frozen=True)
class Ripples:
    """Spacing and its spread over pieces of the run, mm; ``alike`` is the correlation at that spacing."""

    pitch_mm: float | None
    spread_mm: float
    alike: float


def ripples_of(strip: Strip, toe_left_mm: Floats, toe_right_mm: Floats) -> Ripples:
    """The spacing of ripples on the crest between two toes, each given at every place along the strip.

    Notes
    -----
    The autocorrelation of brightness along the run is averaged over columns of the crest, which each see the
    same ripples a little earlier or later. The first peak nearly as high as the highest is the spacing: two
    ripples on are nearly as alike as one.
    """
    step = float(strip.s_mm[1] - strip.s_mm[0])
    middle, width = (toe_left_mm + toe_right_mm) / 2, toe_right_mm - toe_left_mm
    columns = np.linspace(-CREST / 2, CREST / 2, 15)
    rows = np.arange(strip.s_mm.size, dtype=float)
    tracks = []
    for share in columns:
        at = (middle + share * width - strip.u_mm[0]) / (strip.u_mm[1] - strip.u_mm[0])
        low = np.clip(at.astype(int), 0, strip.u_mm.size - 1)
        tracks.append(strip.bright[rows.astype(int), low])
    crest = np.array(tracks)
    crest = np.where(np.isnan(crest), np.nan_to_num(middle_of(crest.ravel())), crest)
    crest = crest - gaussian_filter1d(crest, 2.5 / step, axis=1, mode="nearest")
    whole_run = _peak(crest, step)
    if whole_run is None:
        return Ripples(None, 0.0, 0.0)
    pitch, alike = whole_run
    parts = [_peak(part, step) for part in np.array_split(crest, PIECES, axis=1)]
    near = [found[0] for found in parts if found and 0.6 < found[0] / pitch < 1.6]
    spread = float(np.std(near)) if len(near) > 1 else 0.0
    return Ripples(pitch if alike >= LEAST_ALIKE else None, spread, alike)


def _peak(crest: Floats, step: float) -> tuple[float, float] | None:
    most = min(int(MOST_PITCH_MM / step), crest.shape[1] // 2)
    power = np.abs(np.fft.rfft(crest, 2 * crest.shape[1], axis=1)) ** 2
    alike = np.fft.irfft(power, axis=1)[:, :most].sum(axis=0)
    if alike.size < 4 or alike[0] <= 0:
        return None
    alike = alike / alike[0]
    first = int(LEAST_PITCH_MM / step)
    middle = alike[1:-1]
    peaks = 1 + np.flatnonzero((middle > alike[:-2]) & (middle >= alike[2:]))
    peaks = peaks[(peaks >= first) & (alike[peaks] > 0)]
    if peaks.size == 0:
        return None
    k = int(peaks[alike[peaks] >= 0.7 * alike[peaks].max()][0])
    a, b, c = alike[k - 1 : k + 2]
    bend = a - 2 * b + c
    return (k + (0.5 * (a - c) / bend if bend < 0 else 0.0)) * step, float(b)
