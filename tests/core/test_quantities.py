"""What people type, in and out."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anvilsong.core.errors import BadInput
from anvilsong.core.gauges import gauge_mm
from anvilsong.core.quantities import exact, parse
from anvilsong.core.shown import figure, show, size_words, to_shown
from anvilsong.core.units import UNITS


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
    said = " is empty:" if typed in ("", None) else ": .* cannot be used;"
    with pytest.raises(BadInput, match=rf"^thickness{said} type a length such as 3\.2 mm"):
        parse(typed, "length", "thickness")


# One of each unit, in the inside unit, by its definition: the inch is 25.4 mm, the pound 453.59237 g, the cubic foot 28.316846592 L,
# the psi 6894.757 Pa, the mile 1609.344 m. Units alike share a line.
UNITS_BY_DEFINITION = {
    "length": {
        ("mm", "millimetre", "millimetres", "millimeter", "millimeters"): 1.0, ("cm",): 10.0, ("m", "metre", "metres", "meter", "meters"): 1000.0,
        ("in", "ins", "inch", "inches", '"'): 25.4, ("thou", "mil", "mils"): 0.0254, ("ft", "foot", "feet", "'"): 304.8,
    },
    "flow": {("l/min", "lpm", "l/m", "l", "litres/min", "liters/min"): 1.0, ("cfh", "scfh", "ft3/h", "cf/h"): 28.316846592 / 60},
    "temperature": {
        ("c", "°c", "celsius", "deg c", "degrees c", "degrees celsius"): 1.0,
        ("f", "°f", "fahrenheit", "deg f", "degrees f", "degrees fahrenheit"): -31 / 1.8, ("k",): 1 - 273.15,
    },
    "speed": {
        ("mm/s", "mm/sec"): 1.0, ("mm/min",): 1 / 60, ("cm/min",): 10 / 60, ("cm/s",): 10.0, ("m/s",): 1000.0, ("m/min",): 1000 / 60,
        ("in/min", "ipm", "inches/min", '"/min'): 25.4 / 60, ("in/s",): 25.4,
    },
    "wind": {("m/s",): 1.0, ("km/h",): 1000 / 3600, ("mph",): 1609.344 / 3600, ("ft/s", "fps"): 0.3048, ("ft/min", "fpm"): 0.3048 / 60},
    "time": {("s", "sec", "secs", "second", "seconds"): 1.0, ("ms",): 0.001, ("min", "mins"): 60.0},
    "current": {("a", "amp", "amps", "ampere", "amperes"): 1.0},
    "frequency": {("hz", "hertz", "cycles", "cycles/s", "a second", "/s"): 1.0, ("khz",): 1000.0},
    "share": {("%", "percent", "per cent", "pct"): 0.01},
    "heat": {("w",): 1.0, ("kw",): 1000.0},
    "angle": {("°", "deg", "degs", "degree", "degrees"): 1.0},
    "pressure": {("bar",): 1.0, ("psi",): 0.06894757, ("kpa",): 0.01, ("mpa",): 10.0},
    "mass": {("g",): 1.0, ("kg",): 1000.0, ("lb", "lbs"): 453.59237, ("oz",): 453.59237 / 16},
    "volume": {("l", "litre", "litres", "liter", "liters"): 1.0, ("m3", "m³"): 1000.0, ("cf", "ft3", "ft³", "cu ft"): 28.316846592},
    "hose": {
        ("m", "metre", "metres", "meter", "meters"): 1.0, ("ft", "foot", "feet", "'"): 0.3048, ("cm",): 0.01, ("mm",): 0.001,
        ("in", "inch", "inches", '"'): 0.0254,
    },
    "number": {},
}  # fmt: skip


@pytest.mark.parametrize("dimension", UNITS_BY_DEFINITION)
def test_every_unit_is_what_its_definition_says(dimension):
    """In any case, with a point after it or a blank before; and none is known that stands in no definition."""
    named = {name: one for names, one in UNITS_BY_DEFINITION[dimension].items() for name in names}
    assert named.keys() == UNITS[dimension].keys()
    for name, one in named.items():
        for typed in (f"1 {name}", f"1{name.upper()}", f"1  {name}."):
            assert parse(typed, dimension, "field") == pytest.approx(one, rel=2e-6, abs=1e-9), typed


@pytest.mark.parametrize(
    ("typed", "dimension", "inside"),
    [
        ("1.200,5 mm", "length", 1200.5), ("-1.234.567,25", "number", -1234567.25), ("12,345", "number", 12345.0), ("0,345", "number", 0.345),
        ("1234,5", "number", 1234.5), ("1 234.5", "number", 1234.5), (",5", "number", 0.5), ("5.", "number", 5.0), ("+4", "number", 4.0),
        ("−4", "number", -4.0), ("- 4", "number", -4.0), ("3 ⅜”", "length", 85.725), ("3⅜″", "length", 85.725), ("2’", "length", 609.6),
        ("5/32", "length", 3.96875), ("-1/2 in", "length", -12.7), ("100", "share", 1.0), ("1", "share", 1.0), ("1.5", "share", 0.015),
        ("000", "length", 0.0), ("0", "length", 0.0), ("090", "length", 2.286), ("#16ga.", "length", 1.290846), ("30 swg", "length", 0.31496),
        ("2000 mm per minute", "speed", 2000 / 60), ("3 cycles / s", "frequency", 3.0),
    ],
)  # fmt: skip
def test_typed_as_people_write(typed, dimension, inside):
    assert parse(typed, dimension, "field") == pytest.approx(inside, rel=1e-5)


@pytest.mark.parametrize(
    "typed",
    [
        "1" * 41,
        "1e12",
        1e12,
        -1e12,
        float("inf"),
        float("nan"),
        "31 swg",
        "3 mm mm",
        "3/",
        "/3",
        "1 2 3",
        "½½",
    ],
)
def test_what_nobody_measures_is_refused(typed):
    with pytest.raises(BadInput):
        parse(typed, "length", "field")


def test_the_largest_and_longest_that_are_taken():
    assert parse(9.99e11, "number", "field") == 9.99e11
    assert parse(f"0.{'0' * 37}1", "number", "field") == 1e-38


@pytest.mark.parametrize(
    ("typed", "within", "inside"),
    [
        (".063", (0.3, 50), 1.6002),  # makes no sense in mm, and does in inches
        (".5", (0.3, 50), 0.5),
        ("1.5", (2, 50), 1.5),  # nobody leaves off the unit of an inch and a half
        (".063", (3, 50), 0.063),
        (".063", None, 0.063),
        ("60", (0.3, 50), 60.0),
    ],
)  # fmt: skip
def test_a_bare_number_is_read_as_inches_only_where_nothing_else_makes_sense(typed, within, inside):
    assert parse(typed, "length", "field", within=within) == pytest.approx(inside)


@pytest.mark.parametrize(
    ("value", "mm", "inch"),
    [
        (0.5, "0.5 mm", "0.020 in"), (1.0, "1 mm", "0.040 in"), (1.14, "1.14 mm", "0.045 in"), (1.2, "1.2 mm", "0.047 in"),
        (1.6, "1.6 mm", "1/16 in"), (2.0, "2 mm", "0.079 in"), (2.4, "2.4 mm", "3/32 in"), (3.0, "3 mm", "0.118 in"), (3.175, "3.175 mm", "1/8 in"),
        (3.2, "3.2 mm", "1/8 in"), (4.0, "4 mm", "5/32 in"), (4.8, "4.8 mm", "3/16 in"), (5.0, "5 mm", "0.197 in"), (6.4, "6.4 mm", "1/4 in"),
        (12.7, "12.7 mm", "1/2 in"), (25.4, "25.4 mm", "1 in"), (38.1, "38.1 mm", "1 1/2 in"), (10.0, "10 mm", "0.394 in"),
        (0.254, "0.254 mm", "0.010 in"), (0.06, "0.06 mm", "0.002 in"),
    ],
)  # fmt: skip
def test_stock_sizes_by_name(value, mm, inch):
    assert size_words(value) == mm
    assert size_words(value, "inch") == inch


@pytest.mark.parametrize(
    ("value", "dimension", "system", "decimals", "said"),
    [
        (3.14159, "length", "mm", None, "3.1"), (3.14159, "length", "mm", 3, "3.142"), (3.14159, "length", "inch", 0, "0.124"),
        (8.0, "flow", "inch", 3, "17"), (4.0, "speed", "inch", 3, "9.4"), (-0.04, "length", "mm", None, "0.0"), (-0.06, "length", "mm", None, "−0.1"),
        (-40.0, "temperature", "inch", None, "−40"), (100.0, "temperature", "inch", 1, "212.0"), (0.305, "share", "mm", 1, "30.5"),
        (1000.0, "mass", "inch", None, "35.3"), (10.0, "pressure", "inch", None, "145"), (28.3168, "volume", "inch", None, "1.0"),
    ],
)  # fmt: skip
def test_figures_as_they_stand_on_a_page(value, dimension, system, decimals, said):
    assert figure(value, dimension, system, decimals) == said


@given(
    st.floats(0.001, 2000).map(lambda value: round(value, 6)),
    st.sampled_from(["length", "flow", "speed"]),
    st.sampled_from(["mm", "inch"]),
)
def test_exact_words_read_back_the_same(value, dimension, system):
    back = parse(exact(value, dimension, system), dimension, "field", system)
    assert back == pytest.approx(value, rel=1.1e-6, abs=1.1e-6)


@pytest.mark.parametrize(
    ("typed", "dimension", "inside"),
    [
        ("30", "balance", 0.30),
        ("35 %", "balance", 0.35),
        ("30 % EP", "balance", 0.30),
        ("70 EN", "balance", 0.30),
        ("65 % en", "balance", 0.35),
        ("1", "balance", 0.01),
        ("80", "amplitude", -0.20),
        ("100 %", "amplitude", 0.0),
        ("115", "amplitude", 0.15),
    ],
)
def test_a_balance_and_an_amplitude_say_of_what_they_are_per_cent(typed, dimension, inside):
    assert parse(typed, dimension, "it") == inside
    assert parse(show(inside, dimension), dimension, "it") == inside
    assert show(inside, dimension).endswith("% EP" if dimension == "balance" else "%")
