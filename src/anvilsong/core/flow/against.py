"""What flows beside what the panel was set to: each difference, and where it belongs on a control."""

from __future__ import annotations

from typing import NamedTuple

from anvilsong.core.errors import BadInput
from anvilsong.core.flow.heard import SoundReading
from anvilsong.core.flow.reading import Found, TraceReading
from anvilsong.core.machine import Control, Knob, KnobPoint, Machine, Scale, calibrate, figure_on_panel
from anvilsong.core.registry import BY_KEY, get_value
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

AS_SET = 0.02  # a figure nearer than this to what was set is as set
AS_SET_SHARE = 0.01
ENDS = ("start_amps", "up_slope_s", "finish_amps", "down_slope_s")
SHARES = ("ep_share", "pulse_peak_share", "pulse_base_share", "mix_ac_share", "mix_dc_level")


class Beside(NamedTuple):
    """One quantity: what the panel was set to and what flows, canonical. ``apart`` is flowing over set, less
    1; for shares the difference in points. ``differs``: further apart than what the trace can be wrong by.
    """

    setting: str
    was_set: float | str | None
    flows: float | str | None
    half_range: float
    apart: float
    differs: bool


def beside(reading: TraceReading, was_set: Settings) -> list[Beside]:
    """Every quantity that flows, in the registry's order of amps, amplitude, balance, frequency, shapes,
    pulse and mix; those that were not told are left out.
    """
    flows = reading.flowing(was_set)
    if flows is None:
        return []
    figures: dict[str, Found | None] = {
        "amps_set": reading.en_a if reading.is_scaled else None,
        "ep_trim": _trim(reading),
        "ep_share": reading.ep_share,
        "frequency_hz": reading.frequency_hz,
    }
    rows = [_row(key, found, was_set) for key, found in figures.items() if found is not None]
    for key, told in (("shape_en", reading.shape_en), ("shape_ep", reading.shape_ep)):
        if told is not None:
            before = get_value(was_set, key)
            rows.append(Beside(key, before, told, 0.0, 0.0, told != before))
    for group, found in (("pulse", reading.pulse), ("mix", reading.mix)):
        keys = [key for key, entry in BY_KEY.items() if entry.group == group]
        if found is None:
            if getattr(was_set, group) is not None:
                rows += [Beside(keys[0], get_value(was_set, keys[0]), None, 0.0, 0.0, True)]
            continue
        for key in keys:
            part = getattr(found, BY_KEY[key].path.split(".")[1])
            rows.append(_row(key, part, was_set))
    return rows + [_row(key, found, was_set) for key, found in _ends(reading).items()]


def _ends(reading: TraceReading) -> dict[str, Found]:
    """What the rise and the fall of the current tell, to a tenth: amps only where they are amps."""
    found: dict[str, Found] = {}
    for slope, amps, seconds in (
        (reading.rise, "start_amps", "up_slope_s"),
        (reading.fall, "finish_amps", "down_slope_s"),
    ):
        if slope is not None:
            found[seconds] = Found.within(slope.seconds, 0.1 * slope.seconds + 0.05)
            if reading.is_scaled:
                found[amps] = Found.within(slope.amps, 0.1 * slope.amps + 2)
    return found


def heard_beside(reading: SoundReading, was_set: Settings) -> list[Beside]:
    """What a sound tells, beside what was set: frequency, balance, the pulse's rate and peak time."""
    pulse = reading.pulse
    figures = {
        "frequency_hz": reading.frequency_hz,
        "ep_share": reading.ep_share,
        "pulse_rate_hz": None if pulse is None else pulse.rate_hz,
        "pulse_peak_share": None if pulse is None else pulse.peak_share,
    }
    return [_row(key, found, was_set) for key, found in figures.items() if found is not None]


