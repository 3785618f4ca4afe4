"""Forms: what is shown reads back as the same thing; what cannot be read is named and kept."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anvilsong.core.bead import Case, likely_causes
from anvilsong.core.errors import BadInput
from anvilsong.core.job import JointName, Position, Purpose, School, SurfaceName, read_job
from anvilsong.core.machine import read_message, show_on_panel
from anvilsong.core.machine.model import Duty, LowSupply, Machine, Scale, TriggerControl
from anvilsong.core.machine.panel_reading import read_panel
from anvilsong.core.plan import make_plan
from anvilsong.core.said import in_units as text
from anvilsong.demo.machines import MACHINES
from anvilsong.demo.shelf import KITS
from anvilsong.web.job_form import form_from_job, job_from_form
from anvilsong.web.kit_form import form_of_kit, kit_from_form, rows_of
from anvilsong.web.machine_form import form_from_machine, machine_from_form
from anvilsong.web.machine_guide import machine_of


@pytest.mark.parametrize("machine", MACHINES, ids=lambda m: m.name)
def test_a_machine_survives_its_editor(machine):
    back = machine_from_form(form_from_machine(machine))
    assert back.model_dump(exclude={"controls", "note"}) == machine.model_dump(exclude={"controls", "note"})
    for before, after in zip(machine.controls, back.controls, strict=True):
        assert (after.setting, after.label, after.basis, after.scale.names) == (
            before.setting,
            before.label,
            before.basis,
            before.scale.names,
        )
        assert after.scale.signed == before.scale.signed
        assert after.scale.shown_as == before.scale.shown_as
        for old, new in zip(before.scale.points, after.scale.points, strict=True):
            assert new == pytest.approx(old, abs=1e-4)
    assert Machine.model_validate_json(machine.model_dump_json()) == machine


@pytest.mark.parametrize(
    ("change", "sentence"),
    [
        ({"c1_meaning": "banana"}, "control 2, meaning: “banana” cannot be used; type a number"),
        ({"c1_meaning": ""}, "control 2, meaning is empty: write what the ends mean"),
        ({"c1_meaning": "0 = 20, 5 = 40, 9 = 30"}, "rise all the way or fall all the way"),
        ({"c1_step": "0"}, "control 2, step: 0 cannot be used"),
        ({"c0_label": ""}, "control 1, label is empty"),
        (
            {"c0_kind": "names", "c0_setting": "shape_en", "c0_meaning": "Wobbly = wobble"},
            "shapes are square, soft, trapezoid, sine, triangle",
        ),
        (
            {"c1_setting": "ep_share", "c1_meaning": "0 = 20, 5 = 150"},
            "control 2, meaning: “0 = 20, 5 = 150” cannot be used; an AC balance lies between 1 and 99 % EP",
        ),
        ({"c1_setting": "frequency_hz", "c1_meaning": "0 = 2, 5 = 150"}, "lies between 10 and 1000 Hz"),
        ({"c1_kind": "names", "c1_meaning": "Clean = square"}, "name the places as Word = number"),
        ({"c1_kind": "names", "c1_meaning": "Clean, Deep"}, "name the places as Word = number"),
        ({"c1_kind": "names", "c1_meaning": "A = 20, a = 30"}, "each place has a name of its own"),
        ({"most_a": "lots"}, "most_a: “lots” cannot be used; type a number"),
        ({"least_a": "150", "most_a": "100"}, "the least amps must not be above the most"),
        ({"name": ""}, "name is empty"),
        (
            {"c2_setting": "ep_share", "c2_label": "Again", "c2_meaning": "0 = 10, 1 = 20"},
            "each quantity has one control",
        ),
    ],
)
def test_a_senseless_panel_is_told_by_its_row(change, sentence):
    form = form_from_machine(MACHINES[0].model_copy(update={"controls": MACHINES[0].controls[:2]}))
    with pytest.raises(BadInput) as told:
        machine_from_form(form | change)
    assert sentence in str(told.value)


@pytest.mark.parametrize(
    ("kind", "text", "points"),
    [
        ("percent", "15=15,50=50", [(15, 0.15), (50, 0.50)]),
        ("percent", "15 = 15, 50 = 50", [(15, 0.15), (50, 0.50)]),
        ("percent", "1,5 = 15,5, 9=50", [(1.5, 0.155), (9, 0.50)]),
        ("percent", "1.5=15;9=50,5", [(1.5, 0.15), (9, 0.505)]),
        ("signed", "−3 = 20, +3 = 40", [(-3, 0.20), (3, 0.40)]),
        ("clock", "7 = 15, 12 = 28, 5 = 45", [(7, 0.15), (12, 0.28), (17, 0.45)]),
        ("clock", "7:30 = 15, 4:30 = 45", [(7.5, 0.15), (16.5, 0.45)]),
        ("names", "Deep = 20, Even = 30, Clean = 45", [(0, 0.20), (1, 0.30), (2, 0.45)]),
        ("names", "Clean=45,Deep=20", [(0, 0.20), (1, 0.45)]),
    ],
)
def test_points_are_read_as_people_write_them(kind, text, points):
    form = form_from_machine(MACHINES[0].model_copy(update={"controls": MACHINES[0].controls[:1]}))
    row = {"setting": "ep_share", "label": "Scrub", "kind": kind, "step": "1", "meaning": text}
    machine = machine_from_form(form | {f"c1_{key}": value for key, value in row.items()})
    assert machine.control("ep_share").scale.points == tuple(points)
    again = machine_from_form(form_from_machine(machine))
    assert again.controls == machine.controls


def test_a_proposal_on_named_places_goes_from_one_to_another():
    """A frequency higher by 40 Hz is the next place, never "from Mid to Mid"; at the last there is none."""
    form = form_from_machine(MACHINES[0].model_copy(update={"controls": MACHINES[0].controls[:1]}))
    row = {
        "setting": "frequency_hz",
        "label": "Pace",
        "kind": "names",
        "step": "1",
        "meaning": "Slow = 50, Mid = 90, Fast = 190",
    }
    machine = machine_from_form(form | {f"c1_{key}": value for key, value in row.items()})
    job = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"})
    settings = make_plan(job, machine).settings
    for now, then in ((50.0, {90.0}), (90.0, {190.0}), (190.0, {None})):
        at = settings.model_copy(update={"frequency_hz": now})
        found = {each.key: each for each in likely_causes(["hard_start"], Case(job, at, machine))}
        change = found["low_frequency"].change
        assert (change.settings.frequency_hz if change else None) in then
        assert change is None or f"from {now:.0f} Hz to {change.settings.frequency_hz:.0f} Hz" in change.said


def test_a_dial_of_named_places_is_planned_shown_and_read():
    """Frequency as Slow, Mid, Fast: the nearest place is said by its name, and what it is instead."""
    form = form_from_machine(MACHINES[0].model_copy(update={"controls": MACHINES[0].controls[:1]}))
    row = {
        "setting": "frequency_hz",
        "label": "Pace",
        "kind": "names",
        "step": "1",
        "meaning": "Slow = 60, Mid = 90, Fast = 160",
    }
    machine = machine_from_form(form | {f"c1_{key}": value for key, value in row.items()})
    settings = make_plan(
        read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"}), machine
    ).settings
    for wanted, name, means, said in (
        (62.0, "Slow", 60.0, ""),
        (110.0, "Mid", 90.0, "Pace has no place for AC frequency 110 Hz: Mid (90 Hz) is the nearest."),
        (200.0, "Fast", 160.0, "Pace stops at Fast: AC frequency is 160 Hz instead of 200 Hz."),
    ):
        line = next(
            line
            for line in show_on_panel(settings.model_copy(update={"frequency_hz": wanted}), machine).lines
            if line.setting == "frequency_hz"
        )
        assert (line.shown, line.canonical, line.unit) == (name, means, "")
        assert text(line.said).lower() == said.lower()
        read = read_panel({"frequency_hz": line.value}, machine, settings)
        assert read.frequency_hz == means
    assert read_message("Pace: Fast", machine).found == {"frequency_hz": "Fast"}


ANSWERS = {"name": "Turnstone 180", "amps_low": "5", "amps_high": "180", "has_balance": "1"}


@pytest.mark.parametrize(
    ("answers", "points", "shown"),
    [
        ({"figure": "ep", "balance_most": "50 %", "balance_least": "15"}, ((15, 0.15), (50, 0.5)), "digits"),
        ({"figure": "en", "balance_most": "50", "balance_least": "90"}, ((50, 0.5), (90, 0.1)), "digits"),
        (
            {"figure": "scale", "balance_most": "+8", "balance_most_means": "50", "balance_least": "-8", "balance_least_means": "15"},
            ((-8, 0.15), (8, 0.5)),
            "digits",
        ),
        (
            {"figure": "clock", "balance_most": "5", "balance_most_means": "45", "balance_least": "7:30", "balance_least_means": "15"},
            ((7.5, 0.15), (17, 0.45)),
            "clock",
        ),
    ],
)  # fmt: skip
def test_answers_about_the_cleaning_control(answers, points, shown):
    machine = machine_of(ANSWERS | answers)
    scale = machine.control("ep_share").scale
    assert [value for point in scale.points for value in point] == pytest.approx(
        [value for point in points for value in point]
    )
    assert scale.shown_as == shown
    assert (machine.least_ep_share, machine.most_ep_share) == pytest.approx(
        (min(share for _, share in points), max(share for _, share in points))
    )


def test_what_was_written_counts_without_a_tick():
    """Without a script everything is in view, and a tick is easily forgotten."""
    machine = machine_of(
        {"name": "Buzz box", "amps_low": "20", "amps_high": "150", "balance_most": "45", "balance_least": "10", "pre_flow_s_label": "Puff", "pre_flow_s_low": "0", "pre_flow_s_high": "3"}
    )  # fmt: skip
    assert machine.control("ep_share").scale.points == ((10, 0.10), (45, 0.45))
    assert machine.control("pre_flow_s").label == "Puff"
    with pytest.raises(BadInput) as told:
        machine_of(
            ANSWERS
            | {
                "balance_most": "50",
                "balance_least": "15",
                "has_pulse_rate_hz": "1",
                "pulse_rate_hz_low": "1",
            }
        )
    assert [problem.field for problem in told.value.problems] == ["pulse_rate_hz_high"]


def test_how_a_machine_counts_its_amps():
    """An old 200 A sine machine counts rms: it was taken for a peak, and set 41 % too hot. An inverter counts its top."""
    old = machine_of({"name": "Buzz box", "amps_low": "20", "amps_high": "200"})
    assert old.control("amps_set").basis == "rms"
    assert (old.least_a, old.most_a, old.duty.amps) == pytest.approx((28.3, 282.8, 282.8), abs=0.05)
    job = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"})
    shown = next(line.value for line in make_plan(job, old).panel.lines if line.setting == "amps_set")
    square = {
        "name": "Plain",
        "amps_low": "5",
        "amps_high": "200",
        "balance_most": "45",
        "balance_least": "10",
    }
    inverter = machine_of(square)
    assert (inverter.control("amps_set").basis, inverter.most_a) == ("peak", 200)
    assert 1.0 < shown / make_plan(job, inverter).settings.amps_set < 1.3
    # What a person says goes before what is usual.
    said = {
        count: machine_of(square | {"amps_count": count, "shape_triangle": "Tent"})
        for count in ("peak", "mean", "rms")
    }
    assert [machine.control("amps_set").basis for machine in said.values()] == ["peak", "mean", "rms"]
    assert [machine.most_a for machine in said.values()] == pytest.approx([200, 400, 346.4], abs=0.1)
    assert (
        machine_of({"name": "Buzz box", "amps_low": "20", "amps_high": "200", "amps_count": "peak"}).most_a
        == 200
    )


def test_answers_make_the_machine_they_say():
    plain = machine_of({"name": "Buzz box", "amps_low": "20", "amps_high": "150"})
    assert (plain.least_ep_share, plain.most_ep_share) == (0.5, 0.5)
    assert (plain.least_frequency_hz, plain.most_frequency_hz) == (50, 50)
    assert [control.setting for control in plain.controls] == ["amps_set"]
    assert (plain.shapes, plain.can_pulse, plain.can_trim) == (("sine",), False, False)
    rich = machine_of(
        ANSWERS
        | {
            "balance_most": "40", "balance_least": "10", "duty_amps": "180", "duty_share": "25",
            "has_frequency_hz": "1", "frequency_hz_low": "60", "frequency_hz_high": "250",
            "has_start_amps": "1", "start_amps_low": "5",
            "has_pulse_rate_hz": "1", "pulse_rate_hz_low": "0.5", "pulse_rate_hz_high": "25",
            "shape_sine": "Smooth, slow", "shape_square": "Sharp",
            "trim": "value", "trim_low": "-30", "trim_high": "+30", "water_cooled": "1",
        }
    )  # fmt: skip
    assert rich.control("start_amps").scale.points[-1] == (180, 180)
    assert rich.control("shape_en").scale.names == ("Sharp", "Smooth  slow")
    assert (rich.can_pulse, rich.most_pulse_hz, rich.can_trim) == (True, 25, True)
    assert (rich.least_trim, rich.most_trim, rich.duty.share) == (-0.3, 0.3, 0.25)
    assert rich.control("ep_trim").scale.signed
    assert (rich.least_frequency_hz, rich.most_frequency_hz, rich.water_cooled) == (60, 250, True)


def test_a_whole_panel_from_answers_and_back_through_the_editor():
    """A pulse as two times with its background in amps, a second level, spots, touch start, a lower voltage."""
    ends = {
        "pulse_peak_s": ("0.02", "4"), "pulse_base_s": ("0.08", "4"), "pulse_base_a": ("5", ""),
        "second_level": ("5", ""), "spot_s": ("0.1", "5"), "spot_pause_s": ("0.2", "8"),
    }  # fmt: skip
    answers = ANSWERS | {"balance_most": "40", "balance_least": "10"}
    for key, (low, high) in ends.items():
        answers |= {f"has_{key}": "1", f"{key}_label": key.title(), f"{key}_low": low, f"{key}_high": high}
    machine = machine_of(answers)
    by_setting = {control.setting: control for control in machine.controls}
    assert by_setting["pulse_peak_share"].basis == "peak_s"
    assert by_setting["pulse_rate_hz"].basis == "base_s"
    assert by_setting["pulse_base_share"].basis == "amps"
    assert by_setting["pulse_base_share"].scale.points == ((5, 5), (180, 180))
    assert (machine.can_pulse, machine.most_pulse_hz) == (True, 10)
    assert [one.what for one in machine.trigger_controls] == ["second_level", "spot_s", "spot_pause_s"]
    assert {"switch_4_two_levels", "spot"} <= set(machine.triggers)
    low = LowSupply(volts=115, most_a=110, duty=Duty(amps=110, share=0.4))
    whole = machine.model_copy(
        update={
            "start_mode": "touch",
            "low_supply": low,
            "trigger_controls": (
                *machine.trigger_controls,
                TriggerControl(
                    what="limit_knob", label="Toe", scale=Scale(points=((0, 0), (10, 1)), step=0.1)
                ),
            ),
        }
    )
    whole = machine_from_form(form_from_machine(whole))  # the decimals of a scale follow its step
    assert machine_from_form(form_from_machine(whole)) == whole
    assert (whole.start_mode, whole.low_supply) == ("touch", low)
    assert whole.trigger_controls[-1].scale.points == ((0, 0), (10, 1))
    assert whole.controls == machine.controls
    # Both ways to show one pulse on one panel are one too many.
    with pytest.raises(BadInput):
        machine_of(answers | {"has_pulse_rate_hz": "1", "pulse_rate_hz_low": "1", "pulse_rate_hz_high": "9"})


def test_half_a_lower_voltage_is_asked_for():
    form = form_from_machine(machine_of(ANSWERS | {"balance_most": "40", "balance_least": "10"}))
    for more in ({"low_volts": "115"}, {"low_volts": "115", "low_most_a": "100"}, {"low_volts": "x"}):
        with pytest.raises(BadInput):
            machine_from_form(form | more)
    assert machine_from_form(form | {"low_volts": ""}).low_supply is None


@pytest.mark.parametrize(
    ("answers", "field"),
    [
        ({"amps_high": ""}, "amps_high"),
        ({"amps_high": "4"}, "amps_high"),
        ({"balance_most": ""}, "balance_most"),
        ({"figure": "scale", "balance_most": "5", "balance_most_means": "often"}, "balance_most_means"),
        # Ends that are swapped: the cleaning end has more EP.
        ({"balance_most": "30", "balance_least": "99"}, "balance_most"),
        ({"figure": "en", "balance_most": "85", "balance_least": "50"}, "balance_most"),
        (
            {"figure": "scale", "balance_most": "9", "balance_most_means": "10", "balance_least": "1"},
            "balance_most",
        ),
        ({"amps_figure": "scale", "amps_low": "0", "amps_high": "10"}, "amps_high_means"),
        (
            {
                "amps_figure": "scale",
                "amps_low": "0",
                "amps_low_means": "90",
                "amps_high": "10",
                "amps_high_means": "9",
            },
            "amps_high_means",
        ),
        ({"has_post_flow_s": "1", "post_flow_s_low": "9", "post_flow_s_high": "2"}, "post_flow_s_high"),
        ({"name": ""}, "name"),
        ({"figure": "clock", "balance_most": "noon", "balance_most_means": "45"}, "balance_most"),
        ({"balance_most": "140"}, "balance_most"),
    ],
)
def test_what_is_not_answered_is_named(answers, field):
    with pytest.raises(BadInput) as told:
        machine_of(ANSWERS | {"balance_most": "50", "balance_least": "15"} | answers)
    assert field in [problem.field for problem in told.value.problems], told.value


def test_one_thing_wrong_is_one_complaint():
    """Nobody typed 200 % EP: what is missing says only that."""
    with pytest.raises(BadInput) as told:
        machine_of(ANSWERS | {"balance_most": "", "balance_least": "15"})
    assert [problem.field for problem in told.value.problems] == ["balance_most"]
    with pytest.raises(BadInput) as told:
        machine_of(ANSWERS | {"balance_most": "much", "balance_least": "15"})
    assert [problem.field for problem in told.value.problems] == ["balance_most"]
    with pytest.raises(BadInput) as told:
        machine_of(ANSWERS | {"balance_most": "30", "balance_least": "99"})
    said = told.value.problems[0]
    assert (
        "its cleaning end has more EP than its other end, 99 (99 % EP): change the two, or say that its figure counts EN"
        in str(said)
    )


@pytest.mark.parametrize(
    ("figure", "low", "high", "panel"),
    [("scale", "0", "10", ((0, 6), (10, 185))), ("clock", "7", "5", ((7, 6), (17, 185)))],
)
def test_amps_on_a_knob_without_amps(figure, low, high, panel):
    """1 to 10 was a machine of 10 A."""
    knob = machine_of(
        {"name": "Knob", "amps_figure": figure, "amps_low": low, "amps_low_means": "6", "amps_high": high, "amps_high_means": "185", "balance_most": "45", "balance_least": "10"}
    )  # fmt: skip
    assert (knob.least_a, knob.most_a, knob.duty.amps) == (6, 185, 185)
    assert knob.control("amps_set").scale.points == panel
    job = read_job({"a": {"alloy": "5052", "thickness": 2}, "joint": "butt"})
    plan = make_plan(job, knob)
    line = next(line for line in plan.panel.lines if line.setting == "amps_set")
    share = (plan.settings.amps_set - 6) / (185 - 6)
    assert line.value == pytest.approx(panel[0][0] + share * (panel[1][0] - panel[0][0]), abs=0.06)


def test_amps_of_nothing_are_not_taken_for_five():
    knob = {"name": "Knob", "amps_figure": "scale", "amps_low": "0", "amps_low_means": "0", "amps_high": "10", "amps_high_means": "180"}  # fmt: skip
    with pytest.raises(BadInput) as told:
        machine_of(knob)
    assert "least_a" in [problem.field for problem in told.value.problems]


def test_a_knob_that_no_manual_tells_of_is_assumed_and_says_so():
    knob = machine_of(ANSWERS | {"figure": "clock", "balance_most": "5", "balance_least": "7:30"})
    assert knob.control("ep_share").scale.points == ((7.5, 0.15), (17, 0.5))
    assert "assumed: 50 % EP at its cleaning end and 15 % EP at its other end" in knob.note
    known = {"balance_most_means": "45", "balance_least_means": "20"}
    assert (
        machine_of(ANSWERS | {"figure": "clock", "balance_most": "5", "balance_least": "7:30"} | known).note
        == ""
    )


@pytest.mark.parametrize("system", ["mm", "inch"])
@pytest.mark.parametrize("kit", KITS, ids=lambda k: k.name)
def test_a_kit_survives_its_form(kit, system):
    form = form_of_kit(kit, system)
    assert kit_from_form(form, system, kit) == kit
    # Without the stored kit the figures count as typed: near, and never of another size.
    read = kit_from_form(form, system)
    assert read.tungstens == kit.tungstens
    for before, after in zip(kit.cylinders, read.cylinders, strict=True):
        assert after.volume_l == pytest.approx(before.volume_l, rel=0.01)
        assert after.full_bar == pytest.approx(before.full_bar, rel=0.001)
    for before, after in zip(kit.torches, read.torches, strict=True):
        assert after == before.model_copy(update={"hose_m": pytest.approx(before.hose_m, rel=0.001)})


def test_rows_and_chips_are_what_the_kit_has():
    kit = KITS[0]
    form = form_of_kit(kit) | {
        "torch1_gone": "1",
        "torch3_name": "Long arm",
        "torch3_rated_a": "150",
        "torch3_hose": "25 ft",
        "cylinder0_volume": "80 cf",
        "cylinder0_full": "2200 psi",
        "tungsten WLa 15 1.6": "1",
    }
    del form["cup 7"], form["filler 4043"]
    read = kit_from_form(form, "mm", kit)
    assert [torch.name for torch in read.torches] == [kit.torches[0].name, "Long arm"]
    assert read.torches[1].hose_m == pytest.approx(7.62)
    # 80 cubic feet of gas at 2200 psi stand in 2265 L / 151.7 bar of water volume.
    assert read.cylinders[0].volume_l == pytest.approx(14.93, abs=0.01)
    assert 7 not in read.cups
    assert "4043" not in (read.fillers or ())
    assert ("WLa 15", 1.6) in [(item.class_, item.diameter_mm) for item in read.tungstens]
    assert rows_of(form, "torch") == [0, 1, 3, 4, 5]


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"torch0_rated_a": "lots"}, "torch0_rated_a: “lots” cannot be used"),
        ({"torch0_cooling": "steam"}, "torch0_cooling: “steam” cannot be used; allowed is air or water"),
        ({"torch0_hose": "90 m"}, "torch0_hose: 90 cannot be used; allowed is"),
        ({"torch5_name": "", "torch5_rated_a": "150"}, "torch5_name is empty: give it a name"),
        ({"torch0_gone": "1", "torch1_rated_a": "4000"}, "torch1_rated_a: 4000"),
        ({"cylinder0_volume": "fifty"}, "cylinder0_volume: “fifty”"),
        ({"cylinder1_name": "Argon, large"}, "each cylinder has a name of its own"),
        ({"tungsten Magic 2.4": "1"}, "known classes are WLa 20"),
        ({"tungsten WLa 20 3": "1"}, "known diameters are"),
        ({"cup six": "1"}, "cup: “cup six”"),
        ({"rod_price_kg": "-4"}, "rod_price_kg"),
        ({"chill_blocks": "²"}, "chill_blocks: “²”"),
        ({"name": ""}, "name is empty"),
    ],
)
def test_a_kit_that_cannot_be_read_is_named(change, words):
    with pytest.raises(BadInput) as told:
        kit_from_form(form_of_kit(KITS[0]) | change)
    assert words in str(told.value)


JOBS = st.fixed_dictionaries(
    {
        "a": st.fixed_dictionaries(
            {
                "alloy": st.sampled_from(["6061", "5083", "A356", "EN AW-6082"]),
                "thickness": st.sampled_from(["3 mm", "1/8", "11ga", 4.5, '.125"']),
            }
        ),
        "b": st.fixed_dictionaries(
            {"alloy": st.sampled_from(["6061", "5052"]), "thickness": st.sampled_from(["2 mm", "1/4 in"])}
        ),
        "joint": st.sampled_from(JointName.__args__),
        "position": st.sampled_from(Position.__args__),
        "surface": st.sampled_from(SurfaceName.__args__),
        "purposes": st.lists(st.sampled_from(Purpose.__args__), unique=True).map(
            lambda asked: [purpose for purpose in Purpose.__args__ if purpose in asked]
        ),
        "control": st.sampled_from(["pedal", "switch_2", "switch_4"]),
        "corner": st.sampled_from(["open", "half", "closed"]),
        "gap_mm": st.sampled_from([0, 1.5]),
        "weld_length_mm": st.sampled_from([100, 254.0]),
        "travel_mm_s": st.sampled_from([None, 3.5]),
        "part": st.sampled_from([None, {"width_mm": 200, "length_mm": 400}]),
        "bevel": st.sampled_from([None, {"angle_deg": 70, "root_face_mm": 1.0}]),
        "school": st.fixed_dictionaries(
            {name: st.sampled_from(field.annotation.__args__) for name, field in School.model_fields.items()}
        ),
    }
)


@settings(max_examples=150, deadline=None)
@given(JOBS, st.sampled_from(["mm", "inch"]))
def test_a_job_survives_its_form(given_job, system):
    job = read_job(given_job)
    back = job_from_form(form_from_job(job, "Some job", 1, system), system)
    keys = {
        "a",
        "b",
        "gap_mm",
        "weld_length_mm",
        "travel_mm_s",
        "part",
        "bevel",
        "part_temperature_c",
        "arc_length_mm",
    }
    assert back.model_dump(exclude=keys) == job.model_dump(exclude=keys)
    for side in ("a", "b"):
        before, after = getattr(job, side), getattr(back, side)
        assert (after.alloy, after.thickness_mm) == (
            before.alloy,
            pytest.approx(before.thickness_mm, abs=0.05),
        )
    assert back.weld_length_mm == pytest.approx(job.weld_length_mm, abs=0.06)
    assert back.gap_mm == pytest.approx(job.gap_mm, abs=0.05)
    assert back.part_temperature_c == pytest.approx(20, abs=0.6)
    assert (back.travel_mm_s is None) == (job.travel_mm_s is None)
    if job.bevel:
        assert back.bevel.angle_deg == 70
    if job.part:
        assert back.part.width_mm == pytest.approx(200, abs=0.1)


def test_a_bare_decimal_means_the_switch():
    form = {"a_alloy": "6061", "joint": "butt"}
    assert job_from_form(form | {"a_thickness": "0.125"}, "inch").a.thickness_mm == pytest.approx(3.175)
    assert job_from_form(form | {"a_thickness": "3"}, "mm").a.thickness_mm == 3
    one_sided = job_from_form(form | {"a_thickness": "3 mm", "b_thickness": "6 mm"}, "mm")
    assert (one_sided.b.alloy, one_sided.b.thickness_mm) == ("6061", 6)
