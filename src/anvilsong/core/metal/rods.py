"""The thickness of a rod: by the sheet, and by the pass."""

from __future__ import annotations

import math


def rod_diameter_mm(thin_mm: float, stocked: tuple[float, ...], smaller: bool = False) -> float:
    """Rod for the thinner side, mm: about its thickness to 2.4; 2.4 to 4 mm; 3.2 to 7 mm; 4.0 over; one size
    down when ``smaller``.

    >>> rod_diameter_mm(3.2, (1.6, 2.4, 3.2)), rod_diameter_mm(3.2, (1.6, 2.4, 3.2), smaller=True)
    (2.4, 1.6)
    """
    wanted = thin_mm if thin_mm < 2.5 else 2.4 if thin_mm <= 4 else 3.2 if thin_mm <= 7 else 4.0
    sizes = sorted(stocked)
    place = min(range(len(sizes)), key=lambda i: (abs(sizes[i] - wanted), i))
    return sizes[max(0, place - 1)] if smaller else sizes[place]


def rod_for_pass_mm(section_mm2: float, pool_mm: float, usual_mm: float, stocked: tuple[float, ...]) -> float:
    """Rod for one of several passes, mm: the usual one for the sheet, but no thicker than the pass takes,
    π·d²/4 ≤ its section, and no wider than its pool; the thinnest stocked where none is so thin.

    >>> rod_for_pass_mm(7.9, 4.3, 4.0, (2.4, 3.2, 4.0)), rod_for_pass_mm(18.0, 8.4, 4.0, (2.4, 3.2, 4.0))
    (2.4, 4.0)
    """
    fits = [d for d in stocked if d <= min(usual_mm, pool_mm) and math.pi * d**2 / 4 <= section_mm2]
    return max(fits, default=min(stocked))
