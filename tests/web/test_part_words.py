"""What a computed part means in words: every sentence from figures that make it, and silent where they do not."""

import pytest

from anvilsong.core.said import in_units as text
from anvilsong.core.warming import PartResult
from anvilsong.web.part_words import advice_words, compared_rows, reached_words, rest_words

WAY = (0.0, 10.0, 50.0, 95.0, 100.0)


def trace(**more):
    given = {
        "waited_s": 0, "begins_s": 2, "stood_s": 0, "ends_s": 30, "way_mm": WAY, "share": (1.0,) * 5, "width_mm": (6.0,) * 5,
        "travel_mm_s": (3.5,) * 5, "ahead_c": (20.0,) * 5, "reached_mm": 0.0,
    }  # fmt: skip
    return given | more


def result(*runs, run=None, **more):
    """100 A hold the pool on a plate without end; the ceiling is 150 A."""
    heat = {
        "reference_w": 600, "wanted_mm": 6, "travel_mm_s": 3.5, "cell_mm": 1, "runs": runs or (trace(),), "ends_s": 30, "end_mean_c": 80,
        "end_hottest_c": 200, "touch_s": 60, "heat_j": 20_000, "lost_j": 1_000, "lumped_c": 90,
    } | (run or {})  # fmt: skip
    given = {
        "run": heat, "foot": {"pool_w": 600, "rod_w": 0, "per_amp_w": 6}, "ceiling_a": 150, "has_pedal": True,
        "film": {"seconds": (0,), "rows": 1, "columns": 1, "cell_mm": 1},
    }  # fmt: skip
    return PartResult.model_validate(given | more)


def said(found):
    return [text(line) for line in found]


def reached(ceiling_a=150, **more):
    made = result(trace(**more), ceiling_a=ceiling_a)
    return text(reached_words(made, made.run.runs[0]))


@pytest.mark.parametrize(
    ("of", "words"),
    [
        ({"reached_mm": 0.0}, "The pool of 6.0 mm at 3.5 mm/s is there from the start."),
        ({"reached_mm": 8.9}, "The pool of 6.0 mm at 3.5 mm/s is there from the start."),
        ({"reached_mm": 9.0}, "The pool of 6.0 mm at 3.5 mm/s is reached after 9 mm."),
        ({"reached_mm": 40.0, "stood_s": 3.9}, "The pool of 6.0 mm at 3.5 mm/s is reached after 40 mm."),
        ({"reached_mm": 40.0, "stood_s": 4.0}, "The pool of 6.0 mm at 3.5 mm/s is reached after 40 mm after standing 4 s at the start."),
        ({"reached_mm": 40.0, "ceiling_a": 99}, "The pool of 6.0 mm at 3.5 mm/s is reached after 40 mm."),
        ({"reached_mm": 40.0, "ceiling_a": 98}, "The pool of 6.0 mm at 3.5 mm/s is reached after 40 mm: the part is small enough for it."),
        ({"reached_mm": None}, "The pool of 6.0 mm at 3.5 mm/s is not reached."),
        ({"reached_mm": None, "travel_mm_s": (3.5, 3.5, 3.4, 3.5, 3.5)}, "The pool of 6.0 mm at 3.5 mm/s is not reached."),
        (
            {"reached_mm": None, "travel_mm_s": (3.5, 3.5, 3.3, 3.5, 3.5), "stood_s": 12},
            "The pool of 6.0 mm at 3.5 mm/s is not reached after standing 12 s at the start; the torch goes as slow as 3.3 mm/s.",
        ),
    ],
)  # fmt: skip
def test_whether_the_pool_is_reached(of, words):
    found = reached(**of)
    assert found[0].upper() + found[1:] == words


def test_a_plain_run_says_three_things():
    """Reached, when it can be touched, and where the heat went."""
    assert said(advice_words(result()))[1:] == [
        "At the end the part is 80 °C in the mean; it can be touched (50 °C) after 60 s.",
        "20 kJ went in. Spread at once over all of it they would make 90 °C; 5 % went into the air.",
    ]


def test_the_foot_comes_off():
    words = "the pedal comes off by the end: from 100 A to {} A, {} % of the machine amps."
    for last, amps, share in ((0.84, 84, 56), (0.5, 50, 33)):
        found = said(advice_words(result(trace(share=(1.0, 1.0, 0.9, last, last)))))
        assert words.format(amps, share) in found
    for last in (0.86, 1.2):
        assert not [
            line
            for line in said(advice_words(result(trace(share=(1.0, 1.0, 1.0, last, last)))))
            if "foot comes off" in line
        ]


def test_without_a_foot_the_pool_grows():
    wide = (6.0, 6.0, 6.7, 8.0, 9.0)

    def lines(width, **more):
        return [
            line
            for line in said(advice_words(result(trace(width_mm=width), has_pedal=False, **more)))
            if "constant amps" in line
        ]

    assert lines(wide, held=(1.0, 0.8)) == [
        "with constant amps the pool grows to 6.7 mm. To stay at its width they would have to fall from 100 A to 80 A over 28 s: a slope, or a pulse of that mean."
    ]
    assert lines(wide) == []  # nothing is known of a foot
    assert (
        lines((6.0, 6.0, 6.5, 8.0, 9.0), held=(1.0, 0.8)) == []
    )  # under a tenth more; the end does not count
    assert not [
        line
        for line in said(advice_words(result(trace(width_mm=wide), held=(1.0, 0.8))))
        if "constant amps" in line
    ]


