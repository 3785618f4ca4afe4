"""Where a function passes zero."""

from __future__ import annotations

from collections.abc import Callable


def root(error: Callable[[float], float], low: float, high: float, near: float = 1e-9) -> float:
    """The place between two ends of opposite sign where ``error`` passes zero, to ``near`` (Brent's method).

    Raises
    ------
    ValueError : the ends have the same sign
    """
    # Read only when it is needed: the library takes longer to come than a whole plan.
    from scipy.optimize import brentq

    return float(brentq(error, low, high, xtol=near, rtol=1e-14))
