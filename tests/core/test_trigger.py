"""Triggers: every drawn course against a plain machine that is stepped through the presses, spots against a plain sum, clashes."""

import math

import pytest

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.coefficients import nominal
from anvilsong.core.job import read_job
from anvilsong.core.machine import Machine, Scale, Start, TriggerControl
from anvilsong.core.model import situation
from anvilsong.core.plan import make_plan
from anvilsong.core.prep import (
    Levels,
    SpotTimes,
    clashes,
    course_of,
    means_under,
    run_sheet,
    second_level,
    set_for,
    spot_times,
    trigger_settings,
)
from anvilsong.core.said import in_units as text
from anvilsong.demo.machines import MACHINES

STEP_S, LONG_S = 0.01, 0.5
JOB = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt", "control": "switch_4"})
SETTINGS = make_plan(JOB, MACHINES[5]).settings
LEVEL, SPOT = Levels(90.0, 4.0, ""), SpotTimes(SETTINGS.amps_set, 0.8, 1.5, 6.0)


def is_pressed(course, time):
    return any(press.begin_s <= time < press.end_s for press in course.presses)


class PlainMachine:
    """A machine that knows its switch and its clock, and nothing of what comes: amps step by step."""

    def __init__(self, control, settings, level, spot):
        self.control, self.s, self.level, self.spot = control, settings, level, spot
        self.state, self.since, self.amps, self.main, self.held_since = (
            "idle",
            0.0,
            0.0,
            settings.amps_set,
            None,
        )

    def go(self, state, time):
        self.state, self.since = state, time

    def step(self, time, pressed, lasts):
        """One step; ``lasts`` is how long the press that begins now will be held: a tap is known by its end."""
        began = pressed and self.held_since is None
        ended = not pressed and self.held_since is not None
        self.held_since = (self.held_since if self.held_since is not None else time) if pressed else None
        for_s, s = time - self.since, self.s
        if self.state == "idle" and began:
            self.go("gas", time)
        elif self.state == "gas" and for_s >= s.pre_flow_s:
            self.go("spot" if self.control == "spot" else "start", time)
        elif self.state == "start" and (self.control == "switch_2" or ended):
            self.go("up", time)
        elif self.state == "up" and for_s >= s.up_slope_s:
            self.go("main", time)
        elif self.state == "main" and self.control == "switch_2" and ended:
            self.go("down", time)
        elif self.state == "main" and self.control != "switch_2" and began:
            self.go("tap" if lasts < LONG_S else "down", time)
        elif self.state == "tap" and ended:
            self.main = self.level.amps if self.main == s.amps_set else s.amps_set
            self.go("main", time)
        elif self.state == "down" and for_s >= s.down_slope_s:
            self.go("finish", time)
        elif self.state == "finish" and (self.control == "switch_2" or ended):
            self.go("out", time)
        elif self.state == "spot" and for_s >= self.spot.spot_s:
            self.go("pause" if pressed else "out", time)
        elif self.state == "pause" and for_s >= self.spot.pause_s:
            self.go("spot", time)
        for_s = time - self.since
        up, down = min(for_s / max(s.up_slope_s, STEP_S), 1), min(for_s / max(s.down_slope_s, STEP_S), 1)
        self.amps = {
            "start": s.start_amps,
            "up": s.start_amps + (s.amps_set - s.start_amps) * up,
            "main": self.main,
            "tap": self.main,
            "down": self.main + (s.finish_amps - self.main) * down,
            "finish": s.finish_amps,
            "spot": s.amps_set,
        }.get(self.state, 0.0)
        return self.amps


