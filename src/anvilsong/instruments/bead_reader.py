"""A bead measured on a picture: width, border to either side, ripples, and how sure each is."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.words import sentence
from anvilsong.instruments.bead_values import BeadOnPicture, Edges, Measure
from anvilsong.instruments.edges import Edge, edges_of
from anvilsong.instruments.marks import Marks
from anvilsong.instruments.profiles import Profiles, profiles_of
from anvilsong.instruments.ripples import ripples_of
from anvilsong.instruments.sections import OTHERWISE, USUAL, Way, sections_of
from anvilsong.instruments.strip import Floats, Strip, unroll
from anvilsong.instruments.sureness import MOST_UNSTEADY, signs_of, sureness, unsteadiness

LEAST_SURE = 0.87
SURE_ENOUGH = 0.95  # not to look another way
LEAST_WIDTH_MM = 0.1  # less than this apart two edges are one
NO_EDGE = sentence("instruments.edge_does_not_stand")
NO_RIPPLES = sentence("instruments.no_even_spacing_ripples")


@dataclass(frozen=True)
class _Found:
    """The edges that one way of looking finds, and how sure the left-hand and right-hand borders are."""

    edges: tuple[Edge, Edge, Edge, Edge]
    sure: tuple[float, float]


def read_bead(pixels: NDArray[np.uint8], marks: Marks) -> BeadOnPicture:
    """Measure a bead on a picture.

    Parameters
    ----------
    pixels : (rows, columns, 3), 0..255
    marks : known length, line of the bead, reach

    Notes
    -----
    Strip along the line → profiles by window → sections by change points → each edge to a fraction of a
    column → how sure each side is; where that is little it is looked at another way, and the surest is taken.
    Where nothing stands out every figure is None, and the edges are there to be dragged.
    """
    strip = unroll(grey_of(pixels), marks)
    profiles = profiles_of(strip)
    best = _looked(profiles, USUAL)
    if best is not None and min(best.sure) < SURE_ENOUGH:
        others = [found for way in OTHERWISE if (found := _looked(profiles, way)) is not None]
        best = max([best, *others], key=lambda found: (min(found.sure), max(found.sure)))
    return _measured(strip, marks, _guessed(strip, marks) if best is None else _traced(profiles, best))


def by_hand(pixels: NDArray[np.uint8], marks: Marks, edges: Edges) -> BeadOnPicture:
    """The same figures between edges that somebody has set."""
    return _measured(unroll(grey_of(pixels), marks), marks, edges)


def grey_of(pixels: NDArray[np.uint8]) -> Floats:
    """Brightness 0..1 of a picture (rows, columns, 3)."""
    return np.asarray(np.asarray(pixels, dtype=np.float32).mean(axis=2) / np.float32(255))


def _looked(profiles: Profiles, way: Way) -> _Found | None:
    sections = sections_of(profiles, way)
    if sections is None:
        return None
    edges = edges_of(profiles, sections)
    left, right = (sureness(signs) for signs in signs_of(profiles, sections, edges))
    if max(left, right) > 0 and unsteadiness(profiles, edges) > MOST_UNSTEADY:
        left = right = 0.0
    return _Found(edges, (left, right))


def _traced(profiles: Profiles, found: _Found) -> Edges:
    left, right = found.sure
    return Edges(
        along_mm=[float(s) for s in profiles.s_mm],
        across_mm=[trace(edge, profiles) for edge in found.edges],
        sureness=[left, left, right, right],
    )


def _guessed(strip: Strip, marks: Marks) -> Edges:
    """Edges to be dragged, where nothing was found: none is sure."""
    along = [float(s) for s in np.linspace(strip.s_mm[0], strip.s_mm[-1], 9)]
    across = [[share * marks.reach_mm] * len(along) for share in (-0.6, -0.4, 0.4, 0.6)]
    return Edges(along_mm=along, across_mm=across, sureness=[0.0] * 4)


def trace(edge: Edge, profiles: Profiles) -> list[float]:
    """An edge beside the drawn line, window by window; what lies far from the rest is put on their line."""
    places, shift = edge.by_window_mm, profiles.shift_mm
    seen = ~np.isnan(places)
    if np.sum(seen) < 4:
        return [float(edge.at_mm + one) for one in shift]
    off = np.abs(places - np.median(places[seen]))
    usual = max(1.48 * float(np.median(off[seen])), 0.05)
    kept = seen & (off <= 3.5 * usual)
    filled = np.where(kept, places, np.interp(profiles.s_mm, profiles.s_mm[kept], places[kept]))
    return [float(place + one) for place, one in zip(filled, shift, strict=True)]


def _measured(strip: Strip, marks: Marks, edges: Edges) -> BeadOnPicture:
    along, (outer_left, toe_left, toe_right, outer_right) = (
        np.array(edges.along_mm),
        np.array(edges.across_mm),
    )
    sure = [1.0 if hand else one for hand, one in zip(edges.by_hand, edges.sureness, strict=True)]
    for side, apart in (((0, 1), toe_left - outer_left), ((2, 3), outer_right - toe_right)):
        if np.mean(apart) < LEAST_WIDTH_MM and not all(edges.by_hand[k] for k in side):
            sure = [0.0 if k in side else one for k, one in enumerate(sure)]  # its two edges are one
    ripples = ripples_of(strip, *(np.interp(strip.s_mm, along, toe) for toe in (toe_left, toe_right)))
    width = _width(toe_right - toe_left, min(sure[1:3]))
    # Where no bead stands out, what is even there is no ripple.
    pitch = None if width.value_mm is None else ripples.pitch_mm
    return BeadOnPicture(
        bead_width=width,
        border_left=_width(toe_left - outer_left, min(sure[:2]), _unstraightness(along, outer_left)),
        border_right=_width(outer_right - toe_right, min(sure[2:]), _unstraightness(along, outer_right)),
        ripple_pitch=Measure(
            value_mm=None if pitch is None else round(pitch, 3),
            spread_mm=round(ripples.spread_mm, 3),
            sureness=float(np.clip(ripples.alike, 0, 1)),
            why=NO_RIPPLES if pitch is None else "",
        ),
        edges=edges,
        marks=marks,
    )


def _width(apart: Floats, sure: float, straightness_mm: float | None = None) -> Measure:
    mean = float(np.mean(apart))
    told = sure >= LEAST_SURE and mean >= 0
    return Measure(
        value_mm=round(mean, 3) if told else None,
        spread_mm=round(float(np.std(apart)), 3),
        straightness_mm=straightness_mm,
        sureness=round(sure, 3),
        why="" if told else NO_EDGE,
    )


def _unstraightness(along: Floats, places: Floats) -> float:
    """How far an edge strays from its own straight line, one standard deviation."""
    return round(float(np.std(places - np.polyval(np.polyfit(along, places, 1), along))), 3)
