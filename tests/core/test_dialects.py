"""The wave engine against integration, equal heat, swap across all machines, locks, knobs, pulse, sound, ranking."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anvilsong.core.arc.sampling import ac_cycles_in_shorter_phase, current_a
from anvilsong.core.arc.sound import loudness_db, power_harmonics
from anvilsong.core.arc.waveform import SHAPES, Wave, cycle_means, work_heat_w
from anvilsong.core.board import resolve, ties
from anvilsong.core.coefficients import nominal
from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.machine.knob import Knob, KnobPoint, calibrate
from anvilsong.core.machine.model import IDEAL, Machine
from anvilsong.core.machine.panel import show_on_panel
from anvilsong.core.machine.panel_reading import on_panel
from anvilsong.core.model.effects import consequences
from anvilsong.core.model.equal_heat import with_equal_heat
from anvilsong.core.plan.planner import make_plan
from anvilsong.core.registry import with_value
from anvilsong.core.shop.ranking import rank_shop
from anvilsong.core.shop.schools import school_choices
from anvilsong.core.shop.swapping import swap
from anvilsong.demo.machines import CORMORANT, CURLEW, DUNLIN, GANNET, HERON, MACHINES, PLOVER
from anvilsong.demo.shelf import BENCH

C = nominal()
SIMPLE = {"a": {"alloy": "6061", "thickness": "3.2 mm"}, "joint": "butt"}
PLAN = make_plan(read_job(SIMPLE))


def random_waves(count):
    """Waves whose pulse and mix phases hold whole AC cycles, and whose edges fall between samples."""
    rng = np.random.default_rng(7)
    for n in range(count):
        frequency = float(rng.uniform(30, 250))
        k = int(rng.integers(3, 17))
        pulse = (frequency / 20, k / 20, float(rng.uniform(0.1, 0.9))) if n % 3 == 1 else None
        mix = (k / 20, 20 / frequency, float(rng.uniform(0.3, 1.0))) if n % 3 == 2 else None
        shapes = rng.choice(SHAPES, 2)
        yield Wave(
            float(rng.uniform(10, 400)),
            float(rng.integers(50, 350)) / 500,
            frequency,
            float(rng.uniform(-0.5, 0.5)),
            str(shapes[0]),
            str(shapes[1]),
            pulse,
            mix,
        )


def test_closed_forms_agree_with_integration_for_a_thousand_waves():
    samples = 60_000
    for wave in random_waves(1000):
        cycles = 20 if wave.pulse or wave.mix else 1
        time = (np.arange(samples) + 0.5) / samples * cycles / wave.frequency_hz
        current, means = current_a(wave, time), cycle_means(wave)
        ep, en = current[current > 0].sum() / samples, -current[current < 0].sum() / samples
        assert (ep, en) == pytest.approx((float(means.ep), float(means.en)), rel=1e-3)
        assert np.sqrt((current**2).mean()) == pytest.approx(float(means.rms), rel=1e-3)


@given(st.sampled_from(SHAPES), st.sampled_from(SHAPES), st.floats(0.15, 0.6), st.floats(-0.4, 0.3))
def test_equal_heat_between_shapes(first, second, share, trim):
    before = PLAN.settings.model_copy(update={"shape_en": first, "shape_ep": first})
    after = with_equal_heat(
        before,
        before.model_copy(
            update={"shape_en": second, "shape_ep": second, "ep_share": share, "ep_trim": trim}
        ),
    )
    assert float(work_heat_w(after.wave(), C)) == pytest.approx(
        float(work_heat_w(before.wave(), C)), rel=1e-9
    )


@pytest.mark.parametrize("mine", MACHINES, ids=lambda m: m.name)
@pytest.mark.parametrize("theirs", MACHINES, ids=lambda m: m.name)
def test_swap_keeps_heat_across_all_pairs(theirs, mine):
    for shape in theirs.shapes:
        start = with_value(with_value(PLAN.settings, "shape_en", shape), "shape_ep", shape)
        start = with_value(start, "amps_set", 90.0)
        values = {
            line.setting: line.value for line in show_on_panel(start, theirs).lines if line.value is not None
        }
        result = swap(values, theirs, mine, start)
        within = mine.least_a < result.mine.amps_set < mine.most_a
        # Kept is what the panel's own steps keep, and what they miss is said.
        assert result.keeps_heat or any("Heat" in line for line in result.differs)
        amps = next(line for line in result.panel.lines if line.setting == "amps_set")
        step = mine.control("amps_set").scale.step
        assert result.keeps_heat == (abs(result.heat_mine_w / result.heat_theirs_w - 1) <= 0.01)
        if within:
            assert abs(result.heat_mine_w / result.heat_theirs_w - 1) <= 0.01 + 0.5 * step / amps.value
        assert result.mine == on_panel(result.mine, mine)
        assert result.not_along
        # What my panel shows is what mine says, within its steps.
        assert not amps.clipped or not within


def test_swap_by_hand():
    """30 % on one panel is 70 % on another; 100 A of sine rms is 90 A mean, 141 A peak, and its heat in a square wave is 90 A."""
    values = {"amps_set": 100.0, "post_flow_s": 10.0}
    result = swap(
        values, CORMORANT, HERON, PLAN.settings.model_copy(update={"ep_share": 0.5, "frequency_hz": 50})
    )
    assert result.theirs.amps_set == pytest.approx(141.4, abs=0.1)
    assert (result.theirs.ep_share, result.theirs.frequency_hz, result.theirs.shape_en) == (0.5, 50, "sine")
    assert (result.mine.shape_en, result.keeps_heat) == ("sine", True)
    curlew = {"amps_set": 150.0, "ep_share": 30.0, "frequency_hz": 100.0, "shape_en": 0.0}
    shown = {line.setting: line.shown for line in swap(curlew, CURLEW, HERON, PLAN.settings).panel.lines}
    assert (shown["ep_share"], shown["amps_set"], shown["shape_en"]) == ("70", "150", "Steep")
    shown = {line.setting: line.shown for line in swap(curlew, CURLEW, PLOVER, PLAN.settings).panel.lines}
    assert shown["shape_en"] == "Flat"
    assert shown["amps_set"] == "150"  # mean amps: 176 A of soft peaks carry the heat of 150 A of square
    with pytest.raises(BadInput, match="Curlew 220 has no such control"):
        swap({"ep_trim": 5.0}, CURLEW, HERON, PLAN.settings)


@settings(max_examples=60, deadline=None)
@given(
    st.sampled_from(["ep_share", "amps_set", "amps_run", "frequency_hz", "ep_trim", "travel_mm_s"]),
    st.floats(0, 1),
)
def test_solving_around_a_lock_keeps_the_limits_or_names_the_conflict(key, where):
    low, high = {
        "ep_share": (0.15, 0.6),
        "amps_set": (90, 260),
        "amps_run": (90, 260),
        "frequency_hz": (40, 200),
        "ep_trim": (-0.45, 0.2),
        "travel_mm_s": (2.0, 6.0),
    }[key]
    value = low + where * (high - low)
    start = with_value(PLAN.settings, key, value)
    solved = resolve(PLAN.job, start, {key}, IDEAL, BENCH)
    kept = {
        "ep_share": solved.settings.ep_share,
        "amps_set": solved.settings.amps_set,
        "amps_run": solved.settings.amps_run,
        "frequency_hz": solved.settings.frequency_hz,
    }
    kept |= {"ep_trim": solved.settings.ep_trim, "travel_mm_s": solved.settings.travel_mm_s}
    assert kept[key] == pytest.approx(value)
    seen = consequences(PLAN.job, solved.settings, IDEAL)
    broken = {
        "tungsten": seen.tungsten_load > 0.85 + 2e-3 or seen.tungsten_load_set > 1.05 + 2e-3,
        "heat": abs(seen.work_heat_w / seen.heat_wanted_w - 1) > 0.15,
        "border": seen.border_mm < 0.29,
        "half": seen.shortest_half_ms < IDEAL.least_half_ms - 1e-6,
    }
    assert not any(broken.values()) or solved.conflicts
    if not solved.conflicts:
        assert seen.melt_through < 1


def test_a_locked_share_moves_the_tungsten_and_locked_amps_move_the_hand():
    rich = resolve(PLAN.job, with_value(PLAN.settings, "ep_share", 0.55), {"ep_share"}, IDEAL, BENCH)
    assert rich.settings.tungsten.diameter_mm > PLAN.settings.tungsten.diameter_mm
    assert {"amps_run", "amps_set", "tungsten_mm"} <= set(rich.moved)
    hot = resolve(PLAN.job, with_value(PLAN.settings, "amps_run", 145.0), {"amps_run"}, IDEAL, BENCH)
    assert hot.settings.travel_mm_s > PLAN.settings.travel_mm_s
    assert consequences(PLAN.job, hot.settings).work_heat_w == pytest.approx(
        consequences(PLAN.job, hot.settings).heat_wanted_w, rel=0.01
    )
    bound = resolve(
        PLAN.job,
        with_value(PLAN.settings, "ep_share", 0.55),
        {"ep_share", "tungsten_mm", "amps_set", "travel_mm_s"},
        IDEAL,
        BENCH,
    )
    assert "tungsten_mm" in [conflict.setting for conflict in bound.conflicts]


def test_ties_say_which_lanes_fight():
    def pairs(machine=IDEAL, **changes):
        s = PLAN.settings
        for key, value in changes.items():
            s = with_value(s, key, value)
        return {(tie.a, tie.b) for tie in ties(s, consequences(PLAN.job, s, machine), machine)}

    assert pairs() == set()
    assert ("ep_share", "tungsten_mm") in pairs(ep_share=0.55)
    assert ("pulse_rate_hz", "frequency_hz") in pairs(pulse_rate_hz=40.0)
    assert ("ep_share", "frequency_hz") in pairs(frequency_hz=250.0, ep_share=0.15)
    assert ("amps_set", "travel_mm_s") in pairs(Machine(name="Weak", duty={"amps": 60, "share": 0.2}))


POINTS = st.lists(
    st.tuples(st.floats(0, 100), st.floats(0.01, 400)),
    min_size=2,
    max_size=8,
    unique_by=(lambda p: round(p[0], 2), lambda p: round(p[1], 2)),
)


@given(POINTS, st.booleans(), st.floats(0, 1), st.floats(0, 1))
def test_a_knob_is_monotone_through_any_valid_points(points, falling, a, b):
    points = list(
        zip(
            sorted(round(p[0], 2) for p in points),
            sorted((round(p[1], 2) for p in points), reverse=falling),
            strict=True,
        )
    )
    knob = calibrate([KnobPoint(position=x, value=y, sd=0.1) for x, y in points])
    low, high = points[0][0], points[-1][0]
    left, right = sorted((low + a * (high - low), low + b * (high - low)))
    assert (
        (knob.value_at(left) >= knob.value_at(right) - 1e-9)
        if falling
        else (knob.value_at(left) <= knob.value_at(right) + 1e-9)
    )
    for x, y in points:
        assert knob.value_at(x) == pytest.approx(y)
        assert knob.sd_at(x) == pytest.approx(0.1, abs=1e-6)
    assert knob.scale(0.25).points == tuple((x, y) for x, y in points)


def test_more_points_are_surer_and_contradictions_are_named():
    ends = [KnobPoint(position=7, value=15), KnobPoint(position=17, value=45)]
    few, more = calibrate(ends), calibrate([*ends, KnobPoint(position=12, value=28)])
    assert few.sd_at(14) > more.sd_at(14) > 0
    with pytest.raises(BadInput, match=r"12 → 50 and 17 → 45” cannot be used; values rise along this knob"):
        calibrate([*ends, KnobPoint(position=12, value=50)])
    with pytest.raises(BadInput, match="one position has one value, not 15 and 20"):
        calibrate([*ends, KnobPoint(position=7, value=20)])
    with pytest.raises(BadInput, match="give at least two"):
        calibrate(ends[:1])


def test_pulse_by_school():
    dab = make_plan(read_job(SIMPLE | {"purposes": ["appearance"], "school": {"pulse": "dab"}}))
    assert 0.8 <= dab.settings.pulse.rate_hz <= 2.5
    assert dab.consequences.ripple_mm == pytest.approx(dab.settings.travel_mm_s / dab.settings.pulse.rate_hz)
    assert dab.consequences.work_heat_w == pytest.approx(dab.consequences.heat_wanted_w, rel=0.01)
    assert dab.settings.amps_run > 1.5 * PLAN.settings.amps_run
    fast = make_plan(
        read_job({"a": {"alloy": "5052", "thickness": 0.8}, "joint": "edge", "school": {"pulse": "fast"}})
    )
    assert ac_cycles_in_shorter_phase(fast.settings.wave()) >= 2
    assert (fast.settings.pulse.peak_share, fast.settings.pulse.base_share) == (0.33, 0.20)
    none = make_plan(read_job(SIMPLE | {"machine": "Dunlin 180", "school": {"pulse": "dab"}}), DUNLIN)
    assert none.settings.pulse is None
    assert "no_pulse" in [warning.code for warning in none.warnings]
    with pytest.raises(BadInput, match="a pulse and mixed AC/DC do not go together"):
        with_value(with_value(PLAN.settings, "pulse_rate_hz", 2.0), "mix_ac_share", 0.7)


def test_sound_follows_the_power():
    def strongest(wave):
        return max(power_harmonics(wave), key=lambda pair: pair[1] / pair[0])[0]

    assert strongest(Wave(100, 0.5, 100, 0, "sine", "sine")) == pytest.approx(200)
    assert not any(
        abs(hertz - 100) < 1 for hertz, _ in power_harmonics(Wave(100, 0.5, 100, 0, "sine", "sine"))
    )
    assert any(abs(hertz - 100) < 1 for hertz, _ in power_harmonics(Wave(100, 0.3, 100, 0, "sine", "sine")))
    by_shape = [loudness_db(Wave(150, 0.3, 100, 0, shape, shape)) for shape in ("square", "soft", "sine")]
    assert by_shape == sorted(by_shape, reverse=True)
    assert loudness_db(Wave(200, 0.3, 100)) > loudness_db(Wave(100, 0.3, 100))


def test_the_shop_is_ranked_with_reasons():
    fits = rank_shop(read_job({"a": {"alloy": "6082", "thickness": 6}, "joint": "tee"}), MACHINES)
    assert [fit.verdict for fit in fits] == sorted(
        (fit.verdict for fit in fits), key=["does it", "just", "no"].index
    )
    assert len(fits) == len(MACHINES)
    by_name = {fit.machine: fit for fit in fits}
    assert by_name["Dunlin 180"].verdict == "no"
    assert "Stops at 180 A" in by_name["Dunlin 180"].reasons[0]
    assert by_name[GANNET.name].verdict in ("does it", "just")
    assert rank_shop(read_job({"a": {"alloy": "7075", "thickness": 6}, "joint": "tee"}), MACHINES) == []
    foil = {
        fit.machine: fit
        for fit in rank_shop(read_job({"a": {"alloy": "5083", "thickness": 0.4}, "joint": "edge"}), MACHINES)
    }
    assert foil[CORMORANT.name].verdict == "no"


def test_every_school_says_what_it_gains_and_costs():
    questions = {
        name: field.annotation.__args__ for name, field in type(PLAN.job.school).model_fields.items()
    }
    assert {
        question: tuple(row.school for row in rows) for question, rows in school_choices().items()
    } == questions


@pytest.mark.parametrize(
    ("position", "left", "right"),
    [(0.0, 0, 1), (1.0, 0, 1), (3.0, 0, 1), (4.0, 0, 1), (4.5, 1, 2), (7.0, 1, 2), (9.9, 2, 3), (10.0, 2, 3)],
)
def test_how_sure_a_knob_is_between_its_points(position, left, right):
    """The points' own spread, and 0.18 of their difference half way between."""
    known = [(0.0, 10.0, 1.0), (4.0, 50.0, 3.0), (9.0, 90.0, 2.0), (10.0, 200.0, 0.0)]
    knob = Knob(points=tuple(KnobPoint(position=x, value=y, sd=sd) for x, y, sd in known))
    (x0, y0, sd0), (x1, y1, sd1) = known[left], known[right]
    s = (position - x0) / (x1 - x0)
    guess = 0.18 * abs(y1 - y0) * 4 * s * (1 - s)
    assert knob.sd_at(position) == pytest.approx(math.hypot(sd0 + s * (sd1 - sd0), guess))
    assert knob.sd_at(-5) == pytest.approx(1.0)  # the ends hold
    assert knob.sd_at(50) == pytest.approx(0.0, abs=1e-9)
