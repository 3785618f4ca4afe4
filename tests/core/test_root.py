"""The root under a pool: the two computed plates it must agree with, its inverse, and what it grows with."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from anvilsong.core.heat.edges import edge_share
from anvilsong.core.heat.hottest import contour_at_depth_mm
from anvilsong.core.heat.plate import Plate
from anvilsong.core.heat.root import face_for_root_mm, root_share
from anvilsong.core.heat.similar import heat_for_width_w
from anvilsong.core.job import Job
from anvilsong.core.model import consequences, situation
from anvilsong.core.model.heat_model import STEADY
from anvilsong.core.plan import make_plan

# Thickness, heat, face and root of a plate computed in three dimensions: 6061 at its usual travel (scripts/fit_root.py).
COMPUTED = [
    (1.6, 4.0, 400, 4.18, 2.60),
    (2.4, 3.8, 714, 7.12, 6.27),
    (3.2, 3.6, 850, 6.26, 2.46),
    (3.2, 3.6, 977, 8.2, 6.97),
    (4.8, 3.4, 1544, 10.24, 7.82),
    (6.4, 3.2, 2140, 12.3, 8.5),
]


@pytest.mark.parametrize(("t", "v", "q", "face", "root"), COMPUTED)
def test_face_and_root_are_the_computed_ones(t, v, q, face, root):
    plate = Plate(t, v, 0.2004, 0.2004 / 2.7e-3)
    planned = STEADY.face_mm(plate, float(q), 597.0)
    assert planned == pytest.approx(face, rel=0.06)
    assert float(STEADY.root_mm(planned, t)) == pytest.approx(root, rel=0.20, abs=0.3)
    assert contour_at_depth_mm(plate, t, float(q), 597.0) > 1.1 * root  # the point source’s


@pytest.mark.parametrize(("t", "q"), [(3.2, 722), (4.8, 1142), (6.4, 1582), (1.6, 340)])
def test_where_the_computed_melt_does_not_come_through(t, q):
    plate = Plate(t, 3.5, 0.2004, 0.2004 / 2.7e-3)
    assert float(STEADY.root_mm(STEADY.face_mm(plate, float(q), 597.0), t)) == 0


@given(st.floats(0.12, 0.95), st.floats(0.8, 8))
def test_there_and_back(share, t):
    assert float(root_share(face_for_root_mm(share, t), t)) == pytest.approx(share, abs=1e-6)


def test_numbers_and_arrays_have_the_same_root():
    face, t = np.geomspace(0.05, 40, 60), np.array([[0.5], [3.2], [12.0]])
    one_by_one = [[root_share(float(w), float(each)) for w in face] for each in t[:, 0]]
    np.testing.assert_allclose(root_share(face, t), one_by_one, atol=1e-12)


@given(st.floats(2, 20), st.floats(0.8, 8))
def test_more_face_more_root_and_thicker_less(face, t):
    here = float(root_share(face, t))
    assert 0 <= here <= 1
    assert float(root_share(face * 1.05, t)) >= here
    assert float(root_share(face, t * 1.1)) <= here
    assert here == 0 or here >= 0.1


def test_arrays_are_what_numbers_are():
    faces, thicknesses = np.linspace(3, 12, 7)[:, None], np.linspace(1, 6, 5)
    whole = root_share(faces, thicknesses)
    assert whole.shape == (7, 5)
    for i, j in ((0, 0), (3, 2), (6, 4)):
        assert whole[i, j] == pytest.approx(float(root_share(float(faces[i, 0]), float(thicknesses[j]))))


@pytest.mark.parametrize("t", [0.8, 1.6, 2.4, 3.2, 4.0, 4.8])
@pytest.mark.parametrize("purposes", [[], ["appearance"], ["tight"]])
def test_what_is_planned_to_come_through_does(t, purposes):
    plan = make_plan(
        Job.model_validate({"a": {"alloy": "6061", "thickness": t}, "joint": "butt", "purposes": purposes})
    )
    seen = plan.consequences
    assert seen.root_width_mm >= 0.25 * seen.pool_width_mm
    assert not {"no_root", "short_root", "melt_through"} & {warning.code for warning in plan.warnings}
    less = consequences(
        plan.job, plan.settings.model_copy(update={"amps_run": 0.88 * plan.settings.amps_run})
    )
    assert less.root_width_mm < 0.75 * seen.root_width_mm  # ten per cent of heat is the difference


def test_a_root_that_is_not_asked_for_widens_nothing():
    def wanted(**more):
        return situation(
            Job.model_validate({"a": {"alloy": "6061", "thickness": 4.5}, "joint": "butt"} | more)
        ).wanted_width_mm

    assert wanted(penetration="partial") == pytest.approx(2.5 + 1.1 * 4.5)
    assert wanted() > 1.04 * wanted(penetration="partial")
    thick = {"a": {"alloy": "6061", "thickness": 6.0}, "edge_prep": "square"}
    assert wanted(**thick) == pytest.approx(2.5 + 1.1 * 6.0)
    assert wanted(**thick, penetration="full") > 1.1 * wanted(**thick)


@pytest.mark.parametrize(("t", "v"), [(1.6, 4.0), (3.2, 3.6), (6.4, 3.2)])
def test_beside_an_edge_the_pool_wants_less(t, v):
    plate, w = Plate(t, v, 0.2, 0.2 / 2.7e-3), 2.5 + 1.1 * t
    beside = [edge_share(plate, w, times * w) for times in (0.5, 1, 2, 4, 8)]
    assert beside == sorted(beside)
    assert edge_share(plate, w, 400.0) == pytest.approx(1, abs=0.01)
    ahead = [edge_share(plate, w, times * w, ahead=True) for times in (0.25, 0.5, 1, 2, 6)]
    assert ahead == sorted(ahead)
    assert ahead[-1] == pytest.approx(1, abs=0.03)
    # On the edge itself there is half a plate: the heat whose pool is twice as wide, halved.
    assert edge_share(plate, w, 0.0) == pytest.approx(
        heat_for_width_w(plate, 2 * w, 597.0) / 2 / heat_for_width_w(plate, w, 597.0), rel=0.02
    )
    with pytest.raises(ValueError, match="0 or more"):
        edge_share(plate, w, -1.0)
