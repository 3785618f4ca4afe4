"""What is refused, with its field and what is allowed, beside the nearest that is taken; and ways that only rare jobs take."""

import re

import numpy as np
import pytest
from pydantic import ValidationError

from anvilsong.core.bead import Readings, next_change, read
from anvilsong.core.bead.bead_models import Shot
from anvilsong.core.bead.tip_fit import tip_state
from anvilsong.core.bead.verdict import seen_flaws
from anvilsong.core.board import board, resolve, settings_map
from anvilsong.core.coefficients import nominal
from anvilsong.core.complaints import problems_of
from anvilsong.core.errors import BadInput, describe
from anvilsong.core.formula import Formula
from anvilsong.core.heat.metal_heat import MetalHeat
from anvilsong.core.heat.plate_run import PlateRun
from anvilsong.core.job import Job, read_job
from anvilsong.core.machine import Machine, Scale, read_panel
from anvilsong.core.machine.model import Control
from anvilsong.core.metal.alloys import find_alloy
from anvilsong.core.metal.fillers import choose_filler
from anvilsong.core.model import Bench, Reason, situation
from anvilsong.core.monotone import Monotone
from anvilsong.core.plan import make_plan
from anvilsong.core.plan.follow import with_settings
from anvilsong.core.plan.pulse import pulse_advice, ripple_wanted_mm
from anvilsong.core.prep.whole import aim_words
from anvilsong.core.said import in_units as text
from anvilsong.core.said import joined
from anvilsong.core.warming import PartDrawing, Run, Shape
from anvilsong.core.warming.arc import Arc
from anvilsong.core.warming.running import weld
from anvilsong.demo.machines import MACHINES

BUTT = {"a": {"alloy": "6061", "thickness": 3}, "joint": "butt"}


def refused(make, **given):
    """Field and sentence of the first complaint; empty when it is taken."""
    try:
        make(**given)
    except ValidationError as trouble:
        problem = problems_of(trouble.errors(include_url=False))[0]
        return f"{problem.field}: {text(problem.allowed)}"
    return ""


AMPS = {"points": ((5, 5), (200, 200))}
SHAPES = {"points": ((0, 0), (1, 3)), "names": ("hard", "round"), "shown_as": "names"}


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({}, ""),
        ({"points": ((5, 5), (5, 200))}, "the panel's values must rise"),
        ({"points": ((5, 5), (4, 200))}, "the panel's values must rise"),
        ({"points": ((0, 5), (1, 4), (2, 3))}, ""),
        ({"points": ((0, 5), (1, 5), (2, 6))}, "rise all the way or fall all the way"),
        ({"points": ((0, 5), (1, 6), (2, 5))}, "rise all the way or fall all the way"),
        ({"points": ((7, 5),)}, ""),
        ({"names": ("a", "b")}, "names: a scale of named places has names and is shown as names"),
        ({"shown_as": "names"}, "names: a scale of named places has names and is shown as names"),
        ({**SHAPES, "points": ((1, 0), (2, 3))}, "names: each name has one point, counted from 0"),
        ({**SHAPES, "points": ((0, 0), (1, 3), (2, 4))}, "names: each name has one point, counted from 0"),
        (SHAPES, ""),
        ({"points": ((0, 0), (100_000, 1)), "step": 0.01}, ""),
        ({"points": ((0, 0), (100_000.1, 1)), "step": 0.01}, "step: a scale has 10000000 steps at most"),
    ],
)
def test_a_panels_scale(change, said):
    found = refused(Scale, **(AMPS | change))
    assert said in found
    assert bool(said) == bool(found)


@pytest.mark.parametrize(
    ("control", "said"),
    [
        ({"setting": "amps_set", "scale": AMPS}, ""),
        ({"setting": "travel_mm_s", "scale": AMPS}, "setting: a panel can set "),
        ({"setting": "charm", "scale": AMPS}, "setting: a panel can set "),
        ({"setting": "amps_set", "scale": AMPS, "basis": "rms"}, ""),
        ({"setting": "frequency_hz", "scale": AMPS, "basis": "value"}, ""),
        ({"setting": "frequency_hz", "scale": AMPS, "basis": "rms"}, "basis: AC frequency can be shown as "),
        ({"setting": "amps_set", "scale": AMPS, "basis": "ep_amps"}, "basis: "),
        ({"setting": "shape_en", "scale": SHAPES}, ""),
        ({"setting": "shape_en", "scale": AMPS}, "scale.names: name the shapes in the panel's words"),
        ({"setting": "shape_en", "scale": SHAPES | {"points": ((0, 0), (1, 9))}}, "scale.points: a shape is counted 0 to "),
    ],
)  # fmt: skip
def test_a_panels_control(control, said):
    found = refused(Control, label="Knob", **control)
    assert said in found
    assert bool(said) == bool(found)


