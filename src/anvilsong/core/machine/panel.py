"""A panel as it should stand for some settings, and settings from what a panel shows."""

from __future__ import annotations

from pydantic import Field

from anvilsong.core import say
from anvilsong.core.arc.waveform import Shape, shape_mean
from anvilsong.core.machine.model import MOST_CONTROLS, Control, Machine
from anvilsong.core.machine.scales import (
    SHAPE_WORDS,
    figure_on_panel,
    meaning_of,
    shape_places,
    shown_text,
    to_canonical,
    to_panel_value,
)
from anvilsong.core.registry import BY_KEY, PANEL, SettingKey, get_value
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.shown import show
from anvilsong.core.value import Name, Value
from anvilsong.core.words import sentence


class PanelLine(Value):
    """One control as it should stand: ``value`` in panel units, ``canonical`` what that stands for."""

    setting: SettingKey
    label: str
    shown: str
    value: float | None
    unit: str = ""
    canonical: float | str | None = None
    clipped: bool = False
    said: Words = ""
    """What clipping costs, in words."""


class Panel(Value):
    """The whole panel of one machine."""

    machine: Name
    lines: list[PanelLine] = Field(max_length=MOST_CONTROLS)


COARSE = 0.05  # of a value, that a named place may lie beside it without a word


def show_on_panel(settings: Settings, machine: Machine) -> Panel:
    """Every control of the machine as it should stand for these settings, in dial order.

    A machine without controls shows the canonical settings.
    """
    if not machine.controls:
        return Panel(machine=machine.name, lines=[_canonical_line(settings, entry.key) for entry in PANEL])
    order = {entry.key: place for place, entry in enumerate(PANEL)}
    controls = sorted(machine.controls, key=lambda control: order.get(control.setting, len(order)))
    return Panel(machine=machine.name, lines=[_line(settings, control) for control in controls])


def amps_on_panel(settings: Settings, machine: Machine) -> str:
    """The machine amps in the figure that the machine's own panel shows; the standard figure where the panel
    does not count amps.
    """
    control = machine.control("amps_set")
    line = _line(settings, control) if control is not None else None
    return line.shown if line is not None and line.unit == "A" else f"{settings.amps_set:.0f}"


def _canonical_line(settings: Settings, key: str) -> PanelLine:
    entry, value = BY_KEY[key], get_value(settings, key)
    if value is None:
        return PanelLine(setting=key, label=entry.words, shown="off", value=None)
    if entry.dimension is None:
        return PanelLine(
            setting=key, label=entry.words, shown=SHAPE_WORDS[value], value=None, canonical=value
        )
    text = show(value, entry.dimension, decimals=entry.decimals)
    number, _, unit = text.partition(" ")
    return PanelLine(
        setting=key,
        label=entry.words,
        shown=number,
        unit=unit,
        value=value,
        canonical=value,
    )


def _line(settings: Settings, control: Control) -> PanelLine:
    entry, scale = BY_KEY[control.setting], control.scale
    if entry.dimension is None:
        return _shape_line(get_value(settings, control.setting), control)
    figure = figure_on_panel(settings, control)
    if figure is None:
        return PanelLine(setting=control.setting, label=control.label, shown="off", value=None)
    panel_value, clipped = to_panel_value(scale, figure)
    meant, value = (
        meaning_of(to_canonical(scale, panel_value), control, settings),
        get_value(settings, control.setting),
    )
    said: Words = ""
    if clipped:
        wanted, reached = (say.setting(number, entry.dimension, entry.decimals) for number in (value, meant))
        unit = f" {scale.unit}" if scale.unit else ""
        stops = "is fixed at" if scale.is_fixed else "stops at"
        said = say.joined(
            f"{control.label} {stops} {shown_text(scale, panel_value)}{unit}: ",
            say.within(entry.words),
            " is ",
            reached,
            " instead of ",
            wanted,
            ".",
        )
    elif scale.names and abs(meant - value) > COARSE * abs(value):
        wanted, reached = (say.setting(number, entry.dimension, entry.decimals) for number in (value, meant))
        said = sentence(
            "machine.has_no_place_nearest",
            label=control.label,
            words=say.within(entry.words),
            wanted=wanted,
            scale=shown_text(scale, panel_value),
            reached=reached,
        )
    # Asked at every what-if for every control: all of it was checked where it came from.
    return PanelLine.model_construct(
        setting=control.setting,
        label=control.label,
        shown=shown_text(scale, panel_value),
        value=panel_value,
        unit=scale.unit,
        canonical=meant,
        clipped=bool(clipped),
        said=said,
    )


def _shape_line(shape: Shape, control: Control) -> PanelLine:
    places = shape_places(control)
    missing = shape not in places
    # The nearest by heat: the shape whose mean is closest.
    got = min(places, key=lambda name: abs(shape_mean(name) - shape_mean(shape)))
    name = control.scale.names[places[got]]
    said = (
        sentence("machine.panel_has_no_nearest", shape=SHAPE_WORDS[shape].lower(), name=name)
        if missing
        else ""
    )
    return PanelLine(
        setting=control.setting,
        label=control.label,
        shown=name,
        value=places[got],
        canonical=got,
        clipped=missing,
        said=said,
    )
