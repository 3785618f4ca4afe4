"""Alloys, fillers, chemistry: the rules and the worked figures."""

import itertools
import tomllib
from pathlib import Path

import pytest

import anvilsong.core
from anvilsong.core.errors import BadInput
from anvilsong.core.metal.alloys import alloys, find_alloy
from anvilsong.core.metal.chemistry import crack_sensitivity, largest_safe_dilution, mix, watch_over
from anvilsong.core.metal.fillers import choose_filler, fillers, find_filler
from anvilsong.core.metal.rods import rod_diameter_mm

DATA = Path(anvilsong.core.__file__).parent / "data"


def test_either_name_finds_the_alloy():
    for alloy in alloys():
        assert find_alloy(alloy.name) is alloy or find_alloy(alloy.name).name == alloy.name
        assert find_alloy(f"EN {alloy.en}").name in {
            alloy.name,
            *(other.name for other in alloys() if other.en == alloy.en),
        }
    assert find_alloy("en aw 6082-T6").name == "6082"
    assert find_alloy("unknown extrusion").shown_name == "unknown extrusion (as 6063)"
    with pytest.raises(BadInput, match=r"alloy: “unobtainium” cannot be used; known alloys are 1050A, 1100"):
        find_alloy("unobtainium")


def test_hot_conductivity():
    assert find_alloy("6061").hot_conductivity_w_mk == pytest.approx(200, abs=1)
    assert find_alloy("5083").hot_conductivity_w_mk == pytest.approx(168, abs=1)


@pytest.mark.parametrize(
    ("base", "filler", "dilution", "sensitivity"),
    [("6061", "4043", 0.65, 0.34), ("6061", "5356", 0.65, 0.80)],
)
def test_crack_range(base, filler, dilution, sensitivity):
    assert crack_sensitivity(mix(find_alloy(base), find_filler(filler), dilution)) == pytest.approx(
        sensitivity, abs=0.01
    )


@pytest.mark.parametrize(
    ("a", "b", "purposes", "first"),
    [
        ("6061", "6061", (), "4043"),
        ("6061", "6061", ("strength",), "5356"),
        ("6061", "6061", ("colour",), "5356"),
        ("1050A", "1050A", (), "1100"),
        ("3003", "3003", (), "4043"),
        ("5052", "5052", (), "5356"),
        ("5083", "5083", (), "5183"),
        ("6061", "5083", (), "5356"),
        ("6061", "A356", (), "4043"),
        ("A356", "A356", (), "4043"),
        ("319", "319", (), "4145"),
        ("7005", "7005", (), "5183"),
        ("2219", "2219", (), "2319"),
    ],
)
def test_usual_pairs(a, b, purposes, first):
    choice = choose_filler(find_alloy(a), find_alloy(b), purposes)
    assert choice.best is not None
    assert choice.best.filler == first


def test_every_pair_is_ranked_or_refused_by_a_rule_and_both_ways_alike():
    rules = set()
    for a in alloys():
        for b in alloys():
            for purposes in ((), ("warm_service",), ("colour",)):
                there, back = choose_filler(a, b, purposes), choose_filler(b, a, purposes)
                assert [row.filler for row in there.ranked] == [row.filler for row in back.ranked]
                assert [row.score for row in there.ranked] == [row.score for row in back.ranked]
                assert {row.rule for row in there.pair_refused} == {row.rule for row in back.pair_refused}
                assert there.best is not None or there.pair_refused
                rules |= {row.rule for row in (*there.pair_refused, *there.refused)}
            if a.heat_treatable:
                bare = choose_filler(a, b, wanted="none")
                rules |= {row.rule for row in bare.pair_refused}
    assert {1, 2, 3, 4, 5} <= rules


def test_hard_rules_name_their_reason():
    wanted = choose_filler(find_alloy("5083"), find_alloy("5083"), wanted="4043")
    assert [row.rule for row in wanted.pair_refused] == [2]
    assert "4.4 % magnesium" in wanted.pair_refused[0].reason
    assert choose_filler(find_alloy("7075"), find_alloy("6061")).pair_refused[0].rule == 1
    assert choose_filler(find_alloy("2219"), find_alloy("5083")).best is None
    assert all(filler.si + filler.mg + filler.cu < 20 for filler in fillers())


def test_rod_diameters():
    stocked = (0.8, 1.0, 1.2, 1.6, 2.0, 2.4, 3.2, 4.0)
    assert [rod_diameter_mm(t, stocked) for t in (0.5, 1.0, 1.6, 3.2, 5.0, 8.0)] == [
        0.8,
        1.0,
        1.6,
        2.4,
        3.2,
        4.0,
    ]


