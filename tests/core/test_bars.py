"""The bars beside the board and other short figures: each step of a scale from just inside to just outside."""

import pytest

from anvilsong.core.checks.bars import margins
from anvilsong.core.job import read_job
from anvilsong.core.machine import IDEAL, Machine
from anvilsong.core.model import consequences, situation
from anvilsong.core.plan import make_plan
from anvilsong.core.said import in_units as text
from anvilsong.core.settings import Pulse
from anvilsong.core.shop.swapping import swap
from anvilsong.core.shown import show
from anvilsong.core.torch.gas import shop_rule_l_min
from anvilsong.demo.machines import CURLEW, HERON

JOB = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"})
LOOK = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt", "purposes": ["appearance"]})
PLAN = make_plan(JOB)
SEEN = consequences(JOB, PLAN.settings)


def bar(key, job=JOB, machine=IDEAL, settings=None, **seen):
    """State and words of one bar, with some figures put otherwise."""
    found = margins(situation(job), settings or PLAN.settings, SEEN.model_copy(update=seen), machine)
    one = next(each for each in found if each.key == key)
    return one.state, one.said


@pytest.mark.parametrize(
    ("root", "through", "wanted"),
    [
        (3.0, 0.50, ("good", "safe")),
        (3.0, 0.87, ("good", "safe")),
        (3.0, 0.96, ("near", "near sagging")),
        (3.0, 1.01, ("over", "melts through")),
        (1.51, 0.5, ("good", "safe")),  # a quarter of a 6 mm face
        (1.49, 0.5, ("near", "root is short")),
        (0.0, 0.5, ("over", "root not reached")),
    ],
)
def test_the_bar_of_melting_through(root, through, wanted):
    pool = 6.0 if root else 3.5  # so narrow that no slower hand reaches the root
    assert bar("melt_through", pool_width_mm=pool, root_width_mm=root, melt_through=through) == wanted
    edge = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "edge"})
    if root == 0:  # no root is asked of an edge
        assert bar("melt_through", edge, pool_width_mm=6.0, root_width_mm=0.0, melt_through=0.5) == (
            "good",
            "safe",
        )


@pytest.mark.parametrize(
    ("border", "state", "words"),
    [
        (0.14, "over", "thin"),
        (0.16, "near", "thin"),
        (0.40, "good", "a little thin"),
        (0.28, "near", "thin"),
        (0.50, "good", "as wanted"),
        (1.50, "good", "as wanted"),
        (1.70, "good", "a little wide"),
        (2.45, "good", "a little wide"),
        (2.60, "near", "wide"),
        (2.95, "near", "wide"),
        (3.05, "over", "wide"),
    ],
)
def test_the_bar_of_cleaning(border, state, words):
    found, said = bar("cleaning", border_mm=border)
    assert (found, text(said).partition(", ")[2]) == (state, words)


def test_where_the_look_counts_a_little_wide_is_wide():
    assert text(bar("cleaning", LOOK, border_mm=0.7)[1]).endswith("as wanted")
    assert bar("cleaning", LOOK, border_mm=0.95)[0] == "near"


def test_the_bar_of_the_tungsten_counts_a_full_press():
    at_ease = {"tungsten_load": 0.5, "tungsten_load_set": 0.6}
    assert bar("tungsten", **at_ease) == ("good", "50 %, tip stays sharp")
    assert bar("tungsten", **at_ease | {"tungsten_load": 0.93})[0] == "near"
    assert bar("tungsten", **at_ease | {"tungsten_load_set": 1.10})[0] == "near"  # 0.85 of it counts
    assert bar("tungsten", **at_ease | {"tungsten_load_set": 1.05})[0] == "good"
    assert bar("tungsten", **at_ease | {"tungsten_load": 1.01})[0] == "over"


def test_the_bar_of_the_machine_is_amps_or_duty():
    strong = Machine(name="Strong", most_a=2 * PLAN.settings.amps_run, duty={"amps": 400, "share": 1.0})
    assert bar("machine", machine=strong) == ("good", "50 % of its amps")
    tired = strong.model_copy(
        update={"duty": strong.duty.model_copy(update={"amps": PLAN.settings.amps_run, "share": 0.4})}
    )
    assert bar("machine", machine=tired, arc_time_s=216.0) == ("good", "90 % of its duty")
    assert bar("machine", machine=tired, arc_time_s=250.0) == ("over", "104 % of its duty")
    assert bar("machine", machine=tired, arc_time_s=9000.0) == ("over", "250 % of its duty")


