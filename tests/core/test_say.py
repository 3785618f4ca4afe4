"""Quantities in sentences: what each reader reads, and that nothing a person types can break a page."""

import json
import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anvilsong.core import say
from anvilsong.core.glossary import find_term, terms

READ = [
    (say.mm(7.14), "7.1 mm", "0.281 in"),
    (say.mm(60.0), "60 mm", "2.36 in"),
    (say.mm(0.04), "0.0 mm", "0.002 in"),
    (say.mm(-0.04), "0.0 mm", "−0.002 in"),
    (say.mm(300, 0), "300 mm", "11.8 in"),
    (say.size(2.4), "2.4 mm", "3/32 in"),
    (say.size(4.0), "4 mm", "5/32 in"),
    (say.size(1.0), "1 mm", "0.040 in"),
    (say.sheet(3.175), "3.2 mm", "1/8 in (8 ga)"),
    (say.sheet(0.55), "0.55 mm", "0.022 in"),
    (say.sheet(10), "10 mm", "0.394 in"),
    (say.near_mm(8.73), "8.7 mm", "5/16 in"),
    (say.about_mm(25), "25 mm", "1 in"),
    (say.about_mm(300), "300 mm", "12 in"),
    (say.about_mm(1.6), "1.6 mm", "1/16 in"),
    (say.mm_s(3.6), "3.6 mm/s", "8.5 in/min"),
    (say.m_s(1, 0), "1 m/s", "2.2 mph"),
    (say.celsius(120), "120 °C", "248 °F"),
    (say.celsius(-40), "−40 °C", "−40 °F"),
    (say.l_min(7.8), "7.8 L/min", "17 CFH"),
    (say.bar(150), "150 bar", "2180 psi"),
    (say.kg(1.5), "1.5 kg", "3.3 lb"),
    (say.grams(5.1), "5.1 g", "0.18 oz"),
    (say.metres(10), "10 m", "33 ft"),
    (say.density(2.7), "2.70 g/cm³", "0.098 lb/in³"),
    (say.mm2(5.0), "5.0 mm²", "0.0078 in²"),
    (say.per_mm(40, "A", 0), "40 A/mm", "1 A a thousandth"),
    (say.per_mm(12.2, "C"), "12.2 C/mm", "310 C/in"),
    (say.limit(0.3, "travel_mm_s"), "0.3 mm/s", "0.7 in/min"),
    (say.limit(8, "rods_mm"), "8 mm", "0.315 in"),
    (say.limit(4, "count"), "4", "4"),
    (say.setting(110, "frequency"), "110 Hz", "110 Hz"),
    (say.setting(0.3, "share"), "30 %", "30 %"),
    (say.setting(6.35, "length", 1), "6.3 mm", "0.250 in"),
]


@pytest.mark.parametrize(("said", "metric", "inches"), READ)
def test_each_reader_reads_his_own(said, metric, inches):
    assert say.in_units(f"Near {said}.") == f"Near {metric}."
    assert say.in_units(f"Near {said}.", "inch") == f"Near {inches}."


@given(st.floats(allow_nan=True, allow_infinity=True), st.sampled_from(["mm", "inch"]))
def test_no_number_leaves_its_brackets_or_breaks_a_sentence(value, system):
    for make in (say.mm, say.size, say.celsius, say.l_min, say.kg, say.bar):
        if make is say.size and not 1e-3 < abs(value) < 1e5:
            continue
        if math.isfinite(value) and abs(value) > 1e11:
            continue
        assert "⟦" not in say.in_units(make(value), system)


@given(
    st.text(alphabet="⟦⟧0123456789.e+-∞ mkgabcLsizhect°/¼", max_size=24).map(lambda text: f"⟦{text}⟧"),
    st.sampled_from(["mm", "inch"]),
)
def test_brackets_that_a_person_types_break_nothing(text, system):
    assert isinstance(say.in_units(text, system), str)


@pytest.mark.parametrize(
    "typed",
    [
        "⟦e mm 1⟧",
        "⟦1 kg 999999999⟧",
        "⟦1 m size⟧",
        "⟦1e999 mm 1⟧",
        "⟦. mm 1⟧",
        "⟦²  mm 1⟧",
        "⟦⟧",
        "⟦1 kg limit⟧",
    ],
)
def test_what_only_looks_like_a_quantity_stays_or_is_said(typed):
    for system in ("mm", "inch"):
        assert say.in_units(f"a {typed} b", system).startswith("a ")


def test_data_is_spoken_all_through_and_stays_json():
    plan = {"said": f"Set {say.l_min(9)}", "lines": [{"why": say.mm(3)}], "number": 3.0, "none": None}
    spoken = say.spoken(plan, "inch")
    assert spoken == {"said": "Set 19 CFH", "lines": [{"why": "0.118 in"}], "number": 3.0, "none": None}
    assert json.loads(say.in_units(json.dumps(plan, ensure_ascii=False)))["lines"][0]["why"] == "3.0 mm"


def test_sentences_of_tables_are_marked():
    assert say.in_units(say.marked("Between {2 mm} and {65 °C}."), "inch") == "Between 3/32 in and 149 °F."
    assert say.marked("points = { ease = 4, tight = 3 }") == "points = { ease = 4, tight = 3 }"


def test_the_glossary_says_each_word_once():
    keys = [term.key for term in terms()]
    assert len(keys) == len(set(keys))
    assert all(term.says.endswith(".") for term in terms())
    assert {term.drawing for term in terms()} == {
        None,
        "wave",
        "balance",
        "trim",
        "shapes",
        "section",
        "crack",
    }
    with pytest.raises(KeyError):
        find_term("bogus")
