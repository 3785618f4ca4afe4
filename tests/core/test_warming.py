"""A part that warms up: what the foot does on it, against plates without end, and the directions a welder knows."""

import itertools
import math

import numpy as np
import pytest

from anvilsong.core.coefficients import nominal
from anvilsong.core.errors import BadInput
from anvilsong.core.heat.metal_heat import MetalHeat
from anvilsong.core.heat.moving_source import thin_plate_rise_per_watt
from anvilsong.core.heat.plate import Plate
from anvilsong.core.heat.plate_run import Air, PlateRun
from anvilsong.core.job import Job
from anvilsong.core.model import situation
from anvilsong.core.plan import make_plan
from anvilsong.core.said import in_units as text
from anvilsong.core.warming import (
    MOST_RESTS,
    MOST_SIDE_MM,
    PRESETS,
    Mark,
    PartDrawing,
    Run,
    RunTrace,
    Shape,
    compared,
    variants,
)
from anvilsong.core.warming.arc import Arc
from anvilsong.core.warming.cooling import until_touch
from anvilsong.core.warming.effort import check_effort, estimated_s
from anvilsong.core.warming.foot import reference_w, rise_per_watt
from anvilsong.core.warming.job_arc import arc_of, foot_amps, metal_of
from anvilsong.core.warming.presets import plate, strip
from anvilsong.core.warming.raster import rasterised
from anvilsong.core.warming.result import LAST_POOLS
from anvilsong.core.warming.running import weld
from anvilsong.core.warming.whole import weld_part

METAL = MetalHeat(2.7e-3, 0.2, 582, 652)
SIMPLE = MetalHeat(2.7e-3, 0.2, 582, 652, simple=True)
ARC = Arc(5.8, 3.6)


def part(width=160.0, height=80.0, runs=None, **more):
    runs = runs or (Run(x_mm=0, y_mm=height / 2, to_x_mm=width, to_y_mm=height / 2),)
    return PartDrawing(
        **{"shapes": (Shape(width_mm=width, height_mm=height),), "runs": runs, "cell_mm": 1.5} | more
    )


def welded(drawn, arc=ARC, **more):
    return weld(drawn, METAL, arc, **more)[0]


def test_the_closed_solution_of_a_wide_arc_is_the_point_source_when_it_is_narrow():
    near = Plate(3.2, 3.6, 0.2, 0.2 / 2.7e-3)
    for y in (2.0, 6.0):
        point = max(thin_plate_rise_per_watt(near, -xi, y) for xi in np.linspace(0, 12, 200))
        assert rise_per_watt(near, np.array([y]), 1e-3)[0] == pytest.approx(point, rel=0.003)
        assert rise_per_watt(near, np.array([y]), 2.0)[0] < point
        assert rise_per_watt(near, np.array([y]), 2.0, 3.0)[0] < rise_per_watt(near, np.array([y]), 2.0)[0]


@pytest.mark.parametrize(("t", "v"), [(1.6, 4.0), (3.2, 3.6), (6.4, 1.5)])
def test_the_reference_is_the_closed_solution_where_there_is_one(t, v):
    """Constants fixed, no latent heat: the plate without end, on its grid, wants what the integral says."""
    arc = Arc(2.5 + 1.1 * t, v)
    closed = (SIMPLE.contour_c - 20) / rise_per_watt(
        Plate(t, v, 0.2, 0.2 / 2.7e-3), np.array([arc.width_mm / 2]), arc.sigma_mm
    )
    assert reference_w(SIMPLE, t, arc, arc.usual_cell_mm) == pytest.approx(closed[0], rel=0.03)


def test_the_foot_holds_the_pool():
    result = welded(part())
    (trace,) = result.runs
    inner = [n for n, way in enumerate(trace.way_mm) if 20 < way < 130]
    assert np.array(trace.width_mm)[inner] == pytest.approx(np.full(len(inner), 5.8), rel=0.04)
    assert np.array(trace.travel_mm_s)[inner] == pytest.approx(np.full(len(inner), 3.6), rel=0.02)
    assert trace.ends_s == pytest.approx(trace.stood_s + 160 / 3.6, rel=0.03)
    assert 0 < trace.stood_s < 3
    assert result.heat_j == pytest.approx(result.reference_w * np.mean(trace.share) * trace.ends_s, rel=0.06)
    assert result.end_mean_c < result.lumped_c < result.end_mean_c + 60