@pytest.mark.parametrize(
    ("thickness", "control"),
    [(0.6, "pedal"), (1.6, "pedal"), (4.0, "pedal"), (1.6, "switch_4"), (4.0, "switch_4"), (8.0, "switch_4")],
)
def test_start_and_finish(thickness, control):
    s = make_plan(
        read_job({"a": {"alloy": "6061", "thickness": thickness}, "joint": "butt", "control": control})
    ).settings
    full = s.amps_set
    if control == "pedal":
        assert s.start_amps == pytest.approx(min(max(round(0.08 * full), 10), 30), abs=1)
        assert (s.up_slope_s, s.down_slope_s) == (0, 0)
    else:
        start, finish = (0.20, 0.15) if thickness <= 2 else (0.40, 0.25)
        assert (s.start_amps, s.finish_amps) == pytest.approx((start * full, finish * full), abs=0.51)
        slopes = {1.6: (1.0, 2.0), 4.0: (0.3, 3.0), 8.0: (0.3, 5.0)}[thickness]
        assert (s.up_slope_s, s.down_slope_s) == slopes


def test_a_strong_foot_still_begins_small():
    thick = make_plan(
        read_job({"a": {"alloy": "6061", "thickness": 9.5}, "joint": "tee"}),
        IDEAL.model_copy(update={"most_a": 600}),
    ).settings
    assert thick.amps_set > 380
    assert thick.start_amps == 30


def test_the_shop_rule_of_gas():
    low, high = shop_rule_l_min(8)
    assert low == pytest.approx(16 * 28.3168 / 60, rel=1e-4)
    assert high == pytest.approx(20.8 * 28.3168 / 60, rel=1e-4)


def test_only_what_is_lost_is_said_to_be_lost():
    """A pulse that the other machine has comes along; one that it has not is run steadily, at its mean heat."""
    pulsed = PLAN.settings.model_copy(update={"pulse": Pulse(rate_hz=1.5, peak_share=0.5, base_share=0.4)})
    lost = "run steadily"
    along = swap({"amps_set": 120.0}, CURLEW, HERON, pulsed)
    assert not any(lost in line for line in along.differs)
    assert along.mine.pulse.rate_hz == 1.5
    without = HERON.model_copy(update={"can_pulse": False})
    steady = swap({"amps_set": 120.0}, CURLEW, without, pulsed)
    assert any("no pulse: the same mean heat, run steadily" in line for line in steady.differs)
    assert steady.mine.amps_set < 120
    assert steady.heat_mine_w == pytest.approx(steady.heat_theirs_w, rel=0.01)
    assert not any(lost in line for line in swap({"amps_set": 120.0}, CURLEW, without, PLAN.settings).differs)


@pytest.mark.parametrize(
    ("value", "dimension", "metric", "inches"),
    [
        (3.175, "length", "3.2 mm", "0.125 in"),
        (7.8, "flow", "7.8 L/min", "17 CFH"),
        (150.0, "temperature", "150 °C", "302 °F"),
        (3.6, "speed", "3.6 mm/s", "8.5 in/min"),
        (1.3, "time", "1.3 s", "1.3 s"),
        (132.4, "current", "132 A", "132 A"),
        (110.0, "frequency", "110 Hz", "110 Hz"),
        (0.305, "share", "30 %", "30 %"),
        (150.0, "pressure", "150 bar", "2176 psi"),
        (500.0, "mass", "500 g", "17.6 oz"),
        (9430.0, "volume", "9430 L", "333.0 ft3"),
        (4.0, "hose", "4.0 m", "13.1 ft"),
        (0.5, "wind", "0.5 m/s", "1.1 mph"),
    ],
)
def test_how_many_decimals_are_shown(value, dimension, metric, inches):
    assert show(value, dimension).replace("\N{NO-BREAK SPACE}", " ") == metric
    assert show(value, dimension, "inch").replace("\N{NO-BREAK SPACE}", " ") == inches