def test_up_to_the_safe_dilution_every_mixture_is_under_the_line():
    """For every pair: walked up from pure filler by mixtures worked on their own."""
    told = 0
    for base in alloys():
        for filler in fillers():
            steps = [crack_sensitivity(mix(base, filler, n / 100)) for n in range(101)]
            over = [n for n, stands in enumerate(steps) if stands > watch_over()]
            expected = None if over and over[0] == 0 else (over[0] - 1) / 100 if over else 1.0
            assert largest_safe_dilution(base, filler) == expected, (base.name, filler.name)
            told += expected not in (None, 1.0)
    assert told > 20


@pytest.mark.parametrize(
    ("typed", "name"),
    [
        ("AlMg3", "5754"), ("AlMg4.5Mn", "5083"), ("almg4,5mn", "5083"), ("AlSi1MgMn", "6082"), ("3.3547", "5083"),
        ("AC-42100", "A356"), ("EN AC-42200", "A357"), ("357", "A357"), ("AlZn5.5MgCu", "7075"), ("2017A", "2017"),
        ("EN AW-2014-T6", "2014"), (["EN AW-5754", "AlMg3]"][0], "5754"),
    ],
)  # fmt: skip
def test_metals_are_found_by_the_names_that_people_use(typed, name):
    assert find_alloy(typed).name == name


def test_what_must_not_be_arc_welded_is_known_and_refused_with_its_reason():
    for name in ("2011", "2014", "2017", "2024", "7050", "7075"):
        refused = find_alloy(name).refused
        assert refused.startswith(name)
        assert "6061" in refused


@pytest.mark.parametrize(
    ("one", "other", "takes"),
    [("5754", "A356", "5356"), ("5754", "413", "5356"), ("7005", "A356", "4043"), ("7005", "319", "4043"),
     ("7005", "2219", "4043")],
)  # fmt: skip
def test_pairs_that_the_published_selector_takes(one, other, takes):
    for a, b in ((one, other), (other, one)):
        chosen = choose_filler(find_alloy(a), find_alloy(b))
        assert not chosen.pair_refused
        assert takes in {row.filler for row in chosen.ranked}


def test_every_pair_has_its_row_in_the_guide_and_goes_by_it():
    """Every metal that may be welded is in one group, every two groups have one row; its first name is planned, all
    are taken, and where it names none, nothing is.
    """
    guide = tomllib.loads((DATA / "selector.toml").read_text(encoding="utf-8"))
    welded = [alloy for alloy in alloys() if not alloy.refused]
    known = [name for group in guide["groups"].values() for name in group]
    assert sorted(known) == sorted(alloy.name for alloy in welded)
    groups = list(guide["groups"])
    for place, one in enumerate(groups):
        assert list(guide["names"][one]) == groups[place:]
        for other, names in guide["names"][one].items():
            for a, b in itertools.product(guide["groups"][one], guide["groups"][other]):
                chosen = choose_filler(find_alloy(a), find_alloy(b))
                ranked = [row.filler for row in chosen.ranked]
                assert set(names) <= set(ranked), (a, b)
                assert ranked[:1] == names[:1], (a, b)
                assert bool(chosen.pair_refused) == (not names)
                assert choose_filler(find_alloy(b), find_alloy(a)).ranked == chosen.ranked


def test_what_the_charts_name_in_spite_of_a_rule_and_what_they_do_not():
    """Magnesium sheet on a silicon casting takes 4043 too; 3004 is no metal for 1100; bare 5052 wants an eye."""

    def ranked(one, other, **more):
        return [row.filler for row in choose_filler(find_alloy(one), find_alloy(other), **more).ranked]

    for casting in ("A356", "413"):
        assert {"4043", "5356"} <= set(ranked("5754", casting))
    assert ranked("535", "A356") == ["4043"]
    assert "4043" not in ranked("5083", "A356")  # over 4 % it stays a rule
    assert "4043" not in ranked("5754", "5754")
    for purpose in ("colour", "ductility"):
        assert ranked("3004", "3004", purposes=[purpose])[0] == "5356"
    assert "1100" not in ranked("3004", "3003")
    assert "1100" in ranked("3003", "3003")
    for alloy, watched in (
        ("5052", True),
        ("3004", True),
        ("3003", False),
        ("5083", False),
        ("1050A", False),
    ):
        bare = choose_filler(find_alloy(alloy), find_alloy(alloy), wanted="none")
        assert any("Without filler rod" in line for line in bare.watches) == watched, alloy
        assert not [
            line
            for line in choose_filler(find_alloy(alloy), find_alloy(alloy)).watches
            if "Without filler rod" in line
        ]
