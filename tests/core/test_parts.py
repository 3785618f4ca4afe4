"""What a part is made of: arc, foot, traces, presets, pictures; each by its own figures."""

import re

import numpy as np
import pytest

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.coefficients import nominal
from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.model import situation
from anvilsong.core.plan import make_plan
from anvilsong.core.said import in_units as text
from anvilsong.core.warming import (
    PRESETS,
    FootAmps,
    HeatRun,
    Mark,
    PartDrawing,
    Run,
    RunTrace,
    Shape,
    variants,
)
from anvilsong.core.warming.arc import Arc
from anvilsong.core.warming.compare import compared
from anvilsong.core.warming.effort import MOST_SECONDS, check_effort, estimated_s
from anvilsong.core.warming.foot import Foot
from anvilsong.core.warming.job_arc import arc_of, foot_amps, metal_of, plate_share
from anvilsong.core.warming.presets import casting, plate, tube_seam
from anvilsong.core.warming.raster import MOST_CELLS, rasterised
from anvilsong.core.warming.result import as_picture
from anvilsong.core.warming.running import _reached_mm, pace


def test_an_arc_says_how_finely_it_is_computed():
    arc = Arc(6.0, 3.0)
    assert arc.sigma_mm == pytest.approx(2.0)
    assert arc.usual_cell_mm == pytest.approx(1.2)
    assert arc.step_s == pytest.approx(0.1)  # 6/3/16 = 0.125, at most 0.1
    assert Arc(3.0, 4.0).step_s == pytest.approx(3 / 4 / 16)
    assert Arc(1.0, 4.0).usual_cell_mm == pytest.approx(0.25)


def test_a_foot_presses_by_the_miss_and_by_its_change():
    """q' = 0.5·e' + e/0.6: ten steps of the same miss; then none, which takes the first part back."""
    foot = Foot(Arc(6.0, 3.0, 1.5, 0.1), 900.0, begins=1.0)
    for _ in range(10):
        foot.press(5.4, 0.05)
    assert foot.share == pytest.approx(1 + 0.5 * 0.1 + 10 * 0.1 * 0.05 / 0.6)
    assert foot.heat_w == pytest.approx(900 * foot.share)
    before = foot.share
    foot.press(6.0, 0.05)
    assert foot.share == pytest.approx(before - 0.05)
    for _ in range(400):
        foot.press(1.0, 0.1)
    assert foot.share == 1.5
    for _ in range(400):
        foot.press(20.0, 0.1)
    assert foot.share == 0.1


def test_a_hand_slows_down_for_a_narrow_pool():
    assert [pace(share) for share in (0.5, 0.75, 0.85, 0.95, 1.2)] == pytest.approx([0.15, 0.15, 0.575, 1, 1])


def trace(width, travel=3.0, whole=100.0):
    """A run whose pool is so wide over its way."""
    way = np.linspace(whole / 50, whole, 50)
    return {"way_mm": way.tolist(), "width_mm": np.interp(way, *zip(*width, strict=True)).tolist(),
            "travel_mm_s": np.full(50, travel).tolist()}  # fmt: skip


def test_where_the_pool_is_reached():
    arc = Arc(6.0, 3.0)
    ramp = [(0, 3.0), (40, 6.0), (100, 6.0)]
    assert _reached_mm(trace(ramp), arc) == pytest.approx(0.97 * 40 * 1.0, abs=3)  # 5.82 mm at 37.6
    assert _reached_mm(trace(ramp, travel=2.8), arc) is None  # a hand that is too slow
    assert _reached_mm(trace([(0, 3.0), (100, 5.7)]), arc) is None
    late = [(0, 3.0), (87, 5.7), (88, 6.2), (100, 6.2)]
    assert _reached_mm(trace(late), arc) is None  # only the edge held it back
    peak = [(0, 3.0), (29, 3.0), (30, 6.5), (31, 3.0), (60, 3.0), (61, 6.2), (100, 6.2)]
    assert _reached_mm(trace(peak), arc) == pytest.approx(61, abs=6)  # a moment is not enough
    assert _reached_mm(trace([(0, 6.1), (100, 6.1)]), arc) == pytest.approx(2)


