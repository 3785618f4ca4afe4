"""How a panel counts its amps, found from traces: which of four figures goes with what it showed.

A panel's "100 A" may be the peak of the EN half, the middle of both peaks, the mean of |i| or the rms. Traces
at different shares, amplitudes and waves part them: the way that is right stands in one ratio to what was
shown every time, whatever that ratio is, so that a clamp whose factor is off does not hide it.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from anvilsong.core.flow.reading import TraceReading
from anvilsong.core.machine import BASES

WAYS = BASES["amps_set"]
LEAST_TRACES = 3
READ_TO = 0.004  # how steady panel and clamp are, from one trace to the next
ROUNDED_A = 0.29  # one spread of a figure that is shown in whole amps
FITS, WORSE = 9.0, 9.0  # χ² of the way that is told, a trace over one; and how much worse any other must be


class Shown(NamedTuple):
    """What the panel showed, A, and what flowed."""

    shown_a: float
    reading: TraceReading


class Way(NamedTuple):
    """One way of counting: what the panel showed for 1 A of it, and how badly the traces fit it (χ²)."""

    basis: str
    factor: float
    misfit: float


class Counted(NamedTuple):
    """Every way, the best first; ``told`` where no other fits the traces."""

    ways: tuple[Way, ...]
    told: str | None
    alike: tuple[str, ...]
    """The ways that fit as well as the best one."""


def how_counted(traces: Sequence[Shown]) -> Counted | None:
    """How the amps of a panel are counted; None from fewer traces than three that tell it.

    With r = ln(shown / figure) of each trace and its error s, a way's misfit is Σ((r − r̄)/s)², r̄ the
    weighted mean; its factor is exp(r̄).
    """
    told = [each for each in traces if each.shown_a > 0 and _figures(each.reading) is not None]
    if len(told) < LEAST_TRACES:
        return None
    ways = sorted((_way(basis, told) for basis in WAYS), key=lambda way: way.misfit)
    alike = tuple(way.basis for way in ways if way.misfit < ways[0].misfit + WORSE)
    fits = ways[0].misfit < FITS * (len(told) - 1)
    return Counted(tuple(ways), ways[0].basis if fits and len(alike) == 1 else None, alike)


def _figures(reading: TraceReading) -> list[float] | None:
    found = [reading.amps_counted(basis) for basis in WAYS]
    figures = [each.value for each in found if each is not None and each.value > 0]
    return figures if len(figures) == len(WAYS) else None


def _way(basis: str, traces: Sequence[Shown]) -> Way:
    place = WAYS.index(basis)
    ratios, errors = [], []
    for each in traces:
        figures, found = _figures(each.reading), each.reading.amps_counted(basis)
        assert figures is not None
        assert found is not None
        ratios.append(np.log(each.shown_a / figures[place]))
        errors.append(
            np.linalg.norm([READ_TO, 0.5 * found.half_range / found.value, ROUNDED_A / each.shown_a])
        )
    weights = 1 / np.array(errors) ** 2
    middle = float(np.average(ratios, weights=weights))
    return Way(basis, float(np.exp(middle)), float((weights * (np.array(ratios) - middle) ** 2).sum()))
