"""The torch: the tungsten's load and states, its assembly, and the cup in the corner."""

from __future__ import annotations

import math

from anvilsong.core import say
from anvilsong.core.settings import Tungsten
from anvilsong.core.torch.cup import WALL_MM, bore_mm, stick_out_needed_mm
from anvilsong.core.torch.tungsten import (
    LOAD_AT_RUN,
    LOAD_BALLS,
    LOAD_MELTS,
    LOAD_WANDERS,
    STATE_WORDS,
    State,
    load_state,
)
from anvilsong.core.words import sentence
from anvilsong.web.drawings.section import tungsten_markup
from anvilsong.web.drawings.svg import Drawing, Drawn, number

STATES: tuple[State, ...] = ("wanders", "good", "rounds", "balls", "melts")
FULL_SCALE = 1.4


def load_drawing(tungsten: Tungsten, en: float, ep: float, load_set: float) -> Drawn:
    """The load as one bar in two parts, EN then EP, on a scale with the states' limits, and the tip under
    each state.
    """
    width, height, left, right = 640.0, 210.0, 10.0, 630.0
    state = load_state(en + ep)
    drawing = Drawing(
        width,
        height,
        "Load of the tungsten",
        sentence("web.from_en_from_ep", en=en, ep=ep, state_words=STATE_WORDS[state]),
        "drawing load",
    )

    def x(load: float) -> float:
        return left + min(load, FULL_SCALE) / FULL_SCALE * (right - left)

    for place, (low, high) in enumerate(
        (
            (0, LOAD_WANDERS),
            (LOAD_WANDERS, LOAD_AT_RUN),
            (LOAD_AT_RUN, LOAD_BALLS),
            (LOAD_BALLS, LOAD_MELTS),
            (LOAD_MELTS, FULL_SCALE),
        )
    ):
        css = f"band {STATES[place]}" + (" now" if STATES[place] == state else "")
        drawing.rect(x(low), 44, x(high) - x(low), 46, css)
        middle = (x(low) + x(high)) / 2
        _tip(drawing, middle, tungsten, STATES[place], STATES[place] == state)
        if low:
            drawing.text((x(low), 38), f"{low * 100:.0f} %", "label", "middle")
    drawing.rect(left, 54, x(en) - left, 26, "part-en")
    drawing.rect(x(en), 54, x(en + ep) - x(en), 26, "part-ep")
    drawing.line((x(load_set), 40), (x(load_set), 94), "load-set")
    drawing.text((left, 12), f"EN {en * 100:.0f} %", "label ember-ink")
    drawing.text((left + 104, 12), f"EP {ep * 100:.0f} %", "label frost-ink")
    drawing.text((right, 12), f"dashed: full amps, {load_set * 100:.0f} %", "label", "end")
    return drawing.render()


def _tip(drawing: Drawing, middle: float, tungsten: Tungsten, state: State, now: bool) -> None:
    scale = min(9.0, 26.0 / tungsten.diameter_mm)
    radius = tungsten.diameter_mm / 2 * scale
    drawing.add(
        f'<g transform="translate({number(middle)} 178)" class="{"tip now" if now else "tip"}">{tungsten_markup(radius, 0, -72, tungsten, state)}</g>'
    )
    drawing.text(
        (middle, 202),
        {"wanders": "wanders", "good": "good", "rounds": "rounds", "balls": "balls", "melts": "melts"}[state],
        "label strong" if now else "label",
        "middle",
    )


def balls_drawing(tungsten: Tungsten, widths_mm: tuple[float, float, float]) -> Drawn:
    """A ball too small, as wanted, and too big, beside the tungsten's own thickness, to scale."""
    width, height = 460.0, 200.0
    least, wanted, most = widths_mm
    balls = ((least, "go on"), (wanted, "stop here"), (1.2 * most, "too big"))
    words = sentence("web.ball_between", least=least, most=most)
    drawing = Drawing(width, height, sentence("web.how_ball_looks"), words, "drawing load")
    scale = 46.0 / most
    radius = tungsten.diameter_mm / 2 * scale
    for place, (ball, said) in enumerate(balls):
        middle, half = 76.0 + 154 * place, ball / 2 * scale
        css = (
            "tungsten good" if said == "stop here" else "tungsten melts" if said == "too big" else "tungsten"
        )
        low = 136.0
        drawing.rect(middle - radius, 18, 2 * radius, low - half - 18, css)
        drawing.circle((middle, low - half), max(half, 1.0), css)
        drawing.text((middle, 160), said, "label strong" if said == "stop here" else "label", "middle")
        drawing.text((middle, 190), say.mm(ball), "label", "middle")
    return drawing.render()


