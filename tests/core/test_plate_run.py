"""The plate on a grid: against closed solutions, its energy, its grid and steps, and what every part of it does."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anvilsong.core.heat.metal_heat import MetalHeat
from anvilsong.core.heat.moving_source import thin_plate_rise_per_watt
from anvilsong.core.heat.plate import Plate
from anvilsong.core.heat.plate_run import NO_LOSS, Air, Block, PlateRun

K, RHO = 0.2, 2.7e-3
A = K / RHO
PLAIN = MetalHeat(RHO, K, 582, 652, simple=True)
REAL = MetalHeat(RHO, K, 582, 652)
V = 4.0


def welded(
    metal, cell=1.0, dt=0.05, length=260.0, width=160.0, t=3.0, heat=950.0, seconds=35.0, sigma=2.0, **more
):
    """An arc along the middle from 60 mm on."""
    run = PlateRun(np.full((round(width / cell), round(length / cell)), t), cell, metal, air=NO_LOSS, **more)
    for n in range(round(seconds / dt)):
        ends = ((60 + V * dt * each, width / 2) for each in (n, n + 1))
        run.step(dt, heat, *ends, sigma_mm=sigma)
    return run, 60 + V * seconds


def steady_rise(y_mm, xi_mm, t=3.0):
    return thin_plate_rise_per_watt(Plate(t, V, K, A), xi_mm, y_mm)


def steady_width(heat_w, rise_k, t=3.0):
    """Width of the contour of the thin-plate solution, by bisection over y of its hottest place."""

    def hottest(y):
        return heat_w * max(steady_rise(y, xi, t) for xi in np.linspace(-25, 2, 400))

    low, high = 0.05, 60.0
    for _ in range(50):
        middle = (low + high) / 2
        low, high = (middle, high) if hottest(middle) > rise_k else (low, middle)
    return 2 * low


def test_the_steady_field_behind_a_long_run():
    """Constants fixed, a narrow arc, on a plate so large that its edges do not tell: as Rosenthal's thin plate."""
    run, x = welded(PLAIN, cell=0.8, dt=0.04, length=330, width=240, heat=900.0, seconds=50.0, sigma=1.2)
    rise = PLAIN.contour_c - 20
    assert run.pool_width_mm(x, 120.0, (1.0, 0.0), 20.0) == pytest.approx(steady_width(900.0, rise), rel=0.03)
    for xi in (0.0, -10.0, -25.0):
        wanted = 900.0 * steady_rise(10.0, xi)
        assert run.at_c(x + xi, 130.0) - 20 == pytest.approx(wanted, rel=0.02), xi


def test_grid_and_steps_halved():
    coarse, x = welded(REAL, seconds=15.0)
    width = coarse.pool_width_mm(x, 80.0, (1.0, 0.0), 20.0)
    assert width > 3
    fine, _ = welded(REAL, cell=0.5, seconds=15.0)
    assert fine.pool_width_mm(x, 80.0, (1.0, 0.0), 20.0) == pytest.approx(width, rel=0.03)
    short, _ = welded(REAL, dt=0.025, seconds=15.0)
    assert short.pool_width_mm(x, 80.0, (1.0, 0.0), 20.0) == pytest.approx(width, rel=0.02)
    assert short.temperature_c == pytest.approx(coarse.temperature_c, abs=0.02 * coarse.temperature_c.max())


@pytest.mark.parametrize("metal", [PLAIN, REAL], ids=["constant", "melting"])
def test_no_energy_is_lost_or_made(metal):
    rows, columns = np.mgrid[0:80, 0:120]
    thick = np.where(np.hypot(columns - 90, rows - 20) < 12, 0.0, np.where(columns > 60, 5.0, 2.5))
    block = Block(np.where((rows > 60) & (columns < 40), 15.0, 0.0), 3.44e-3, 115.0, 1.5e-3)
    run = PlateRun(thick, 1.0, metal, air=Air(20.0, 40e-6), block=block)
    for n in range(300):
        run.step(0.05, 700.0, (20 + 0.2 * n, 40.0), (20.2 + 0.2 * n, 40.0), 2.0)
    assert run.put_in_j == pytest.approx(700 * 15, rel=1e-9)
    assert run.lost_j > 50
    assert run.gained_j + run.lost_j == pytest.approx(run.put_in_j, rel=0.005)
    assert np.all(run.temperature_c[thick == 0] == pytest.approx(20, abs=1e-3))  # nothing goes into a hole