@pytest.mark.parametrize(
    ("machine", "said"),
    [
        ({"least_a": 50, "most_a": 50}, ""),
        ({"least_a": 50, "most_a": 49}, "least_a: the least amps must not be above the most"),
        ({"least_frequency_hz": 90, "most_frequency_hz": 80}, "least_frequency_hz: the least frequency must not"),
        ({"least_ep_share": 0.4, "most_ep_share": 0.3}, "least_ep_share: the least balance must not"),
        ({"shapes": ("square", "square")}, "shapes: each shape stands once"),
        ({"controls": [{"setting": "amps_set", "label": one, "scale": AMPS} for one in "ab"]}, "controls: each quantity has one control"),
    ],
)  # fmt: skip
def test_a_machine(machine, said):
    found = refused(Machine, name="Any", **machine)
    assert said in found
    assert bool(said) == bool(found)


def test_what_a_panel_does_not_have():
    machine = next(machine for machine in MACHINES if machine.control("shape_en"))
    settings = make_plan(read_job(BUTT), machine).settings
    places = len(machine.control("shape_en").scale.names)
    assert read_panel({"shape_en": 0}, machine, settings).shape_en in machine.shapes
    with pytest.raises(BadInput, match=f"has {places} places"):
        read_panel({"shape_en": places}, machine, settings)
    without = next(machine for machine in MACHINES if machine.control("ep_trim") is None)
    with pytest.raises(BadInput, match=f"{without.name} has no such control"):
        read_panel({"ep_trim": 0.1}, without, settings)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"draught_m_s": True}, "draught_m_s: allowed is a number"),
        ({"a": {"alloy": "6061", "thickness": "3 mm"}, "b": {"alloy": "5083"}}, ""),
        ({"a": {"alloy": "6061", "thickness": 3}, "b": {"thickness": 9}}, ""),
        ({"a": "6061"}, "a"),
    ],
)
def test_a_job(change, said):
    found = refused(Job, **(BUTT | change))
    assert said in found
    assert bool(said) == bool(found)


def test_of_side_b_what_is_not_said_is_as_on_side_a():
    other = read_job(BUTT | {"b": {"alloy": "5083"}})
    assert (other.b.metal.name, other.b.thickness_mm) == ("5083", 3.0)
    thick = read_job(BUTT | {"b": {"thickness": 9}})
    assert (thick.b.metal.name, thick.b.thickness_mm) == ("6061", 9.0)
    tube = BUTT | {
        "a": {"alloy": "6061", "thickness": 3, "outside_diameter_mm": 40},
        "joint": "tube_plate",
    }
    assert read_job(tube | {"b": {"alloy": "5083", "thickness": 5}}).b.outside_diameter_mm is None


def test_a_formula_is_arithmetic_and_nothing_else():
    numbers = {"a": 2.0, "b": 0.5}
    assert Formula("-a + b*4 - a/b + a**3")(**numbers) == pytest.approx(-2 + 2 - 4 + 8)
    assert Formula("max(a, b) + min(a, b) + ceil(b) + sqrt(a*a) + tan(0)")(**numbers) == pytest.approx(5.5)
    assert Formula("ceil(a)")(a=7.0000000000001) == 7
    assert Formula("ceil(a)")(a=7.001) == 8
    assert Formula("min(a, b) - a * b").filled({"a": 2.0, "b": 0.123456}) == "min(2, 0.1235) − 2 × 0.1235"
    for made in (
        "a if b else 1",
        "[a]",
        "'a'",
        "a < b",
        "a.real",
        "open(a)",
        "a(b)",
        "(lambda: 1)()",
        "max(*a)",
        "x := 1",
    ):
        with pytest.raises((ValueError, SyntaxError)):
            Formula(made)
    with pytest.raises(KeyError, match="b"):
        Formula("a + b")(a=1.0)


@pytest.mark.parametrize(
    "text", ["a + (", "__import__('os')", "a" * 301, "(" * 150 + "a" + ")" * 150, "a + missing", "a\x00b"]
)
def test_a_stored_formula_that_is_none_shows_nothing(text):
    reason = Reason(setting="amps_run", rule="r", formula=text, numbers={"a": 1.0})
    assert reason.worked in ("", "(" * 150 + "1" + ")" * 150)
    assert Reason(setting="amps_run", rule="r", formula="a * 2", numbers={"a": 1.5}).worked == "1.5 × 2"


