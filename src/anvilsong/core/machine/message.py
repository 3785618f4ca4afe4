"""Settings out of a message, in the words of the panel they were read from: each label and the figure or
word behind it, or, where a piece begins with a figure, each figure and the label or unit behind it ("140 amps
70 balance 90 Hz"). What is not understood is told, and nothing is put in its place.
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
# A comma parts pieces unless it is a decimal sign.
_PIECES = re.compile(r"([\n;]|,(?!\d))")
# What people write for a setting besides its label: only behind a figure, where nothing else can be meant.
PLAIN = {
    "amps_set": ("amperes", "amps", "amp", "a"),
    "ep_share": ("ac balance", "balance"),
    "frequency_hz": ("hertz", "hz"),
    "pulse_rate_hz": ("pps",),
}
_TELLS = re.compile(r"\d|\b(?:on|off)\b", re.IGNORECASE)


@dataclass(frozen=True)
class Understood:
    """What was understood, by setting, as the panel writes it; pieces that were not; labels not named."""

    found: dict[str, str]
    unread: tuple[str, ...]
    unsaid: tuple[str, ...]


def read_message(text: str, machine: Machine) -> Understood:
    """Settings of a machine's panel out of plain text.

    Labels are looked for longest first, each piece of the text belongs to one, and a dash before a figure is
    a minus where the panel goes below zero and a dash where it does not.
    """
    found: dict[str, str] = {}
    unread = list[str]()
    figures, behind = _figures(machine), ""
    # Labels that come first are read with all that follows, up to a piece of figures that come first.
    for piece in _PIECES.split(text):
        if figures and _has_figures_first(piece, figures) and not _ends_on_a_label(behind, machine):
            unread += _labels_first(behind, machine, found)
            unread += _figures_first(piece, figures, found)
            behind = ""
        else:
            behind += piece
    unread += _labels_first(behind, machine, found)
    pieces = (" ".join(piece.split()).strip(" ,;.") for line in unread for piece in re.split(r"[\n;]", line))
    told = tuple(piece for piece in pieces if _TELLS.search(piece))
    unsaid = tuple(control.label for control in machine.controls if control.setting not in found)
    return Understood(found, told, unsaid)


def _labels_first(text: str, machine: Machine, found: dict[str, str]) -> list[str]:
    """Put into ``found`` what stands behind the labels of a text; what was not understood."""
    places = sorted(_labels(text, machine), key=lambda place: place[0])
    unread = [text[: places[0][0] if places else len(text)]]
    for number, (_, end, control) in enumerate(places):
        until = places[number + 1][0] if number + 1 < len(places) else len(text)
        said, rest = _value(text[end:until], control)
        if said is not None and control.setting not in found:
            found[control.setting] = said
            unread.append(rest)
        else:
            unread.append(f"{control.label}{text[end:until]}")
    return unread


def _ends_on_a_label(text: str, machine: Machine) -> bool:
    """Whether a label waits for its figure: "Amps," and then 140."""
    places = list(_labels(text, machine))
    return bool(places) and not text[max(end for _, end, _ in places) :].strip(" ,:=")


@dataclass(frozen=True)
class _Figures:
    """What finds a figure with a label or plain word behind it, and whose each of these words is."""

    each: re.Pattern[str]
    owners: dict[str, Control]


def _figures(machine: Machine) -> _Figures | None:
    owners: dict[str, Control] = {}
    for control in machine.controls:
        if not control.scale.names:
            owners |= dict.fromkeys((*PLAIN.get(control.setting, ()), control.label.lower()), control)
    longest_first = sorted(owners, key=len, reverse=True)
    names = "|".join(r"\s+".join(map(re.escape, name.split())) for name in longest_first)
    each = re.compile(
        rf"(?<![\w.,]){_SIGN}\s*(?P<figure>\d+(?:[.,:]\d+)?)\s*(?:%\s*)?(?P<name>{names})(?!\w|\.\w)",
        re.IGNORECASE,
    )
    return _Figures(each, owners) if owners else None


def _has_figures_first(piece: str, figures: _Figures) -> bool:
    """Whether a piece begins with a figure and its word, and ends on no figure without one: in "1 amps 60
    balance 30" the labels come first, behind a number of the list.
    """
    if not figures.each.match(piece.lstrip()):
        return False
    return not re.search(r"\d\W*$", figures.each.sub("", piece))


def _figures_first(text: str, figures: _Figures, found: dict[str, str]) -> list[str]:
    """Put into ``found`` every figure with a word behind it; what was not understood."""
    unread, at = list[str](), 0
    for place in figures.each.finditer(text):
        control = figures.owners[" ".join(place["name"].lower().split())]
        if control.setting in found:
            continue
        found[control.setting] = _signed(place, control)
        unread.append(text[at : place.start()])
        at = place.end()
    return [*unread, text[at:]]


def _signed(place: re.Match[str], control: Control) -> str:
    """The figure as the panel writes it: a dash is a minus where the panel goes below zero."""
    below_zero = control.scale.points[0][0] < 0
    sign = "-" if below_zero and place["sign"] and place["sign"].lower() not in ("+", "plus") else ""
    return sign + place["figure"].replace(",", ".")


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
    return _signed(number, control), text[number.end() :]