def access_drawing(
    cup_number: int, stick_out_mm: float, reach_mm: float, access_deg: float, arc_mm: float
) -> Drawn:
    """Can this cup get into this corner: the cup's outline on the bisector, to scale, shoulder against the
    legs.
    """
    width, height = 220.0, 190.0
    half = math.radians(min(access_deg, 180) / 2)
    radius = bore_mm(cup_number) / 2 + WALL_MM
    needed = stick_out_needed_mm(cup_number, access_deg, arc_mm)
    fits = needed <= reach_mm
    words = sentence(
        "web.cup_needs_stick_out",
        cup_number=cup_number,
        needed=needed,
        reach_mm=reach_mm,
        fits="fits" if fits else sentence("web.too_big_for_corner"),
    )
    drawing = Drawing(
        width,
        height,
        sentence("web.can_cup_reach_into", cup_number=cup_number),
        words,
        "drawing access" + ("" if fits else " no-fit"),
    )
    face = arc_mm + stick_out_mm
    scale = min((height - 30) / (face + 1.1 * bore_mm(cup_number) + 2), (width / 2 - 8) / (radius * 1.35))
    origin_x, origin_y = width / 2, height - 22

    def at(x: float, y: float) -> tuple[float, float]:
        return origin_x + x * scale, origin_y - y * scale

    far = 60.0
    legs = [(-far * math.sin(half), far * math.cos(half)), (far * math.sin(half), far * math.cos(half))]
    drawing.polygon([at(0, 0), at(*legs[0]), at(-far, -far), at(far, -far), at(*legs[1])], "plate")
    top = face + 1.1 * bore_mm(cup_number)
    drawing.polygon([at(-radius, face), at(-radius, top), at(radius, top), at(radius, face)], "cup")
    drawing.line(at(0, top + 3), at(0, arc_mm), "stick")
    drawing.text((origin_x, height - 4), f"{cup_number}", "label strong", "middle")
    return drawing.render()


def assembly_drawing(lens: bool) -> Drawn:
    """The parts in the order they go together, from the back to the front."""
    width, height, middle = 640.0, 92.0, 34.0
    words = ["back cap", "collet", "tungsten", "gas lens" if lens else "collet body", "cup"]
    drawing = Drawing(width, height, "Order of assembly", ", then ".join(words), "drawing assembly")
    for place, name in enumerate(words):
        x = 64.0 + place * 128
        if name == "back cap":
            drawing.path(
                (
                    f"M {x - 34} {middle - 9} H {x + 22} V {middle + 9} H {x - 34} Q {x - 44} {middle} "
                    f"{x - 34} {middle - 9} Z"
                ),
                "part",
            )
        elif name == "collet":
            drawing.path(
                (
                    f"M {x - 34} {middle - 6} H {x + 26} L {x + 34} {middle - 3} V {middle + 3} L "
                    f"{x + 26} {middle + 6} H {x - 34} Z M {x - 6} {middle} H {x + 34}"
                ),
                "part",
            )
        elif name == "tungsten":
            drawing.path(
                (
                    f"M {x - 44} {middle - 3} H {x + 34} L {x + 46} {middle} L {x + 34} {middle + 3} H "
                    f"{x - 44} Z"
                ),
                "tungsten good",
            )
        elif name == "cup":
            drawing.path(
                (
                    f"M {x - 32} {middle - 16} H {x - 14} L {x + 34} {middle - 12} V {middle + 12} L "
                    f"{x - 14} {middle + 16} H {x - 32} Z"
                ),
                "cup",
            )
        else:
            wide = 17 if lens else 10
            drawing.path(
                (
                    f"M {x - 34} {middle - 7} H {x - 2} V {middle - wide} H {x + 26} V {middle + wide} "
                    f"H {x - 2} V {middle + 7} H {x - 34} Z"
                ),
                "part",
            )
            if lens:
                for mesh in (6, 12, 18):
                    drawing.line((x + mesh, middle - wide), (x + mesh, middle + wide), "leader")
        drawing.text((x, 80), f"{place + 1} {name}", "label", "middle")
    return drawing.render()