def rested(rests, share=1.0, runs=(None,), **more):
    given = {"share": share, "rests": rests, "widest_mm": 7.4, "ends_s": 900}
    return said(rest_words(result(*(trace() for _ in runs), has_pedal=False, rested=given, **more)))


def rest(way_mm, seconds, run=1):
    return {"run": run, "way_mm": way_mm, "seconds": seconds}


def test_rests_of_a_torch_switch():
    assert said(rest_words(result())) == []
    assert rested([]) == [
        "At the 100 A that are set rests with the arc out are no way: more than 20 would be needed."
    ]
    tail = " The pool then stays under 7.4 mm until the end, and the whole takes 15 min."
    head = "At the 100 A that are set, rests with the arc out do it too: "
    assert rested([rest(40, 90)]) == [head + "90 s after 40 mm." + tail]
    assert rested([rest(40, 90), rest(70, 150)]) == [head + "90 s after 40 mm and 2 min after 70 mm." + tail]
    three = [rest(40, 90), rest(60, 100), rest(70, 150)]
    assert rested(three) == [head + "90 s after 40 mm, 100 s after 60 mm and 2 min after 70 mm." + tail]
    assert rested([*three, rest(80, 30)]) == [
        head + "4, the first 90 s after 40 mm, of 30 s to 2 min." + tail
    ]
    assert rested([rest(40, 90, 2)], runs=(1, 2)) == [head + "90 s after 40 mm of run 2." + tail]
    # Amps that a hand would have to turn down first are the start's.
    assert rested([], share=0.98)[0].startswith("At the 98 A that the start wants")
    assert rested([], share=0.99)[0].startswith("At the 99 A that are set")


def test_a_mean_near_melting_says_that_the_part_is_gone():
    lines = said(advice_words(result(run={"end_mean_c": 656}), 1.0, 582.0))
    assert lines[0] == (
        "By the end the whole part has melted or is about to: 656 °C in the mean, and the metal melts from 582 °C on. "
        "Weld in stretches, with rests."
    )
    assert not [line for line in lines if "can be touched" in line]
    assert said(advice_words(result(run={"end_mean_c": 552}), 1.0, 582.0))[0].startswith("By the end")
    assert "can be touched" in " ".join(said(advice_words(result(run={"end_mean_c": 551}), 1.0, 582.0)))


def test_a_warm_plate_wants_less_than_the_ceiling():
    """100 A hold it on a cold plate; at 0.85 of it the 90 A that are there are enough, and no word says otherwise."""
    cold, warm = (said(advice_words(result(ceiling_a=90), share)) for share in (1.0, 0.85))
    assert "On a plate without end this pool wants 100 A; the machine is set to 90 A." in cold
    assert not [line for line in warm if "plate without end" in line]


def test_warm_metal_waits_marks_and_a_short_ceiling():
    ahead = trace(ahead_c=(20.0, 20.0, 60.0, 100.0, 120.0))  # 86.7 °C four fifths along
    cool = trace(ahead_c=(20.0, 20.0, 60.0, 89.0, 120.0))  # 79.3 °C
    warm = "towards the end the metal two pools ahead of the arc is at 87 °C."
    assert warm in said(advice_words(result(ahead)))
    assert not [line for line in said(advice_words(result(cool))) if "two pools ahead" in line]
    several = said(advice_words(result(cool, ahead | {"waited_s": 130})))
    assert f"Run 2: {warm}" in several
    assert "Run 2: it begins after 2 min of waiting." in several
    assert several[0].startswith("Run 1: the pool of 6.0 mm")
    marks = [
        {"name": "Seal", "peak_c": 210, "peak_s": 40, "most_c": 200}, {"name": "Pin", "peak_c": 90, "peak_s": 300, "most_c": 120},
        {"name": "Rim", "peak_c": 70, "peak_s": 9},
    ]  # fmt: skip
    lines = said(advice_words(result(run={"marks": marks, "touch_s": None}, ceiling_a=97)))
    assert "Seal: 210 °C at most, after 40 s, over the 200 °C it may have." in lines
    assert "Pin: 90 °C at most, after 5 min, under the 120 °C it may have." in lines
    assert "Rim: 70 °C at most, after 9 s." in lines
    assert (
        "At the end the part is 80 °C in the mean; it can be touched (50 °C) after more than two hours."
        in lines
    )
    assert "On a plate without end this pool wants 100 A; the machine is set to 97 A." in lines
    assert not [line for line in said(advice_words(result(ceiling_a=99))) if "without end" in line]


def way(words, **more):
    return {
        "words": words,
        "first_share": 1.0,
        "last_share": 0.8,
        "hottest_mark_c": 200,
        "over": 1,
        "ends_s": 30,
        "reached_mm": None,
    } | more


@pytest.mark.parametrize(
    ("other", "gains"),
    [
        ({}, ""),
        ({"over": 0}, "a mark stays under its limit"),
        ({"over": 2}, ""),
        ({"last_share": 0.83}, ""),
        ({"last_share": 0.84}, "the end wants more amps: less of it falls out"),
        ({"reached_mm": 20}, "the pool is reached"),
        ({"hottest_mark_c": 190}, ""),
        ({"hottest_mark_c": 189}, "the hottest mark stays at 189 °C instead of 200 °C"),
        ({"hottest_mark_c": None}, ""),
        ({"over": 0, "last_share": 0.9}, "a mark stays under its limit, the end wants more amps: less of it falls out"),
    ],
)  # fmt: skip
def test_what_another_way_gains(other, gains):
    rows = compared_rows(result(others=[way("As drawn"), way("From the other end", **other)]))
    assert [text(row["gains"]) for row in rows] == ["", gains]
    assert compared_rows(result()) == []
