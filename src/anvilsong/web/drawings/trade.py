"""Amps against travel that hold the same pool, with the speeds a hand holds shaded and the machine's end
drawn.
"""

from __future__ import annotations

from anvilsong.core import say
from anvilsong.core.machine import Machine
from anvilsong.core.model import Plan
from anvilsong.core.prep import COMFORT_MM_S
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.web.drawings.svg import NOTHING, Drawing, Drawn

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 380.0, 216.0, 46.0, 368.0, 26.0, 172.0
ROOM = 0.08  # of the range, above and below the curve
NEAR = 16.0  # two words nearer than this, one above the other, lie on one another


def trade_drawing(plan: Plan, machine: Machine) -> Drawn:
    """The curve; nothing where the plan has none."""
    pairs, settings = plan.travel_for_amps, plan.settings
    if settings is None or len(pairs) < 2:
        return NOTHING
    amps, speeds = [pair[0] for pair in pairs], [pair[1] for pair in pairs]
    least, most = min(*amps, settings.amps_run), max(*amps, settings.amps_run)
    room = ROOM * (most - least)
    least, most = least - room, most + room
    first, last = min(speeds), max(speeds)

    def at(amp: float, speed: float) -> tuple[float, float]:
        across = (speed - first) / (last - first)
        return LEFT + across * (RIGHT - LEFT), BOTTOM - (amp - least) / (most - least) * (BOTTOM - TOP)

    words = say.joined(*(say.joined(f"{amp:.0f} A at ", say.mm_s(speed)) for amp, speed in pairs), by=", ")
    drawing = Drawing(WIDTH, HEIGHT, sentence("web.amps_travel_same_pool"), words, "trade")
    shade = [min(max(speed, first), last) for speed in COMFORT_MM_S]
    left, right = (at(least, speed)[0] for speed in shade)
    drawing.rect(left, TOP, max(0.0, right - left), BOTTOM - TOP, "trade-hand")
    drawing.line((LEFT, BOTTOM), (RIGHT, BOTTOM), "trade-axis")
    drawing.line((LEFT, TOP), (LEFT, BOTTOM), "trade-axis")
    if least < machine.most_a < most:
        end = at(machine.most_a, first)[1]
        drawing.line((LEFT, end), (RIGHT, end), "trade-end")
        drawing.text((RIGHT, end - 5), f"{machine.name} ends, {machine.most_a:.0f} A", "label soft", "end")
    drawing.polyline([at(*pair) for pair in pairs], "trade-curve")
    here = at(settings.amps_run, min(max(settings.travel_mm_s, first), last))
    drawing.circle(here, 6, "trade-here")
    anchor = "start" if here[0] < (LEFT + RIGHT) / 2 else "end"
    drawing.text(
        (here[0] + (10 if anchor == "start" else -10), here[1] + (18 if anchor == "start" else -10)),
        f"{settings.amps_run:.0f} A",
        "label",
        anchor,
    )
    heights = [at(amp, first)[1] for amp in (amps[0], amps[-1])]
    for amp, y in zip((amps[0], amps[-1]), heights, strict=True):
        if y == heights[0] or abs(y - heights[0]) > NEAR:  # two that lie together are said by the first
            drawing.text((LEFT - 6, y + 5), f"{amp:.0f}", "label soft", "end")
    for speed, side in ((first, "start"), (last, "end")):
        drawing.text((at(least, speed)[0], BOTTOM + 18), say.mm_s(speed), "label soft", side)
    drawing.text(
        ((LEFT + RIGHT) / 2, BOTTOM + 36), sentence("web.travel_shaded_what_can"), "label soft", "middle"
    )
    drawing.text((LEFT, TOP - 9), "welding amps", "label soft")
    return drawing.render()


def warmth_words(plan: Plan) -> Words:
    """What a warmer part saves, in a line."""
    if plan.settings is None or len(plan.amps_for_warmth) < 2:
        return ""
    first, last = plan.amps_for_warmth[0], plan.amps_for_warmth[-1]
    middle = plan.amps_for_warmth[len(plan.amps_for_warmth) // 2]
    steps = [first, middle, last] if middle not in (first, last) else [first, last]
    said = say.joined(*(say.joined(f"{amps:.0f} A at ", say.celsius(warm)) for warm, amps in steps), by=", ")
    return sentence("web.warmer_parts_want_less", said=said)
