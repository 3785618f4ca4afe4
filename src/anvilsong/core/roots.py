"""Where a function passes zero.

The library's search does the same, but takes longer to be read than fifty plans to be made; a plan asks it
for a control whose scale is curved.

References
----------
Chandrupatla T. R. (1997), A new hybrid quadratic/bisection algorithm for finding the zero of a
nonlinear function without using derivatives, Advances in Engineering Software 28, 145-149.
"""

from __future__ import annotations

from collections.abc import Callable

MOST_STEPS = 200


def root(error: Callable[[float], float], low: float, high: float, near: float = 1e-9) -> float:
    """The place between two ends of opposite sign where ``error`` passes zero, to ``near``.

    Raises
    ------
    ValueError : the ends have the same sign
    """
    a, b = high, low
    fa, fb = error(a), error(b)
    if fa * fb > 0:
        raise ValueError("the ends have the same sign")
    share = 0.5
    for _ in range(MOST_STEPS):
        best, least = (a, fa) if abs(fa) < abs(fb) else (b, fb)
        closeness = (near + 1e-15 * abs(best)) / max(abs(b - a), 1e-300)
        if least == 0 or closeness >= 0.5:
            break
        place = a + min(max(share, closeness), 1 - closeness) * (b - a)
        value = error(place)
        # c is the end that was given up: with it the curve is taken as a parabola lying on its side.
        if (value > 0) == (fa > 0):
            c, fc = a, fa
        else:
            c, fc, b, fb = b, fb, a, fa
        a, fa = place, value
        share = _parabola(a, b, c, fa, fb, fc)
    return float(best)


def _parabola(a: float, b: float, c: float, fa: float, fb: float, fc: float) -> float:
    """Where between a and b to look next: by inverse quadratic interpolation where that is safe, else the
    middle.
    """
    if len({fa, fb, fc}) < 3:
        return 0.5
    across, down = (a - b) / (c - b), (fa - fb) / (fc - fb)
    if not (1 - (1 - across) ** 0.5 < down < across**0.5):
        return 0.5
    return fa / (fb - fa) * fc / (fb - fc) + (c - a) / (b - a) * fa / (fc - fa) * fb / (fc - fb)