def test_a_smaller_part_wants_less_foot_at_its_end():
    last = [welded(part(height=height)).runs[0].share_at(120) for height in (200, 100, 50, 30)]
    assert last == sorted(last, reverse=True)
    assert last[0] == pytest.approx(1.02, abs=0.06)  # as on a plate without end
    assert last[-1] < 0.75


def test_a_pause_lowers_what_was_heated():
    """The second run beside the first wants less than the first did; after a pause it wants more again, and after a long
    one as much as the first.
    """
    way = [Run(x_mm=0, y_mm=y, to_x_mm=160, to_y_mm=y) for y in (30.0, 50.0)]

    def second(**more):
        return welded(part(runs=(way[0], way[1].model_copy(update=more)))).runs[1]

    at_once, paused, cool = second(), second(pause_s=60.0), second(cools_to_c=45.0)
    first = welded(part(runs=(way[0],))).runs[0]
    assert at_once.share_at(60) < 0.75 * first.share_at(60)
    assert at_once.share_at(60) + 0.02 < paused.share_at(60) < cool.share_at(60)
    assert cool.share_at(60) == pytest.approx(first.share_at(60), rel=0.12)
    assert (at_once.waited_s, paused.waited_s) == (0, 60)
    assert cool.waited_s > 60


def test_a_chill_block_keeps_a_seal_cool():
    seal = Mark(name="Seal", x_mm=120, y_mm=70, most_c=150)
    hole = Shape(form="circle", does="hole", x_mm=120, y_mm=62, width_mm=12)
    on = Shape(does="block", x_mm=95, y_mm=48, width_mm=50, height_mm=30)
    plain = Shape(width_mm=160, height_mm=80)
    without = welded(part(shapes=(plain, hole), marks=(seal,)))
    chilled = welded(part(shapes=(plain, hole, on), marks=(seal,)))
    assert chilled.marks[0].peak_c < without.marks[0].peak_c - 25
    assert without.marks[0].is_over
    assert chilled.end_mean_c < without.end_mean_c
    assert chilled.touch_s > without.touch_s  # what the block took, it keeps


def test_start_at_the_thin_end():
    """Thin at one end, thick at the other: from the thin end on the foot presses on as it goes; from the thick end it has to
    come off, onto metal that is hot, and is at its least at the end.
    """
    shapes = (Shape(width_mm=80, height_mm=60), Shape(x_mm=80, width_mm=80, height_mm=60, thickness_mm=5))
    way = Run(x_mm=0, y_mm=30, to_x_mm=160, to_y_mm=30)
    thin, thick = (
        welded(part(shapes=shapes, runs=(run,), thickness_mm=3)).runs[0] for run in (way, way.turned)
    )
    assert thin.share_at(110) > 1.3 * thin.share_at(60)
    assert thick.share_at(120) < 0.7 * thick.share_at(50)
    assert thick.share_at(140) < thin.share_at(20)


def test_two_hundred_amps_on_six_millimetres():
    """A small plate comes to its pool on the way; a large one never does; without waiting neither does."""
    job = Job.model_validate(
        {"a": {"alloy": "6061", "thickness": 6.4}, "joint": "butt", "edge_prep": "square"}
    )
    planned = make_plan(job).settings
    short = planned.model_copy(update={"amps_set": 200.0, "amps_run": 200.0})
    at, c = situation(job), nominal()
    arc, foot = arc_of(at, short, c), foot_amps(at, short, c)
    assert foot.amps(arc.most) == pytest.approx(200, abs=0.05)
    assert foot.amps(1.0) > 250
    assert foot.share(foot.amps(0.8)) == pytest.approx(0.8)
    small, large = (
        plate(long, wide, 6.4).model_copy(update={"cell_mm": 3.0}) for long, wide in ((150, 100), (600, 400))
    )
    reached = weld(small, metal_of(at), arc)[0].runs[0].reached_mm
    assert 20 < reached < 128
    assert weld(large, metal_of(at), arc)[0].runs[0].reached_mm is None
    goes = weld(small.model_copy(update={"start": "goes"}), metal_of(at), arc)[0].runs[0]
    assert goes.reached_mm is None
    assert goes.travel_mm_s == pytest.approx([arc.travel_mm_s] * len(goes.travel_mm_s))
    ample = arc_of(at, planned, c)
    assert weld(small, metal_of(at), ample)[0].runs[0].reached_mm < 20


