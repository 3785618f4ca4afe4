"""Practice: a pedal run obeys the part's own physics, is judged in the welder's directions, and knows where it burns through."""

from dataclasses import replace

import numpy as np
import pytest

from anvilsong.core.coefficients import nominal
from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.model import near_melting_through, situation
from anvilsong.core.plan import make_plan
from anvilsong.core.practice import MODES
from anvilsong.core.practice.ideal import ideal_of
from anvilsong.core.practice.judging import judged, score_of, trace_of
from anvilsong.core.practice.pedal_run import PedalRun, pedal_task
from anvilsong.core.practice.seen import LONGEST_STEP_S
from anvilsong.core.warming.presets import box_panel, casting, corner_strip, plate, strip, tube_seam
from anvilsong.core.warming.running import weld

SHORT = {
    "plate": plate(110, 80, 3),
    "strip": strip(110, 3),
    "corner strip": corner_strip(110, 3),
    "tube seam": tube_seam(40, 80, 3),
    "box panel": box_panel(130, 140, 3),
    "casting": casting(8),
}


def task_of(part, mode="hold", alloy="6061", thickness=3.0):
    control = "switch_4" if mode == "switch" else "pedal"
    job = read_job({"a": {"alloy": alloy, "thickness": thickness}, "joint": "butt", "control": control})
    return pedal_task(situation(job), make_plan(job).settings, nominal(), part, mode)


def welded(task, pedal, dt_s=0.04, travel=lambda seen: 1.0, most_s=200.0):
    """A run with a hand that sees what is seen."""
    run = PedalRun(task)
    while not run.has_ended and run.last.time_s < most_s:
        run.step(dt_s, pedal(run.last), travel(run.last))
    return run


def following(ideal, late_s=0.0, gain=1.0):
    """A hand that follows the ideal pedal, so much too late, and moves it by so much of what is wanted."""
    begun = ideal.pedal_at(0.0)

    def pedal(seen):
        if seen.state in ("ready", "waits"):
            return 1.0
        there = ideal.pedal_at(seen.way_mm - late_s * seen.travel_mm_s)
        return begun + gain * (there - begun)

    return pedal


@pytest.mark.parametrize("part", SHORT.values(), ids=SHORT)
def test_the_ideal_pedal_is_in_band_and_is_parts_own(part):
    task = task_of(part)
    ideal = ideal_of(task)
    found = judged(welded(task, following(ideal), 0.02), ideal)
    assert score_of(task, found) >= 95
    assert found.burnt_mm is None
    assert found.started_s == pytest.approx(ideal.stood_s, abs=0.1)
    if task.length_mm > 100:  # in the middle, away from how each begins and ends
        own = weld(task.part, task.metal, task.arc)[0].runs[0]
        places = np.linspace(0.35, 0.75, 9) * task.length_mm
        there = [task.pedal_of(own.share_at(place)) for place in places]
        assert [ideal.pedal_at(place) for place in places] == pytest.approx(there, abs=0.05)


@pytest.mark.parametrize(("pedal", "length"), [(0.8, 120), (1.0, 150)])
def test_a_constant_pedal_on_a_small_thick_part_burns_through_where_part_says(pedal, length):
    task = task_of(plate(length, 40, 6.4), alloy="5083", thickness=6.4)
    run = welded(task, lambda seen: pedal, 0.02)
    share = task.arc.least + pedal * (task.arc.most - task.arc.least)
    arc = replace(task.arc, most=share, least=min(share, task.arc.least))
    own = weld(task.part, task.metal, arc, holds_width=False)[0].runs[0]
    through = near_melting_through(task.at, np.array(own.width_mm), 6.4)
    there = own.way_mm[int(np.argmax(through >= 1))]
    assert run.last.state == "burnt"
    assert run.last.way_mm == pytest.approx(there, abs=5)
    found = judged(run, ideal_of(task))
    assert found.burnt_mm == pytest.approx(run.last.way_mm, abs=0.06)
    assert score_of(task, found) < 60  # what is left of the way counts as out of its band
    assert {one.advice for one in found.worst} == {"off_more"}


def test_a_pedal_let_up_freezes_the_pool_and_stops_the_torch():
    task = task_of(SHORT["plate"])
    run = welded(task, lambda seen: 0.8, most_s=6)
    way = run.last.way_mm
    assert way > 5
    while run.last.time_s < 10:
        run.step(0.05, 0.0)
    assert (run.last.width_mm, run.last.behind_mm, run.last.amps, run.last.state) == (0, 0, 0, "out")
    assert run.last.way_mm == way
    again = run.step(0.05, 1.0)
    assert again.state == "waits"
    assert again.amps == pytest.approx(task.amps.amps(task.arc.most))


def test_steps_of_10_20_and_50_ms_agree():
    task = task_of(SHORT["strip"])

    def pedal(seen):
        return 0.75 if seen.way_mm < 50 else 0.55

    runs = [welded(task, pedal, dt_s) for dt_s in (0.01, 0.02, LONGEST_STEP_S)]
    places = np.linspace(15, 95, 33)
    widths = [
        np.interp(places, [one.way_mm for one in run.seen], [one.width_mm for one in run.seen])
        for run in runs
    ]
    for other in widths[1:]:
        assert np.abs(other / widths[0] - 1).max() < 0.02


