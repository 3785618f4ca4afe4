"""The map: the same figures as the board's, each edge by its own limit, and what it may ask."""

import dataclasses
import itertools
import random

import numpy as np
import pytest
from scipy.interpolate import RegularGridInterpolator

from anvilsong.core.board import AXES, settings_map, with_axis, working_reach
from anvilsong.core.board.map_axes import axis_range, with_thickness
from anvilsong.core.checks import outcome
from anvilsong.core.checks.shares import UNDER
from anvilsong.core.coefficients import nominal
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL, cannot_set
from anvilsong.core.model import Bench, consequences, situation
from anvilsong.core.plan import make_plan
from anvilsong.core.prep.preheat import limit_for
from anvilsong.demo.machines import MACHINES

JOB = Job.model_validate({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"})
PLAN = make_plan(JOB).settings
PAIRS = [pair for pair in itertools.permutations(AXES, 2) if set(pair) != {"ep_amps", "ep_trim"}]


def made(x, y, job=JOB, machine=IDEAL, **more):
    return settings_map(
        job, PLAN.model_copy(update=more), Bench(machine, None, nominal()), (x, y), size=(20, 15)
    )


@pytest.mark.parametrize(("x", "y"), PAIRS)
def test_every_point_is_what_the_board_says(x, y):
    """Any two axes: pool, border and limits at a few places are those of settings set so one by one."""
    found = made(x, y)
    assert found.pool_mm.shape == (15, 20)
    for i, j in ((3, 4), (11, 15)):
        job, settings = JOB, PLAN
        for key, value in sorted(((x, found.x[j]), (y, found.y[i])), key=lambda pair: pair[0] == "ep_amps"):
            if key == "thickness_mm":
                job = Job.model_validate(
                    JOB.model_dump()
                    | {side: {"alloy": "6061", "thickness": round(value, 4)} for side in "ab"}
                )
            else:
                settings = with_axis(settings, key, float(value), "pedal")
        if "thickness_mm" in (x, y):
            continue  # between its places by straight lines: told by the next test
        seen = consequences(job, settings)
        assert found.pool_mm[i, j] == pytest.approx(seen.pool_width_mm, rel=0.01)
        assert found.border_mm[i, j] == pytest.approx(seen.border_mm, abs=0.03)
        assert found.used["melt_through"][i, j] == pytest.approx(seen.melt_through, rel=0.01, abs=0.01)
        assert found.used["cold"][i, j] == pytest.approx(
            0.85 * seen.heat_wanted_w / seen.work_heat_w, rel=0.005
        )
        assert found.used["duty"][i, j] == pytest.approx(
            min(1, seen.arc_time_s / 600)
            / min(1, IDEAL.duty.share * (IDEAL.duty.amps / settings.amps_run) ** 2),
            rel=0.005,
        )
        assert found.used["chill"][i, j] == pytest.approx(seen.filler_heat_share / 0.2, rel=0.005)


@pytest.mark.parametrize("machine", [IDEAL, *MACHINES], ids=lambda machine: machine.name)
def test_each_limit_lies_where_the_board_warns(machine):
    """Any job, two axes and place: the map breaks the very limits that settings set so are warned of."""
    rng = random.Random(machine.name)
    asked, skipped = 0, 0
    while asked < 120:
        given = {
            "a": {
                "alloy": rng.choice(["1050A", "5083", "6061", "A356"]),
                "thickness": rng.choice([0.8, 2, 5, 12]),
            },
            "joint": rng.choice(["butt", "tee", "lap", "edge", "outside_corner"]),
            "position": rng.choice(["flat", "vertical"]),
            "purposes": rng.choice([[], ["appearance"]]),
            "control": rng.choice(["pedal", "switch_2"]),
            "school": {"pulse": rng.choice(["none", "dab", "fast"])},
        }
        job, axes = Job.model_validate(given | rng.choice([{}, {"filler_wanted": "none"}])), rng.choice(PAIRS)
        settings = make_plan(job, machine).settings
        if settings is None:
            continue
        found = settings_map(job, settings, Bench(machine, None, nominal()), axes, size=(7, 6))
        for j, i in ((rng.randrange(7), rng.randrange(6)) for _ in range(3)):
            asked += 1
            at_job, at = job, settings
            try:
                for key, value in sorted(
                    zip(axes, (float(found.x[j]), float(found.y[i])), strict=True),
                    key=lambda pair: pair[0] == "ep_amps",
                ):
                    at_job = with_thickness(at_job, value) if key == "thickness_mm" else at_job
                    at = with_axis(at, key, value, job.control)
            except (
                ValueError,
                BadInput,
            ):  # twice as much trim, a root face that does not fit: no such settings
                skipped += 1
                continue
            codes = {each.code for each in outcome(at_job, at, machine).warnings if each.level != "note"}
            used = {key: float(each[i, j]) for key, each in found.used.items()}
            broken = {key for key in used if used[key] > 1}
            close = {key for key in used if abs(used[key] - 1) < 1e-3} | {"unsettable", "others"}
            close |= {milder for milder, harder in UNDER.items() if codes & set(harder)}
            assert (codes & set(used)) - close == broken - close, (given, axes, i, j)
            unset = cannot_set(settings, at, machine)
            assert not unset or broken & {"unsettable", "preheat_over"}, (unset, axes, at)
    assert skipped < 30


def test_directions_over_the_map():
    found = made("amps_run", "travel_mm_s")
    assert np.all(np.diff(found.pool_mm, axis=1) > 0)  # more amps, wider
    assert np.all(np.diff(found.pool_mm, axis=0) < 0)  # faster, narrower
    assert np.all(np.diff(found.used["cold"], axis=1) < 0)
    assert np.all(np.diff(found.used["tungsten_hot"], axis=1) > -1e-9)
    assert np.all(np.diff(found.used["duty"], axis=0) <= 0)
    cleaned = made("ep_share", "ep_trim")
    assert np.all(np.diff(cleaned.border_mm, axis=1) >= -1e-9)
    assert np.all(np.diff(cleaned.border_mm, axis=0) >= -1e-9)
    warm = made("preheat_c", "travel_mm_s")
    assert np.all(np.diff(warm.pool_mm, axis=1) > 0)


def test_the_plan_lies_within_and_limits_name_their_edge():
    found = settings_map(JOB, PLAN, Bench(IDEAL, None, nominal()), ("amps_run", "travel_mm_s"))
    j, i = (int(np.abs(axis - at).argmin()) for axis, at in zip((found.x, found.y), found.point, strict=True))
    assert found.is_allowed[i, j]
    assert 0.02 < found.is_allowed.mean() < 0.6
    far = np.array([found.x[2], found.x[-2]]), np.array([found.y[-3], found.y[3]])
    assert found.limit_at(*far)[1] in (
        "hot",
        "melt_through_near",
        "oxide_at_toes",
        "thin_border",
        "pedal_no_reserve",
    )
    assert found.limit_at(*far)[0] in ("cold", "no_root", "short_root", "thin_border")
    assert found.limit_at(*far, stops=True) == ["no_root", "melt_through"]
    hardly = settings_map(
        JOB,
        PLAN,
        Bench(IDEAL.model_copy(update={"can_trim": False}), None, nominal()),
        ("ep_trim", "ep_share"),
    )
    assert not hardly.is_allowed[:, np.abs(hardly.x) > 0.05].any()


def test_no_root_is_asked_of_an_edge():
    edge = Job.model_validate({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "edge"})
    assert not situation(edge).wants_root
    found = settings_map(edge, PLAN, Bench(IDEAL, None, nominal()), ("amps_run", "travel_mm_s"), size=(9, 7))
    assert not {"no_root", "short_root"} & set(found.used)
    assert {"no_root", "short_root"} <= set(made("amps_run", "travel_mm_s").used)
    bare = Job.model_validate(JOB.model_dump() | {"filler_wanted": "none"})
    assert (
        settings_map(bare, PLAN, Bench(IDEAL, None, nominal()), ("amps_run", "travel_mm_s"), size=(9, 7))
        .used["chill"]
        .max()
        == 0
    )


@pytest.mark.parametrize("pair", [("amps_run", "amps_run"), ("ep_trim", "ep_amps"), ("ep_amps", "ep_trim")])
def test_two_axes_that_are_one_are_refused(pair):
    with pytest.raises(BadInput, match="another axis"):
        settings_map(JOB, PLAN, Bench(IDEAL, None, nominal()), pair)


def test_ep_amps_move_the_trim():
    changed = with_axis(PLAN, "ep_amps", PLAN.amps_run * 0.8, "pedal")
    assert changed.ep_trim == pytest.approx(-0.2)
    assert changed.amps_run == PLAN.amps_run
    assert with_axis(PLAN, "thickness_mm", 9.0, "pedal") == PLAN
    lifted = with_axis(PLAN, "amps_run", PLAN.amps_set + 20, "pedal")
    assert lifted.amps_set == pytest.approx(PLAN.amps_set + 20)
    with pytest.raises(BadInput):
        with_axis(PLAN, "ep_amps", PLAN.amps_run * 5, "pedal")


def test_a_thickness_that_the_job_cannot_have_is_not_allowed():
    """A root face of 5 mm in sheet of 4: nothing there, and no fault."""
    job = Job.model_validate(
        {
            "a": {"alloy": "6061", "thickness": 8.0},
            "joint": "butt",
            "bevel": {"angle_deg": 60, "root_face_mm": 5},
        }
    )
    found = settings_map(
        job, make_plan(job).settings, Bench(IDEAL, None, nominal()), ("amps_run", "thickness_mm")
    )
    assert not found.is_allowed[found.y < 4.7].any()
    assert found.pool_mm[-1].max() > 3


def test_how_far_each_axis_goes():
    """Round the value, a little past what machine, hand and alloy allow."""
    at, hundred = situation(JOB), PLAN.model_copy(update={"amps_run": 100.0, "ep_trim": -0.1})
    machine = IDEAL.model_copy(update={"most_a": 200, "least_frequency_hz": 40, "most_frequency_hz": 200})
    wanted = {
        "amps_run": (50, 170),
        "ep_amps": (36, 180),
        "travel_mm_s": (1.2, 8.8),
        "ep_share": (0.10, 0.55),
        "ep_trim": (-0.6, 0.4),
        "frequency_hz": (32, 220),
        "preheat_c": (20, 1.3 * limit_for(at).limit_c),
        "thickness_mm": (1.28, 5.76),
    }
    assert set(wanted) == set(AXES)
    for key, ends in wanted.items():
        assert axis_range(key, at, hundred, machine) == pytest.approx(ends), key
    middling = machine.model_copy(update={"most_a": 150})
    assert axis_range("amps_run", at, hundred, middling)[1] == pytest.approx(157.5)
    weak = machine.model_copy(update={"most_a": 110})
    assert axis_range("amps_run", at, hundred, weak)[1] == pytest.approx(150)
    far = hundred.model_copy(update={"ep_share": 0.7, "travel_mm_s": 12.0})
    assert axis_range("ep_share", at, far, machine)[1] == pytest.approx(0.7)
    assert axis_range("travel_mm_s", at, far, machine)[1] == pytest.approx(14.4)


def test_the_limit_at_a_place_is_read_between_the_points():
    """Straight lines both ways, as the library has them; at the rim and beyond it the rim's own."""
    rng = np.random.default_rng(3)
    found = made("amps_run", "travel_mm_s")
    x, y = np.linspace(50, 200, 7), np.linspace(1, 5, 5)
    used = {key: rng.random((5, 7)) for key in ("cold", "hot", "duty")}
    small = dataclasses.replace(found, x=x, y=y, used=used)
    across, up = rng.uniform(50, 200, 300), rng.uniform(1, 5, 300)
    layers = [RegularGridInterpolator((y, x), each)((up, across)) for each in used.values()]
    top, second = np.sort(np.stack(layers), axis=0)[[-1, -2]]
    clear = top - second > 1e-3
    said = np.array(small.limit_at(across, up))
    assert (said == np.array(list(used))[np.argmax(layers, axis=0)])[clear].all()
    assert clear.sum() > 250
    corners = small.limit_at(np.array([0.0, 999.0]), np.array([0.0, 999.0]))
    assert corners[0] == max(used, key=lambda key: used[key][0, 0])
    assert corners[1] == max(used, key=lambda key: used[key][-1, -1])


@pytest.mark.parametrize(("x", "y"), PAIRS)
def test_a_map_opens_where_the_settings_work(x, y):
    """Within the whole of both axes, the settings inside, and no less of it works than on the whole map."""
    bench = Bench(MACHINES[1], None, nominal())
    reach = working_reach(JOB, PLAN, bench, (x, y))
    whole = settings_map(JOB, PLAN, bench, (x, y), size=(41, 31))
    close = settings_map(JOB, PLAN, bench, (x, y), size=(41, 31), reach=reach)
    for (low, high), axis, here in zip(reach, (whole.x, whole.y), whole.point, strict=True):
        assert axis[0] <= low < high <= axis[-1]
        assert low <= here <= high
    assert close.is_allowed.mean() >= whole.is_allowed.mean() - 0.02
    if whole.is_allowed.any():  # and all of what works is on it
        for axis, along, (low, high) in ((whole.x, 0, reach[0]), (whole.y, 1, reach[1])):
            works = axis[whole.is_allowed.any(axis=along)]
            assert low <= works[0]
            assert works[-1] <= high


def test_where_nothing_works_the_map_shows_the_whole():
    """A stop everywhere: 20 A on ten millimetres."""
    job = Job.model_validate(
        {"a": {"alloy": "6061", "thickness": 10}, "joint": "butt", "penetration": "full"}
    )
    small = PLAN.model_copy(update={"amps_run": 20.0, "amps_set": 22.0})
    bench = Bench(IDEAL, None, nominal())
    axes = ("frequency_hz", "ep_share")
    found = settings_map(job, small, bench, axes, size=(41, 31))
    assert not (found.worst_stop <= 1).any()
    assert working_reach(job, small, bench, axes) == ((found.x[0], found.x[-1]), (found.y[0], found.y[-1]))