def test_amps_that_stay_make_the_pool_grow():
    """With a torch switch nothing takes the heat back."""
    result = weld(
        strip(200, 3.2).model_copy(update={"cell_mm": 1.5}), METAL, Arc(5.8, 3.6, 1.0, 0.1), holds_width=False
    )[0]
    (trace,) = result.runs
    assert set(trace.share) == {1.0}
    widths = [float(np.interp(way, trace.way_mm, trace.width_mm)) for way in (30, 100, 170)]
    assert widths == sorted(widths)
    assert widths[2] > 1.5 * widths[0]


def test_the_cells_of_a_drawing():
    outline = Shape(form="outline", corners=((0, 0), (60, 0), (60, 20), (20, 20), (20, 50), (0, 50)))
    drawn = PartDrawing(
        thickness_mm=3,
        shapes=(
            outline,
            Shape(x_mm=40, y_mm=5, width_mm=10, height_mm=10, does="hole"),
            Shape(form="circle", x_mm=10, y_mm=40, width_mm=16, thickness_mm=6),
            Shape(x_mm=-50, y_mm=0, width_mm=60, height_mm=8, does="block", thickness_mm=12),
        ),
        runs=(Run(x_mm=5, y_mm=12, to_x_mm=35, to_y_mm=12),),
    )
    cells = rasterised(drawn, 1.0)
    area = float((cells.thickness_mm > 0).sum())
    circle = float((cells.thickness_mm == 6).sum())
    assert area == pytest.approx(60 * 20 + 20 * 30 - 100, abs=1)
    assert circle == pytest.approx(math.pi * 64, rel=0.04)
    assert float((cells.block_mm == 12).sum()) == 10 * 8  # only where there is metal
    assert not cells.is_metal(45, 10)
    assert cells.is_metal(55, 10)
    assert not cells.is_metal(-1, 10)


@pytest.mark.parametrize("preset", PRESETS)
def test_every_preset_can_be_welded(preset):
    words, make = PRESETS[preset]
    drawn = make()
    assert words
    check_effort(drawn, ARC)
    coarse = drawn.model_copy(update={"cell_mm": 3.0})
    result, film = weld(coarse, METAL, Arc(8.0, 4.0))
    assert all(0.05 < trace.last_share < 2 for trace in result.runs)
    assert film.pictures.shape[0] == len(film.seconds) > 20
    metal = rasterised(coarse, 3.0).thickness_mm > 0
    assert np.all((film.pictures[-1] == 255) == ~metal)


def test_other_ways():
    ways = [Run(x_mm=0, y_mm=y, to_x_mm=100, to_y_mm=y) for y in (20.0, 60.0)]
    on = Shape(does="block", width_mm=20, height_mm=20)
    drawn = part(runs=tuple(ways), shapes=(Shape(width_mm=160, height_mm=80), on))
    found = {text(each.words): each.part for each in variants(drawn)}
    assert [run.x_mm for run in found["From the other end"].runs] == [100, 100]
    assert [run.y_mm for run in found["In the other order"].runs] == [60, 20]
    assert [run.pause_s for run in found["With 30 s more before each later run"].runs] == [0, 30]
    assert all(shape.does == "metal" for shape in found["Without the block"].shapes)
    assert len(variants(part())) == 1
    row = compared("As drawn", welded(part(marks=(Mark(name="Edge", x_mm=80, y_mm=5, most_c=60),))))
    assert row.over == 1
    assert row.last_share < row.first_share


@pytest.mark.parametrize(
    ("drawn", "said"),
    [
        ({"cell_mm": 0.2, "shapes": [{"width_mm": 900, "height_mm": 900}]}, "coarser ones|minutes"),
        (
            {
                "shapes": [
                    {"width_mm": 160, "height_mm": 80},
                    {"does": "hole", "width_mm": 40, "height_mm": 80},
                ]
            },
            "begins where there is no metal",
        ),
    ],
)
def test_what_cannot_be_computed_is_said_before(drawn, said):
    with pytest.raises(BadInput, match=said):
        weld(part(**drawn), METAL, ARC)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"shapes": []}, "at least 1"),
        ({"shapes": [{"does": "hole"}]}, "draw metal first"),
        ({"runs": [{"x_mm": 0, "y_mm": 0, "to_x_mm": 1, "to_y_mm": 0}]}, "at least 5 mm"),
        ({"runs": [{"x_mm": 0, "y_mm": 500, "to_x_mm": 100, "to_y_mm": 40}]}, "begin and end on the part"),
        ({"shapes": [{"form": "outline", "corners": [[0, 0], [1, 1]]}]}, "at least three"),
        ({"shapes": [{"width_mm": 1e9}]}, "3000"),
    ],
)
def test_what_is_no_part_is_said(change, said):
    plain = {
        "shapes": [{"width_mm": 160, "height_mm": 80}],
        "runs": [{"x_mm": 0, "y_mm": 40, "to_x_mm": 100, "to_y_mm": 40}],
    }
    with pytest.raises(ValueError, match=said):
        PartDrawing.model_validate(plain | change)