def strip(**more):
    given = {
        "thickness_mm": 2,
        "shapes": (Shape(width_mm=60, height_mm=20),),
        "runs": (Run(x_mm=0, y_mm=10, to_x_mm=60, to_y_mm=10),),
        "cell_mm": 2.0,
    }
    return PartDrawing(**(given | more))


SHEET = MetalHeat(2.7e-3, 0.2, 580, 650)


def test_parts_that_cannot_be_welded():
    blocks = tuple(
        Shape(does="block", x_mm=x, width_mm=8, height_mm=5, block_metal=metal)
        for x, metal in ((0, "copper"), (30, "steel"))
    )
    with pytest.raises(BadInput, match=r"shapes: .*copper, steel.* blocks of one metal"):
        weld(strip(shapes=(Shape(width_mm=60, height_mm=20), *blocks)), SHEET, Arc(4.0, 4.0))
    runs = (*strip().runs, Run(x_mm=60, y_mm=5, to_x_mm=0, to_y_mm=5, cools_to_c=20))
    with pytest.raises(BadInput, match=r"cools_to_c: “20 °C” .* within an hour it does not get so cool"):
        weld(strip(runs=runs), SHEET, Arc(4.0, 4.0))


def test_metal_that_melts_at_once_holds_no_latent_heat():
    plate = PlateRun(np.full((5, 5), 2.0), 2.0, MetalHeat(2.7e-3, 0.2, 580, 650, simple=True), start_c=640)
    assert plate.latent_j == 0.0
    half = PlateRun(np.full((5, 5), 2.0), 2.0, SHEET, start_c=615)
    assert half.latent_j == pytest.approx(0.5 * 5 * 5 * 2 * 2 * 2 * 2.7e-3 * 390, rel=0.01)


def test_a_curve_of_two_points_is_a_line():
    line = Monotone(np.array([1.0, 3.0]), np.array([2.0, 8.0]))
    assert line(np.array([1.0, 1.5, 3.0])) == pytest.approx([2.0, 3.5, 8.0])


def test_what_is_missing_has_no_lane_and_no_map_edge():
    """A refused plan has no board; without a rod there is none to set, without a tungsten none that balls."""
    plan = make_plan(read_job({"a": {"alloy": "7075", "thickness": 3}, "joint": "butt"}))
    sound = make_plan(read_job(BUTT))
    machine = MACHINES[1]
    assert board(plan, sound.settings, machine) == []
    assert with_settings(plan, sound.settings, machine) is plan
    assert "filler_mm" in {lane.key for lane in board(sound, sound.settings, machine)}
    alone = make_plan(
        read_job(BUTT | {"filler_wanted": "none", "joint": "edge", "a": {"alloy": "5083", "thickness": 3}})
    )
    assert alone.settings.filler is None
    assert "filler_mm" not in {lane.key for lane in board(alone, alone.settings, machine)}
    bare = sound.settings.model_copy(update={"tungsten": None})
    found = settings_map(sound.job, bare, Bench(machine, None, nominal()), ("amps_run", "travel_mm_s"))
    assert float(np.max(found.used["tungsten"])) == 0.0 if "tungsten" in found.used else True


@pytest.mark.parametrize(
    ("job", "said"),
    [
        ({"position": "vertical"}, "pool from sagging"),
        ({"position": "overhead"}, "pool from sagging"),
        ({"a": {"alloy": "6061", "thickness": 0.8}}, "metal this thin"),
        ({"position": "vertical", "school": {"pulse": "dab"}}, ""),
        ({}, ""),
    ],
)
def test_when_a_pulse_is_worth_trying(job, said):
    advice = pulse_advice(situation(read_job(BUTT | job)))
    assert said in advice
    assert bool(said) == bool(advice)


def seen_as(**more):
    return Readings(bead_width_mm=6, border_left_mm=1, border_right_mm=1, seconds=30, length_mm=100, **more)


def test_a_tip_that_nobody_could_judge():
    """No tungsten, or one balled on purpose: its ball says nothing of its load."""
    plan = make_plan(read_job(BUTT))
    seen = seen_as(ball_mm=2.4)

    def state(tungsten, readings=seen):
        return tip_state(Shot(plan.job, plan.settings.model_copy(update={"tungsten": tungsten}), readings))

    pointed = plan.settings.tungsten
    assert state(None) is None
    assert state(pointed) is not None
    assert state(pointed.model_copy(update={"tip": "ball"})) is None
    assert state(pointed, seen_as()) is None


