"""Panels: there and back within a step, clipping said aloud."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anvilsong.core.board import board
from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.machine.model import Control, Duty, LowSupply, Machine, Scale, at_supply
from anvilsong.core.machine.panel import show_on_panel
from anvilsong.core.machine.panel_reading import read_panel
from anvilsong.core.machine.scales import figure_on_panel, meaning_of, past_end, to_canonical, to_panel_value
from anvilsong.core.plan.planner import make_plan
from anvilsong.core.registry import get_value, with_value
from anvilsong.core.said import in_units as text
from anvilsong.core.settings import Pulse
from anvilsong.demo.machines import CURLEW, DUNLIN, HERON, MACHINES

PLAN = make_plan(read_job({"a": {"alloy": "6061", "thickness": "3.2 mm"}, "joint": "butt"}))


def shown(machine, key, value):
    panel = show_on_panel(with_value(PLAN.settings, key, value), machine)
    return next(line for line in panel.lines if line.setting == key)


def test_one_balance_in_three_dialects():
    assert (shown(CURLEW, "ep_share", 0.30).shown, CURLEW.control("ep_share").scale.unit) == ("30", "% pos")
    assert (shown(HERON, "ep_share", 0.30).shown, HERON.control("ep_share").scale.unit) == ("70", "% neg")
    assert shown(DUNLIN, "ep_share", 0.30).shown == "+2"
    assert shown(DUNLIN, "ep_share", 0.48).shown == "−10"
    assert shown(HERON, "ep_trim", -0.25).shown == "75"


def test_clipping_is_said():
    line = shown(CURLEW, "ep_share", 0.55)
    assert line.clipped
    assert text(line.said) == "Cleaning stops at 50 % pos: AC balance is 50 % EP instead of 55 % EP."
    wave = show_on_panel(with_value(PLAN.settings, "shape_en", "triangle"), CURLEW)
    assert any("has no triangle" in line.said for line in wave.lines)


ODD = Machine(
    name="Odd one",
    least_a=3,
    most_a=123,
    controls=(
        Control(
            setting="amps_set",
            label="Oomph",
            basis="rms",
            scale=Scale(points=((0, 3), (1, 9), (4, 40), (11, 123)), step=0.05, decimals=2),
        ),
        Control(
            setting="ep_share",
            label="Whiteness",
            scale=Scale(points=((-3, 0.61), (0, 0.5), (2, 0.11)), step=0.01, decimals=2, signed=True),
        ),
        Control(
            setting="frequency_hz",
            label="Pitch",
            scale=Scale(points=((0, 20), (100, 250)), step=1, shown_as="percent"),
        ),
    ),
)


@pytest.mark.parametrize("machine", [*MACHINES, ODD], ids=lambda m: m.name)
@settings(max_examples=250, deadline=None)
@given(data=st.data())
def test_round_trip_within_one_step(machine, data):
    """Canonical → panel → canonical moves nothing by more than a step of the panel, and every clip is said."""
    values, steps = {}, {}
    for control in machine.controls:
        scale = control.scale
        if scale.names:
            values[control.setting] = data.draw(st.sampled_from([point[0] for point in scale.points]))
            continue
        if control.setting.startswith("mix"):
            continue
        values[control.setting] = data.draw(st.floats(scale.points[0][0], scale.points[-1][0]))
        steps[control.setting] = scale.step
    if machine.name == "Gannet 350":
        # The plus half hangs on the minus half: keep it inside what settings allow.
        values["ep_trim"] = min(
            max(values["ep_trim"], 0.3 * values["amps_set"]), 1.5 * values["amps_set"], 350
        )
    if "pulse_base_share" in values and machine.control("pulse_base_share").basis == "amps":
        values["amps_set"] = max(values["amps_set"], 20)
        values["pulse_base_share"] = min(values["pulse_base_share"], 0.9 * values["amps_set"])
    settings_ = read_panel(values, machine, PLAN.settings)
    shown_now = {line.setting: line for line in show_on_panel(settings_, machine).lines}
    for key, value in values.items():
        line = shown_now[key]
        assert abs(line.value - value) <= steps.get(key, 0) * 1.0001 + 1e-6 or (line.clipped and line.said), (
            key
        )
    back = show_on_panel(
        read_panel({key: shown_now[key].value for key in values}, machine, settings_), machine
    )
    for line in back.lines:
        if line.setting in steps:
            assert abs(line.value - shown_now[line.setting].value) <= steps[line.setting] * 1.0001 + 1e-9, (
                line.setting
            )


@pytest.mark.parametrize("machine", MACHINES, ids=lambda m: m.name)
def test_clipping_is_always_reported(machine):
    for control in machine.controls:
        if control.scale.names:
            continue
        meanings = [point[1] for point in control.scale.points]
        # What prints as the end is the end; anything past that is said.
        slack = 0.0 if control.scale.is_fixed else past_end(control.scale)
        for end, way in ((min(meanings), -1), (max(meanings), 1)):
            assert not to_panel_value(control.scale, end + way * 0.99 * slack)[1]
            panel_value, clipped = to_panel_value(control.scale, end + way * (1.01 * slack + 0.01))
            assert clipped
            assert panel_value in (control.scale.points[0][0], control.scale.points[-1][0])


@given(
    st.lists(
        st.tuples(st.floats(0, 100), st.floats(0.05, 0.6)),
        min_size=3,
        max_size=8,
        unique_by=(lambda p: round(p[0], 1), lambda p: round(p[1], 3)),
    ),
    st.floats(0, 1),
)
def test_a_curve_is_monotone_and_inverts(points, where):
    points = list(
        zip(
            sorted(round(p[0], 1) for p in points),
            sorted((round(p[1], 3) for p in points), reverse=True),
            strict=True,
        )
    )
    scale = Scale(points=tuple(points), step=1e-4, decimals=3)
    low, high = points[0][0], points[-1][0]
    a, b = low + where * (high - low), low + min(1, where + 0.1) * (high - low)
    assert to_canonical(scale, a) >= to_canonical(scale, b) - 1e-12
    value, clipped = to_panel_value(scale, to_canonical(scale, a))
    assert not clipped
    assert to_canonical(scale, value) == pytest.approx(to_canonical(scale, a), abs=1e-4)


def test_amps_by_mean_and_rms():
    for basis, factor in (("mean", 0.637), ("rms", 0.707)):
        machine = Machine(
            name="Odd",
            controls=(
                Control(
                    setting="amps_set",
                    label="A",
                    basis=basis,
                    scale=Scale(points=((5, 5), (400, 400)), step=0.1, decimals=1),
                ),
            ),
        )
        sine = with_value(with_value(PLAN.settings, "shape_en", "sine"), "shape_ep", "sine")
        line = show_on_panel(sine, machine).lines[0]
        assert line.value == pytest.approx(sine.amps_set * factor, abs=0.15)
        assert read_panel({"amps_set": line.value}, machine, sine).amps_set == pytest.approx(
            sine.amps_set, abs=0.1
        )


def test_senseless_panels_are_refused():
    with pytest.raises(ValueError, match="must rise all the way or fall all the way"):
        Scale(points=((0, 0.1), (5, 0.3), (10, 0.2)))
    with pytest.raises(ValueError, match="panel's values must rise"):
        Scale(points=((5, 0.1), (5, 0.3)))
    with pytest.raises(BadInput, match="has no such control"):
        read_panel({"ep_trim": 80}, DUNLIN, PLAN.settings)


@pytest.mark.parametrize(
    ("setting", "basis", "figure"),
    [
        ("amps_set", "peak", 120.0),
        ("amps_set", "mean", 120 * 0.7 * 1 + 120 * 0.9 * 0.3),
        ("amps_set", "rms", math.sqrt(0.7 * 120**2 + 0.3 * 108**2)),
        ("amps_set", "both_halves", 114.0),
        ("ep_trim", "ep_amps", 108.0),
        ("ep_trim", "value", -0.1),
        ("pulse_base_share", "amps", 48.0),
        ("pulse_base_share", "value", 0.4),
        ("start_amps", "share_of_set", 0.125),
        ("start_amps", "value", 15.0),
    ],
)
def test_what_a_controls_figure_means_and_back(setting, basis, figure):
    """120 A set, 30 % EP trimmed by a tenth, a pulse to 40 %: what each scale would have to show."""
    plan = make_plan(read_job({"a": {"alloy": "6061", "thickness": 3}, "joint": "butt"}))
    pulse = Pulse(rate_hz=1.0, peak_share=0.5, base_share=0.4)
    put = {
        "amps_set": 120.0,
        "ep_share": 0.3,
        "ep_trim": -0.1,
        "start_amps": 15.0,
        "shape_en": "square",
        "shape_ep": "square",
    }
    steady = plan.settings.model_copy(update=put)
    control = Control(setting=setting, label="It", basis=basis, scale={"points": [[0, 0], [500, 500]]})
    shown = steady if setting != "pulse_base_share" else steady.model_copy(update={"pulse": pulse})
    assert figure_on_panel(shown, control) == pytest.approx(figure)
    if setting == "pulse_base_share":
        assert figure_on_panel(steady, control) is None  # its group is off
    assert meaning_of(figure, control, shown) == pytest.approx(get_value(shown, setting))


@pytest.mark.parametrize("machine", MACHINES, ids=lambda m: m.name)
def test_a_lane_ends_where_its_control_does(machine):
    """Of controls that show the value itself, a pulse's rate and the slopes among them."""
    job = read_job({"a": {"alloy": "6061", "thickness": 3}, "joint": "butt", "control": "switch_4"})
    plan = make_plan(job, machine)
    lanes = {lane.key: lane for lane in board(plan, plan.settings, machine)}
    for control in machine.controls:
        lane = lanes.get(control.setting)
        if lane is None or control.basis != "value" or control.scale.is_fixed or lane.names:
            continue
        meanings = [meaning for _, meaning in control.scale.points]
        stand = [each for each in (lane.value, lane.planned) if each is not None]
        assert lane.low >= min(*meanings, *stand) - 1e-9, control.label
        assert lane.high <= max(*meanings, *stand) + 1e-9, control.label