def test_foil_long_pauses_and_few_pictures():
    """Cells so fine that a usual step of resting would be too long, and a pause of ten minutes between two runs."""
    ways = tuple(
        Run(x_mm=0, y_mm=y, to_x_mm=30, to_y_mm=y, pause_s=pause) for y, pause in ((8.0, 0), (14.0, 600))
    )
    foil = PartDrawing(thickness_mm=0.5, shapes=(Shape(width_mm=30, height_mm=20),), runs=ways, cell_mm=0.5)
    result, film = weld(foil, MetalHeat(2.71e-3, 0.231, 643, 657), Arc(3.0, 4.3))
    assert result.runs[1].waited_s == pytest.approx(600, abs=1)
    assert result.touch_s is not None
    assert 50 < len(film.seconds) <= 401
    assert list(film.seconds) == sorted(film.seconds)
    assert film.seconds[-1] > 600


def test_with_a_switch_what_a_foot_would_do_is_computed():
    job = Job.model_validate(
        {"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt", "control": "switch_2"}
    )
    at, settings = situation(job), make_plan(job).settings
    drawn = strip(200, 3.2).model_copy(update={"cell_mm": 2.0})
    result, _ = weld_part(at, settings, nominal(), drawn, and_others=False)
    assert not result.has_pedal
    begin, end = result.held
    assert end < 0.9 * begin
    assert result.run.runs[0].share[-1] == pytest.approx(result.foot.share(settings.amps_set), abs=0.01)

    # Rests with the arc out: at the amps of the start, each when the pool has grown, none in the last of the way.
    rested = result.rested
    assert rested.share == pytest.approx(begin, abs=1e-3)
    ways = [rest.way_mm for rest in rested.rests]
    assert 2 < len(ways) <= MOST_RESTS
    assert all(later > before + 3 for before, later in itertools.pairwise(ways))
    assert ways[-1] < 200 - LAST_POOLS * result.run.wanted_mm
    assert all(30 < rest.seconds < 900 for rest in rested.rests)
    assert 1.2 * result.run.wanted_mm < rested.widest_mm < 1.45 * result.run.wanted_mm
    assert rested.ends_s > result.run.ends_s + sum(rest.seconds for rest in rested.rests)
    assert result.run.runs[0].widest_mm > 1.3 * rested.widest_mm
    assert not result.run.runs[0].rests


def test_a_bar_wants_too_many_rests_and_a_deck_none():
    job = Job.model_validate(
        {"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt", "control": "switch_2"}
    )
    at, settings = situation(job), make_plan(job).settings

    def rested(width, length):
        sheet = Shape(width_mm=length, height_mm=width)
        way = Run(x_mm=0.2 * length, y_mm=width / 2, to_x_mm=0.8 * length, to_y_mm=width / 2)
        drawn = PartDrawing(thickness_mm=3.2, shapes=(sheet,), runs=(way,), cell_mm=2.5)
        return weld_part(at, settings, nominal(), drawn, and_others=False)[0].rested

    assert rested(24, 400).rests == ()
    assert rested(400, 300) is None


@pytest.mark.parametrize("change", [{"way_mm": []}, {"share": [1.0]}, {"way_mm": [0.0, 0.0]}])
def test_a_result_from_elsewhere_is_of_one_piece(change):
    trace = welded(part()).runs[0].model_dump() | change
    with pytest.raises(ValueError, match=r"one length|at least 1"):
        RunTrace.model_validate(trace)