def _trim(reading: TraceReading) -> Found | None:
    """EP peak over EN peak, less 1."""
    if reading.en_a is None or reading.ep_a is None:
        return None
    ratio = reading.ep_a.value / reading.en_a.value
    spread = reading.en_a.half_range / reading.en_a.value + reading.ep_a.half_range / reading.ep_a.value
    return Found.within(ratio - 1, ratio * spread / 2)


def _row(key: str, found: Found, was_set: Settings) -> Beside:
    before = get_value(was_set, key)
    if before is None:
        return Beside(key, None, found.value, found.half_range, 0.0, True)
    if key in ENDS and not before:
        return Beside(key, before, found.value, found.half_range, 0.0, True)
    if key in SHARES:
        apart, wrong_by, least = found.value - before, found.half_range, AS_SET_SHARE
    elif key == "ep_trim":
        apart, wrong_by, least = (1 + found.value) / (1 + before) - 1, found.half_range, AS_SET
    else:
        apart, wrong_by, least = found.value / before - 1, found.half_range / abs(before), AS_SET
    return Beside(key, before, found.value, found.half_range, apart, abs(apart) > max(least, wrong_by))


def point_of(reading: TraceReading, was_set: Settings, control: Control, position: float) -> KnobPoint | None:
    """Where a control stood, and what it means there, in the way that its scale counts; None where the trace
    does not tell it.
    """
    flows = reading.flowing(was_set)
    if flows is None or BY_KEY[control.setting].dimension is None:
        return None
    if control.setting == "amps_set":
        counted = reading.amps_counted(control.basis) if reading.is_scaled else None
        return (
            None
            if counted is None
            else KnobPoint(position=position, value=counted.value, sd=counted.half_range / 2)
        )
    rows = {row.setting: row for row in beside(reading, was_set)}
    row, figure = rows.get(control.setting), figure_on_panel(flows, control)
    if row is None or row.flows is None or figure is None:
        return None
    needs_amps = control.basis in ("ep_amps", "share_of_set", "amps")
    if needs_amps and not reading.is_scaled:
        return None
    spread = row.half_range if control.basis == "value" else 0.01 * abs(figure)
    return KnobPoint(position=position, value=figure, sd=spread / 2)


def with_points(scale: Scale, points: list[KnobPoint]) -> Scale:
    """A control's scale with places that were measured: a place within half a step of one that stood there
    takes its stead, and so it does with those between the ends that go against it; the rest stand.

    Raises
    ------
    BadInput : the control has named or fixed places, or the measured ones go against its ends
    """
    if scale.names or scale.is_fixed:
        raise BadInput.one("points", "a control of named places", sentence("machine.knob_needs_places"))
    first, last = scale.points[0][0], scale.points[-1][0]
    rises = scale.points[-1][1] > scale.points[0][1]
    near = max(0.5 * scale.step, 0.004 * (last - first))
    stand = [
        KnobPoint(position=position, value=value)
        for position, value in scale.points
        if all(abs(position - point.position) > near for point in points)
        and (position in (first, last) or all(_agrees(position, value, point, rises) for point in points))
    ]
    knob: Knob = calibrate([*stand, *points])
    return scale.model_copy(
        update={"points": tuple((round(p.position, 4), round(p.value, 6)) for p in knob.points)}
    )


def _agrees(position: float, value: float, point: KnobPoint, rises: bool) -> bool:
    """Whether a place may stand beside a measured one on a scale that rises, or falls."""
    return ((position > point.position) == (value > point.value)) == rises and value != point.value


def with_scale(machine: Machine, setting: str, scale: Scale) -> Machine:
    """The machine with another scale on one control."""
    controls = tuple(
        each.model_copy(update={"scale": scale}) if each.setting == setting else each
        for each in machine.controls
    )
    return machine.model_copy(update={"controls": controls})


def with_basis(machine: Machine, basis: str) -> Machine:
    """The machine with its amps counted in another way."""
    controls = tuple(
        Control.model_validate({**each.model_dump(), "basis": basis}) if each.setting == "amps_set" else each
        for each in machine.controls
    )
    return machine.model_copy(update={"controls": controls})