def _digits(setting, low, high, step, basis="value"):
    decimals = 3 if step < 0.01 else 2 if step < 0.1 else 1
    scale = Scale(points=((low, low), (high, high)), step=step, decimals=decimals)
    return Control(setting=setting, label=f"{setting} by {basis}", basis=basis, scale=scale)


TIMED = Machine(
    name="Timed",
    controls=(
        _digits("pulse_rate_hz", 0.001, 10, 0.001, "base_s"),
        _digits("pulse_peak_share", 0.001, 10, 0.001, "peak_s"),
        _digits("pulse_base_share", 1, 400, 0.1, "amps"),
        _digits("mix_cycle_s", 0.2, 20, 0.1, "per_second"),
    ),
)


@settings(max_examples=150, deadline=None)
@given(rate=st.floats(0.12, 80), share=st.floats(0.05, 0.95), base=st.floats(0.05, 0.9))
def test_a_pulse_as_two_times_there_and_back(rate, share, base):
    """Peak and base in seconds, base in amps: shown, read, the same pulse within the panel's steps."""
    pulse = Pulse(rate_hz=rate, peak_share=share, base_share=base)
    planned = PLAN.settings.model_copy(update={"pulse": pulse})
    lines = {line.setting: line for line in show_on_panel(planned, TIMED).lines}
    peak_s, base_s = lines["pulse_peak_share"].value, lines["pulse_rate_hz"].value
    for shown_s, meant_s in ((peak_s, share / rate), (base_s, (1 - share) / rate)):
        assert shown_s == pytest.approx(min(max(meant_s, 0.001), 10), abs=0.00051)
    if any(line.clipped for line in lines.values()):
        return
    values = {key: line.value for key, line in lines.items() if line.value is not None}
    back = read_panel(values, TIMED, planned.model_copy(update={"pulse": None})).pulse
    assert 1 / back.rate_hz == pytest.approx(peak_s + base_s)
    assert back.peak_share == pytest.approx(peak_s / (peak_s + base_s))
    assert back.base_share * planned.amps_set == pytest.approx(base * planned.amps_set, abs=0.06)
    if 2 * peak_s + base_s > 9.9:  # a pulse comes once in ten seconds at least
        return
    # What only one of the two times is read of keeps the other.
    one = read_panel(
        {"pulse_peak_share": 2 * peak_s}, TIMED, planned.model_copy(update={"pulse": back})
    ).pulse
    assert (1 - one.peak_share) / one.rate_hz == pytest.approx(base_s)
    assert one.peak_share / one.rate_hz == pytest.approx(2 * peak_s)