@pytest.mark.parametrize("control", ["switch_2", "switch_4", "switch_4_two_levels", "spot"])
@pytest.mark.parametrize("slopes", [(0.3, 3.0), (1.0, 0.0), (0.0, 2.0)])
def test_the_drawn_curve_is_what_a_plain_machine_does(control, slopes):
    settings = SETTINGS.model_copy(update={"up_slope_s": slopes[0], "down_slope_s": slopes[1]})
    course = course_of(control, settings, 8.0, LEVEL, SPOT)
    plain = PlainMachine(control, settings, LEVEL, SPOT)
    begins = {round(press.begin_s / STEP_S): press.end_s - press.begin_s for press in course.presses}
    off, lasts, most = 0, 0.0, 0.0
    count = int(course.end_s / STEP_S)
    for number in range(count):
        lasts = begins.get(number, lasts)
        stepped = plain.step(number * STEP_S, is_pressed(course, number * STEP_S + 1e-9), lasts)
        most = max(most, stepped)
        # A step or two beside a corner the two may be either side of it.
        around = [course.amps_at((number + shift) * STEP_S) for shift in range(-6, 5)]
        off += not min(around) - 1 <= stepped <= max(around) + 1
    assert off == 0
    assert most == settings.amps_set
    # Charge tells what a drawing of corners could hide: amps times seconds are the same.
    charge = sum(course.amps_at((number + 0.5) * STEP_S) for number in range(count)) * STEP_S
    again = PlainMachine(control, settings, LEVEL, SPOT)
    lasts, stepped = 0.0, 0.0
    for number in range(count):
        lasts = begins.get(number, lasts)
        stepped += again.step(number * STEP_S, is_pressed(course, number * STEP_S + 1e-9), lasts) * STEP_S
    assert stepped == pytest.approx(charge, rel=0.03)


def test_the_pedal_by_its_share():
    """The foot's own share of the pedal, from start amps to machine amps, gives the same amps."""
    course = course_of("pedal", SETTINGS.model_copy(update={"amps_run": 110, "amps_set": 140}), 20.0)
    begin = SETTINGS.pre_flow_s

    def foot(time):
        share = (110 - SETTINGS.start_amps) / (140 - SETTINGS.start_amps)
        if time < 1.5:
            return time / 1.5
        if time < 3:
            return 1 + (share - 1) * (time - 1.5) / 1.5
        return share if time < 18.5 else None

    for time in (0.3, 1.4, 2.0, 2.9, 5.0, 15.0):
        amps = SETTINGS.start_amps + foot(time) * (140 - SETTINGS.start_amps)
        assert course.amps_at(begin + time) == pytest.approx(amps, abs=0.5)
    assert course.end_s == pytest.approx(begin + 20 + SETTINGS.post_flow_s)
    assert course.amps_at(0.0) == course.amps_at(course.end_s - 0.1) == 0


def test_a_spot_melts_its_width_by_a_plain_sum():
    """The rise of a source that stands, summed over small pulses of a point source on a plate, is the melting range's."""
    for thickness in (1.6, 3.2, 6.0):
        job = read_job({"a": {"alloy": "6061", "thickness": thickness}, "joint": "tee", "control": "spot"})
        settings = make_plan(job, MACHINES[5]).settings
        at = situation(job)
        spot = spot_times(at, settings, MACHINES[5].most_a)
        assert spot.amps == pytest.approx(min(1.3 * settings.amps_run, MACHINES[5].most_a), abs=1)
        heat = 1.3 * settings.amps_run * heat_per_amp_w(settings.wave(), nominal()) / at.heat_factor
        a, k, radius = at.diffusivity_mm2_s, at.conductivity_w_mm_k, spot.width_mm / 2

        def rise(since, until, heat=heat, a=a, k=k, radius=radius, depth=at.thickness_mm):
            steps = 4000
            total = 0.0
            for number in range(steps):
                ago = since + (until - since) * (number + 0.5) / steps
                spread = math.exp(-(radius**2) / (4 * a * ago)) / (4 * math.pi * a * ago) ** 1.5
                mirrors = sum(math.exp(-((2 * m * depth) ** 2) / (4 * a * ago)) for m in range(-60, 61))
                total += 2 * heat * a / k * spread * mirrors * (until - since) / steps
            return total

        # Tacks as welders set them: seconds, not tens of them.
        assert spot.melts
        assert 0.3 < spot.spot_s < 5
        assert rise(1e-6, spot.spot_s) == pytest.approx(float(at.contour_k(None)), rel=0.04)
        assert spot.cools
        assert rise(spot.pause_s, spot.pause_s + spot.spot_s) == pytest.approx(60, abs=3)


