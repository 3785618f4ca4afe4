"""Settings from the values that a panel shows, within what its machine can do."""

from __future__ import annotations

from collections.abc import Mapping

from anvilsong.core.errors import BadInput
from anvilsong.core.job import Control as HandControl
from anvilsong.core.machine.model import Control, Machine
from anvilsong.core.machine.panel import show_on_panel
from anvilsong.core.machine.scales import meaning_of, shape_places, to_canonical
from anvilsong.core.registry import BY_KEY, with_value
from anvilsong.core.settings import Settings

SWITCHES_ON = {"pulse": "pulse_rate_hz", "mix": "mix_ac_share"}


def _reading_order(control: Control) -> int:
    """Shapes first, then what amps hang on, then amps, then what hangs on amps."""
    if control.setting.startswith("shape"):
        return 0
    if control.setting == "amps_set":
        return 2
    return 3 if control.basis in ("ep_amps", "share_of_set", "amps") else 1


TIMES = ("peak_s", "base_s")


def _with_times(values: Mapping[str, float], machine: Machine, settings: Settings) -> Settings:
    """A pulse that a panel shows as two times, peak and base, s: rate = 1/(peak + base), share = peak·rate.
    What only one of them is read of keeps the other.
    """
    read: dict[str, float] = {}
    for key in values:
        control = machine.control(key)
        if control is not None and control.basis in TIMES:
            read[control.basis] = to_canonical(control.scale, values[key])
    if not read or (settings.pulse is None and len(read) < len(TIMES)):
        return settings
    was = settings.pulse
    peak = read.get("peak_s", was.peak_share / was.rate_hz if was else 0.0)
    rest = read.get("base_s", (1 - was.peak_share) / was.rate_hz if was else 0.0)
    if peak <= 0 or rest <= 0:
        return with_value(settings, "pulse_rate_hz", None)
    settings = with_value(settings, "pulse_rate_hz", 1 / (peak + rest))
    return with_value(settings, "pulse_peak_share", peak / (peak + rest))


NO_PULSE = 1e-9  # of the peak, between it and a base that pulses nothing


def _is_off(key: str, values: Mapping[str, float], settings: Settings) -> bool:
    """Whether a figure belongs to a pulse or mix that is off: panels show their shares all the same, and only
    its rate, or a mix's share, switches it on.
    """
    group = BY_KEY[key].group
    return group is not None and getattr(settings, group) is None and SWITCHES_ON[group] not in values


def within_machine(settings: Settings, machine: Machine) -> Settings:
    """The settings with what a machine leaves no choice in: its own shapes and ranges, no trim, pulse, mix
    or slope it does not have.
    """
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
            "up_slope_s": settings.up_slope_s if machine.sets("up_slope_s") else 0.0,
            "down_slope_s": settings.down_slope_s if machine.sets("down_slope_s") else 0.0,
        }
    )


def read_panel(
    values: Mapping[str, float], machine: Machine, base: Settings, control_by: HandControl = "pedal"
) -> Settings:
    """Canonical settings from the panel's own values.

    What the machine leaves no choice in is the machine's; what else the panel does not have stays as in
    ``base``.

    Parameters
    ----------
    values : panel value by setting key, in the panel's units
    control_by : what the amps are held with; a pedal's foot stays as in ``base``, under what is read
    """
    settings = _with_times(values, machine, within_machine(base, machine))
    is_steady = False
    controls: list[Control] = []
    for key in values:
        control = machine.control(key)
        if control is None:
            raise BadInput.one(key, values[key], f"{machine.name} has no such control")
        controls.append(control)
    for control in sorted(controls, key=_reading_order):
        value = values[control.setting]
        if control.basis in TIMES or _is_off(control.setting, values, settings):
            continue
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
        means = meaning_of(to_canonical(control.scale, value), control, settings)
        if control.setting == "pulse_base_share" and abs(means - 1) < NO_PULSE:
            is_steady = True
            continue
        settings = with_value(settings, control.setting, means, control_by)
    return with_value(settings, "pulse_rate_hz", None) if is_steady else settings


def on_panel(settings: Settings, machine: Machine, control_by: HandControl = "pedal") -> Settings:
    """The settings as this panel can really be set: read back what it would show. A fixed quantity is what
    it is fixed at.
    """
    if not machine.controls:
        return settings
    lines = show_on_panel(settings, machine).lines
    return read_panel(
        {line.setting: line.value for line in lines if line.value is not None}, machine, settings, control_by
    )