def test_one_time_of_a_pulse_that_is_off_switches_nothing_on():
    steady = PLAN.settings.model_copy(update={"pulse": None})
    assert read_panel({"pulse_peak_share": 0.2}, TIMED, steady).pulse is None
    on = read_panel({"pulse_peak_share": 0.2, "pulse_rate_hz": 0.3}, TIMED, steady).pulse
    assert (on.rate_hz, on.peak_share) == (pytest.approx(2), pytest.approx(0.4))


def test_a_mix_counted_by_the_second():
    mixed = with_value(PLAN.settings, "mix_cycle_s", 0.4)
    line = next(line for line in show_on_panel(mixed, TIMED).lines if line.setting == "mix_cycle_s")
    assert (line.shown, line.canonical) == ("2.5", pytest.approx(0.4))
    assert read_panel({"mix_cycle_s": 4.0}, TIMED, mixed).mix.cycle_s == pytest.approx(0.25)


def test_the_lower_of_two_voltages():
    low = LowSupply(volts=115, most_a=130, duty=Duty(amps=130, share=0.3))
    machine = HERON.model_copy(update={"low_supply": low})
    assert (at_supply(machine, 115).most_a, at_supply(machine, 138).duty.share) == (130, 0.3)
    assert at_supply(machine, 139) == machine
    assert at_supply(HERON, 115) == HERON
    with pytest.raises(BadInput, match="no more amps"):
        validated(Machine, machine.model_dump() | {"low_supply": low.model_dump() | {"most_a": 400}})
