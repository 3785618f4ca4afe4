"""One control: from canonical value to the panel's figure and back."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from anvilsong.core.arc.waveform import SHAPES, Numbers, Shape, Wave, ac_means
from anvilsong.core.machine.model import Control, Scale
from anvilsong.core.monotone import Monotone
from anvilsong.core.registry import get_value
from anvilsong.core.roots import root
from anvilsong.core.settings import Settings

SHORTEST_S = 1e-3
SHAPE_WORDS: dict[Shape, str] = {
    "square": "Square",
    "soft": "Soft square",
    "trapezoid": "Trapezoid",
    "sine": "Sine",
    "triangle": "Triangle",
}


def to_panel_value(scale: Scale, canonical: float) -> tuple[float, bool]:
    """Panel value for a canonical one, rounded to the panel's step, and whether it had to be clipped."""
    panel, meaning = zip(*scale.points, strict=True)
    if scale.is_fixed:
        return float(panel[0]), not np.isclose(canonical, meaning[0])
    inside = _between(canonical, min(meaning), max(meaning))
    clipped = abs(inside - canonical) > past_end(scale)
    # Counted from the grid's own zero, so that a half rounds as it does wherever the figure is printed.
    grid = float(panel[0] % scale.step)
    steps = round((_exact(scale.points, inside) - grid) / scale.step)
    return _between(grid + steps * scale.step, panel[0], panel[-1]), clipped


def past_end(scale: Scale) -> float:
    """How far past an end of the scale a value still is the end, as printed: half a step there, and nothing
    where the places have names.
    """
    if scale.names:
        return 1e-9
    (first, least), (second, next_least) = scale.points[:2]
    (before, next_most), (last, most) = scale.points[-2:]
    slopes = (abs(next_least - least) / (second - first), abs(most - next_most) / (last - before))
    return 1e-9 + scale.step / 2 * min(slopes)


def to_canonical(scale: Scale, panel_value: float) -> float:
    """Canonical value of a panel value: straight between two points, PCHIP through more."""
    panel, meaning = zip(*scale.points, strict=True)
    if scale.is_fixed:
        return float(meaning[0])
    inside = _between(panel_value, panel[0], panel[-1])
    return float(np.interp(inside, panel, meaning)) if len(panel) == 2 else _curve(scale.points).one(inside)


Points = tuple[tuple[float, float], ...]


def _between(value: float, low: float, high: float) -> float:
    return float(min(max(value, low), high))


@lru_cache(maxsize=512)
def _curve(points: Points) -> Monotone:
    """The meaning along a scale of more than two points, kept: a machine's scales are asked at every
    what-if.
    """
    return Monotone(*zip(*points, strict=True))


def _exact(points: Points, canonical: float) -> float:
    """The panel value, not yet in steps, that means this: on the straight line, or where the curve passes
    it.
    """
    if len(points) == 2:
        (m0, p0), (m1, p1) = sorted((meaning, panel) for panel, meaning in points)
        return float(np.interp(canonical, (m0, m1), (p0, p1)))
    here = [panel for panel, meaning in points if meaning == canonical]
    if here:
        return here[0]
    curve = _curve(points)

    def miss(value: float) -> float:
        return curve.one(value) - canonical

    return root(miss, points[0][0], points[-1][0], near=1e-12)


def amps_on_basis(wave: Wave, basis: str) -> Numbers:
    """What a panel's ampere figure reads for this wave: peak of EN, middle of both peaks, or mean or rms of
    the AC cycle.
    """
    if basis == "both_halves":
        both: Numbers = (wave.amps + wave.ep_amps) / 2
        return both
    if basis in ("mean", "rms"):
        means = ac_means(wave)
        return means.both if basis == "mean" else means.rms
    return wave.amps


def figure_on_panel(settings: Settings, control: Control) -> float | None:
    """The number a control's scale speaks of, for these settings; None when its group is off."""
    value = get_value(settings, control.setting)
    if value is None:
        return None
    match control.setting, control.basis:
        case "amps_set", basis:
            return float(amps_on_basis(settings.wave(value), basis))
        case "ep_trim", "ep_amps":
            return settings.amps_set * (1 + float(value))
        case _, "share_of_set":
            return float(value) / settings.amps_set
        case _, "amps":
            return float(value) * settings.amps_set
        case _, "peak_s" | "base_s" if settings.pulse is not None:
            share = settings.pulse.peak_share
            return (share if control.basis == "peak_s" else 1 - share) / settings.pulse.rate_hz
        case _, "per_second":
            return 1 / float(value)
    return float(value)


def meaning_of(figure: float, control: Control, settings: Settings) -> float:
    """The canonical value of a control's number, given what has been read so far."""
    match control.setting, control.basis:
        case "amps_set", basis:
            return figure / (float(amps_on_basis(settings.wave(100.0), basis)) / 100.0)
        case "ep_trim", "ep_amps":
            return figure / settings.amps_set - 1
        case _, "share_of_set":
            return figure * settings.amps_set
        case _, "amps":
            return figure / settings.amps_set
        case _, "peak_s" if settings.pulse is not None:
            return figure * settings.pulse.rate_hz
        case _, "base_s" if settings.pulse is not None:
            return (1 - settings.pulse.peak_share) / max(figure, SHORTEST_S)
        case _, "per_second":
            return 1 / max(figure, SHORTEST_S)
    return figure


def shown_text(scale: Scale, value: float) -> str:
    """The panel's own way of showing a value."""
    if scale.names:
        return scale.names[round(value) % len(scale.names)]
    if scale.shown_as == "clock":
        hours, minutes = divmod(round(value * 60), 60)
        return f"{hours % 12 or 12}:{minutes:02d} o’clock"
    text = (
        f"{value:+.{scale.decimals}f}"
        if scale.signed and round(value, scale.decimals) != 0
        else f"{value:.{scale.decimals}f}"
    )
    return text.replace("-", "−")


def shape_places(control: Control) -> dict[Shape, int]:
    """Where each shape stands on a waveform control: the scale's points map places to places in
    ``SHAPES``.
    """
    return {SHAPES[int(meaning)]: int(panel) for panel, meaning in control.scale.points}
