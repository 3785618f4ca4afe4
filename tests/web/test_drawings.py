"""Drawings: well-formed, described, inside their frame, and true to the numbers."""

import math
import re
from xml.etree import ElementTree

import pytest

from anvilsong.core.bead.coupon import Readings
from anvilsong.core.coefficients import nominal
from anvilsong.core.job import Job, JointName
from anvilsong.core.joint.outline import joint_shape
from anvilsong.core.machine.knob import KnobPoint, calibrate
from anvilsong.core.machine.panel import show_on_panel
from anvilsong.core.metal.alloys import find_alloy
from anvilsong.core.metal.fillers import find_filler
from anvilsong.core.model.effects import consequences
from anvilsong.core.model.situations import situation
from anvilsong.core.plan.planner import make_plan
from anvilsong.core.prep.gap import bridge_gap
from anvilsong.core.prep.pass_list import passes
from anvilsong.core.quantities import to_shown
from anvilsong.core.registry import with_value
from anvilsong.core.said import in_units as text
from anvilsong.demo.machines import MACHINES
from anvilsong.web.drawings.coupon import coupon_drawing
from anvilsong.web.drawings.crack import crack_drawing
from anvilsong.web.drawings.gap import gap_drawing
from anvilsong.web.drawings.knob import knob_drawing
from anvilsong.web.drawings.panel import panel_drawing
from anvilsong.web.drawings.passes import passes_drawing
from anvilsong.web.drawings.section import joint_drawing, section_drawing
from anvilsong.web.drawings.ticks import round_ticks
from anvilsong.web.drawings.torch import access_drawing, assembly_drawing, load_drawing
from anvilsong.web.drawings.wave import overview_drawing, wave_drawing
from anvilsong.web.scale_text import Counting

SVG = "{http://www.w3.org/2000/svg}"


def read(markup):
    """The drawing as a tree: well-formed, with a title and a description, and no number that is not one."""
    markup = text(markup)
    root = ElementTree.fromstring(markup)
    assert root.tag == f"{SVG}svg"
    assert root.find(f"{SVG}title").text
    assert root.find(f"{SVG}desc").text
    assert not re.search(r"nan|inf", re.sub(r"<[^>]*>[^<]*</(title|desc|text)>", "", markup))
    return root


def by_class(root, name):
    return [element for element in root.iter() if name in element.get("class", "").split()]


@pytest.mark.parametrize("joint", JointName.__args__)
@pytest.mark.parametrize(("a", "b"), [(0.6, 0.6), (3.0, 3.0), (8.0, 2.0), (2.0, 8.0), (20.0, 20.0)])
def test_every_joint_can_be_drawn(joint, a, b):
    job = Job(a={"alloy": "6061", "thickness": a}, b={"alloy": "5052", "thickness": b}, joint=joint)
    plan = make_plan(job)
    root = read(section_drawing(job, plan.settings, plan.consequences))
    assert by_class(root, "plate")
    assert by_class(root, "pool")
    assert by_class(root, "tungsten")
    assert f"cup {plan.settings.cup.number}" in "".join(root.itertext())
    read(joint_drawing(job, "inch"))
    read(passes_drawing(job, passes(situation(job), plan.settings, nominal())))


def test_the_section_is_to_scale():
    """The border's bar is as long, against the plate's thickness, as the numbers say."""
    job = Job(a={"alloy": "6061", "thickness": 4}, joint="butt")
    plan = make_plan(job)
    root = read(section_drawing(job, plan.settings, plan.consequences))

    def span(element, axis):
        values = [float(pair.split(",")[axis]) for pair in element.get("points").split()]
        return max(values) - min(values)

    unit = span(by_class(root, "plate")[0], 1) / 4
    for bar in by_class(root, "border"):
        assert span(bar, 0) / unit == pytest.approx(plan.consequences.border_mm, rel=0.02)
    more = with_value(plan.settings, "ep_share", 0.42)
    wider = read(section_drawing(job, more, consequences(job, more)))
    assert span(by_class(wider, "border")[0], 0) > span(by_class(root, "border")[0], 0)


def test_joint_outlines_have_the_plates_area():
    def area(outline):
        return (
            abs(
                sum(
                    x0 * y1 - x1 * y0
                    for (x0, y0), (x1, y1) in zip(outline, outline[1:] + outline[:1], strict=True)
                )
            )
            / 2
        )

    plain = joint_shape(Job(a={"alloy": "6061", "thickness": 10}, joint="butt"), 50)
    assert area(plain.a) == pytest.approx(500)
    bevelled = joint_shape(
        Job(a={"alloy": "6061", "thickness": 10}, joint="butt", bevel={"angle_deg": 60, "root_face_mm": 2}),
        50,
    )
    assert area(plain.a) - area(bevelled.a) == pytest.approx(8**2 * math.tan(math.pi / 6) / 2)
    tee = joint_shape(
        Job(a={"alloy": "6061", "thickness": 10}, b={"alloy": "6061", "thickness": 4}, joint="tee", gap_mm=1),
        50,
    )
    assert (area(tee.a), area(tee.b)) == (pytest.approx(1000), pytest.approx(4 * 49))


PLAN = make_plan(Job(a={"alloy": "6061", "thickness": 3}, joint="butt"))


