"""Panels: what one and the same setting is called and shown on different machines, and which amps keep the
heat when the wave changes. Questions whose answer is a figure.
"""

from __future__ import annotations

import random
import re
from collections.abc import Sequence
from typing import Any, NamedTuple

from anvilsong.core import say
from anvilsong.core.arc.waveform import Shape
from anvilsong.core.errors import BadInput
from anvilsong.core.machine import SHAPE_WORDS, Machine, show_on_panel, within_machine
from anvilsong.core.model import with_equal_heat
from anvilsong.core.registry import BY_KEY, get_value, with_value
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.units import Dimension
from anvilsong.core.words import sentence

TO_PANEL, FROM_PANEL, EQUAL_HEAT = "to_panel", "from_panel", "equal_heat"
# What is asked of a panel: settings by their keys, and how a canonical value is typed.
TYPED: dict[str, tuple[float, float]] = {
    "ep_share": (100.0, 0.0),
    "ep_trim": (100.0, 100.0),
    "pulse_base_share": (100.0, 0.0),
}  # factor and what is added, so that an EP amplitude is told in per cent of EN
ITEMS = (
    *(f"{TO_PANEL} {key}" for key in (*TYPED, "amps_set")),
    *(f"{FROM_PANEL} {key}" for key in TYPED),
    EQUAL_HEAT,
)
WAVES: tuple[tuple[Shape, Shape], ...] = (("square", "triangle"), ("triangle", "square"), ("square", "sine"))
NEAR_SPAN, NEAR_AMPS, NEAR_HEAT = 0.03, 0.03, 0.06  # of a scale's span; of the amps
TRIMS = (-0.3, -0.2, 0.0, 0.2)
_CLOCK = re.compile(r"^(\d{1,2})[:.h](\d{2})$")


class PanelQuestion(NamedTuple):
    """What is asked, the figure that answers it, how far off still counts, and how it reads when told."""

    item: str
    asked: Words
    unit: str
    right: float
    near: float
    shown: Words
    dimension: Dimension | None = None
    """Of an answer that is typed with a unit; None for a plain figure."""


def panel_question(machines: Sequence[Machine], settings: Settings, item: str, seed: int) -> PanelQuestion:
    """A question of an item, the same one for the same seed and machines.

    Raises
    ------
    BadInput : no such item, or none of the machines can be asked about it
    """
    chance = random.Random(f"{item} {seed}")
    if item not in ITEMS:
        raise BadInput.one("item", item[:60], sentence("practice.choose_panel_item"))
    if item == EQUAL_HEAT:
        return _equal_heat(settings, chance)
    way, _, key = item.partition(" ")
    fitting = [machine for machine in machines if _has_scale(machine, key)]
    if not fitting:
        raise BadInput.one("item", item, sentence("practice.no_such_panel"))
    machine = chance.choice(sorted(fitting, key=lambda each: each.name))
    return (
        _amps(machine, settings, chance) if key == "amps_set" else _scale(machine, settings, key, way, chance)
    )


def _has_scale(machine: Machine, key: str) -> bool:
    control = machine.control(key)
    return control is not None and not control.scale.names and len(control.scale.points) > 1


def _scale(machine: Machine, settings: Settings, key: str, way: str, chance: random.Random) -> PanelQuestion:
    """From the canonical figure to the panel's, or back."""
    control = machine.control(key)
    assert control is not None
    points, entry = control.scale.points, BY_KEY[key]
    meanings = [meaning for _, meaning in points] if control.basis == "value" else [entry.low, entry.high]
    low, high = max(min(meanings), entry.low), min(max(meanings), entry.high)
    for _ in range(20):  # a place that the panel can show, and that is none of its ends
        wanted = round(low + (high - low) * chance.uniform(0.1, 0.9), 2)
        line = next(
            each
            for each in show_on_panel(with_value(settings, key, wanted), machine).lines
            if each.setting == key
        )
        if line.value is not None and not line.clipped and isinstance(line.canonical, float):
            break
    else:
        raise BadInput.one("item", key, sentence("practice.no_such_panel"))
    factor, more = TYPED[key]
    counted: Words = ""
    if control.basis != "value":  # a figure in amps hangs on the amps of the EN half
        counted = sentence("practice.at_amps", amps=settings.amps_set)
    value = say.setting(line.canonical, entry.dimension, entry.decimals) if entry.dimension else ""
    shown = f"{line.shown} {line.unit}".strip()
    span = abs(points[-1][0] - points[0][0])
    if way == TO_PANEL:
        asked = sentence(
            "practice.ask_to_panel",
            counted=counted,
            setting=entry.words,
            value=value,
            label=control.label,
            machine=machine.name,
        )
        return PanelQuestion(
            f"{way} {key}", asked, line.unit, line.value, max(NEAR_SPAN * span, control.scale.step / 2), shown
        )
    asked = sentence(
        "practice.ask_from_panel",
        counted=counted,
        setting=entry.words,
        label=control.label,
        machine=machine.name,
        shown=shown,
    )
    right = line.canonical * factor + more
    near = max(NEAR_SPAN * abs(high - low) * factor, 1.0)
    return PanelQuestion(f"{way} {key}", asked, "%", right, near, say.in_units(value))


