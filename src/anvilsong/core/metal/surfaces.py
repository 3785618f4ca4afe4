"""Surface states: how easily they clear, and the EP share to start with."""

from __future__ import annotations

from functools import cache

from anvilsong.core.said import Words
from anvilsong.core.tables import Row, read_table


class Surface(Row):
    """A surface state. ``cleaning_factor`` multiplies the positive charge; 1 is brushed metal."""

    key: str
    words: str
    cleaning_factor: float
    ep_share: float
    dirty: bool = False
    stripped: bool = False
    """Whether a film was taken off along the joint, and stands beside it."""
    note: str = ""
    refused: Words | None = None


class SurfaceTable(Row):
    source: str
    surface: list[Surface]


def surfaces() -> list[Surface]:
    """Every surface, in the table's order."""
    return read_table("surfaces", SurfaceTable).surface


@cache
def find_surface(key: str) -> Surface:
    """The surface of that name."""
    return next(surface for surface in surfaces() if surface.key == key)
