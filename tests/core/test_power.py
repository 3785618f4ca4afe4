"""Duty, supply and arc energy: worked cases, limits and directions."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anvilsong.core.machine import (
    IDEAL,
    Duty,
    arc_energy_kj_mm,
    duty_use,
    heat_input_kj_mm,
    load_voltage_v,
    supply_use,
)

BENCH = IDEAL.model_copy(update={"duty": Duty(amps=200, share=0.40)})


def test_a_worked_duty():
    """200 A at 40 %: at 160 A 62.5 %, so 375 s of ten minutes; a run of 100 s rests 60 s."""
    use = duty_use(BENCH, 160, 100)
    assert use.allowed == pytest.approx(0.625)
    assert use.longest_s == pytest.approx(375)
    assert use.rest_s == pytest.approx(60)
    assert use.runs_an_hour == pytest.approx(22.5)
    assert use.is_within
    assert not duty_use(BENCH, 200, 300).is_within
    easy = duty_use(BENCH, 120, 300)
    assert (easy.allowed, easy.longest_s, easy.rest_s) == (1, math.inf, 0)
    assert easy.runs_an_hour == pytest.approx(12)


def test_a_worked_supply():
    """150 A: 16 V, 2.4 kW; over 0.82 × 230 × 0.99 that is 12.9 A, and 18.2 without correction: a fuse of 16 holds one."""
    assert load_voltage_v(150) == 16
    assert load_voltage_v(900) == 34
    good, plain = (supply_use(150, 230, 16, corrected) for corrected in (True, False))
    assert good.input_a == pytest.approx(2400 / (0.82 * 230 * 0.99), rel=1e-6)
    assert plain.input_a == pytest.approx(2400 / (0.82 * 230 * 0.70), rel=1e-6)
    assert (good.is_within, plain.is_within) == (True, False)
    assert good.input_kva == pytest.approx(good.input_a * 0.23)
    assert good.generator_kva == pytest.approx(1.25 * good.input_kva)


@given(st.floats(100, 480), st.floats(6, 125), st.booleans())
def test_what_the_fuse_bears_is_what_it_bears(volts, fuse, corrected):
    most = supply_use(100, volts, fuse, corrected).most_arc_a
    assert supply_use(most, volts, fuse, corrected).input_a == pytest.approx(fuse, rel=1e-6)
    assert not supply_use(1.01 * most, volts, fuse, corrected).is_within


def test_energy_of_a_record():
    """150 A at 16 V and 4 mm/s: 0.6 kJ/mm of arc energy, 0.36 of heat input."""
    assert arc_energy_kj_mm(150, 4) == pytest.approx(0.6)
    assert heat_input_kj_mm(150, 4) == pytest.approx(0.36)


@pytest.mark.parametrize("bad", [(0, 10), (10, 0)])
def test_nothing_is_refused(bad):
    with pytest.raises(ValueError, match="more than nothing"):
        duty_use(BENCH, *bad)
    with pytest.raises(ValueError, match="more than nothing"):
        supply_use(100, *bad, True)
