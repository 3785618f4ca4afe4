"""The places of a control as people write them: ``15 = 15, 50 = 50``, clock hours, names."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass

from anvilsong.core.arc.waveform import SHAPES
from anvilsong.core.errors import BadInput
from anvilsong.core.registry import BY_KEY
from anvilsong.core.units import UNITS
from anvilsong.core.words import sentence

_PLAIN = re.compile(r"^[+-]?(\d{1,9}(\.\d{0,9})?|\.\d{1,9})$", re.ASCII)
_SHAPE_BY_WORD: dict[str, float] = {name: float(place) for place, name in enumerate(SHAPES)}


@dataclass(frozen=True)
class Counting:
    """How a page counts what a control means: inside value = figure × factor + offset."""

    factor: float = 1.0
    offset: float = 0.0

    def inside(self, figure: float) -> float:
        """The inside value of a figure that was typed."""
        return round(figure * self.factor + self.offset, 6)

    def figure(self, inside: float) -> float:
        """The figure that a page shows for an inside value."""
        return (inside - self.offset) / self.factor


def counting(setting: str, basis: str) -> Counting:
    """Shares are counted in per cent, the EP amplitude in per cent of the EN half, all else as it is."""
    dimension = BY_KEY[setting].dimension
    if basis == "share_of_set" or (
        dimension in ("share", "balance") and basis not in ("ep_amps", "amps", "peak_s")
    ):
        return Counting(0.01)
    if dimension == "amplitude" and basis == "value":
        unit = UNITS["amplitude"]["%"]
        return Counting(unit.factor, unit.offset)
    return Counting()


def named_places(text: str, setting: str, count: Counting, field: str) -> list[tuple[str, float]]:
    """Places by their names, in the order of what they mean: a shape, or for any other setting a number."""
    is_shape = BY_KEY[setting].dimension is None
    wanted = (
        sentence("web.name_places_word_shape", shapes=", ".join(SHAPES))
        if is_shape
        else sentence("web.name_places_word_number")
    )
    pairs: list[tuple[str, float]] = []
    for part in _parts(text):
        name, equals, meaning = (piece.strip() for piece in part.partition("="))
        if is_shape:
            shape = meaning.lower() or name.lower()
            if shape not in _SHAPE_BY_WORD:
                raise BadInput.one(field, text, wanted)
            pairs.append((name, _SHAPE_BY_WORD[shape]))
            continue
        if not equals or not name:
            raise BadInput.one(field, text, wanted)
        try:
            pairs.append((name, count.inside(plain_number(meaning, field))))
        except BadInput:
            raise BadInput.one(field, text, wanted) from None
    if not pairs:
        raise BadInput.one(field, text, wanted)
    if len({name.lower() for name, _ in pairs}) < len(pairs):
        raise BadInput.one(field, text, sentence("web.each_place_has_name"))
    return sorted(pairs, key=lambda pair: pair[1])


def _parts(text: str) -> list[str]:
    """What stands between semicolons, else between commas; a comma within a number is its point."""
    plain = text.replace("−", "-")
    if ";" in plain:
        return [part for part in plain.split(";") if part.strip()]
    parts: list[str] = []
    for piece in plain.split(","):
        before = parts[-1] if parts else ""
        is_tail = before[-1:].isdigit() and piece[:1].isdigit()
        if is_tail and not ("=" in before and "=" in piece):
            parts[-1] = f"{before}.{piece}"
        else:
            parts.append(piece)
    return [part for part in parts if part.strip()]


def plain_number(text: str, field: str) -> float:
    """A finite number with or without its unit (A, Hz, %, s, ms).

    Raises
    ------
    BadInput : anything else, also what is too large for any panel
    """
    bare = text.replace("−", "-").replace(",", ".").strip().rstrip("%AHzms ")
    if not _PLAIN.match(bare):
        raise BadInput.one(field, text, "type a number")
    return float(bare)


def clock_place(text: str, field: str) -> float:
    """``7:30`` is 7.5; a plain number stays; per cent signs fall away."""
    hours, colon, minutes = text.partition(":")
    return plain_number(hours, field) + (plain_number(minutes, field) / 60 if colon and minutes else 0)


def points_of(text: str, field: str, is_clock: bool) -> list[tuple[float, float]]:
    """``15 = 15, 50 = 50``: panel value = what it means, from one end to the other; one alone is fixed."""
    points = []
    for part in _parts(text):
        place, equals, means = part.partition("=")
        points.append((clock_place(place, field), plain_number(means if equals else place, field)))
    if not points:
        raise BadInput.one(field, text, sentence("web.write_what_ends_mean"))
    # A clock that runs past twelve goes on counting.
    clocked = [points[0]]
    for panel, meaning in points[1:]:
        if panel < clocked[-1][0] and (is_clock or ":" in text):
            panel += 12 * math.ceil((clocked[-1][0] - panel) / 12)
        clocked.append((panel, meaning))
    return clocked


def clock_words(value: float) -> str:
    """7.5 is 7:30."""
    hours, minutes = divmod(round(value * 60), 60)
    return f"{hours}:{minutes:02d}"
