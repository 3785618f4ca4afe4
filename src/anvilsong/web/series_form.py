"""A test series as it is laid out on its page: what is typed into it, and how its runs are said."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from anvilsong.core import say
from anvilsong.core.board import read_lane
from anvilsong.core.errors import BadInput
from anvilsong.core.machine import SHAPE_WORDS, Machine, show_on_panel
from anvilsong.core.registry import BY_KEY
from anvilsong.core.said import Words
from anvilsong.core.say import setting as said_setting
from anvilsong.core.settings import Settings
from anvilsong.core.trials import LEAST_VALUES, MOST_VALUES, STEPPED, Axis, Layout, Series, ready_made
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.store.book import clean_title
from anvilsong.web.job_view import JobView
from anvilsong.web.requests import whole

BY_RATIO = ("pulse_rate_hz", "frequency_hz")  # steps that are felt alike are so many times apart


def steppable(machine: Machine, settings: Settings) -> list[str]:
    """The settings that can be stepped on this machine, by key; cup's stick-out and gas on every one."""
    by_hand = ("flow_l_min", "stick_out_mm", "amps_run")
    kept_off = {"pulse": settings.mix, "mix": settings.pulse}
    return [
        key
        for key in STEPPED
        if (key in by_hand or (len(machine.shapes) > 1 if key == "shape_en" else machine.sets(key)))
        and kept_off.get(BY_KEY[key].group or "") is None
    ]


def layout_from(view: JobView, form: Mapping[str, str], system: UnitSystem) -> Layout | None:
    """The series that is asked for: a ready-made one, or settings with from, to and how many; None before
    anything is chosen.

    Raises
    ------
    BadInput : what cannot be read or used; the field is the form's
    """
    beads = whole(form.get("beads")) or 1
    revision = view.plan_row.revision
    if form.get("ready"):
        for ready in ready_made(view.job, view.settings, view.machine):
            if ready.key == form["ready"]:
                return Layout(ready.title, ready.axes, ready.kept, beads, revision)
        raise BadInput.one("ready", form["ready"], sentence("web.choose_series_of_list"))
    if not form.get("first"):
        return None
    axes = [_axis(view, form, "first", system)]
    if form.get("second"):
        axes.append(_axis(view, form, "second", system))
    names = [BY_KEY[axis.key].words for axis in axes]
    title = clean_title((form.get("title") or "").strip() or " × ".join(names))
    kept = "amps" if form.get("kept") == "amps" else "heat"
    return Layout(title, tuple(axes), "heat" if kept == "heat" else "amps", beads, revision)


def _axis(view: JobView, form: Mapping[str, str], which: str, system: UnitSystem) -> Axis:
    key = form.get(which, "")
    if key not in STEPPED or key not in steppable(view.machine, view.settings):
        raise BadInput.one(which, key, sentence("web.choose_setting_of_list"))
    count = whole(form.get(f"{which}_count")) or 3
    if not LEAST_VALUES <= count <= MOST_VALUES:
        raise BadInput.one(
            f"{which}_count", count, sentence("web.so_many_values", least=LEAST_VALUES, most=MOST_VALUES)
        )
    if key == "shape_en":
        return Axis(key=key, values=tuple(view.machine.shapes[:count]))
    entry = BY_KEY[key]
    ends = []
    for end in ("from", "to"):
        name = f"{which}_{end}"
        typed = form.get(name, "").strip()
        if not typed:
            raise BadInput.one(name, "nothing", sentence("web.type_where_series_ends", words=entry.words))
        try:
            ends.append(read_lane(entry, typed, system, (entry.low, entry.high), entry.words))
        except BadInput as trouble:
            raise BadInput.one(name, typed, trouble.problems[0].allowed) from None
    spaced = np.geomspace if key in BY_RATIO and min(ends) > 0 else np.linspace
    return Axis(key=key, values=tuple(float(value) for value in spaced(ends[0], ends[1], count)))


def value_said(key: str, value: float | str) -> Words:
    """A stepped value in canonical words."""
    if isinstance(value, str):
        return SHAPE_WORDS[value].lower() if value in SHAPE_WORDS else value
    entry = BY_KEY[key]
    return said_setting(value, entry.dimension or "number", entry.decimals)


def run_said(series: Series, place: int) -> Words:
    """What a run is of: its values in canonical words."""
    run = series.runs[place]
    said = [value_said(axis.key, value) for axis, value in zip(series.axes, run.values, strict=True)]
    return say.joined(*said, by=", ")


def to_set(series: Series, place: int, machine: Machine) -> list[tuple[str, str]]:
    """What to set on the panel for a run, where it differs from the plan: label and figure."""
    before = {line.setting: line.shown for line in show_on_panel(series.base, machine).lines}
    return [
        (line.label, f"{line.shown}{f' {line.unit}' if line.unit else ''}")
        for line in show_on_panel(series.runs[place].settings, machine).lines
        if line.shown != before.get(line.setting) or line.setting in {axis.key for axis in series.axes}
    ]
