"""Translate canonical settings to a panel's words and back, with rounding to its steps and clipping said aloud."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from pydantic import Field
from scipy.interpolate import PchipInterpolator

from anvilsong.core import say
from anvilsong.core.arc.waveform import SHAPES, Shape, Wave, ac_means, shape_mean
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Control as HandControl
from anvilsong.core.machine.model import MOST_CONTROLS, Control, Machine, Scale
from anvilsong.core.quantities import show
from anvilsong.core.registry import BY_KEY, PANEL, SettingKey, get_value, with_value
from anvilsong.core.settings import Settings
from anvilsong.core.value import Name, Value

SHAPE_WORDS: dict[Shape, str] = {
    "square": "Square",
    "soft": "Soft square",
    "trapezoid": "Trapezoid",
    "sine": "Sine",
    "triangle": "Triangle",
}


class PanelLine(Value):
    """One control as it should stand: ``value`` in panel units, ``canonical`` what that stands for."""

    setting: SettingKey
    label: str
    shown: str
    value: float | None
    unit: str = ""
    canonical: float | str | None = None
    clipped: bool = False
    said: str = ""
    """What clipping costs, in words."""


class Panel(Value):
    """The whole panel of one machine."""

    machine: Name
    lines: list[PanelLine] = Field(max_length=MOST_CONTROLS)


def to_panel_value(scale: Scale, canonical: float) -> tuple[float, bool]:
    """Panel value for a canonical one, rounded to the panel's step, and whether it had to be clipped."""
    panel, meaning = (np.asarray(column) for column in zip(*scale.points, strict=True))
    if scale.is_fixed:
        return float(panel[0]), not np.isclose(canonical, meaning[0])
    order = np.argsort(meaning)
    inside = float(np.clip(canonical, meaning.min(), meaning.max()))
    clipped = abs(inside - canonical) > 1e-9
    exact = (
        float(np.interp(inside, meaning[order], panel[order]))
        if len(panel) == 2
        else _invert(panel, meaning, inside)
    )
    # Counted from the grid's own zero, so that a half rounds as it does wherever the figure is printed.
    grid = float(panel[0] % scale.step)
    steps = round((exact - grid) / scale.step)
    return float(np.clip(grid + steps * scale.step, panel[0], panel[-1])), clipped


def to_canonical(scale: Scale, panel_value: float) -> float:
    """Canonical value of a panel value: straight between two points, PCHIP through more."""
    panel, meaning = zip(*scale.points, strict=True)
    if scale.is_fixed:
        return float(meaning[0])
    inside = float(np.clip(panel_value, panel[0], panel[-1]))
    if len(panel) == 2:
        return float(np.interp(inside, panel, meaning))
    return float(PchipInterpolator(panel, meaning)(inside))


def _invert(panel: Any, meaning: Any, canonical: float) -> float:
    # The curve is monotone, so bisection cannot fail; 60 halvings reach the last bit.
    curve = PchipInterpolator(panel, meaning)
    low, high = float(panel[0]), float(panel[-1])
    rising = meaning[-1] > meaning[0]
    for _ in range(60):
        middle = (low + high) / 2
        if (float(curve(middle)) < canonical) == rising:
            low = middle
        else:
            high = middle
    return (low + high) / 2


def amps_on_basis(wave: Wave, basis: str) -> float:
    """What a panel's ampere figure reads for this wave: peak of EN, middle of both peaks, or mean or rms of the AC cycle."""
    if basis == "both_halves":
        return float(wave.amps + wave.ep_amps) / 2
    if basis in ("mean", "rms"):
        means = ac_means(wave)
        return float(means.both if basis == "mean" else means.rms)
    return float(wave.amps)


def figure_on_panel(settings: Settings, control: Control) -> float | None:
    """The number a control's scale speaks of, for these settings; None when its group is off."""
    value = get_value(settings, control.setting)
    if value is None:
        return None
    match control.setting, control.basis:
        case "amps_set", basis:
            return amps_on_basis(settings.wave(value), basis)
        case "ep_trim", "ep_amps":
            return settings.amps_set * (1 + float(value))
        case _, "share_of_set":
            return float(value) / settings.amps_set
        case _, "amps":
            return float(value) * settings.amps_set
    return float(value)


def meaning_of(figure: float, control: Control, settings: Settings) -> float:
    """The canonical value of a control's number, given what has been read so far."""
    match control.setting, control.basis:
        case "amps_set", basis:
            return figure / (amps_on_basis(settings.wave(100.0), basis) / 100.0)
        case "ep_trim", "ep_amps":
            return figure / settings.amps_set - 1
        case _, "share_of_set":
            return figure * settings.amps_set
        case _, "amps":
            return figure / settings.amps_set
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


