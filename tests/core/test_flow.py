"""Traces beside a panel: how it counts its amps, what a knob means where it stood, and what differs."""

from dataclasses import replace

import numpy as np
import pytest

from anvilsong.core.arc.waveform import SHAPES, Wave, ac_means
from anvilsong.core.complaints import validated
from anvilsong.core.errors import AnvilsongError
from anvilsong.core.flow import (
    Found,
    Shown,
    TraceReading,
    beside,
    how_counted,
    turned_picture,
    turned_reading,
    with_basis,
    with_points,
    with_scale,
)
from anvilsong.core.machine import Control, KnobPoint, Machine, Scale, amps_on_basis, to_canonical
from anvilsong.core.said import in_units
from anvilsong.core.torch.bottle import at_rest, gone_between, welded
from anvilsong.core.torch.cylinder import gas_left_l
from anvilsong.core.torch.kit import Cylinder
from anvilsong.core.trials import SoundTest, TraceTest, counted_by, flowing_beside, measured_point, was_set
from anvilsong.core.trials.traces import NOTHING_SET
from anvilsong.instruments.trace import drawn_trace
from anvilsong.instruments.trace.probe import Probe, recorded

WAYS = ("peak", "mean", "rms", "both_halves")
DIALS = (
    Control(setting="amps_set", label="Amps", scale=Scale(points=((5, 5), (200, 200)), unit="A")),
    Control(setting="ep_share", label="Clean", scale=Scale(points=((0, 0.1), (10, 0.5)), step=0.1, decimals=1)),
    Control(setting="frequency_hz", label="Hz", scale=Scale(points=((20, 20), (250, 250)))),
    Control(setting="ep_trim", label="EP", scale=Scale(points=((50, -0.5), (150, 0.5)), unit="%")),
    Control(setting="shape_en", label="Wave", scale=Scale(points=((0, 0), (1, 3)), shown_as="names", names=("SQ", "SIN"))),
)  # fmt: skip
MACHINE = Machine(name="Grey box", controls=DIALS)


def traced(wave, panel=None, probe=None, seconds=0.5, seed=1):
    reading, picture = drawn_trace(recorded(wave, probe or Probe(), seconds, 0.06, seed))
    return TraceTest(panel=panel or {}, reading=reading, picture=picture)


def three_traces(rng):
    """Three waves as somebody would set them who wants to know: other shares, amplitudes and shapes."""
    shapes = rng.permutation(np.array(SHAPES))[:3]
    for n in range(3):
        shape = str(shapes[n])
        yield Wave(
            float(rng.uniform(60, 160)), float(rng.uniform(0.15, 0.45)), float(rng.uniform(60, 140)),
            float((-0.3, 0.0, 0.25)[n] + rng.uniform(-0.05, 0.05)), shape, shape,
        )  # fmt: skip


def test_how_a_panel_counts_is_found_from_three_traces():
    right = wrong = 0
    for number in range(24):  # bench/trace.py runs a hundred
        rng, true = np.random.default_rng([11, number]), WAYS[number % 4]
        scale, shown = float(rng.uniform(0.9, 1.1)), []
        for n, wave in enumerate(three_traces(rng)):
            probe = Probe(40_000.0, 20_000.0, 0.012 * wave.amps, float(rng.normal(0, 3)), 400.0, 12)
            figure = round(float(amps_on_basis(wave, true)) * scale)
            shown.append(Shown(figure, traced(wave, None, probe, seed=100 * number + n).reading))
        found = how_counted(shown)
        right += found.told == true
        wrong += found.told not in (true, None)
        if found.told:
            assert found.ways[0].factor == pytest.approx(scale, rel=0.02)
    assert right >= 23
    assert wrong == 0


def test_what_three_alike_traces_cannot_part_is_not_told():
    square = Wave(100.0, 0.3, 100.0)
    alike = [Shown(100 + 10 * n, traced(replace(square, amps=100.0 + 10 * n)).reading) for n in range(3)]
    found = how_counted(alike)
    assert found.told is None
    assert set(found.alike) == set(WAYS)  # a square of equal halves has one figure for all
    assert how_counted(alike[:2]) is None
    assert how_counted([*alike[:2], Shown(120, TraceReading())]) is None


def test_amps_are_counted_as_the_wave_has_them():
    wave = Wave(140.0, 0.25, 80.0, -0.2, "sine", "triangle")
    reading = traced(wave).reading
    for way in WAYS:
        assert reading.amps_counted(way).value == pytest.approx(float(amps_on_basis(wave, way)), rel=0.015)
    assert reading.cycle_rms_a == pytest.approx(float(ac_means(wave).rms), rel=0.01)
    pulsed = traced(replace(wave, pulse=(2.0, 0.5, 0.3)), seconds=2.0).reading
    assert pulsed.amps_counted("mean").value == pytest.approx(float(ac_means(wave).both), rel=0.02)