def test_what_a_crater_asks_for():
    plan = make_plan(read_job(BUTT))
    at = situation(plan.job)
    said = {
        crater: text(joined(*seen_flaws(at, seen_as(crater=crater))))
        for crater in ("filled", "hollow", "cracked")
    }
    assert "hollow: come off the pedal slowly, and feed filler rod" in said["hollow"]
    assert "cracked: come off the pedal slowly" in said["cracked"]
    assert "rater" not in said["filled"]
    switched = situation(plan.job.model_copy(update={"control": "switch_2"}))
    sloping, plain = (
        text(joined(*seen_flaws(switched, seen_as(crater="cracked"), machine)))
        for machine in (MACHINES[0], MACHINES[4])
    )
    assert "more downslope" in sloping
    assert "strike again" in plain
    assert "slope" not in plain


def test_a_wide_border_with_no_lever_left_is_the_hands():
    """Half and half is all the machine has, and the foot is down: only arc, hand and cup are left."""
    fixed = next(machine for machine in MACHINES if machine.least_ep_share == machine.most_ep_share)
    plan = make_plan(read_job(BUTT), fixed)

    def said(amps_set, border):
        settings = plan.settings.model_copy(update={"amps_set": amps_set})
        seen = Readings(
            bead_width_mm=plan.consequences.pool_width_mm, border_left_mm=border, border_right_mm=border, length_mm=100,
            seconds=100 / settings.travel_mm_s,
        )  # fmt: skip
        change = next_change(plan.job, settings, seen, read(plan.job, settings, seen, fixed), fixed)
        return change.kind, text(change.said)

    kind, words = said(plan.settings.amps_run, 6.0)
    assert (kind, words) == (
        "hand",
        "Leave the settings. Travel faster with a shorter arc, or fit a smaller cup.",
    )
    # With amps in hand the hand goes faster, where that is worth it: never slower, which makes a border wider.
    kind, words = said(1.4 * plan.settings.amps_run, 1.6)
    assert kind == "setting"
    was, now = map(float, re.findall(r"([\d.]+) mm/s", words))
    assert now > 1.1 * was
    kind, _ = said(1.4 * plan.settings.amps_run, 12.0)
    assert kind == "hand"
    kind, words = said(plan.settings.amps_run, 0.0)
    assert kind == "prep"
    assert words.startswith("Leave the settings. Degrease and brush again")


@pytest.mark.parametrize(
    ("in_hand", "lever"), [(1.0, "travel_mm_s"), (1.01, "travel_mm_s"), (1.03, "amps_set"), (1.3, "amps_run")]
)
def test_two_amperes_to_the_machines_end_are_no_change(in_hand, lever):
    """A bead a tenth too narrow: with nothing to speak of in hand the hand goes slower, else the foot goes down."""
    plan = make_plan(read_job(BUTT))
    run = plan.settings.amps_run
    machine = Machine(name="Ends", least_a=5, most_a=in_hand * run)
    settings = plan.settings.model_copy(update={"amps_set": min(machine.most_a, 1.25 * run)})
    seen = Readings(
        bead_width_mm=0.85 * plan.consequences.pool_width_mm, border_left_mm=1, border_right_mm=1, length_mm=100,
        seconds=100 / settings.travel_mm_s,
    )  # fmt: skip
    change = next_change(plan.job, settings, seen, read(plan.job, settings, seen, machine), machine)
    assert change.setting == lever
    assert change.effects["pool_width_mm"] > 0
    if lever == "travel_mm_s":
        assert change.settings.travel_mm_s < 0.95 * settings.travel_mm_s
        assert change.settings.amps_run == run


@pytest.mark.parametrize(
    ("least", "says"), [(1.0, "goes no lower than"), (0.99, "goes no lower than"), (0.7, "less heat.")]
)
def test_a_bead_too_wide_at_the_machines_least(least, says):
    """There the hand goes faster, and it is the least that is named; with room below the amps come down."""
    plan = make_plan(read_job(BUTT))
    run = plan.settings.amps_run
    machine = Machine(name="Strong", least_a=least * run, most_a=400)
    settings = plan.settings.model_copy(update={"amps_set": run * 1.25})
    seen = Readings(
        bead_width_mm=1.18 * plan.consequences.pool_width_mm, border_left_mm=1, border_right_mm=1, length_mm=100,
        seconds=100 / settings.travel_mm_s,
    )  # fmt: skip
    change = next_change(plan.job, settings, seen, read(plan.job, settings, seen, machine), machine)
    assert says in change.why
    assert change.effects["pool_width_mm"] < 0
    if least > 0.9:
        assert change.settings.travel_mm_s > settings.travel_mm_s
        assert f"{machine.least_a:.0f} A" in change.why
    else:
        assert change.settings.amps_run < run