def test_until_it_can_be_touched_as_a_lump():
    """An even plate: s = ln((T − T∞)/(50 − T∞))·ρ·c·t/2h; none in warm air, none after two hours."""
    metal = MetalHeat(2.7e-3, 0.2, 582, 652, simple=True)

    def seconds(t_mm, start_c, air_c=20.0):
        plate = PlateRun(np.full((20, 20), t_mm), 2.0, metal, start_c=start_c, air=Air(air_c))
        found = until_touch(plate, np.full((20, 20), True), plate.step, 2.7e-3 * t_mm)
        closed = max(start_c - air_c, 1e-9) / abs(50 - air_c)
        return found, math.log(closed) * 2.7e-3 * t_mm / (2 * 15e-6)

    for t_mm, start_c in ((3.0, 120.0), (1.5, 300.0)):
        found, closed = seconds(t_mm, start_c)
        assert found == pytest.approx(closed, rel=1e-6)
    assert seconds(3.0, 49.0)[0] == 0
    assert seconds(3.0, 120.0, 60.0)[0] is None
    assert seconds(40.0, 600.0)[0] is None


def test_an_uneven_part_is_watched_until_it_is_even():
    plate = PlateRun(np.full((60, 60), 3.0), 1.0, METAL)
    plate.step(0.5, 1200.0, (30.0, 30.0), (30.0, 30.0), 3.0)
    assert float(plate.temperature_c.max()) > 100
    found = until_touch(plate, np.full((60, 60), True), plate.step, 2.7e-3 * 3)
    assert found > 0
    assert plate.temperature_c.max() < 50  # it was computed until then, not reckoned as a lump
    assert found == pytest.approx(plate.time_s - 0.5, abs=1e-6)


def test_how_long_it_takes_is_told_by_cells_and_steps():
    """Twice the area twice the time; half the cell more than four times; rests and a slow hand count."""

    def told(arc=ARC, **more):
        return estimated_s(part(**more), arc) - 0.5

    once = told(width=160.0, height=80.0)
    assert told(width=160.0, height=160.0) == pytest.approx(2 * once)
    assert 6 < told(cell_mm=0.75) / once < 9
    runs = (Run(x_mm=0, y_mm=40, to_x_mm=160, to_y_mm=40), Run(x_mm=160, y_mm=20, to_x_mm=0, to_y_mm=20))
    twice = told(runs=runs)
    paused = told(runs=(runs[0], runs[1].model_copy(update={"pause_s": 300.0})))
    assert 1.5 * once < twice < 2 * once
    assert paused > twice + 0.5 * once
    assert told(arc=Arc(5.8, 1.8)) > 1.5 * once
    # By hand: 107 × 53 cells, 44 s of steps, 30 s of cooling.
    cells, step = 160 * 80 / 1.5**2, min(0.1, 5.8 / 3.6 / 16)
    by_hand = 160 / 3.6 / step * max(2, math.sqrt(8 * step * 400 / 2.25) / 2)
    by_hand += 30 / 0.5 * max(2, math.sqrt(8 * 0.5 * 400 / 2.25) / 2)
    assert once == pytest.approx(cells * by_hand / 1.2e8, rel=1e-6)


@pytest.mark.parametrize(
    ("wide", "high", "fits"),
    [
        (10, 5, True),
        (9.9, 20, False),
        (40, 4.9, False),
        (MOST_SIDE_MM, 50, True),
        (MOST_SIDE_MM + 1, 50, False),
    ],
)
def test_how_small_and_large_a_part_may_be(wide, high, fits):
    run = Run(x_mm=0, y_mm=2, to_x_mm=9, to_y_mm=2)
    shapes = Shape(width_mm=wide / 2, height_mm=high), Shape(x_mm=wide / 2, width_mm=wide / 2, height_mm=high)
    given = {"thickness_mm": 3, "shapes": shapes, "runs": (run,)}
    if fits:
        PartDrawing(**given)
    else:
        with pytest.raises(ValueError, match="at least 10 mm" if min(wide, high) < 20 else "up to"):
            PartDrawing(**given)


@pytest.mark.parametrize("off", [-1.5, 1.5])
@pytest.mark.parametrize("end", ["x_mm", "y_mm", "to_x_mm", "to_y_mm"])
def test_a_run_begins_and_ends_on_the_part(end, off):
    ends = {"x_mm": 0.0, "y_mm": 0.0, "to_x_mm": 60.0, "to_y_mm": 30.0}
    beyond = off if off < 0 else off + (60 if "x" in end else 30)
    given = {"thickness_mm": 3, "shapes": (Shape(width_mm=60, height_mm=30),)}
    PartDrawing(**given, runs=(Run(**ends),))
    PartDrawing(**given, runs=(Run(**ends | {end: beyond - 0.6 * math.copysign(1, off)}),))
    with pytest.raises(ValueError, match="begin and end on the part"):
        PartDrawing(**given, runs=(Run(**ends | {end: beyond}),))
