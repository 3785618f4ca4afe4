"""The current over two cycles: ember below the zero line heats the work, frost above it cleans. Handles lie
on the drawing.
"""

from __future__ import annotations

import numpy as np

from anvilsong.core.arc.sampling import current_a, unit_half, whole_period_s
from anvilsong.core.arc.waveform import Shape
from anvilsong.core.machine import SHAPE_WORDS
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import NOTHING, Drawing, Drawn, Point, number

WIDTH, RIGHT_GAP, LEFT = 440.0, 8.0, 8.0
GRIP_AREA = 29  # a finger finds it where the drawing is as wide as a phone


def half_wave(shape: Shape, steps: int = 32) -> list[Point]:
    """A unit half from (0, 0) to (1, 0), with the upright edges of a square."""
    if shape == "square":
        return [(0, 0), (0, 1), (1, 1), (1, 0)]
    x = np.linspace(0, 1, steps + 1)
    return list(zip(x.tolist(), unit_half(shape, x).tolist(), strict=True))


def shape_drawing(shape: Shape) -> Drawn:
    """A shape by itself, for those who look for its sign on a panel: one cycle, cleaning above the line."""
    width, height, words = 120.0, 56.0, SHAPE_WORDS[shape]
    drawing = Drawing(
        width, height, words, sentence("web.one_cycle_shape", shape=words.lower()), "drawing shape-sign"
    )
    zero, half = height / 2, width / 2 - 8
    for start, up, css in ((8.0, -1, "frost-fill"), (8.0 + half, 1, "ember-fill")):
        drawing.polygon([(start + u * half, zero + up * h * 20) for u, h in half_wave(shape)], css)
    drawing.line((4, zero), (width - 4, zero), "axis")
    return drawing.render()


class _Frame:
    """Where zero lies, and how many units an ampere and a second take."""

    def __init__(self, settings: Settings, ghost: Settings | None, width: float, height: float) -> None:
        shown = [settings] + ([ghost] if ghost else [])
        self.top, self.bottom, self.left, self.right = 34.0, height - 34.0, LEFT, width - RIGHT_GAP
        above = max(s.amps_set * (1 + s.ep_trim) for s in shown)
        below = max(s.amps_set for s in shown)
        self.scale = (self.bottom - self.top) / (above + below)
        self.zero = self.top + above * self.scale
        self.cycle = (self.right - self.left) / 2
        self.per_s = self.cycle * settings.frequency_hz

    def at(self, time_s: float, amps: float) -> Point:
        return self.left + time_s * self.per_s, self.zero - amps * self.scale


def _halves(settings: Settings, frame: _Frame, until_s: float) -> list[tuple[list[Point], str]]:
    """Every half of the AC wave until a time, as outlines with their colours."""
    found, start, period = [], 0.0, 1 / settings.frequency_hz
    ep, en = settings.amps_set * (1 + settings.ep_trim), -settings.amps_set
    while start < until_s - 1e-9:
        turn = start + settings.ep_share * period
        for shape, begin, end, amps, css in (
            (settings.shape_ep, start, turn, ep, "frost-fill"),
            (settings.shape_en, turn, start + period, en, "ember-fill"),
        ):
            path = [
                frame.at(min(begin + u * (end - begin), until_s), height * amps)
                for u, height in half_wave(shape)
            ]
            if begin < until_s - 0.01 * period:
                found.append((path, css))
        start += period
    return found


