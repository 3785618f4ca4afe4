"""What people type, in and out."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anvilsong.core.errors import BadInput
from anvilsong.core.gauges import gauge_mm
from anvilsong.core.quantities import parse, show, to_shown


@pytest.mark.parametrize(
    ("typed", "dimension", "inside"),
    [
        ("3mm", "length", 3.0),
        ("3,2 mm", "length", 3.2),
        ("1/8", "length", 3.175),
        ('.125"', "length", 3.175),
        ("0.125 in", "length", 3.175),
        ("1 1/4 in", "length", 31.75),
        ("11ga", "length", 2.305),
        ("15 cfh", "flow", 7.079),
        ("7 l/min", "flow", 7.0),
        ("250F", "temperature", 121.111),
        ("-10 C", "temperature", -10.0),
        ("8.5 in/min", "speed", 3.598),
        ("30 %", "share", 0.30),
        ("0.3", "share", 0.30),
    ],
)
def test_typed(typed, dimension, inside):
    assert parse(typed, dimension, "field") == pytest.approx(inside, abs=0.001)


def test_a_bare_number_means_the_system_asked_for():
    assert parse("0.125", "length", "t", "inch") == pytest.approx(3.175)
    assert parse("17", "flow", "q", "inch") == pytest.approx(8.02, abs=0.01)
    assert parse("3", "length", "t") == 3.0


@pytest.mark.parametrize(("gauge", "inch"), [(0, 0.3249), (10, 0.1019), (16, 0.0508), (24, 0.0201)])
def test_gauge_is_brown_and_sharpe(gauge, inch):
    assert gauge_mm(gauge) / 25.4 == pytest.approx(inch, abs=0.0001)


@given(
    st.floats(0.01, 5000),
    st.sampled_from(["length", "flow", "temperature", "speed", "pressure", "mass"]),
    st.sampled_from(["mm", "inch"]),
)
def test_what_is_shown_reads_back(value, dimension, system):
    shown = show(value, dimension, system, decimals=3)
    back = parse(shown.replace("−", "-"), dimension, "field", system)
    # Half of the last printed digit is all that may be lost.
    assert to_shown(back, dimension, system) == pytest.approx(to_shown(value, dimension, system), abs=0.51)
    assert parse(
        show(back, dimension, system, 3).replace("−", "-"), dimension, "field", system
    ) == pytest.approx(back, abs=1e-6 + abs(back) * 1e-3)


@pytest.mark.parametrize("typed", ["", "abc", "1/0", "3 bananas", "--3", "nan", True, None])
def test_nonsense_gets_a_sentence(typed):
    said = "nothing was given" if typed in ("", None) else ".* cannot be used"
    with pytest.raises(BadInput, match=rf"^thickness: {said}; type a length such as 3\.2 mm"):
        parse(typed, "length", "thickness")
