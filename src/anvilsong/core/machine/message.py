"""Settings out of a message, in the words of the panel they were read from: each label and the figure or
word behind it. What is not understood is told, and nothing is put in its place.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass

from anvilsong.core.machine.model import Control, Machine

# Between a label and its figure a few plain words may stand: "balance is set to 30", "balance at 30".
_JOINS = r"(?:\s|[:=]|\b(?:is|at|to|on|set)\b)*"
_SIGN = r"(?P<sign>minus\b|plus\b|[+\-−–—])?"
_FIGURE = re.compile(rf"{_JOINS}{_SIGN}\s*(?P<figure>\d+(?:[.,:]\d+)?)", re.IGNORECASE)
_TELLS = re.compile(r"\d|\b(?:on|off)\b", re.IGNORECASE)


@dataclass(frozen=True)
class Message:
    """What was understood, by setting, as the panel writes it; pieces that were not; labels not named."""

    found: dict[str, str]
    unread: tuple[str, ...]
    unsaid: tuple[str, ...]


def read_message(text: str, machine: Machine) -> Message:
    """Settings of a machine's panel out of plain text.

    Labels are looked for longest first, each piece of the text belongs to one, and a dash before a figure is
    a minus where the panel goes below zero and a dash where it does not.
    """
    places = sorted(_labels(text, machine), key=lambda place: place[0])
    found: dict[str, str] = {}
    unread = [text[: places[0][0] if places else len(text)]]
    for number, (_, end, control) in enumerate(places):
        until = places[number + 1][0] if number + 1 < len(places) else len(text)
        said, rest = _value(text[end:until], control)
        if said is not None and control.setting not in found:
            found[control.setting] = said
            unread.append(rest)
        else:
            unread.append(f"{control.label}{text[end:until]}")
    pieces = (" ".join(piece.split()).strip(" ,;.") for line in unread for piece in re.split(r"[\n;]", line))
    told = tuple(piece for piece in pieces if _TELLS.search(piece))
    unsaid = tuple(control.label for control in machine.controls if control.setting not in found)
    return Message(found, told, unsaid)


def _labels(text: str, machine: Machine) -> Iterator[tuple[int, int, Control]]:
    """Where labels stand, none within another."""
    taken = [False] * len(text)
    for control in sorted(machine.controls, key=lambda control: -len(control.label)):
        words = r"\s+".join(map(re.escape, control.label.split()))
        for place in re.finditer(rf"(?<!\w){words}(?!\w)", text, re.IGNORECASE):
            if not any(taken[place.start() : place.end()]):
                taken[place.start() : place.end()] = [True] * (place.end() - place.start())
                yield place.start(), place.end(), control


def _value(text: str, control: Control) -> tuple[str | None, str]:
    """The value behind a label as the panel writes it, and what stands behind that; None where there is
    none.
    """
    names = sorted(control.scale.names, key=len, reverse=True) or ["off"]
    words = "|".join(map(re.escape, names))
    if word := re.match(rf"{_JOINS}({words})(?!\w)", text, re.IGNORECASE):
        return next(name for name in names if name.lower() == word[1].lower()), text[word.end() :]
    number = _FIGURE.match(text)
    if number is None or control.scale.names:
        return None, text
    below_zero = control.scale.points[0][0] < 0
    sign = "-" if below_zero and number["sign"] and number["sign"].lower() not in ("+", "plus") else ""
    return sign + number["figure"].replace(",", "."), text[number.end() :]
