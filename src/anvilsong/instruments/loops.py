"""Lines joined end to end, as far as they close."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Corners = NDArray[np.float64]
Cell = tuple[int, int]


class Joined(NamedTuple):
    """Lines that close, the chains that do not, and how far apart ends lay that were joined to close."""

    closed: list[Corners]
    left: list[Corners]
    gaps: list[float]


def joined(lines: Sequence[Corners], within_mm: float, most: int) -> Joined:
    """Closed lines, at most so many, made of open ones whose ends lie within a distance of one another.

    Each line is gone through once, and ends are found by the square they lie in, so the work grows with the
    number of lines and no faster.
    """
    ends = _Ends(lines, within_mm)
    found = Joined([], [], [])
    for number in range(len(lines)):
        if len(found.closed) >= most:
            break
        if number in ends.left:
            chain, gaps = _chain(lines, ends, number)
            last = float(np.hypot(*(chain[0] - chain[-1])))
            if len(chain) > 3 and last < within_mm:
                found.closed.append(chain)
                found.gaps.extend([*gaps, last])
            else:
                found.left.append(chain)
    return found


def _chain(lines: Sequence[Corners], ends: _Ends, first: int) -> tuple[Corners, list[float]]:
    """From one line on to the next, until it comes back to its beginning or to an end; and the gaps."""
    ends.take(first)
    pieces, begin, tail = [lines[first]], lines[first][0], lines[first][-1]
    gaps: list[float] = []
    while np.hypot(*(begin - tail)) >= ends.within_mm and (step := ends.near(tail)) is not None:
        number, at_tail = step
        ends.take(number)
        line = lines[number][::-1] if at_tail else lines[number]
        gaps.append(float(np.hypot(*(line[0] - tail))))
        pieces.append(line[1:])
        tail = line[-1]
    return np.concatenate(pieces), gaps


class _Ends:
    """Both ends of every line that is left, by the square they lie in."""

    def __init__(self, lines: Sequence[Corners], within_mm: float) -> None:
        self.lines, self.within_mm = lines, within_mm
        self.left = set(range(len(lines)))
        self._squares: defaultdict[Cell, dict[tuple[int, bool], None]] = defaultdict(dict)
        for number, line in enumerate(lines):
            for at_tail in (False, True):
                self._squares[self._cell(line[-1 if at_tail else 0])][number, at_tail] = None

    def take(self, number: int) -> None:
        """A line that is used up."""
        self.left.discard(number)
        for at_tail in (False, True):
            place = self._cell(self.lines[number][-1 if at_tail else 0])
            self._squares[place].pop((number, at_tail), None)

    def near(self, place: Corners) -> tuple[int, bool] | None:
        """A line that has an end here, and whether that is its last corner."""
        return next(self._all_near(place), None)

    def _all_near(self, place: Corners) -> Iterator[tuple[int, bool]]:
        column, row = self._cell(place)
        for beside in ((0, 0), (1, 0), (-1, 0), (0, 1), (0, -1), (1, 1), (1, -1), (-1, 1), (-1, -1)):
            for number, at_tail in self._squares.get((column + beside[0], row + beside[1]), ()):
                end = self.lines[number][-1 if at_tail else 0]
                if np.hypot(*(end - place)) < self.within_mm:
                    yield number, at_tail

    def _cell(self, place: Corners) -> Cell:
        return int(place[0] // self.within_mm), int(place[1] // self.within_mm)