def test_melting_takes_its_heat():
    """A closed cup of metal, heated evenly: the enthalpy of the table is what went in, latent heat and all."""
    run = PlateRun(np.full((8, 8), 3.0), 1.0, REAL, air=NO_LOSS)
    volume = 64 * 3.0
    cold = float(REAL.table.enthalpy(20.0))
    needed = float(REAL.table.enthalpy(REAL.liquidus_c + 5)) - cold
    latent = 390 * RHO * volume
    run.step(1.0, needed * volume, (4.0, 4.0), (4.0, 4.0), 50.0)
    run.step(5.0)
    assert float(run.temperature_c.min()) == pytest.approx(REAL.liquidus_c + 5, abs=2)
    assert run.latent_j == pytest.approx(latent, rel=0.01)
    solid = (
        RHO * np.trapezoid(0.903 + 0.41e-3 * np.minimum(np.arange(20, 653), 500), np.arange(20, 653)) * volume
    )
    assert run.put_in_j == pytest.approx(latent + solid, rel=0.02)


def test_loss_alone_cools_as_a_lump_does():
    """T − T∞ = ΔT·exp(−2h·s/(ρct))."""
    run = PlateRun(np.full((20, 20), 3.0), 2.0, PLAIN, start_c=120.0)
    run.step(0.01, 1e-3, (20.0, 20.0))
    for _ in range(200):
        run.step(0.5)
    assert float(run.temperature_c.mean()) - 20 == pytest.approx(
        100 * np.exp(-2 * 15e-6 * 100 / (RHO * 3)), rel=0.01
    )


def test_a_block_takes_heat_and_gives_it_along():
    """Two lumps that touch: they end at one temperature, and the block's far end is warmed through itself."""
    thick = np.full((20, 60), 3.0)
    on = np.zeros((20, 60))
    on[:, :40] = 10.0
    run = PlateRun(thick, 1.0, PLAIN, air=NO_LOSS, block=Block(on, 3.44e-3, 115.0, 5e-3))
    run.step(1.0, 3000.0, (10.0, 10.0), (10.0, 10.0), 30.0)
    for _ in range(240):
        run.step(0.5)
    whole = 20 + 3000 / (RHO * 3 * 1200 + 3.44e-3 * 10 * 800)
    assert run.temperature_c == pytest.approx(np.full((20, 60), whole), abs=0.5)


def test_thickness_makes_the_way_of_heat():
    """Heat in the middle of a step in thickness: the thick half takes more of it."""
    thick = np.full((60, 120), 2.0)
    thick[:, 60:] = 6.0
    run = PlateRun(thick, 1.0, PLAIN, air=NO_LOSS)
    for _ in range(40):
        run.step(0.05, 500.0, (60.0, 30.0), (60.0, 30.0), 2.0)
    over = run.temperature_c - 20
    assert (over[:, 60:] * 6).sum() > 1.8 * (over[:, :60] * 2).sum()


def test_a_sheet_turned_round_gives_the_same():
    """Rows and columns, forwards and backwards: no direction of the grid is another."""
    thick = np.full((50, 80), 3.0)
    found = []
    for turned in (False, True):
        run = PlateRun(thick.T if turned else thick, 1.0, REAL)
        for n in range(100):
            ends = [(15 + 0.2 * each, 25.0) for each in (n, n + 1)]
            run.step(0.05, 950.0, *((y, x) for x, y in ends) if turned else ends, sigma_mm=2.0)
        place = (25.0, 35.0) if turned else (35.0, 25.0)
        along = (0.0, 1.0) if turned else (1.0, 0.0)
        found.append(
            (run.temperature_c.T if turned else run.temperature_c, run.pool_width_mm(*place, along, 12.0))
        )
    assert found[0][0] == pytest.approx(found[1][0], abs=1e-6)
    assert found[0][1] == pytest.approx(found[1][1], abs=1e-6)
    assert found[0][1] > 2


