"""Quantities in sentences: what each reader reads, how words are kept, and that no document can break a page."""

import json
import math
import sys

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anvilsong.core import say
from anvilsong.core.glossary import find_term, terms
from anvilsong.core.said import Message, Quantity, in_units, joined, plain, read_said
from anvilsong.core.spoken import spoken
from anvilsong.core.words import sentence

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

WORDS = st.recursive(
    st.text(max_size=8)
    | st.builds(
        Quantity,
        st.floats(-1e6, 1e6),
        st.sampled_from(["mm", "°C", "L/min", "kg"]),
        st.sampled_from(["0", "1", "2"]),
    ),
    lambda inner: st.lists(inner, min_size=1, max_size=4).map(
        lambda parts: Message("plan.amps_run_rule", tuple(parts), ("a",) * len(parts))
    ),
    max_leaves=8,
)


@pytest.mark.parametrize(("said", "metric", "inches"), READ)
def test_each_reader_reads_his_own(said, metric, inches):
    near = say.joined("Near ", said, ".")
    assert say.in_units(near) == f"Near {metric}."
    assert say.in_units(near, "inch") == f"Near {inches}."


@given(st.floats(allow_nan=True, allow_infinity=True), st.sampled_from(["mm", "inch"]))
def test_every_number_can_be_said(value, system):
    for make in (say.mm, say.size, say.celsius, say.l_min, say.kg, say.bar):
        if make is say.size and not 1e-3 < abs(value) < 1e5:
            continue
        words = say.in_units(make(value), system)
        assert words == words.strip()
        assert any(figure.isdigit() for figure in words) or not math.isfinite(value)


@given(WORDS)
def test_words_come_back_from_a_document_as_they_were(words):
    kept = json.loads(json.dumps(plain(words)))
    back = kept if isinstance(kept, str) else read_said(kept)
    assert back == words
    for system in ("mm", "inch"):
        assert in_units(back, system) == in_units(words, system)


@pytest.mark.parametrize(
    "kept",
    [
        {},
        {"key": "a"},
        {"key": 1, "words": []},
        {"key": "a", "words": "b"},
        {"key": "a", "words": [], "more": 1},
        {"key": "a", "words": [1]},
        {"key": "a", "words": [["a"]]},
        {"key": "a", "words": [[1, "b"]]},
        {"key": "a", "words": ["b" * 4001]},
        {"key": "a", "words": ["b"] * 201},
        {"key": "a" * 81, "words": []},
        [1, "mm"],
        [True, "mm", "1"],
        ["1", "mm", "1"],
        [float("nan"), "mm", "1"],
        [1e12, "mm", "1"],
        [1, "furlong", "1"],
        [1, "mm", ".0f"],
        [1, "mm", "share"],
        [1, "mm", "11"],
        [1, "mm", 1],
        [1, "", "1"],
        [1, "", "999999999f"],
        [1, "", "^999999999"],
        [1, "", "s"],
    ],
)
def test_what_is_no_words_is_refused(kept):
    with pytest.raises(ValueError, match=r"words|quantity|place"):
        read_said(kept)
    with pytest.raises(ValueError, match=r"words|quantity|place|deep"):
        read_said({"key": "a", "words": [["b", kept]]})


@given(
    st.floats() | st.integers(),
    st.sampled_from(
        [
            "mm",
            "mm/s",
            "m/s",
            "°C",
            "L/min",
            "bar",
            "kg",
            "g",
            "m",
            "g/cm³",
            "L",
            "mm²",
            "A/mm",
            "J/mm",
            "",
            "x",
        ]
    ),
    st.sampled_from(
        ["0", "1", "9", "size", "sheet", "near", "about", "limit", "share", "", "d", ",d", ".0f", "+.9e", "%"]
    ),
)
def test_every_quantity_of_a_document_is_said_or_refused(value, unit, style):
    try:
        quantity = read_said([value, unit, style])
    except ValueError:
        return
    assert all(in_units(quantity, system) for system in ("mm", "inch"))


def test_words_in_words_end_somewhere():
    deep = {"key": "", "words": ["a"]}
    for _ in range(7):
        deep = {"key": "", "words": [["", deep]]}
    with pytest.raises(ValueError, match="deep"):
        read_said(deep)


