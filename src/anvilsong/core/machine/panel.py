"""Translate canonical settings to a panel's words and back, with rounding to its steps and clipping said aloud."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from pydantic import BaseModel, ConfigDict
from scipy.interpolate import PchipInterpolator

from anvilsong.core.arc.waveform import Shape, Wave, ac_means
from anvilsong.core.errors import BadInput
from anvilsong.core.machine.model import Control, Machine, Scale
from anvilsong.core.quantities import show
from anvilsong.core.registry import BY_KEY, PANEL, get_value, with_value
from anvilsong.core.settings import Settings

SHAPE_WORDS: dict[Shape, str] = {"square": "Square", "soft": "Soft square", "trapezoid": "Trapezoid", "sine": "Sine", "triangle": "Triangle"}


class PanelLine(BaseModel):
    """One control as it should stand: ``value`` in panel units, ``canonical`` what that stands for."""

    model_config = ConfigDict(frozen=True)

    setting: str
    label: str
    shown: str
    value: float | None
    unit: str = ""
    canonical: Any = None
    clipped: bool = False
    said: str = ""
    """What clipping costs, in words."""


class Panel(BaseModel):
    """The whole panel of one machine."""

    model_config = ConfigDict(frozen=True)

    machine: str
    lines: list[PanelLine]


def to_panel_value(scale: Scale, canonical: float) -> tuple[float, bool]:
    """Panel value for a canonical one, rounded to the panel's step, and whether it had to be clipped."""
    panel, meaning = (np.asarray(column) for column in zip(*scale.points, strict=True))
    if scale.is_fixed:
        return float(panel[0]), not np.isclose(canonical, meaning[0])
    order = np.argsort(meaning)
    inside = float(np.clip(canonical, meaning.min(), meaning.max()))
    clipped = abs(inside - canonical) > 1e-9
    exact = float(np.interp(inside, meaning[order], panel[order])) if len(panel) == 2 else _invert(panel, meaning, inside)
    steps = round((exact - panel[0]) / scale.step)
    return float(np.clip(panel[0] + steps * scale.step, panel[0], panel[-1])), clipped


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
    """What a panel's ampere figure reads for this wave: peak of EN, or mean or rms of the AC cycle."""
    if basis in ("peak", "en_peak"):
        return float(wave.amps)
    means = ac_means(wave)
    return float(means.both if basis == "mean" else means.rms)


def shown_text(scale: Scale, value: float) -> str:
    """The panel's own way of showing a value."""
    if scale.names:
        return scale.names[round(value) % len(scale.names)]
    if scale.shown_as == "clock":
        hours, minutes = divmod(round(value * 60), 60)
        return f"{hours % 12 or 12}:{minutes:02d} o’clock"
    text = f"{value:+.{scale.decimals}f}" if scale.signed and round(value, scale.decimals) != 0 else f"{value:.{scale.decimals}f}"
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
    if entry.dimension is None:
        return PanelLine(setting=key, label=entry.words, shown=SHAPE_WORDS[value], value=None, canonical=value)
    text = show(value, entry.dimension, decimals=entry.decimals)
    number, _, unit = text.partition(" ")
    return PanelLine(setting=key, label=entry.words, shown=number, unit=f"{unit} EP" if key == "ep_share" else unit, value=value, canonical=value)


def _line(settings: Settings, control: Control) -> PanelLine:
    value = get_value(settings, control.setting)
    entry, scale = BY_KEY[control.setting], control.scale
    if entry.dimension is None:
        return _shape_line(value, control)
    per_amp = 1.0
    if control.setting in ("amps_set", "start_amps", "finish_amps") and value:
        per_amp = amps_on_basis(settings.wave(value), control.basis) / value
    panel_value, clipped = to_panel_value(scale, value * per_amp)
    meant = to_canonical(scale, panel_value) / per_amp
    said = ""
    if clipped:
        wanted = show(value, entry.dimension, decimals=entry.decimals)
        reached = show(meant, entry.dimension, decimals=entry.decimals)
        said = f"{control.label} stops at {shown_text(scale, panel_value)}{scale.unit and ' ' + scale.unit}: {entry.words.lower()} is {reached} instead of {wanted}."
    return PanelLine(
        setting=control.setting,
        label=control.label,
        shown=shown_text(scale, panel_value),
        unit=scale.unit,
        value=panel_value,
        canonical=meant,
        clipped=clipped,
        said=said,
    )


def _shape_line(shape: Shape, control: Control) -> PanelLine:
    # A waveform control's points map the place of a name to the place of a shape in SHAPES order.
    from anvilsong.core.arc.waveform import SHAPES

    places = {SHAPES[int(meaning)]: int(panel) for panel, meaning in control.scale.points}
    missing = shape not in places
    place = places.get(shape, min(places.values()))
    got = next(name for name, at in places.items() if at == place)
    name = control.scale.names[place]
    said = f"This panel has no {SHAPE_WORDS[shape].lower()}: {name} is the nearest it has." if missing else ""
    return PanelLine(setting=control.setting, label=control.label, shown=name, value=place, canonical=got, clipped=missing, said=said)


def read_panel(values: Mapping[str, float], machine: Machine, base: Settings) -> Settings:
    """Canonical settings from the panel's own values; what the panel does not have stays as in ``base``.

    Parameters
    ----------
    values : panel value by setting key, in the panel's units
    """
    from anvilsong.core.arc.waveform import SHAPES

    settings = base
    amps_keys = ("amps_set", "start_amps", "finish_amps")
    for key in sorted(values, key=lambda key: key in amps_keys):  # amps last: their meaning hangs on the wave
        control = machine.control(key)
        if control is None:
            raise BadInput.one(key, values[key], f"{machine.name} has no such control")
        meant: Any = to_canonical(control.scale, values[key]) if BY_KEY[key].dimension else None
        if meant is None:
            meant = SHAPES[int(dict(control.scale.points)[values[key]])]
        elif key in amps_keys:
            meant = meant / (amps_on_basis(settings.wave(100.0), control.basis) / 100.0)
        settings = with_value(settings, key, meant)
        if key == "shape_en" and machine.control("shape_ep") is None:
            settings = with_value(settings, "shape_ep", meant)
    return settings


def on_panel(settings: Settings, machine: Machine) -> Settings:
    """The settings as this panel can really be set: every control's canonical meaning after rounding and clipping."""
    panel = show_on_panel(settings, machine)
    if not machine.controls:
        return settings
    changed = settings
    for line in panel.lines:
        if line.canonical is not None and line.setting != "amps_set":
            changed = with_value(changed, line.setting, line.canonical)
    return changed
