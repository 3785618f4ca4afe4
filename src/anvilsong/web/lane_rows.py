"""Lanes as rows of the board: places on the track, bands, marks, words."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from anvilsong.core import say
from anvilsong.core.board import Lane, board
from anvilsong.core.machine import Machine
from anvilsong.core.plan import end_words
from anvilsong.core.registry import BY_KEY, Setting
from anvilsong.core.said import Words
from anvilsong.core.shop import school_choices
from anvilsong.core.shown import figure, to_shown, unit_words
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.web.job_view import JobView

# Lanes whose words are explained in the glossary.
LANE_TERMS = {
    "amps_set": "amps",
    "amps_run": "amps",
    "ep_share": "balance",
    "ep_trim": "ep-amplitude",
    "frequency_hz": "frequency",
    "shape_en": "waveform",
    "stick_out_mm": "stick-out",
    "pulse_rate_hz": "pulse",
    "mix_ac_share": "mix",
    "up_slope_s": "slopes",
    "down_slope_s": "slopes",
}
LEAST_APART = 20.0  # per cent of the track, for words at arm's length
GROUP_WORDS = {
    "main": "",
    "shape": "",  # named by its lanes
    "pulse": "Pulse",
    "mix": "Mixed AC and DC",
    "more": sentence("web.start_end_gas_times"),
}


def _lane_row(lane: Lane, system: UnitSystem, machine: Machine, on_panel: str) -> dict[str, Any]:
    """A lane with everything scaled to a track of 0..100 and printed in the reader's units."""
    along = math.log if lane.by_ratio else float
    span = along(lane.high) - along(lane.low) or 1.0

    def at(value: float) -> float:
        inside = min(max(value, lane.low), lane.high)
        return 100 * (along(inside) - along(lane.low)) / span

    dimension: Any = lane.dimension
    shown = lane.value if lane.value is not None else lane.rest
    text = lane.names[round(shown)] if lane.names else figure(shown, dimension, system, lane.decimals)
    return {
        "lane": lane,
        "off": lane.value is None,
        "shown": shown,
        "at": at,
        "marks": _spread(
            [(name, at(float(place))) for place, name in enumerate(lane.names)]
            or [(_mark_words(words), at(value)) for words, value in lane.marks]
        ),
        "unit": "" if lane.names else _unit(lane, system).strip(),
        "figure": text,
        "factor": to_shown(1.0, dimension, system) - to_shown(0.0, dimension, system),
        "offset": to_shown(0.0, dimension, system),
        "changed": lane.value != lane.planned
        and (lane.value is None or lane.planned is None or abs(lane.value - lane.planned) > 0.4 * lane.step),
        "owner": lane_owner(BY_KEY[lane.key], machine),
        "outside": lane.value is not None
        and lane.window is not None
        and not lane.window[0] - 1e-9 <= lane.value <= lane.window[1] + 1e-9,
        "bands": _bands(lane, at, system),
        "on_panel": on_panel,
    }


def _mark_words(school: str) -> str:
    """The mark of a way of working, as people read it."""
    return next(
        (row.shown for rows in school_choices().values() for row in rows if row.school == school), school
    )


def _bands(lane: Lane, at: Callable[[float], float], system: UnitSystem) -> dict[str, Any]:
    """A lane's two bands on its track, and in words with what gives at the ends."""

    def place(band: tuple[float, float] | None) -> dict[str, float] | None:
        return (
            {"left": at(band[0]), "width": at(band[1]) - at(band[0])} if band and band[1] > band[0] else None
        )

    if lane.names or lane.window is None:
        return {"sound": None, "best": None, "words": lane.empty}
    low, high = (_ends_words(band, lane, system) for band in (lane.window, lane.best or lane.window))
    unit = _unit(lane, system)
    said = f"Works from {low[0]} to {low[1]}{unit}"
    if lane.best:
        said += f", best {high[0]} to {high[1]}"
    past = [
        f"{side} {place}: {end_words(gives)}"
        for side, place, gives in zip(("below", "above"), low, lane.ends, strict=True)
        if gives
    ]
    if past:
        said += f". {past[0][0].upper()}{'; '.join(past)[1:]}"
    return {
        "sound": place(lane.window),
        "best": place(lane.best),
        "words": f"{said}. {lane.empty}".strip(),
    }


def _ends_words(band: tuple[float, float], lane: Lane, system: UnitSystem) -> list[str]:
    """The ends of a band as a lane prints them."""
    dimension: Any = lane.dimension
    return [figure(end, dimension, system, lane.decimals) for end in band]


def _unit(lane: Lane, system: UnitSystem) -> str:
    """The unit behind a lane's figures, with a blank before it."""
    dimension: Any = lane.dimension or "number"
    words = unit_words(dimension, system)
    return f" {words}" if words else ""


def _spread(marks: list[tuple[str, float]]) -> list[tuple[str, float, float]]:
    """Each mark's place on the track, and its words' place, moved apart where they would lie on one
    another.
    """
    marks = sorted(marks, key=lambda mark: mark[1])
    places = [at for _, at in marks]
    for _ in range(20):
        for i in range(len(places) - 1):
            short = LEAST_APART - (places[i + 1] - places[i])
            if short > 0:
                places[i], places[i + 1] = places[i] - short / 2, places[i + 1] + short / 2
    if places:
        inwards = max(0.0, 5 - places[0]) - max(0.0, places[-1] - 95)
        places = [min(max(place + inwards, 5.0), 93.0) for place in places]
    return [(words, at, place) for (words, at), place in zip(marks, places, strict=True)]


def lane_groups(view: JobView, system: UnitSystem) -> list[dict[str, Any]]:
    planned = view.plan.model_copy(update={"settings": view.planned}) if view.planned else view.plan
    balance = next(
        (f"{line.shown} {line.unit}".strip() for line in view.plan.panel.lines if line.setting == "ep_share"),
        "",
    )
    rows = [
        _lane_row(lane, system, view.machine, balance if lane.key == "ep_share" else "")
        for lane in board(planned, view.settings, view.machine)
    ]
    groups = []
    for key, words in GROUP_WORDS.items():
        lanes = [row for row in rows if row["lane"].group == key]
        if lanes:
            on = key in ("main", "shape", "more") or not lanes[0]["off"]
            groups.append(
                {
                    "key": key,
                    "words": words if key != "shape" else _named(lanes),
                    "lanes": lanes,
                    "on": on,
                    "open": key == "main"
                    or (on and key not in ("shape", "more"))
                    or any(row["changed"] for row in lanes),
                }
            )
    return groups


def _named(lanes: list[dict[str, Any]]) -> Words:
    """A group by the names of its lanes."""
    first, *others = (row["lane"].words for row in lanes)
    return say.joined(first, *map(say.within, others), by=" and ")


def lane_owner(entry: Setting, machine: Machine) -> str:
    """Whose limits a lane's ends are, in words."""
    return machine.name if entry.panel else "this lane"