def test_words_are_no_text():
    """Whoever prints them without saying in which units is told so."""
    for words in (say.mm(3), sentence("checks.melt_through", top=7.1, root=6.0)):
        for use in (str, "{}".format, lambda each: f"a {each}"):
            with pytest.raises(TypeError, match="in which units"):
                use(words)
    assert in_units("Pool " + say.mm(3) + " wide") == "Pool 3.0 mm wide"
    assert "3.0 mm" in say.mm(3)
    assert sorted([say.mm(3), say.mm(1)]) == [say.mm(1), say.mm(3)]
    assert not joined("", "")
    assert say.mm(3) != say.mm(3.1)
    assert len({say.mm(3), say.mm(3), say.mm(4)}) == 2


def test_ends_of_words():
    pool = joined("pool ", say.mm(3), " wide.")
    assert in_units(say.capital(pool)) == "Pool 3.0 mm wide."
    assert in_units(say.without_stop(pool)) == "pool 3.0 mm wide"
    assert in_units(say.capital(joined(say.mm(3), " wide"))) == "3.0 mm wide"
    assert (say.small("AC balance"), say.small("Cup"), say.capital("")) == ("AC balance", "cup", "")
    field, words = say.parted(sentence("machine.least_must_not_above", low="least_a", words="amps"), "|")
    assert (field, in_units(words)) == ("least_a", "the least amps must not be above the most")
    assert say.parted(pool, "|") == ("", pool)


def test_an_answer_is_in_the_readers_units_and_says_what_it_was_made_of():
    stop = sentence("checks.melt_through", top=25.4, root=12.7)
    answer = spoken(
        {
            "warnings": [{"message": stop}],
            "why": say.l_min(9),
            "joined": joined(say.mm(3), "!"),
            "number": 3.0,
        },
        "inch",
    )
    assert answer["why"] == "19 CFH"
    assert answer["joined"] == "0.118 in!"
    assert answer["number"] == 3.0
    assert answer["warnings"][0]["message"].startswith("Pool 1.00 in over a root of 0.500 in")
    assert answer["keys"] == {
        "warnings.0.message": {
            "key": "checks.melt_through",
            "values": {"top": {"value": 25.4, "unit": "mm"}, "root": {"value": 12.7, "unit": "mm"}},
        }
    }
    inner = sentence("web.version_by_its_words", revision=2, words=joined("Cup ", say.mm(3)))
    told = spoken({"said": inner})["keys"]["said"]["values"]
    assert told["revision"] == 2
    assert "keys" not in spoken({"a": "plain"})


def test_sentences_of_tables_are_marked():
    marked = say.marked("Between {2 mm} and {65 °C}.")
    assert say.in_units(marked, "inch") == "Between 3/32 in and 149 °F."
    assert say.all_marked({"a": ["{2 mm}", 1, "points"]})["a"][1:] == [1, "points"]


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


@pytest.mark.parametrize("asked", ["_open", "stored"])
def test_a_stored_sentence_may_be_opened_by_another_thread_in_between(asked):
    """Plans are shared by requests, and the words of one are made when somebody first asks for them."""
    root = {"key": "", "words": ["root ", ["", [6.0, "mm", "1"]]]}
    data = {
        "key": "checks.melt_through",
        "words": ["Pool ", ["top", [7.1, "mm", "1"]], " over ", ["rest", root]],
    }
    said, steps = read_said(data), []

    def other(frame, event, _arg):
        """After the first line of the one, the other opens it."""
        if frame.f_code.co_name == asked and frame.f_locals.get("self") is said and event == "line":
            steps.append(frame.f_lineno)
            if len(steps) == 2:
                said.in_units("mm")
        return other

    sys.settrace(other)
    try:
        found = said.words if asked == "_open" else said.stored()
    finally:
        sys.settrace(None)
    assert len(steps) >= 2
    assert said.in_units("mm") == "Pool 7.1 mm over root 6.0 mm"
    assert said.stored() == data
    assert found == (said.words if asked == "_open" else data)