def test_a_machine_that_is_too_small_for_a_spot_says_so():
    job = read_job({"a": {"alloy": "6061", "thickness": 5}, "joint": "tee", "control": "spot"})
    at, settings = situation(job), make_plan(job, MACHINES[5]).settings
    small, big = (spot_times(at, settings, most) for most in (0.5 * settings.amps_run, 400))
    assert (small.melts, big.melts) == (False, True)
    spots = [
        spot_times(at, settings, most).spot_s
        for most in (1.05 * settings.amps_run, 1.2 * settings.amps_run, 400)
    ]
    assert spots == sorted(spots, reverse=True)
    assert len(set(spots)) == 3


def test_the_second_level():
    at = situation(JOB)
    level = second_level(at, SETTINGS, 30.0)
    assert 0.6 * SETTINGS.amps_set - 1 <= level.amps <= 0.85 * SETTINGS.amps_set + 1
    assert level.after_s == pytest.approx(30 - 20 / SETTINGS.travel_mm_s)
    small = situation(read_job(JOB.model_dump(by_alias=True) | {"part_size": "hand"}))
    warm = second_level(small, SETTINGS, 30.0)
    assert warm.after_s == 15
    assert warm.amps == round(SETTINGS.amps_set * min(max(small.cold_share_at_end, 0.6), 0.85))


def test_how_the_panel_stands_and_what_clashes():
    curlew = MACHINES[0]
    small = SETTINGS.model_copy(update={"amps_set": 154.0, "up_slope_s": 0.0, "down_slope_s": 0.0})
    said = [text(line) for line in set_for("pedal", small, curlew)]
    assert said[0].startswith("With a pedal: the trigger at 2-step, upslope and downslope at 0, remote on")
    assert "the pedal's knob at 7.0 of 10" in said[1]
    assert clashes("pedal", small, curlew) == []
    sloped = small.model_copy(update={"up_slope_s": 1.0, "down_slope_s": 2.0})
    assert len(clashes("pedal", sloped, curlew)) == 2
    assert [text(line) for line in clashes("switch_4", small, curlew)] == [
        "Downslope is 0: letting go cuts the arc, and the crater cracks. Set some seconds."
    ]
    assert clashes("switch_4", sloped, curlew) == []
    over = sloped.model_copy(update={"start_amps": 160.0})
    assert "over the machine amps" in text(clashes("switch_2", over, curlew)[0])
    assert "does not have this trigger" in text(clashes("spot", small, curlew)[0])
    for machine in MACHINES:
        for control in ("pedal", "switch_2", "switch_4", "switch_4_two_levels", "spot"):
            means = dict(means_under(control, machine))
            assert set(means) <= {one.label for one in machine.controls}
    slopes = [
        machine_control.label
        for machine_control in curlew.controls
        if machine_control.setting.endswith("slope_s")
    ]
    assert all(text(dict(means_under("pedal", curlew))[label]).startswith("nothing") for label in slopes)
    assert Machine(name="Plain").triggers == ("pedal", "switch_2", "switch_4")


