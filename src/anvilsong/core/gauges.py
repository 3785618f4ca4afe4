"""Sheet gauges: thickness by number.

References
----------
Brown & Sharpe (American wire gauge), ASTM B258: d = 0.005 in × 92^((36 − n)/39).
Imperial standard wire gauge: BS 3737.
"""

from __future__ import annotations

from anvilsong.core.units import MM_PER_INCH

# Imperial standard wire gauge, BS 3737, thousandths of an inch from number 0.
# fmt: off
_SWG_THOU = (
    324, 300, 276, 252, 232, 212, 192, 176, 160, 144, 128, 116, 104, 92, 80,
    72, 64, 56, 48, 40, 36, 32, 28, 24, 22, 20, 18, 16.4, 14.8, 13.6,
    12.4,
)


def gauge_mm(number: int) -> float:
    """Thickness in mm of a Brown & Sharpe sheet gauge number, 0..40.

    d = 0.005 in × 92^((36 − n)/39)

    >>> round(gauge_mm(11), 3)
    2.305
    """
    return float(0.005 * 92 ** ((36 - number) / 39) * MM_PER_INCH)


def swg_mm(number: int) -> float | None:
    """Thickness in mm of an Imperial standard wire gauge number, 0..30.

    >>> round(swg_mm(11), 3)
    2.946
    """
    return _SWG_THOU[number] * MM_PER_INCH / 1000 if number < len(_SWG_THOU) else None