def show_on_panel(settings: Settings, machine: Machine) -> Panel:
    """Every control of the machine as it should stand for these settings, in dial order.

    A machine without controls shows the canonical settings.
    """
    if not machine.controls:
        return Panel(machine=machine.name, lines=[_canonical_line(settings, entry.key) for entry in PANEL])
    order = {entry.key: place for place, entry in enumerate(PANEL)}
    controls = sorted(machine.controls, key=lambda control: order.get(control.setting, len(order)))
    return Panel(machine=machine.name, lines=[_line(settings, control) for control in controls])


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
        unit=f"{unit} EP" if key == "ep_share" else unit,
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
    said = ""
    if clipped:
        wanted, reached = (say.setting(number, entry.dimension, entry.decimals) for number in (value, meant))
        unit = f" {scale.unit}" if scale.unit else ""
        stops = "is fixed at" if scale.is_fixed else "stops at"
        said = f"{control.label} {stops} {shown_text(scale, panel_value)}{unit}: {entry.words.lower()} is {reached} instead of {wanted}."
    shown = shown_text(scale, panel_value)
    return PanelLine(
        setting=control.setting,
        label=control.label,
        shown=shown,
        value=panel_value,
        unit=scale.unit,
        canonical=meant,
        clipped=clipped,
        said=said,
    )


def shape_places(control: Control) -> dict[Shape, int]:
    """Where each shape stands on a waveform control: the scale's points map places to places in ``SHAPES``."""
    return {SHAPES[int(meaning)]: int(panel) for panel, meaning in control.scale.points}


def _shape_line(shape: Shape, control: Control) -> PanelLine:
    places = shape_places(control)
    missing = shape not in places
    # The nearest by heat: the shape whose mean is closest.
    got = min(places, key=lambda name: abs(shape_mean(name) - shape_mean(shape)))
    name = control.scale.names[places[got]]
    said = f"This panel has no {SHAPE_WORDS[shape].lower()}: {name} is the nearest it has." if missing else ""
    return PanelLine(
        setting=control.setting,
        label=control.label,
        shown=name,
        value=places[got],
        canonical=got,
        clipped=missing,
        said=said,
    )


def _reading_order(control: Control) -> int:
    """Shapes first, then what amps hang on, then amps, then what hangs on amps."""
    if control.setting.startswith("shape"):
        return 0
    if control.setting == "amps_set":
        return 2
    return 3 if control.basis in ("ep_amps", "share_of_set", "amps") else 1


def within_machine(settings: Settings, machine: Machine) -> Settings:
    """The settings with what a machine leaves no choice in: its own shapes and ranges, no trim, pulse or mix it does not have."""
    if settings.pulse is not None and not machine.can_pulse:
        settings = with_value(settings, "pulse_rate_hz", None)
    if settings.mix is not None and not machine.can_mix:
        settings = with_value(settings, "mix_ac_share", None)
    trim = min(max(settings.ep_trim, machine.least_trim), machine.most_trim) if machine.can_trim else 0.0
    shape = settings.shape_en if settings.shape_en in machine.shapes else machine.shapes[0]
    shape_ep = (
        settings.shape_ep if settings.shape_ep in machine.shapes and machine.control("shape_ep") else shape
    )
    share = min(max(settings.ep_share, machine.least_ep_share), machine.most_ep_share)
    frequency = min(max(settings.frequency_hz, machine.least_frequency_hz), machine.most_frequency_hz)
    return settings.model_copy(
        update={
            "ep_trim": trim,
            "shape_en": shape,
            "shape_ep": shape_ep,
            "ep_share": share,
            "frequency_hz": frequency,
        }
    )


def read_panel(
    values: Mapping[str, float], machine: Machine, base: Settings, control_by: HandControl = "pedal"
) -> Settings:
    """Canonical settings from the panel's own values.

    What the machine leaves no choice in is the machine's; what else the panel does not have stays as in ``base``.

    Parameters
    ----------
    values : panel value by setting key, in the panel's units
    control_by : what the amps are held with; a pedal's foot stays as in ``base``, under what is read
    """
    settings = within_machine(base, machine)
    controls: list[Control] = []
    for key in values:
        control = machine.control(key)
        if control is None:
            raise BadInput.one(key, values[key], f"{machine.name} has no such control")
        controls.append(control)
    for control in sorted(controls, key=_reading_order):
        value = values[control.setting]
        if BY_KEY[control.setting].dimension is None:
            shape = next(
                (name for name, place in shape_places(control).items() if place == round(value)), None
            )
            if shape is None:
                raise BadInput.one(
                    control.setting, value, f"{control.label} has {len(control.scale.names)} places"
                )
            settings = with_value(settings, control.setting, shape)
            if control.setting == "shape_en" and machine.control("shape_ep") is None:
                settings = with_value(settings, "shape_ep", shape)
            continue
        settings = with_value(
            settings,
            control.setting,
            meaning_of(to_canonical(control.scale, value), control, settings),
            control_by,
        )
    return settings


def on_panel(settings: Settings, machine: Machine, control_by: HandControl = "pedal") -> Settings:
    """The settings as this panel can really be set: read back what it would show. A fixed quantity is what it is fixed at."""
    if not machine.controls:
        return settings
    lines = show_on_panel(settings, machine).lines
    return read_panel(
        {line.setting: line.value for line in lines if line.value is not None}, machine, settings, control_by
    )