def _amps(machine: Machine, settings: Settings, chance: random.Random) -> PanelQuestion:
    """What a panel that counts amps its own way shows, for a plain wave of the machine's."""
    plain = settings.model_copy(
        update={"pulse": None, "mix": None, "shape_en": "square", "shape_ep": "square"}
    )
    amps = float(chance.randrange(6, 15) * 10)
    so = with_value(with_value(plain, "ep_trim", chance.choice(TRIMS)), "amps_set", amps)
    so = within_machine(so, machine)
    line = next(each for each in show_on_panel(so, machine).lines if each.setting == "amps_set")
    if line.value is None or line.unit != "A":
        raise BadInput.one("item", "amps_set", sentence("practice.no_such_panel"))
    asked = sentence(
        "practice.ask_amps",
        amps=so.amps_set,
        wave=SHAPE_WORDS[so.shape_en].lower(),
        amplitude=say.setting(so.ep_trim, "amplitude", 0),
        share=so.ep_share,
        label=line.label,
        machine=machine.name,
    )
    return PanelQuestion(
        f"{TO_PANEL} amps_set", asked, "A", line.value, NEAR_AMPS * line.value, f"{line.shown} A"
    )


def _equal_heat(settings: Settings, chance: random.Random) -> PanelQuestion:
    """Another wave with the heat of the one before."""
    was, then = chance.choice(WAVES)
    amps = float(chance.randrange(6, 20) * 10)
    plain: dict[str, Any] = {"pulse": None, "mix": None, "amps_run": amps, "amps_set": amps}
    before = settings.model_copy(update=plain | {"shape_en": was, "shape_ep": was})
    after = before.model_copy(update={"shape_en": then, "shape_ep": then})
    right = float(get_value(with_equal_heat(before, after), "amps_run"))
    asked = sentence(
        "practice.ask_heat", was=SHAPE_WORDS[was].lower(), amps=amps, then=SHAPE_WORDS[then].lower()
    )
    return PanelQuestion(EQUAL_HEAT, asked, "A", right, NEAR_HEAT * right, f"{right:.0f} A")


def read_figure(text: str) -> float:
    """A figure as somebody types it: with a unit behind it, a sign, a decimal comma, or an hour of a clock.

    >>> read_figure("−2,5"), read_figure("70 % neg"), read_figure("12:30 o’clock"), read_figure("+3")
    (-2.5, 70.0, 12.5, 3.0)

    Raises
    ------
    BadInput : it begins with no figure
    """
    head = text.strip()[:40].replace("−", "-").replace(",", ".").split(" ")[0].rstrip("%A")
    clock = _CLOCK.match(head) if ":" in head or "h" in head else None
    try:
        found = int(clock[1]) + int(clock[2]) / 60 if clock else float(head)
    except ValueError:
        found = float("nan")
    if not abs(found) < 1e6:
        raise BadInput.one("answer", text.strip()[:40] or None, sentence("practice.type_figure"))
    return found


def is_right(question: PanelQuestion, given: float) -> bool:
    """Whether an answer is near enough; hours of a clock count round it."""
    if abs(given - question.right) <= question.near + 1e-9:
        return True
    shown = question.shown
    by_clock = isinstance(shown, str) and "o’clock" in shown
    return by_clock and abs((given - question.right + 6) % 12 - 6) <= question.near + 1e-9