def test_what_no_setting_shows_stands_on_the_run_sheet():
    """A job planned for spots or a second level says them where the machine is set; its own plan clashes with nothing."""
    given = {"a": {"alloy": "6061", "thickness": 3}, "joint": "tee"}
    machine = MACHINES[5].model_copy(
        update={"triggers": ("pedal", "switch_2", "switch_4", "switch_4_two_levels", "spot")}
    )
    said = {}
    for control in ("switch_4_two_levels", "spot", "switch_4", "pedal"):
        plan = make_plan(read_job(given | {"control": control}), machine)
        said[control] = [text(step.text) for step in plan.run_sheet if step.key == "trigger"]
        assert clashes(control, plan.settings, machine) == []
    assert said["switch_4"] == said["pedal"] == []
    at, settings = (
        situation(read_job(given | {"control": "spot"})),
        make_plan(read_job(given | {"control": "spot"}), machine).settings,
    )
    spot = spot_times(at, settings, machine.most_a)
    assert said["spot"] == [
        f"Spots at {spot.amps:.0f} A: {spot.spot_s:.1f} s each, {spot.pause_s:.1f} s between."
    ]
    assert said["switch_4_two_levels"][0].startswith("Second level ")


def test_no_start_over_the_machines_amps():
    """A tungsten that lights only at 34 A does not make foil start at 34 A."""
    tried = MACHINES[5].model_copy(
        update={"starts": tuple(Start(tungsten_mm=size, least_a=34) for size in (1.0, 1.6, 2.4))}
    )
    for control in ("pedal", "switch_2"):
        plan = make_plan(
            read_job({"a": {"alloy": "5052", "thickness": 0.5}, "joint": "butt", "control": control}), tried
        )
        assert plan.settings.start_amps <= plan.settings.amps_set
        assert "start_low" in {warning.code for warning in plan.warnings}


def test_the_panels_own_controls_of_a_trigger():
    """A second level as a share of the main amps or in amps, spots in seconds, the knob on a pedal."""

    def control(what, low, high, basis="value", step=1.0, decimals=0):
        scale = Scale(points=((low[0], low[1]), (high[0], high[1])), step=step, decimals=decimals, unit="u")
        return TriggerControl(what=what, label=what.title(), scale=scale, basis=basis)

    machine = MACHINES[5].model_copy(
        update={
            "most_a": 300.0,
            "trigger_controls": (
                control("second_level", (10, 0.1), (90, 0.9), "share_of_set"),
                control("spot_s", (0.1, 0.1), (0.5, 0.5), step=0.1, decimals=1),
                control("spot_pause_s", (0, 0), (10, 10), step=0.1, decimals=1),
                control("limit_knob", (0, 0), (10, 1), step=0.1, decimals=1),
            ),
        }
    )
    settings = SETTINGS.model_copy(update={"amps_set": 180.0})
    stands = {
        name: trigger_settings(name, settings, machine, LEVEL, SPOT)
        for name in ("pedal", "switch_2", "switch_4", "switch_4_two_levels", "spot")
    }
    assert stands == {
        "pedal": [("Limit_Knob", "6.0 u", False)],
        "switch_2": [],
        "switch_4": [],
        "switch_4_two_levels": [("Second_Level", "50 u", False)],
        "spot": [("Spot_S", "0.5 u", True), ("Spot_Pause_S", "1.5 u", False)],
    }
    # What the panel shows is not said a second time in words of the program.
    assert len(set_for("pedal", settings, machine)) == 1
    assert len(set_for("pedal", settings, MACHINES[5].model_copy(update={"most_a": 300.0}))) == 2
    plain = machine.model_copy(update={"trigger_controls": (control("second_level", (5, 5), (300, 300)),)})
    assert trigger_settings("switch_4_two_levels", settings, plain, LEVEL, SPOT) == [
        ("Second_Level", "90 u", False)
    ]


def test_how_the_arc_is_struck():
    at = situation(JOB)
    for mode, caution in (
        ("high_frequency", "pacemaker"),
        ("touch", "leaves tungsten"),
        ("either", "pacemaker"),
    ):
        machine = MACHINES[5].model_copy(update={"start_mode": mode})
        step = next(step for step in run_sheet(at, SETTINGS, machine) if step.key == "set")
        assert caution in text(step.caution).lower()
        assert ("touch start" in text(step.text)) == (mode == "touch")