def test_what_is_held_is_left_alone_when_the_rest_is_solved():
    plan = make_plan(read_job(BUTT))
    put = plan.settings.model_copy(update={"amps_run": 0.8 * plan.settings.amps_run})
    both = resolve(plan.job, put, {"amps_run", "amps_set", "travel_mm_s"}, MACHINES[1]).settings
    assert (both.amps_run, both.amps_set, both.travel_mm_s) == (put.amps_run, put.amps_set, put.travel_mm_s)
    free = resolve(plan.job, put, {"amps_run"}, MACHINES[1]).settings
    assert free.amps_run == put.amps_run
    assert free.travel_mm_s < put.travel_mm_s


@pytest.mark.parametrize(
    ("wanted", "first", "refused"),
    [("5356", "5356", False), ("4047", "4047", False), ("4043", None, True), (None, None, False)],
)
def test_the_filler_that_is_asked_for_comes_first_unless_a_rule_speaks_against_it(wanted, first, refused):
    """A 5083 takes no silicon: that rule is told, and the ranking stays."""
    base = find_alloy("5083" if refused else "6061")
    plain, asked = choose_filler(base, base), choose_filler(base, base, wanted=wanted)
    names = [row.filler for row in asked.ranked]
    assert sorted(names) == sorted(row.filler for row in plain.ranked)
    if first:
        assert names[0] == first
        assert names[1:] == [row.filler for row in plain.ranked if row.filler != first]
    else:
        assert names == [row.filler for row in plain.ranked]
    assert bool(asked.pair_refused) is refused
    assert all(row.filler == wanted for row in asked.pair_refused)


def test_notes_are_text():
    seen = {"bead_width_mm": 6, "border_left_mm": 1, "border_right_mm": 1, "seconds": 30, "length_mm": 100}
    assert refused(Readings, **seen, note="two\nlines\tand a tab") == ""
    assert "use letters, figures and signs" in refused(Readings, **seen, note="bell \x07")


def test_a_plan_has_settings_and_consequences_or_neither():
    plan = make_plan(read_job(BUTT))
    given = plan.model_dump()
    for missing in ("settings", "consequences"):
        with pytest.raises(ValidationError, match="or neither"):
            type(plan).model_validate(given | {missing: None})


@pytest.mark.parametrize(
    ("thickness", "purposes", "ripple"),
    [(0.8, [], 1.8), (1.5, [], 1.8), (3.0, [], 1.8 + 1.4 / 3), (3.75, [], 2.5), (6.0, [], 3.2), (10.0, [], 3.2), (6.0, ["appearance"], 1.8)],
)  # fmt: skip
def test_ripples_to_aim_at_by_thickness(thickness, purposes, ripple):
    job = BUTT | {"a": {"alloy": "6061", "thickness": thickness}, "purposes": purposes, "edge_prep": "square"}
    assert ripple_wanted_mm(situation(read_job(job))) == pytest.approx(ripple)


@pytest.mark.parametrize(
    ("a", "b", "side", "share"),
    [(3, 3, "", 0), (3, 3.7, "", 0), (3, 3.8, "b", 56), (6, 2, "a", 75), (2, 6, "b", 75), (10, 1.2, "a", 89)],
)
def test_where_to_point_the_arc_on_unlike_sides(a, b, side, share):
    """Of one metal and one way for the heat each, the thicker side carries its share of the thickness away."""
    job = {"a": {"alloy": "6061", "thickness": a}, "b": {"alloy": "6061", "thickness": b}, "joint": "butt"}
    words = text(aim_words(situation(read_job(job))))
    assert words.startswith(f"Side {side} carries {share} % of the heat away") if side else words == ""


@pytest.mark.parametrize(
    ("given", "said"),
    [
        (None, "nothing"), ("", "nothing"), ({}, "what was sent"), ([1], "what was sent"), (10**15, "a number of so many digits"),
        (-(10**15), "a number of so many digits"), (10**15 - 1, "999999999999999"), (-7, "-7"), (0.1 + 0.2, "0.3"), (1234567.0, "1.23457e+06"),
        ("half", "“half”"), ("x" * 58, f"“{'x' * 58}”"), ("x" * 59, f"“{'x' * 56}…”"), ("\ud800", "“?”"),
    ],
)  # fmt: skip
def test_what_was_given_stands_short_in_its_sentence(given, said):
    assert describe(given) == said
