"""A formula as one object: the planner works a number out with it, and the page prints the same one.

It is an arithmetic expression in the names of its numbers, their units at the end of the names, such as
``bore_mm * share``. Allowed are + − × / ** and min, max, ceil, sqrt and tan of radians, nothing else.
``ceil`` takes a hair under a billionth for rounding error, so that 7.000000000001 stays 7.
"""

from __future__ import annotations

import ast
import math
import re
from collections.abc import Callable, Mapping
from types import CodeType
from typing import Any

_NODES = (
    ast.Expression, ast.BinOp, ast.UnaryOp, ast.Call, ast.Constant, ast.Name, ast.Load,
    ast.Add, ast.Sub, ast.Mult, ast.Div, ast.Pow, ast.USub,
)  # fmt: skip


def _ceil(value: float) -> float:
    return float(math.ceil(round(value, 9)))


FUNCTIONS: dict[str, Callable[..., float]] = {
    "min": min,
    "max": max,
    "ceil": _ceil,
    "sqrt": math.sqrt,
    "tan": math.tan,
}


class Formula:
    """What a number is worked out with.

    >>> stick_out = Formula("max(bore_mm * share, radius_mm / tan(half_angle) - arc_mm)")
    >>> stick_out.names == {"bore_mm", "share", "radius_mm", "half_angle", "arc_mm"}
    True
    >>> round(Formula("bore_mm * share")(bore_mm=9.525, share=0.55), 2)
    5.24
    >>> Formula("bore_mm * share").filled({"bore_mm": 9.525, "share": 0.55})
    '9.525 × 0.55'

    Raises
    ------
    ValueError : the text is more than arithmetic
    """

    def __init__(self, text: str) -> None:
        self.text = text
        self._code, self.names = _compiled(text)

    def __call__(self, **numbers: Any) -> Any:
        """The number; arrays give an array where no function is asked.

        Raises
        ------
        KeyError : a name has no number
        """
        if missing := self.names - numbers.keys():
            raise KeyError(min(missing))
        return eval(self._code, {"__builtins__": {}}, {**FUNCTIONS, **numbers})

    def filled(self, numbers: Mapping[str, float]) -> str:
        """The formula with its numbers in the place of their names, to four figures."""

        def number(found: re.Match[str]) -> str:
            name = found[0]
            return name if name in FUNCTIONS else f"{numbers[name]:.4g}"

        filled = re.sub(r"\b[A-Za-z_]\w*", number, self.text)
        return filled.replace(" * ", " × ").replace(" - ", " − ").replace("-", "−")


def _compiled(text: str) -> tuple[CodeType, frozenset[str]]:
    tree = ast.parse(text, mode="eval")
    names = set()
    for node in ast.walk(tree):
        if not isinstance(node, _NODES) or (
            isinstance(node, ast.Constant) and not isinstance(node.value, int | float)
        ):
            raise ValueError(f"a formula cannot hold {type(node).__name__}")
        if isinstance(node, ast.Call) and not (isinstance(node.func, ast.Name) and node.func.id in FUNCTIONS):
            raise ValueError("a formula cannot hold a call of anything but min, max, ceil, sqrt and tan")
        if isinstance(node, ast.Name) and node.id not in FUNCTIONS:
            names.add(node.id)
    return compile(tree, "<formula>", "eval"), frozenset(names)
