"""In which order a part is welded: sides, corners, stretches; where it stops and starts, how it is turned,
and how long a glove bears it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import NamedTuple

from anvilsong.core.arc.voltage import arc_voltage_v
from anvilsong.core.errors import BadInput
from anvilsong.core.model import Situation
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

STRETCH_MM, LEAST_STRETCHES = 100.0, 3
OVERLAP_PER_POOL, LEAST_OVERLAP_MM = 1.5, 8.0
LEAST_TURN_MM, MOST_TURN_MM = 3.0, 2000.0
ROOM_C, STOPPED_C = 20.0, 120.0
# A glove: what it stores a square metre and kelvin, what it may rise by, how far it is from the arc.
GLOVE_J_M2_K, GLOVE_RISE_K, GLOVE_AWAY_M = 900.0, 30.0, 0.11
RADIATED_SHARE, IN_THE_CUPS_SHADE, TAKEN_UP = 0.08, 0.35, 0.8


class Stretch(NamedTuple):
    """A piece of the seam, welded from one place to the other, mm."""

    from_mm: float
    to_mm: float


class TieIn(NamedTuple):
    """How a stopped run is taken up again: overlap, mm, and the amps on a cold part and on one of 120 °C."""

    overlap_mm: float
    cold_a: float
    warm_a: float


class Turning(NamedTuple):
    """A part turned under a torch that stands still: turns a minute, seconds a turn, and seconds with the
    overlap.
    """

    diameter_mm: float
    rpm: float
    turn_s: float
    whole_s: float


class GloveHeat(NamedTuple):
    """How long a thin glove on the torch bears it, s, how far that goes, mm, and how many rests the weld
    wants.
    """

    seconds: float
    length_mm: float
    rests: int


def stretches(length_mm: float) -> list[Stretch]:
    """A long seam in back-steps of about 100 mm, from the middle out, each welded back towards the middle's
    side; one piece where it is short.

    >>> stretches(400.0)[:2]
    [Stretch(from_mm=200.0, to_mm=100.0), Stretch(from_mm=200.0, to_mm=300.0)]
    """
    count = round(length_mm / STRETCH_MM)
    if count < LEAST_STRETCHES:
        return [Stretch(0.0, length_mm)]
    count += count % 2
    piece, middle = length_mm / count, length_mm / 2
    found = []
    for step in range(count // 2):
        near, far = middle - step * piece, middle - (step + 1) * piece
        # The first two run away from the middle; the others run back into what is welded.
        left = Stretch(near, far) if step == 0 else Stretch(far, near)
        found += [left, Stretch(length_mm - left.from_mm, length_mm - left.to_mm)]
    return found


def sides(at: Situation) -> list[Words]:
    """Which side, corner or quarter comes first, by the kind of joint."""
    joint = at.joint
    if joint.tube:
        return [sentence("prep.order_tube"), sentence("prep.order_tube_turned")]
    if joint.kind == "corner":
        return [sentence("prep.order_corners"), sentence("prep.order_corner_ends")]
    if joint.kind == "fillet":
        return [sentence("prep.order_fillet"), sentence("prep.order_fillet_fixture")]
    if joint.kind == "butt":
        both = sentence("prep.order_butt_sides") if at.job.thin_mm > 4 else sentence("prep.order_butt")
        return [both, sentence("prep.order_clamps")]
    return [sentence("prep.order_clamps")]


def tie_in(pool_mm: float, warmth: Sequence[tuple[float, float]], cold_a: float) -> TieIn:
    """How a run is taken up again.

    Parameters
    ----------
    warmth : part temperatures, °C, and the amps that make the same pool, rising in temperature
    """
    overlap = max(LEAST_OVERLAP_MM, OVERLAP_PER_POOL * pool_mm)
    if not warmth:
        return TieIn(overlap, cold_a, cold_a)
    temperatures, amps = zip(*sorted(warmth), strict=True)
    place = max((n for n, each in enumerate(temperatures) if each <= STOPPED_C), default=0)
    if place + 1 < len(temperatures) and temperatures[place] < STOPPED_C:
        share = (STOPPED_C - temperatures[place]) / (temperatures[place + 1] - temperatures[place])
        warm = amps[place] + share * (amps[place + 1] - amps[place])
    else:
        warm = amps[place]
    return TieIn(overlap, cold_a, warm)


def turning(diameter_mm: float, settings: Settings, overlap_mm: float) -> Turning:
    """A turntable or a tube on rollers: rpm = 60·v/(π·D).

    Raises
    ------
    BadInput : a diameter that nobody turns
    """
    if not LEAST_TURN_MM <= diameter_mm <= MOST_TURN_MM:
        allowed = sentence("prep.turned_diameter", least_mm=LEAST_TURN_MM, most_mm=MOST_TURN_MM)
        raise BadInput.one("diameter", f"{diameter_mm:g} mm", allowed)
    way, speed = math.pi * diameter_mm, settings.travel_mm_s
    return Turning(diameter_mm, 60 * speed / way, way / speed, (way + overlap_mm) / speed)


def glove_heat(at: Situation, settings: Settings, rms_a: float) -> GloveHeat:
    """How long a thin glove on the torch bears the arc, before it is hot: a rough figure.

    A twelfth of the arc's power, U·I (`arc.voltage`), is light and warmth into the
    half space; at 110 mm, a third of it past the cup, a glove of 900 J/(m²·K) rises by 30 K.
    """
    volts = float(arc_voltage_v(rms_a, at.job.arc_length_mm))
    falls = RADIATED_SHARE * volts * rms_a / (2 * math.pi * GLOVE_AWAY_M**2)
    seconds = GLOVE_J_M2_K * GLOVE_RISE_K / (falls * IN_THE_CUPS_SHADE * TAKEN_UP)
    reach = seconds * settings.travel_mm_s
    rests = max(0, math.ceil(at.job.weld_length_mm / reach) - 1)
    return GloveHeat(seconds, reach, rests)
