"""Chemistry of the weld metal and where it stands against the hot-crack range.

The curves are qualitative: they say which way and roughly how far, not how likely.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache, lru_cache
from typing import Protocol

from anvilsong.core.tables import Row, read_table

MG_IN_MG2SI, SI_IN_MG2SI = 0.633, 0.367


class Composed(Protocol):
    """Anything with a composition in weight per cent."""

    @property
    def si(self) -> float: ...
    @property
    def mg(self) -> float: ...
    @property
    def cu(self) -> float: ...
    @property
    def mn(self) -> float: ...
    @property
    def zn(self) -> float: ...


@dataclass(frozen=True)
class Composition:
    """Weight per cent of the elements that matter to cracking."""

    si: float
    mg: float
    cu: float
    mn: float = 0.0
    zn: float = 0.0


class CrackTable(Row):
    source: str
    watch_over: float
    si: list[tuple[float, float]]
    mg: list[tuple[float, float]]
    cu: list[tuple[float, float]]
    mg2si: list[tuple[float, float]]


def _curves() -> CrackTable:
    return read_table("crack_range", CrackTable)


def watch_over() -> float:
    """Sensitivity above which the weld metal is watched."""
    return _curves().watch_over


def mix(first: Composed, second: Composed, share_of_first: float) -> Composition:
    """Composition of a mixture by weight: share × first + (1 − share) × second."""
    rest = 1 - share_of_first
    parts = {
        name: share_of_first * getattr(first, name) + rest * getattr(second, name)
        for name in ("si", "mg", "cu", "mn", "zn")
    }
    return Composition(**parts)


def _on(curve: list[tuple[float, float]], x: float) -> float:
    """The curve at x, held at its ends; of so few points a search by hand is quicker than one of arrays."""
    before_x, before_y = curve[0]
    if x <= before_x:
        return before_y
    for at_x, at_y in curve:
        if x <= at_x:
            return (
                before_y + (at_y - before_y) * (x - before_x) / (at_x - before_x) if at_x > before_x else at_y
            )
        before_x, before_y = at_x, at_y
    return before_y


def crack_sensitivity(metal: Composed) -> float:
    """Relative hot-crack sensitivity, 0..1, of a weld metal.

    Mg and Si first form Mg₂Si = min(Mg/0.633, Si/0.367); what is left over, f, counts by its own curve.
    S = max( Si(f_Si), Mg(f_Mg), Mg2Si-curve × (1 − min(1, max(f_Si/2, f_Mg/3))), Cu-curve × (1 − min(1,
    f_Si/4)) )

    Notes
    -----
    Worked: 6061 + 4043 at dilution 0.65 gives about 0.34, 6061 + 5356 about 0.80.
    """
    return _sensitivity(metal.si, metal.mg, metal.cu)


@lru_cache(maxsize=16384)
def _sensitivity(si: float, mg: float, cu: float) -> float:
    """Kept, since drawings and safe dilutions ask for the same mixtures again and again."""
    curves = _curves()
    compound = min(mg / MG_IN_MG2SI, si / SI_IN_MG2SI)
    free_mg = mg - compound * MG_IN_MG2SI
    free_si = si - compound * SI_IN_MG2SI
    return max(
        _on(curves.si, free_si),
        _on(curves.mg, free_mg),
        _on(curves.mg2si, compound) * (1 - min(1.0, max(free_si / 2, free_mg / 3))),
        _on(curves.cu, cu) * (1 - min(1.0, free_si / 4)),
    )


def largest_safe_dilution(base: Composed, filler: Composed) -> float | None:
    """Largest dilution, to 0.01, up from pure filler, that stays under the watch line; None when none
    does.
    """
    return _safe_dilution((base.si, base.mg, base.cu), (filler.si, filler.mg, filler.cu))


@cache
def _safe_dilution(base: tuple[float, ...], filler: tuple[float, ...]) -> float | None:
    """Kept: there are few pairs of metal and filler, and each is asked for at every new dilution."""
    safe: float | None = None
    for step in range(101):
        share = step / 100
        if (
            _sensitivity(*(share * b + (1 - share) * f for b, f in zip(base, filler, strict=True)))
            > watch_over()
        ):
            break
        safe = share
    return safe
