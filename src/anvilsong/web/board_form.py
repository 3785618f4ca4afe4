"""The board's form: what was really typed, read as settings."""

from __future__ import annotations

import json

from anvilsong.core import say
from anvilsong.core.board import board, read_lane
from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.registry import BOARD, Setting, get_value, with_value
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.shown import figure
from anvilsong.core.units import UnitSystem
from anvilsong.web.job_view import JobView
from anvilsong.web.lane_rows import lane_owner


def own_fields(view: JobView, form: dict[str, str], system: UnitSystem) -> dict[str, str]:
    """The fields that really were typed: those that do not say what the page had printed."""
    return {
        entry.key: form[entry.key]
        for entry in BOARD
        if entry.key in form and form[entry.key].strip().replace("-", "−") != _printed(view, entry, system)
    }


def _printed(view: JobView, entry: Setting, system: UnitSystem) -> str:
    """What the page printed in a lane's field."""
    value = get_value(view.settings, entry.key)
    if entry.dimension is None:
        return str(value)
    if entry.key == "preheat_c" and value is None:
        value = view.job.part_temperature_c
    return "" if value is None else figure(value, entry.dimension, system, entry.decimals)


def typed_settings(view: JobView, form: dict[str, str], system: UnitSystem) -> tuple[Settings, list[Words]]:
    """The settings with every lane's field applied, and which of them changed.

    Raises
    ------
    BadInput : one problem for each field that cannot be read or lies outside its lane
    """
    settings, changed, problems = view.settings, list[Words](), list[Problem]()
    exact = _exact(form)
    lanes = {lane.key: lane for lane in board(view.plan, view.settings, view.machine)}
    for group in ("pulse", "mix"):
        # A group that is switched off goes first, since both cannot be on.
        if f"{group}_off" in form and getattr(settings, group) is not None:
            settings = settings.model_copy(update={group: None})
            changed.append(f"{group} off")
    for entry in BOARD:
        typed, lane = form.get(entry.key, "").strip(), lanes.get(entry.key)
        if not typed or (entry.group and f"{entry.group}_off" in form):
            continue
        if entry.dimension is None:
            if typed != get_value(settings, entry.key):
                settings = with_value(with_value(settings, "shape_en", typed), "shape_ep", typed)
                changed.append(say.within(entry.words))
            continue
        # A field that still says what the page printed was not touched: keep the exact value behind it.
        if typed.replace("-", "−") == _printed(view, entry, system):
            continue
        try:
            limits = (lane.low, lane.high) if lane else None
            read = read_lane(entry, typed, system, limits, lane_owner(entry, view.machine))
            read = exact.get(entry.key, read)
        except BadInput as trouble:
            problems.extend(trouble.problems)
            continue
        settings = with_value(settings, entry.key, read, view.job.control)
        changed.append(say.within(entry.words))
    if problems:
        raise BadInput(*problems)
    return settings, changed


def wrong_lanes(trouble: BadInput | None) -> dict[str, Words]:
    """The sentence for each lane that something is wrong with, by the lane's key."""
    keys = {entry.words: entry.key for entry in BOARD}
    problems = trouble.problems if trouble else ()
    return {keys[problem.field]: problem.said for problem in problems if problem.field in keys}


def _exact(form: dict[str, str]) -> dict[str, float]:
    """Values behind the printed fields, where the board's script knows them better than their print."""
    try:
        sent = json.loads(form.get("exact") or "{}")
        return {
            key: float(value)
            for key, (text, value) in sent.items()
            if form.get(key) == text and abs(float(value)) < 1e6
        }
    except (ValueError, TypeError, AttributeError, RecursionError, OverflowError):
        return {}