@pytest.mark.parametrize("seed", range(3))
def test_a_knob_of_five_places_from_five_traces_is_within_three_per_cent(seed):
    rng = np.random.default_rng(seed)
    bend = float(rng.uniform(0.6, 1.7))

    def truth(position):
        return 0.12 + 0.4 * (position / 10) ** bend

    points = []
    for n, position in enumerate((0.0, 2.5, 5.0, 7.5, 10.0)):
        wave = Wave(110.0, truth(position), 90.0, 0.0, "soft", "soft")
        test = traced(wave, {"ep_share": position}, Probe(noise_a=2.0), seed=seed * 10 + n)
        points.append(measured_point(test, MACHINE, "ep_share"))
    scale = with_points(DIALS[1].scale, points)
    assert len(scale.points) == 5
    for position in np.linspace(0, 10, 41):
        assert to_canonical(scale, float(position)) == pytest.approx(truth(position), rel=0.03)
    corrected = with_scale(MACHINE, "ep_share", scale)
    read = was_set(
        TraceTest(panel={"ep_share": 2.5}, reading=TraceReading(), picture=test.picture), corrected
    )
    assert read.ep_share == pytest.approx(truth(2.5), rel=0.02)


def test_what_differs_is_told_by_how_much_and_what_is_as_set_is_not():
    panel = {"amps_set": 120.0, "ep_share": 5.0, "frequency_hz": 100.0, "ep_trim": 80.0, "shape_en": 0.0}
    test = traced(Wave(108.0, 0.30, 88.0, -0.2, "square", "square"), panel)
    rows = {row.setting: row for row in flowing_beside(test, MACHINE)}
    assert rows["amps_set"].apart == pytest.approx(-0.1, abs=0.01)
    assert rows["frequency_hz"].apart == pytest.approx(-0.12, abs=0.005)
    assert {key for key, row in rows.items() if row.differs} == {"amps_set", "frequency_hz"}
    assert (rows["shape_en"].was_set, rows["shape_en"].flows) == ("square", "square")
    sine = traced(Wave(120.0, 0.30, 100.0, -0.2, "sine", "sine"), panel)
    assert [row.setting for row in flowing_beside(sine, MACHINE) if row.differs] == ["shape_en", "shape_ep"]
    pulsed = traced(Wave(120.0, 0.30, 100.0, -0.2, pulse=(2.0, 0.4, 0.4)), panel, seconds=2.0)
    assert {row.setting for row in flowing_beside(pulsed, MACHINE) if row.differs} == {
        "pulse_rate_hz", "pulse_peak_share", "pulse_base_share",
    }  # fmt: skip
    expected = NOTHING_SET.model_copy(update={"pulse": pulsed.reading.flowing(NOTHING_SET).pulse})
    assert beside(traced(Wave(100.0, 0.3, 100.0)).reading, expected)[-1].flows is None


def test_amps_that_are_no_amps_say_nothing_of_the_panel():
    wave = Wave(108.0, 0.30, 88.0, -0.2)
    reading = traced(wave).reading.model_copy(update={"is_scaled": False})
    test = TraceTest(
        panel={"amps_set": 120.0, "ep_trim": 80.0}, reading=reading, picture=traced(wave).picture
    )
    assert "amps_set" not in {row.setting for row in flowing_beside(test, MACHINE)}
    assert measured_point(test, MACHINE, "amps_set") is None
    assert measured_point(test, MACHINE, "ep_trim").value == pytest.approx(-0.2, abs=0.01)


def test_a_clamp_the_other_way_round_is_turned_back():
    wave = Wave(118.0, 0.27, 92.0, -0.1, "soft", "sine")
    right = traced(wave)
    recording = recorded(wave, Probe(), 0.5, 0.06, 1)
    reading, picture = drawn_trace(replace(recording, amps=-recording.amps))
    assert reading.ep_share.value == pytest.approx(0.73, abs=0.01)
    back = turned_reading(reading)
    assert back.ep_share.value == pytest.approx(0.27, abs=0.01)
    assert back.ep_share.low <= back.ep_share.value <= back.ep_share.high
    assert back.en_a.value == pytest.approx(118, rel=0.01)
    assert back.ep_a.value == pytest.approx(106.2, rel=0.01)
    assert (back.shape_en, back.shape_ep) == ("soft", "sine")
    assert back.dc_a == pytest.approx(right.reading.dc_a, rel=0.02)
    drawn = turned_picture(picture, reading)
    assert max(drawn.highs) == pytest.approx(max(right.picture.highs), rel=0.03)
    assert min(drawn.lows) == pytest.approx(min(right.picture.lows), rel=0.03)
    places, amps = np.array(drawn.cycle).T
    theirs = np.interp(places, *np.array(right.picture.cycle).T, period=1.0)
    assert np.corrcoef(amps, theirs)[0, 1] > 0.995
    begin = np.array(right.picture.begins_s)
    assert min(abs((begin - drawn.begins_s[3] + 0.5 / 92) % (1 / 92) - 0.5 / 92)) < 0.05 / 92
    assert turned_reading(TraceReading()) == TraceReading(zero_a=-0.0)