@settings(max_examples=25)
@given(st.sampled_from([PLAIN, REAL]), st.floats(-50, 900))
def test_enthalpy_and_temperature_are_inverse(metal, t_c):
    table = metal.table
    assert float(table.temperature(table.enthalpy(t_c))) == pytest.approx(t_c, abs=0.01)


def test_the_metal_is_the_standards():
    """EN 1999-1-2, 3.3.2: c = 0.41·T + 903; a 6xxx conducts about 211 W/(m·K) at 300 °C, a 5xxx 170, and each more when hot."""
    t = np.array([20.0, 300.0, 500.0])
    assert REAL.specific_heat_j_g_k(t) == pytest.approx([0.911, 1.026, 1.108], abs=0.001)
    poor = MetalHeat(2.66e-3, 0.168, 574, 638)
    assert REAL.conductivity_w_mm_k(t) == pytest.approx([0.181, 0.2, 0.213], abs=0.001)
    assert poor.conductivity_w_mm_k(t) == pytest.approx([0.140, 0.168, 0.188], abs=0.001)
    for metal in (REAL, poor):
        assert metal.conductivity_w_mm_k(np.array([900.0]))[0] == pytest.approx(0.2325)


def test_a_kilogram_of_aluminium_takes_a_megajoule_to_melt():
    """By handbooks 0.9 to 1.18 kJ/(kg·K) and 390 to 400 kJ/kg: in all about 1.06 MJ/kg from 20 °C, of which 0.39 to melt."""
    for metal in (REAL, MetalHeat(2.66e-3, 0.168, 574, 638)):
        h = metal.table.enthalpy(np.array([20.0, metal.solidus_c, metal.liquidus_c])) / metal.density_g_mm3
        assert h[2] - h[0] == pytest.approx(1060, rel=0.04)
        warmed = 1.1 * (metal.liquidus_c - metal.solidus_c)
        assert h[2] - h[1] == pytest.approx(390 + warmed, rel=0.01)


def test_what_cannot_be_is_said():
    run = PlateRun(np.full((20, 20), 3.0), 0.2, PLAIN)
    with pytest.raises(ValueError, match="longer than nothing"):
        run.step(0.0)
    with pytest.raises(ValueError, match="too long for a grid size"):
        run.step(5.0)


def test_a_preheated_plate_loses_heat_everywhere():
    """Far from the arc, and before it ever burns: not only where the arc has warmed it."""
    run = PlateRun(np.full((60, 120), 3.0), 2.0, PLAIN, start_c=150.0)
    for _ in range(240):
        run.step(0.5)
    wanted = 20 + 130 * np.exp(-2 * 15e-6 * 120 / (RHO * 3))
    assert run.temperature_c == pytest.approx(np.full((60, 120), wanted), abs=0.5)


def test_the_longest_step_is_one():
    run = PlateRun(np.full((30, 30), 0.5), 0.4, REAL)
    run.step(run.longest_step_s, 20.0, (6.0, 6.0))
    with pytest.raises(ValueError, match="too long for a grid size"):
        run.step(1.1 * run.longest_step_s)


def shaped(t_c, thick=None, cell=0.5):
    """A plate whose temperature is this, by hand."""
    run = PlateRun(np.full(t_c.shape, 3.0) if thick is None else thick, cell, PLAIN)
    run._y[run._now][1:-1, 1:-1] = PLAIN.table.enthalpy(t_c)
    run._is_begun, run._is_read = True, False
    run._window[:] = (1, t_c.shape[0] + 1, 1, t_c.shape[1] + 1)
    return run


