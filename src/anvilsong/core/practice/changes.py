"""What changes? One setting of a job is turned, or two; the learner says which way border, pool, tungsten and
noise go, before the board shows it.
"""

from __future__ import annotations

import random
from collections.abc import Mapping
from typing import Literal, NamedTuple

from anvilsong.core.arc.sound import loudness_db
from anvilsong.core.checks import outcome
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.machine import within_machine
from anvilsong.core.model import Bench
from anvilsong.core.registry import BY_KEY, get_value, with_value
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

Way = Literal["more", "same", "less"]
Figure = Literal["pool", "border", "tungsten", "noise"]
FIGURES: dict[Figure, str] = {
    "pool": "Pool width",
    "border": "Cleaned border",
    "tungsten": "Load on the tungsten",
    "noise": "Noise of the arc",
}
WAYS: dict[Way, str] = {"more": "more", "same": "about the same", "less": "less"}
ALIKE = {"pool": 0.02, "border": 0.05, "tungsten": 0.02}  # of it before, within which it is the same
ALIKE_DB, LEAST_BORDER_MM = 0.5, 0.05
# What is turned, and by how much each way: by ratio, or by so much.
RATIOS = {"amps_run": 1.15, "frequency_hz": 1.6, "travel_mm_s": 1.25}
SHIFTS = {"ep_share": 0.09, "ep_trim": 0.2}
TURNED = (*RATIOS, *SHIFTS)
LEVELS = (1, 2)
UP_TO_NEXT, ASKED_FOR_NEXT = 0.8, 8  # of the last so many answers right, and the next level is offered


class Turn(NamedTuple):
    """A question: settings before and after, and what was turned."""

    item: str
    turned: tuple[str, ...]
    before: Settings
    after: Settings


class Moved(NamedTuple):
    """A figure before and after, in its own unit, and which way it went."""

    before: float
    after: float
    way: Way


def items_of(level: int) -> list[str]:
    """What may be asked at a level: one setting, or a pair of them."""
    if level <= 1:
        return list(TURNED)
    return [f"{one}+{other}" for place, one in enumerate(TURNED) for other in TURNED[place + 1 :]]


def turn(job: Job, settings: Settings, bench: Bench, item: str, seed: int) -> Turn:
    """A question of an item, the same one for the same seed.

    Raises
    ------
    BadInput : no such item, or what it turns stands still on this machine
    """
    keys, chance = tuple(item.split("+")), random.Random(f"{item} {seed}")
    if not 1 <= len(keys) <= len(LEVELS) or len(set(keys)) < len(keys) or not set(keys) <= set(TURNED):
        raise BadInput.one("item", item[:60], sentence("practice.choose_item", items=", ".join(TURNED)))
    after, turned = settings, list[str]()
    for key in keys:
        up = chance.random() < 0.5
        moved = _turned(job, after, bench, key, up)
        moved = moved if moved is not None else _turned(job, after, bench, key, not up)
        if moved is not None:
            after = moved
            turned.append(key)
    if not turned:
        raise BadInput.one("item", item, sentence("practice.stands_still"))
    return Turn(item, tuple(turned), settings, after)


def _turned(job: Job, settings: Settings, bench: Bench, key: str, up: bool) -> Settings | None:
    """The settings with one of them turned; None where the machine or the setting's own ends stop it."""
    value, entry = float(get_value(settings, key)), BY_KEY[key]
    if key in RATIOS:
        wanted = value * (RATIOS[key] if up else 1 / RATIOS[key])
    else:
        wanted = value + (SHIFTS[key] if up else -SHIFTS[key])
    if not entry.low <= wanted <= entry.high:
        return None
    try:
        moved = within_machine(with_value(settings, key, wanted, job.control), bench.machine)
    except BadInput:
        return None
    reached = float(get_value(moved, key))
    return moved if abs(reached - wanted) <= 0.3 * abs(wanted - value) else None


def moved_by(job: Job, bench: Bench, question: Turn) -> dict[Figure, Moved]:
    """Which way each figure goes, as the model has it."""
    figures = [_figures(job, bench, settings) for settings in (question.before, question.after)]
    return {
        name: Moved(figures[0][name], figures[1][name], _way(name, figures[0][name], figures[1][name]))
        for name in FIGURES
    }


def _figures(job: Job, bench: Bench, settings: Settings) -> dict[Figure, float]:
    seen = outcome(job, settings, *bench).consequences
    noise = loudness_db(settings.wave(), job.arc_length_mm)
    return {
        "pool": seen.pool_width_mm,
        "border": max(seen.border_mm, 0.0),
        "tungsten": seen.tungsten_load,
        "noise": noise,
    }


def _way(name: Figure, before: float, after: float) -> Way:
    alike = ALIKE_DB if name == "noise" else ALIKE[name] * abs(before)
    if name == "border":
        alike = max(alike, LEAST_BORDER_MM)
    return "same" if abs(after - before) <= alike else "more" if after > before else "less"


def score_of(right: Mapping[Figure, Moved], given: Mapping[Figure, Way]) -> int:
    """Per cent of the figures whose way was said rightly."""
    hits = sum(given.get(name) == moved.way for name, moved in right.items())
    return round(100 * hits / len(right))