def test_a_measured_place_takes_the_stead_of_the_one_it_stands_at():
    point = KnobPoint(position=5.04, value=0.27)
    scale = with_points(Scale(points=((0, 0.1), (5, 0.3), (10, 0.5)), step=0.1), [point])
    assert scale.points == ((0, 0.1), (5.04, 0.27), (10, 0.5))
    # What was measured last wins over a place between the ends, and never over an end.
    assert with_points(scale, [KnobPoint(position=7.0, value=0.2)]).points == ((0, 0.1), (7, 0.2), (10, 0.5))
    falling = Scale(points=((0, 0.5), (5, 0.3), (10, 0.1)))
    assert with_points(falling, [KnobPoint(position=7, value=0.35)]).points == (
        (0, 0.5),
        (7, 0.35),
        (10, 0.1),
    )
    with pytest.raises(AnvilsongError, match="rise along this knob"):
        with_points(scale, [KnobPoint(position=7.0, value=0.08)])
    with pytest.raises(AnvilsongError, match="between two ends"):
        with_points(DIALS[4].scale, [point])


def test_another_way_of_counting_changes_what_the_same_figure_means():
    sine = {"amps_set": 100.0, "shape_en": 1.0}
    test = TraceTest(panel=sine, reading=TraceReading(), picture=traced(Wave(1.0, 0.5, 50.0), None, Probe(noise_a=0.01, most_a=3.0)).picture)  # fmt: skip
    assert was_set(test, MACHINE).amps_set == pytest.approx(100)
    by_rms = with_basis(MACHINE, "rms")
    assert was_set(test, by_rms).amps_set == pytest.approx(100 * 2**0.5, rel=1e-6)
    assert by_rms.control("ep_share") == MACHINE.control("ep_share")


def test_counting_and_places_are_found_from_what_the_form_kept():
    tests = []
    for wave, seed in zip(three_traces(np.random.default_rng(5)), range(3), strict=True):
        shown = round(float(amps_on_basis(wave, "rms")))
        tests.append(traced(wave, {"amps_set": float(shown)}, Probe(40_000.0, noise_a=1.0), seed=seed))
    assert counted_by(tests, MACHINE).told == "rms"
    assert counted_by([test.model_copy(update={"panel": {}}) for test in tests], MACHINE) is None
    assert Found.within(5, 1).half_range == 1


def test_what_left_a_bottle_is_a_leak_at_rest_and_a_flow_while_welding():
    bottle = Cylinder(name="Argon one", volume_l=50, full_bar=200)
    gone = gone_between(bottle, 150.0, 130.0)
    assert gone.litres == pytest.approx(gas_left_l(50, 150) - gas_left_l(50, 130))
    assert 100 < gone.error_l < 300
    words = in_units(at_rest(gone, 14.0))
    assert "It leaks" in words
    assert f"{gone.litres / 14:.1f} L an hour" in words
    assert "No leak to be seen" in in_units(at_rest(gone_between(bottle, 150.0, 149.0), 14.0))
    assert "Read it again after" in in_units(at_rest(gone, 0.2))
    assert "went up" in in_units(at_rest(gone_between(bottle, 130.0, 190.0), 14.0))
    for minutes, ball, said in ((gone.litres / 8.0, 8.0, "as the ball shows"), (gone.litres / 12.0, 8.0, "a leak before the torch"),
                                (gone.litres / 5.0, 8.0, "a ball for another gas or pressure")):  # fmt: skip
        told = in_units(welded(gone, 60 * minutes, ball))
        assert said in told, told
        assert f"{gone.litres / minutes:.1f} L/min" in told
    assert "Too little went out" in in_units(welded(gone_between(bottle, 150.0, 149.0), 120.0, 8.0))


def found(value, low=None, high=None):
    return {"value": value, "low": value if low is None else low, "high": value if high is None else high}


@pytest.mark.parametrize(
    "wrong",
    [
        {"en_a": found(0)}, {"ep_a": found(-3)}, {"frequency_hz": found(0)}, {"frequency_hz": found(90, 99, 80)},
        {"ep_share": found(7)}, {"cycle_rms_a": -1}, {"cycle_mean_a": 0},
        {"pulse": {"rate_hz": found(0), "peak_share": found(0.5), "base_share": found(0.5)}},
    ],
)  # fmt: skip
def test_a_file_brings_no_reading_that_a_page_would_fall_over(wrong):
    """What comes in with a logbook is believed no more than what is typed."""
    good = {
        name: found(value)
        for name, value in (("frequency_hz", 90), ("ep_share", 0.3), ("en_a", 9), ("ep_a", 9))
    }
    drawn = {"seconds": 1, "lows": [0], "highs": [0]}
    validated(TraceTest, {"reading": good, "picture": drawn})
    with pytest.raises(AnvilsongError):
        validated(TraceTest, {"reading": good | wrong, "picture": drawn})
    with pytest.raises(AnvilsongError):
        validated(TraceTest, {"reading": good, "picture": drawn | {"lows": [], "highs": []}})
    dabs = {"per_s": found(0), "spread": 0.1, "count": 9}
    for heard in ({"frequency_hz": found(0)}, {"dabs": dabs}):
        with pytest.raises(AnvilsongError):
            validated(SoundTest, {"reading": heard})