@pytest.mark.parametrize("along", [(1.0, 0.0), (0.0, 1.0), (0.6, 0.8)])
@pytest.mark.parametrize("x", [30.0, 30.2, 30.37])
def test_the_width_of_a_known_pool(x, along):
    """A cone of temperature: its contour is a circle, read between the cells from whatever side."""
    places = 0.25 + 0.5 * np.arange(120)
    far = np.hypot(places[None, :] - x, places[:, None] - 29.6)
    run = shaped(1500 - 100 * far)
    wide = 2 * (1500 - PLAIN.contour_c) / 100
    assert run.pool_width_mm(x, 29.6, along, 40.0) == pytest.approx(wide, rel=0.01)
    assert run.pool_width_mm(x, 29.6, along, 6.0) == pytest.approx(12.0, rel=0.02)  # no farther than is asked
    assert shaped(400 - 10 * far).pool_width_mm(x, 29.6, along, 40.0) == 0


def test_a_pool_ends_at_an_edge_and_beside_a_hole():
    places = 0.25 + 0.5 * np.arange(120)
    far = np.hypot(places[None, :] - 30, places[:, None] - 3.0)
    half = (1500 - PLAIN.contour_c) / 100
    assert shaped(1500 - 100 * far).pool_width_mm(30.0, 3.0, (1.0, 0.0), 40.0) == pytest.approx(
        3.0 + half, abs=0.4
    )
    thick = np.full((120, 120), 3.0)
    thick[18:, :] = 0.0  # all beyond 9 mm
    cut = shaped(1500 - 100 * far, thick)
    assert cut.pool_width_mm(30.0, 3.0, (1.0, 0.0), 40.0) == pytest.approx(3.0 + 6.0, abs=0.5)


def test_a_block_and_a_plate_share_their_heat_as_two_lumps_do():
    """Both thin and all over one another: the difference dies by exp(−h·A·(1/C1 + 1/C2)·s), energy stays."""
    plate_j_k, block_j_k, contact = RHO * 3.0 * 400, 3.44e-3 * 5.0 * 400, 2e-4
    run = PlateRun(
        np.full((20, 20), 3.0), 1.0, PLAIN, start_c=20.0, air=NO_LOSS,
        block=Block(np.full((20, 20), 5.0), 3.44e-3, 115.0, contact),
    )  # fmt: skip
    run.step(0.5, 6000.0, (10.0, 10.0), (10.0, 10.0), 60.0)
    begin = 3000 / plate_j_k
    rate = contact * 400 * (1 / plate_j_k + 1 / block_j_k)
    for _ in range(60):
        run.step(0.1)
    ends = 20 + 3000 / (plate_j_k + block_j_k)
    wanted = ends + (20 + begin - ends) * np.exp(-rate * 6.25)
    assert float(run.temperature_c.mean()) == pytest.approx(wanted, abs=0.02 * begin)
    assert run.gained_j == pytest.approx(3000, rel=1e-3)


def test_a_block_gives_heat_to_the_air_from_its_own_face():
    """Warm together they cool by both faces of the plate and one of the block."""
    loss = 15e-6
    run = PlateRun(
        np.full((10, 10), 3.0), 2.0, PLAIN, start_c=120.0, air=Air(20.0, loss),
        block=Block(np.full((10, 10), 6.0), 3.44e-3, 115.0, 5e-3),
    )  # fmt: skip
    holds = (RHO * 3.0 + 3.44e-3 * 6.0) * 400
    for _ in range(300):
        run.step(1.0)
    assert run.held_j - holds * 20 == pytest.approx(holds * 100 - run.lost_j, rel=0.01)
    faces = run.lost_j / (holds * (120 - float(run.temperature_c.mean())))
    assert faces == pytest.approx(1, abs=0.02)
    fall = -np.log((float(run.temperature_c.mean()) - 20) / 100) * holds / (loss * 400 * 300)
    assert 2.0 < fall < 3.2