@pytest.mark.parametrize(
    ("narrow", "reached"), [((14,), True), ((14, 15), False), ((10, 15), True), ((12, 14, 17), False)]
)
def test_a_blink_does_not_undo_it(narrow, reached):
    """Over two pools, six places of 2 mm here, one may be narrow."""
    seen = trace([(0, 3.0), (100, 3.0)])
    seen["width_mm"] = [6.0 if 10 <= n < 20 and n not in narrow else 3.0 for n in range(50)]
    found = _reached_mm(seen, Arc(6.0, 3.0))
    assert (found is not None) is reached


def run_trace(share, **more):
    way = tuple(float(each) for each in range(1, 101))
    return RunTrace(
        **{
            "waited_s": 0, "begins_s": 0, "stood_s": 0, "ends_s": 30, "way_mm": way,
            "share": tuple(np.interp(way, (1, 100), share)), "width_mm": (6.0,) * 100,
            "travel_mm_s": (3.0,) * 100, "ahead_c": (20.0,) * 100, "reached_mm": 4.0,
        } | more
    )  # fmt: skip


def test_first_and_last_of_a_trace():
    one = run_trace((1.0, 0.505))
    assert one.first_share == pytest.approx(1 - 0.005 * 9)
    assert one.last_share == pytest.approx(1 - 0.005 * 94)
    assert one.share_at(51) == pytest.approx(0.75)
    grows = run_trace((1, 1), width_mm=tuple(np.interp(range(1, 101), (1, 80, 81, 100), (6, 7, 7, 30))))
    assert 7.0 <= grows.widest_mm < 13  # the last pools are not counted
    run = HeatRun(
        reference_w=900, wanted_mm=6, travel_mm_s=3, cell_mm=1, runs=(one, grows), ends_s=61, end_mean_c=80,
        end_hottest_c=200, touch_s=None, heat_j=1, lost_j=0, lumped_c=90,
        marks=({"name": "Seal", "peak_c": 151, "peak_s": 9, "most_c": 150}, {"name": "Bush", "peak_c": 160, "peak_s": 9},
               {"name": "Edge", "peak_c": 150, "peak_s": 9, "most_c": 150}),
    )  # fmt: skip
    way = compared("As drawn", run)
    assert (way.first_share, way.last_share) == pytest.approx((0.955, 1.0))
    assert (way.hottest_mark_c, way.over, way.ends_s, way.reached_mm) == (160, 1, 61, 4)


def test_amps_of_a_share_and_back():
    foot = FootAmps(pool_w=800, rod_w=100, per_amp_w=6)
    assert foot.amps(1.0) == pytest.approx(150)
    assert foot.amps(0.5) == pytest.approx(500 / 6)
    assert foot.share(foot.amps(0.73)) == pytest.approx(0.73)


