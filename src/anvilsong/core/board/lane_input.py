"""What is typed into a lane of the board, read by the one parser, within what the lane can be set to."""

from __future__ import annotations

from anvilsong.core.errors import BadInput
from anvilsong.core.quantities import parse
from anvilsong.core.registry import Setting
from anvilsong.core.shown import show
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence

SLACK = 1e-6


def read_lane(
    entry: Setting,
    typed: str,
    system: UnitSystem = "mm",
    limits: tuple[float, float] | None = None,
    whose: str = "this lane",
) -> float:
    """The inside value of a lane's field.

    A share is always typed in per cent, so 1 means per cent too; ``70 EN`` is an AC balance of 30 % EP.

    Raises
    ------
    BadInput : what cannot be read, or what lies outside ``limits``; the sentence says which unit and range
    """
    value = _share(entry, typed) if entry.dimension == "share" else _plain(entry, typed, system)
    if limits is not None and not limits[0] - SLACK <= value <= limits[1] + SLACK:
        low, high = (show(limit, entry.dimension or "number", system, entry.decimals) for limit in limits)
        raise BadInput.one(entry.words, typed, f"{whose} goes from {low} to {high}")
    return value


def _plain(entry: Setting, typed: str, system: UnitSystem) -> float:
    return parse(typed, entry.dimension or "number", entry.words, system)


def _share(entry: Setting, typed: str) -> float:
    try:
        return parse(typed.strip().rstrip("%").strip(), "number", entry.words) / 100
    except BadInput:
        raise BadInput.one(entry.words, typed, sentence("board.type_per_cent_such")) from None