def test_errors_of_a_hand_are_found_and_taken_away():
    task = task_of(SHORT["strip"])
    ideal = ideal_of(task)

    def score(**error):
        return score_of(task, judged(welded(task, following(ideal, **error)), ideal))

    assert score() > score(gain=0.4) + 10  # comes off by less than half of what is wanted
    assert score() >= score(late_s=4.0)
    low = judged(welded(task, lambda seen: 0.2, most_s=30), ideal)
    assert {one.advice for one in low.worst} == {"on_more"}
    assert low.narrow_s > low.wide_s == 0
    never = judged(welded(task, lambda seen: 0.0, most_s=8), ideal)
    assert (score_of(task, never), never.started_s, never.in_band_s) == (0, None, 0)
    given_up = judged(welded(task, following(ideal), most_s=10), ideal)
    assert score_of(task, given_up) < 40  # the rest of the way was not welded


def test_each_mode_asks_for_its_own_habit():
    part = strip(75, 3)
    for mode in ("hot", "patient", "pulse", "pedal_pulse"):
        task = task_of(part, mode)
        ideal = ideal_of(task)
        still = following(ideal)
        rate = task.pulse.rate_hz

        def pumped(seen, still=still, rate=rate):
            return min(1.0, still(seen) * (1.6 if (seen.time_s * rate) % 1 < 0.5 else 0.4))

        def slow(seen, still=still):
            return min(still(seen), 0.4 * seen.time_s)

        good, poor = {
            "hot": (still, slow),
            "patient": (slow, pumped),
            "pulse": (still, pumped),
            "pedal_pulse": (pumped, still),
        }[mode]
        better, worse = (judged(welded(task, hand, 0.02), ideal).habit for hand in (good, poor))
        assert better > 0.75 > worse + 0.1, (mode, better, worse)
    assert judged(welded(task_of(part), lambda seen: 0.6, most_s=5), None).habit is None
    assert set(MODES) == {"hold", "hot", "patient", "pulse", "pedal_pulse", "switch"}


def test_a_machines_pulse_breathes_round_the_same_pool():
    task = task_of(SHORT["plate"], "pulse")
    steady = welded(replace(task, mode="hold"), lambda seen: 0.7, 0.02, most_s=20)
    pulsed = welded(task, lambda seen: 0.7, 0.02, most_s=20)
    widths = [np.array([one.width_mm for one in run.seen if one.time_s > 8]) for run in (steady, pulsed)]
    assert widths[1].mean() == pytest.approx(widths[0].mean(), rel=0.05)
    assert np.ptp(widths[1]) > 3 * np.ptp(widths[0])


def test_a_torch_switch_leaves_travel_alone_to_the_hand():
    task = task_of(SHORT["strip"], "switch")
    task = replace(task, up_slope_s=1.0, down_slope_s=0.0, arc=replace(task.arc, most=0.95))
    slow, fast = (welded(task, lambda seen: 1.0, travel=lambda seen, v=v: v, most_s=5) for v in (0.7, 1.4))
    assert slow.last.width_mm > 1.1 * fast.last.width_mm
    assert fast.last.travel_mm_s == pytest.approx(1.4 * task.arc.travel_mm_s)
    assert slow.seen[10].amps == pytest.approx(task.amps.amps(0.4 * (0.95 - task.arc.least) + task.arc.least))
    off = slow.step(0.05, 0.2)
    assert (off.amps, off.state) == (0, "out")


def test_a_torch_switch_goes_out_by_its_downslope():
    task = replace(task_of(SHORT["strip"], "switch"), up_slope_s=0.0, down_slope_s=1.0, finish_share=0.2)
    run = welded(task, lambda seen: 1.0, 0.05, travel=lambda seen: 0.0, most_s=2)
    full = run.last.amps
    amps = [run.step(0.05, 0.0).amps for _ in range(21)]
    assert amps == sorted(amps, reverse=True)
    assert amps[9] == pytest.approx((full + task.amps.amps(0.2)) / 2, rel=0.02)
    assert amps[18] > 0 == amps[20]
    assert run.step(0.05, 1.0).amps == pytest.approx(full)


def test_a_job_for_the_other_control_is_practised_all_the_same():
    """With a pedal, a job for a switch that has no slope; with a switch, a job for a pedal at its welding amps."""
    given = {"a": {"alloy": "5083", "thickness": 4}, "joint": "butt"}
    for control in ("pedal", "switch_2"):
        job = read_job(given | {"control": control})
        settings = make_plan(job).settings
        settings = settings.model_copy(
            update={"start_amps": settings.amps_set} if control == "switch_2" else {}
        )
        at = situation(job)
        held, switched = (
            pedal_task(at, settings, nominal(), plate(110, 80, 4), mode) for mode in ("hold", "switch")
        )
        assert judged(welded(held, following(ideal_of(held))), ideal_of(held)).in_band_s > 10
        assert held.amps.amps(held.arc.most) == pytest.approx(
            settings.amps_set * (1.25 if control != "pedal" else 1), rel=0.03
        )
        assert switched.amps.amps(switched.arc.most) == pytest.approx(settings.amps_run, rel=0.01)


def test_what_cannot_be_practised_is_refused_and_what_is_kept_is_thin():
    for part in (plate(700, 100, 3), plate(590, 590, 1)):
        with pytest.raises(BadInput, match="part"):
            task_of(part, thickness=1.0)
    task = task_of(SHORT["plate"])
    run = PedalRun(task)
    run.step(99.0, 7.0)
    assert (run.last.time_s, run.last.pedal) == (LONGEST_STEP_S, 1.0)
    kept = trace_of(welded(task, lambda seen: 0.7))
    assert 100 < len(kept.way_mm) == len(kept.pedal) == len(kept.pool) < 200