@pytest.mark.parametrize("control", ["pedal", "switch_2"])
def test_the_arc_of_a_job(control):
    job = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt", "control": control})
    at, c, plan = situation(job), nominal(), make_plan(job)
    s = plan.settings
    foot, arc, metal = foot_amps(at, s, c), arc_of(at, s, c), metal_of(at)
    assert foot.amps(1.0) == pytest.approx(s.amps_run, rel=2e-3)
    assert foot.per_amp_w == pytest.approx(heat_per_amp_w(s.wave(), c, 3.0, 0.0))
    assert arc.most == pytest.approx(foot.share(s.amps_set), abs=1e-4)
    assert arc.least == pytest.approx(max(foot.share(s.start_amps), 0.05), abs=1e-4)
    assert (arc.width_mm, arc.travel_mm_s) == (
        pytest.approx(plan.consequences.pool_width_mm, rel=0.05),
        s.travel_mm_s,
    )
    assert arc_of(at, s.model_copy(update={"amps_set": 2000.0}), c).most == 3
    weak = arc_of(at, s.model_copy(update={"amps_set": 20.0, "start_amps": 90.0}), c)
    assert weak.least == weak.most == pytest.approx(foot.share(20.0), abs=1e-4)
    assert (metal.solidus_c, metal.liquidus_c) == (582, 652)
    assert metal.density_g_mm3 == pytest.approx(2.70e-3)
    assert metal.hot_w_mm_k == pytest.approx(at.conductivity_w_mm_k, abs=1e-6)
    unlike = situation(
        read_job(
            {"a": {"alloy": "6061", "thickness": 3}, "b": {"alloy": "1050A", "thickness": 3}, "joint": "butt"}
        )
    )
    assert metal_of(unlike).liquidus_c == 657  # the side that melts later


def test_presets_are_parts():
    for key, (words, make) in PRESETS.items():
        part = make()
        raster = rasterised(part, 2.0)
        assert words
        assert raster.thickness_mm.max() >= part.thickness_mm, key
        assert all(raster.is_metal(*run.at_mm(run.length_mm / 2)) for run in part.runs), key
        assert all(raster.is_metal(mark.x_mm, mark.y_mm) for mark in part.marks), key
    assert tube_seam(50, 80, 2).box_mm == pytest.approx((0, 0, 157.1, 80))
    assert plate(200, 90, 4).runs[0].at_mm(70) == pytest.approx((70, 45))
    cleat = casting(10)
    assert [shape.thickness_mm for shape in cleat.shapes] == [None, 5]
    assert casting(4).shapes[1].thickness_mm == 3
    assert len(PRESETS) == 6


def test_other_ways_are_named_by_what_there_is():
    one = plate()
    assert [way.words for way in variants(one)] == ["From the other end"]
    turned = variants(one)[0].part.runs[0]
    assert (turned.x_mm, turned.to_x_mm) == (300, 0)
    two = one.model_copy(
        update={"runs": (one.runs[0], Run(x_mm=0, y_mm=20, to_x_mm=300, to_y_mm=20, pause_s=5))}
    )
    block = Shape(does="block", x_mm=10, y_mm=10, width_mm=20, height_mm=20)
    more = variants(two.model_copy(update={"shapes": (*two.shapes, block)}))
    assert [text(way.words) for way in more] == [
        "From the other end", "In the other order", "With 30 s more before each later run", "Without the block",
    ]  # fmt: skip
    assert more[1].part.runs == two.runs[::-1]
    assert [run.pause_s for run in more[2].part.runs] == [0, 35]
    assert all(shape.does != "block" for shape in more[3].part.shapes)


def test_cells_of_a_part_and_too_many_of_them():
    part = PartDrawing(
        thickness_mm=2,
        shapes=(
            Shape(x_mm=10, y_mm=5, width_mm=40, height_mm=20),
            Shape(form="circle", does="hole", x_mm=30, y_mm=15, width_mm=8),
            Shape(does="block", x_mm=40, y_mm=5, width_mm=30, height_mm=10, block_metal="aluminium"),
        ),
        runs=(Run(x_mm=10, y_mm=7, to_x_mm=50, to_y_mm=7),),
    )
    raster = rasterised(part, 1.0)
    assert raster.thickness_mm.shape == (20, 40)
    assert raster.place(12.5, 6.0) == (2.5, 1.0)
    assert raster.thickness_mm.sum() == pytest.approx(2 * (800 - np.pi * 16), rel=0.01)
    assert (raster.block_mm > 0).sum() == 100  # only where there is metal under it
    assert raster.block_mm.max() == 20
    assert raster.block_metal == "aluminium"
    assert raster.is_metal(10.5, 5.5)
    assert not raster.is_metal(30, 15)
    assert not raster.is_metal(9.5, 6)
    assert not raster.is_metal(50.5, 6)
    huge = part.model_copy(update={"shapes": (Shape(width_mm=2000, height_mm=1000),), "runs": part.runs})
    assert rasterised(huge, 2.3).thickness_mm.size < MOST_CELLS
    with pytest.raises(BadInput, match="grid points are too many"):
        rasterised(huge, 2.2)
    over = part.model_copy(update={"runs": (Run(x_mm=30, y_mm=15, to_x_mm=50, to_y_mm=15),)})
    with pytest.raises(BadInput, match="begins where there is no metal"):
        rasterised(over, 1.0)