@pytest.mark.parametrize("shape", ["square", "soft", "trapezoid", "sine", "triangle"])
def test_the_wave_shows_its_own_numbers(shape):
    s = with_value(
        with_value(with_value(PLAN.settings, "shape_en", shape), "shape_ep", shape), "ep_trim", -0.2
    )
    root = read(wave_drawing(s, ghost=PLAN.settings, large=True))
    assert [handle.get("data-handle") for handle in by_class(root, "handle")] == [
        "ep_trim",
        "ep_share",
        "amps_set",
        "frequency_hz",
    ]
    assert len(by_class(root, "frost-fill")) == len(by_class(root, "ember-fill")) == 2
    assert by_class(root, "wave-ghost")
    spots = [re.findall(r"[\d.]+", handle.get("transform")) for handle in by_class(root, "handle")]
    heights = [float(y) for _, y in spots]
    zero = heights[1]
    # The positive handle stands 20 % lower over the line than the negative one under it.
    assert (zero - heights[0]) / (heights[2] - zero) == pytest.approx(0.8, rel=1e-3)
    places = [float(x) for x, _ in spots]
    assert (places[1] - 8) / (places[3] - 8) == pytest.approx(s.ep_share, abs=1e-3)
    assert not overview_drawing(s)
    for key, value in (("pulse_rate_hz", 1.5), ("mix_ac_share", 0.6)):
        strip = read(overview_drawing(with_value(s, key, value)))
        assert by_class(strip, "frost-strip")
        assert by_class(strip, "ember-strip")


@pytest.mark.parametrize("machine", MACHINES, ids=lambda m: m.name)
def test_every_panel_can_be_drawn(machine):
    plan = make_plan(PLAN.job, machine)
    panel = show_on_panel(plan.settings, machine)
    root = read(panel_drawing(panel, machine, frozenset({"ep_share"})))
    text = "".join(root.itertext())
    for line in panel.lines:
        assert line.label in text
        assert line.shown.replace(" o’clock", "") in text
    knobs = [control for control in machine.controls if control.scale.shown_as in ("clock", "percent")]
    assert len(by_class(root, "knob")) == len(knobs)


def test_the_rest_of_the_drawings():
    s = PLAN.settings
    for load, state in ((0.2, "wanders"), (0.6, "good"), (0.9, "rounds"), (1.1, "balls"), (1.5, "melts")):
        now = [
            element
            for element in by_class(read(load_drawing(s.tungsten, load / 2, load / 2, load)), "now")
            if "band" in element.get("class")
        ]
        assert [element.get("class").split()[1] for element in now] == [state]
    fits, too_big = access_drawing(7, 6, 11, 90, 3), access_drawing(16, 8, 6, 60, 3)
    assert "no-fit" not in read(fits).get("class")
    assert "no-fit" in read(too_big).get("class")
    assert "gas lens" in "".join(read(assembly_drawing(True)).itertext())
    read(
        knob_drawing(
            calibrate([KnobPoint(position=7, value=0.15), KnobPoint(position=17, value=0.45)]),
            "clock",
            Counting(0.01),
            "AC balance",
        )
    )
    base = find_alloy("6061")
    spots = [
        by_class(read(crack_drawing(base, "6061", [("4043", find_filler("4043"))], dilution)), "weld-metal")[
            0
        ]
        for dilution in (0.2, 0.8)
    ]
    assert float(spots[0].get("cx")) < float(spots[1].get("cx"))
    assert float(spots[0].get("cy")) > float(spots[1].get("cy"))
    gap = Job(a={"alloy": "5052", "thickness": 1.5}, joint="butt", gap_mm=2)
    steps = bridge_gap(situation(gap), make_plan(gap).settings)
    built = [len(by_class(read(gap_drawing(step, 2, 1.5)), "fill")) for step in steps]
    assert built == sorted(built)
    assert built[-1] == 2
    thin, wide = (
        read(
            coupon_drawing(
                Readings(bead_width_mm=6, border_left_mm=b, border_right_mm=b, seconds=20, length_mm=80), "c"
            )
        )
        for b in (0.3, 2.0)
    )
    assert float(by_class(wide, "border")[0].get("height")) > float(by_class(thin, "border")[0].get("height"))


@pytest.mark.parametrize(
    ("low", "high", "about", "dimension", "system", "shown"),
    [
        (79, 164, 5, "current", "mm", [80, 100, 120, 140, 160]),
        (0.12, 0.55, 5, "share", "mm", [20, 30, 40, 50]),
        (0, 1.9, 5, "length", "mm", [0, 0.5, 1.0, 1.5]),
        (0, 14.4, 5, "length", "mm", [0, 5, 10]),
        (0, 14.4, 5, "length", "inch", [0, 0.2, 0.4]),
        (2, 7, 5, "speed", "mm", [2, 3, 4, 5, 6, 7]),
        (2, 7, 5, "speed", "inch", [5, 10, 15]),
        (20, 120, 5, "temperature", "inch", [100, 150, 200]),
        (-0.4, 0.2, 5, "share", "mm", [-40, -20, 0, 20]),
        (50, 50, 5, "frequency", "mm", [50]),  # a machine of one frequency
    ],
)
def test_axes_are_marked_at_round_values_of_the_readers_units(low, high, about, dimension, system, shown):
    ticks = round_ticks(low, high, about, dimension, system)
    assert [to_shown(tick, dimension, system) for tick in ticks] == pytest.approx(shown, abs=1e-9)
    assert all(low - 1e-9 <= tick <= high + 1e-9 for tick in ticks)
