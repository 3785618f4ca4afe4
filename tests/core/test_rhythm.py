"""Dabs in time: beats from travel and ripple, and what taps come to in a welder's own directions."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from anvilsong.core.job import read_job
from anvilsong.core.model import situation
from anvilsong.core.plan import make_plan
from anvilsong.core.practice import beats_of, judge_taps, laid, rhythm_of

RATE, PITCH = 1.5, 2.2


def due(bead="straight"):
    return [beat.at_s for beat in beats_of(bead, RATE, PITCH)]


def judge(taps, bead="straight"):
    return judge_taps(bead, RATE, PITCH, tuple(sorted(taps)))


def test_the_rhythm_is_travel_over_ripple():
    job = read_job({"a": {"alloy": "6061", "thickness": 3}, "joint": "butt"})
    settings = make_plan(job).settings
    rate, pitch = rhythm_of(situation(job), settings)
    assert rate * pitch == pytest.approx(settings.travel_mm_s)
    assert 0.8 <= rate <= 2.5

    def pulsed(rate_hz):
        pulse = {"pulse": {"rate_hz": rate_hz, "peak_share": 0.4, "base_share": 0.3}}
        return settings.model_validate(settings.model_dump(by_alias=True) | pulse)

    assert rhythm_of(situation(job), pulsed(1.9))[0] == 1.9  # with the machine's pulse
    assert rhythm_of(situation(job), pulsed(90))[0] == rate  # nobody dabs with that one


def test_a_bead_its_crater_and_its_stop():
    straight, stopped = beats_of("straight", RATE, PITCH), beats_of("stopped", RATE, PITCH)
    assert len(straight) == len(stopped) == 27
    assert [one.way_mm for one in straight[-4:]] == [
        23 * PITCH
    ] * 4  # the crater is filled where the torch stands
    assert np.diff([one.at_s for one in straight]) == pytest.approx(np.full(26, 1 / RATE))
    gaps = np.diff([one.at_s for one in stopped])
    assert gaps.max() == pytest.approx(5 / RATE)
    again = int(np.argmax(gaps)) + 1
    assert stopped[again].way_mm == pytest.approx(stopped[again - 1].way_mm - PITCH)


def test_taps_in_time_and_what_each_error_costs():
    assert judge(due())[0] == 100
    assert judge(due("stopped"), "stopped")[0] == 100
    assert judge([])[0] == 0
    rng = np.random.default_rng(4)
    jittered = judge(np.array(due()) + rng.normal(0, 0.06, 27))
    worse = judge(np.array(due()) + rng.normal(0, 0.16, 27))
    assert 100 > jittered[0] > worse[0] + 10
    assert worse[1].spread_s > 2 * jittered[1].spread_s > 0.05
    score, late = judge(np.array(due()) + 0.12)
    assert (late.late_s, late.spread_s, late.tempo) == (
        pytest.approx(0.12),
        pytest.approx(0, abs=1e-6),
        pytest.approx(1),
    )
    assert 70 < score < 80
    _, slow = judge(np.array(due()) * 1.01)
    assert slow.tempo == pytest.approx(1 / 1.01, abs=1e-3)
    less, missed = judge(due()[:10] + due()[14:])
    assert (missed.missed, missed.extra, less) == (4, 0, round(100 * 23 / 27))
    less, more = judge([*due(), due()[3] + 0.02, 40.0])
    assert (more.missed, more.extra, less) == (0, 2, round(100 * 26 / 27))
    through_the_stop = judge(due(), "stopped")[1]
    assert through_the_stop.extra >= 3


def test_guesses_get_no_more_than_chance():
    rng = np.random.default_rng(11)
    scores = [judge(rng.uniform(0, due()[-1], 27))[0] for _ in range(40)]
    assert np.mean(scores) < 35


@given(st.lists(st.floats(-5, 120), max_size=60))
def test_whatever_is_tapped_is_judged(taps):
    score, found = judge(taps)
    assert 0 <= score <= 100
    assert found.missed + len(taps) - found.extra >= 27 - found.missed or not taps
    assert len(laid(found)) == len(taps)
    assert all(0 <= way <= 23 * PITCH + 1e-9 for way in laid(found))