def test_a_picture_is_a_byte_a_cell():
    t = np.array([[20.0, 300.0], [762.0, 5000.0], [-30.0, 60.0]])
    metal = np.array([[True, True], [True, True], [True, False]])
    assert as_picture(t, metal, 1).tolist() == [[6, 100], [254, 254], [0, 255]]
    assert as_picture(t, metal, 2).tolist() == [[6], [0]]


def test_a_mark_is_over_only_past_its_limit():
    assert Mark(name="Seal", x_mm=1, y_mm=1, most_c=150).most_c == 150
    with pytest.raises(ValueError, match="most_c"):
        Mark(name="Seal", x_mm=1, y_mm=1, most_c=601)


def test_what_is_too_long_to_compute_says_which_cells_would_do():
    """Work goes with the cube of the cells' fineness: the cells that are named are taken, those a fifth finer are not."""
    arc = Arc(5.8, 3.6)
    drawn = plate(900, 600, 3.0).model_copy(update={"cell_mm": 0.5})
    with pytest.raises(BadInput, match=r"take cells of (\d+\.\d) mm") as told:
        check_effort(drawn, arc)
    coarser = float(re.search(r"cells of (\d+\.\d) mm", str(told.value))[1])
    assert check_effort(drawn.model_copy(update={"cell_mm": coarser}), arc) < MOST_SECONDS
    assert estimated_s(drawn.model_copy(update={"cell_mm": 0.8 * coarser}), arc) > MOST_SECONDS
    minutes = float(re.search(r"about (\d+) minutes", str(told.value))[1])
    assert minutes == pytest.approx(estimated_s(drawn, arc) / 60, abs=0.5)


def test_marks_and_holes_of_the_presets_lie_on_their_metal():
    """The preset's hole, its mark and its run keep their places when it is made larger."""
    for name, (_, make) in PRESETS.items():
        drawn = make()
        left, bottom, right, top = drawn.box_mm
        for mark in drawn.marks:
            assert left < mark.x_mm < right, name
            assert bottom < mark.y_mm < top, name
        for hole in (shape for shape in drawn.shapes if shape.does == "hole" and shape.form == "circle"):
            (seal,) = drawn.marks
            assert seal.x_mm == hole.x_mm
            assert hole.width_mm / 2 < hole.y_mm - seal.y_mm < hole.width_mm
            assert drawn.runs[0].y_mm < seal.y_mm


@pytest.mark.parametrize(("part_c", "preheat_c"), [(20.0, None), (20.0, 100.0), (80.0, None), (5.0, 60.0)])
def test_part_and_plan_agree_on_a_warm_plate(part_c, preheat_c):
    """On a plate without end, as warm as the part is at first, the foot is the plan's, by the same heat."""
    job = read_job({"a": {"alloy": "6061", "thickness": 4}, "joint": "butt", "part_temperature_c": part_c})
    at, c, s = situation(job), nominal(), make_plan(job).settings
    warm = part_c if preheat_c is None else preheat_c
    foot, share = foot_amps(at, s, c), plate_share(at, warm)
    planned = at.wanted_pool_heat_w(s.travel_mm_s, preheat_c)
    assert share * foot.pool_w == pytest.approx(planned, rel=1e-6)