def wave_drawing(
    settings: Settings, ghost: Settings | None = None, large: bool = False, handles: bool = True
) -> Drawn:
    """Two cycles at full press, to scale in time and amps; a second setting as a dashed ghost on the same
    scales.
    """
    width, height = (900.0, 330.0) if large else (WIDTH, 190.0)
    share, amps, ep = settings.ep_share, settings.amps_set, settings.amps_set * (1 + settings.ep_trim)
    words = sentence(
        "web.electrode_positive_each_cycle",
        ep=ep,
        share=share * 100,
        amps=amps,
        frequency_hz=settings.frequency_hz,
    )
    drawing = Drawing(
        width, height, "The wave, two cycles", words, "drawing wave large" if large else "drawing wave"
    )
    frame = _Frame(settings, ghost, width, height)
    until = 2 / settings.frequency_hz
    for path, css in _halves(settings, frame, until):
        drawing.polygon(path, css)
        drawing.polyline(path, "wave-line")
    if ghost:
        for path, _ in _halves(ghost, frame, until):
            drawing.polyline(path, "wave-ghost")
    drawing.line((frame.left - 6, frame.zero), (frame.right + 6, frame.zero), "zero-line")
    drawing.text(
        (frame.left, frame.top - 17), f"{ep:.0f} A cleans, {share * 100:.0f} % of the time", "label frost-ink"
    )
    drawing.text((frame.right, height - 4), f"{amps:.0f} A heats the work", "label ember-ink", "end")
    drawing.text(
        (frame.right, frame.top - 17), f"{1000 / settings.frequency_hz:.1f} ms a cycle", "label", "end"
    )
    if handles:
        _handles(drawing, settings, frame)
    if handles:
        drawing.role = "group"  # what can be taken hold of must not lie inside a picture
    drawing.data = {"cycle": number(frame.cycle), "scale": f"{frame.scale:.4f}"}
    return drawing.render()


def _handles(drawing: Drawing, settings: Settings, frame: _Frame) -> None:
    """Grips for share, frequency and both amplitudes; dragging or arrow keys move the lane of the same name."""
    period, ep = 1 / settings.frequency_hz, settings.amps_set * (1 + settings.ep_trim)
    turn = settings.ep_share * period
    spots = (
        ("ep_trim", "EP amps", (turn / 2, ep), ep, "A"),
        ("ep_share", "AC balance", (turn, 0.0), settings.ep_share * 100, "% EP"),
        (
            "amps_set",
            "EN amps",
            (turn + (period - turn) / 2, -settings.amps_set),
            settings.amps_set,
            "A",
        ),
        ("frequency_hz", "Frequency", (period, 0.0), settings.frequency_hz, "Hz"),
    )
    for key, words, (time, amps), value, unit in spots:
        x, y = frame.at(time, amps)
        drawing.add(
            f'<g class="handle" data-handle="{key}" tabindex="0" role="slider" aria-label="{words}" '
            f'aria-valuenow="{value:.0f}" aria-valuetext="{value:.0f} {unit}" '
            f'transform="translate({number(x)} {number(y)})">'
            f'<circle class="grip-area" r="{GRIP_AREA}"/><circle class="grip" r="9"/></g>'
        )


def overview_drawing(settings: Settings) -> Drawn:
    """The strip of pulse or mix: two of its cycles, the AC as a filled band; empty when there is neither."""
    if settings.pulse is None and settings.mix is None:
        return NOTHING
    wave = settings.wave(settings.amps_set)
    period = whole_period_s(wave)
    drawing = Drawing(
        WIDTH, 92.0, "Pulse" if settings.pulse else "Mix", f"Two cycles of {period:.2f} s", "drawing overview"
    )
    time = np.linspace(0, 2 * period, 2400, endpoint=False)
    current = current_a(wave, time)
    ep_peak, en_peak = max(current.max(), 1.0), max(-current.min(), 1.0)
    scale, zero = 60.0 / (ep_peak + en_peak), 8 + 60.0 * ep_peak / (ep_peak + en_peak)
    # Each column of the strip shows the span of the current inside it.
    for column in range(240):
        part = current[column * 10 : column * 10 + 10]
        x = LEFT + column * (WIDTH - 2 * LEFT) / 240
        if part.max() > 0:
            drawing.rect(x, zero - part.max() * scale, 1.9, part.max() * scale, "frost-strip")
        if part.min() < 0:
            drawing.rect(x, zero, 1.9, -part.min() * scale, "ember-strip")
    drawing.line((LEFT, zero), (WIDTH - LEFT, zero), "zero-line")
    words = (
        f"{settings.pulse.rate_hz:.1f} pulses a second"
        if settings.pulse
        else f"{settings.mix.ac_share * 100:.0f} % AC in {settings.mix.cycle_s:.2f} s"
        if settings.mix
        else ""
    )
    drawing.text((LEFT, 88), words, "label")
    return drawing.render()
