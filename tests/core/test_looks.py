"""Coupons that were not measured whole: what is said of them, and the one change that follows from what there is."""

import pytest
from pydantic import ValidationError

from anvilsong.core.bead import (
    SCALES,
    Case,
    Looks,
    Readings,
    Verdict,
    change_by_looks,
    find_sign,
    likely_causes,
    measured_whole,
    next_change,
    read,
    read_looks,
    signs,
)
from anvilsong.core.bead.fault_signs import signs_on
from anvilsong.core.job import read_job
from anvilsong.core.plan import make_plan
from anvilsong.core.said import in_units as text
from anvilsong.demo.machines import MACHINES

JOB = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"})
MACHINE = MACHINES[2]
SETTINGS = make_plan(JOB, MACHINE).settings
AIM = read_looks(JOB, SETTINGS, Looks(overall="keep")).aim_mm
BORDER = sum(AIM) / 2
WIDTH = read_looks(JOB, SETTINGS, Looks(overall="keep")).wanted_width_mm


def after(**seen):
    looks = Looks(**seen)
    verdict = read_looks(JOB, SETTINGS, looks, MACHINE)
    return verdict, change_by_looks(JOB, SETTINGS, looks, verdict, MACHINE)


def test_nothing_at_all_is_no_coupon():
    for empty in ({}, {"length_mm": 100}, {"note": "nice", "length_mm": 100}):
        with pytest.raises(ValidationError):
            Looks(**empty)
    with pytest.raises(ValidationError):
        Looks(length_mm=100, seconds=0.5)  # no hand goes so
    for one in ({"overall": "no"}, {"judged": {"specks": 0}}, {"tip": "sharp"}, {"border_right_mm": 0}):
        assert Looks(**one)


def test_measured_whole_or_not():
    whole = {"bead_width_mm": 6, "border_left_mm": 1, "border_right_mm": 1, "seconds": 25, "length_mm": 100}
    assert isinstance(measured_whole(Looks(**whole, tip="sharp")), Readings)
    for missing in whole:
        assert (
            measured_whole(Looks(**{name: value for name, value in whole.items() if name != missing})) is None
        )
    readings = Readings(**whole)
    verdict = read(JOB, SETTINGS, readings, MACHINE)
    assert isinstance(verdict, Verdict)
    assert verdict.travel_mm_s == 4
    looked = read_looks(JOB, SETTINGS, readings, MACHINE)
    assert dict(looked).items() <= dict(verdict).items()


def test_what_was_not_measured_is_not_judged():
    verdict, change = after(judged={"bright": 2, "specks": 0}, overall="keep")
    assert (verdict.border_mm, verdict.border_state, verdict.border_miss, verdict.width_miss) == (None,) * 4
    assert (verdict.headline, verdict.is_good, verdict.said) == ("as wanted", True, [])
    assert change.kind == "keep"
    one_side, _ = after(border_left_mm=BORDER)
    assert one_side.border_mm == BORDER
    assert (one_side.border_state, one_side.uneven, one_side.width_miss) == ("as_wanted", False, None)
    uneven, change = after(border_left_mm=BORDER + 0.4, border_right_mm=BORDER - 0.4)
    assert uneven.uneven
    assert change.kind == "hand"


@pytest.mark.parametrize(("border", "way"), [(0.0, "thin"), (4.0, "wide")])
def test_a_border_alone_moves_the_border_and_not_the_amps(border, way):
    verdict, change = after(border_left_mm=border)
    assert verdict.border_state == ("none" if border == 0 else way)
    whole = Readings(
        bead_width_mm=verdict.expected_width_mm, border_left_mm=border, border_right_mm=border,
        length_mm=100, seconds=100 / SETTINGS.travel_mm_s,
    )  # fmt: skip
    as_measured = read(JOB, SETTINGS, whole, MACHINE).model_copy(update={"width_miss": 0.0})
    assert change == next_change(JOB, SETTINGS, whole, as_measured, MACHINE)
    assert change.setting in (None, "ep_share", "ep_trim")


def test_a_bead_alone_moves_the_amps():
    verdict, change = after(bead_width_mm=1.4 * WIDTH)
    assert verdict.width_miss > 1
    assert change.setting == "amps_run"
    assert change.settings.amps_run < SETTINGS.amps_run


def test_seconds_without_a_length_say_nothing_of_the_speed():
    """A run of 3 s that nobody measured the length of is no run at 33 mm/s."""
    _, plain = after(border_left_mm=0.1)
    _, timed = after(border_left_mm=0.1, seconds=3)
    _, long = after(border_left_mm=0.1, length_mm=800)
    assert timed == plain
    assert (long.setting, long.settings) == (plain.setting, plain.settings)


def test_every_sign_on_the_form_leads_to_its_likeliest_cause():
    spoken = {(word, place): key for key, word, place in _on_the_form()}
    assert spoken["specks", 2] == "black_specks"
    assert spoken["bright", 0] == "border_thin"
    for (word, place), key in spoken.items():
        assert 0 <= place < len(SCALES[word].places)
        assert signs_on(Looks(judged={word: place})) == [key]
        verdict, change = after(judged={word: place})
        assert text(verdict.headline) == find_sign(key).words
        likely = likely_causes([key], Case(JOB, SETTINGS, MACHINE, None, Looks(judged={word: place})))[0]
        assert likely.words.lower() in text(change.why).lower()
        assert change.kind == ("setting" if likely.change else "hand")
        assert change.settings == (likely.change.settings if likely.change else SETTINGS)
    assert signs_on(Looks(tip="spat")) == ["tip_balls"]
    # Everything else on the form is no sign.
    fine = [
        {word: place}
        for word, scale in SCALES.items()
        for place in range(len(scale.places))
        if (word, place) not in spoken
    ]
    assert not any(signs_on(Looks(judged=judged)) for judged in fine)


def _on_the_form():
    return [
        (sign.key, word, place)
        for sign in signs()
        for word, places in sign.judged.items()
        for place in places
    ]


def test_a_sign_that_the_ruler_contradicts_changes_nothing():
    wide = AIM[1] - 0.01
    verdict, change = after(judged={"bright": 0}, border_left_mm=wide, border_right_mm=wide)
    assert verdict.signs == ["border_thin"]
    assert (change.kind, change.settings) == ("hand", SETTINGS)
    assert "measures speak against" in text(change.said)


def test_the_welders_word_counts_where_nothing_else_speaks():
    assert after(overall="no")[1].kind == "hand"
    assert after(overall="nearly")[0].is_good is False
    assert after(overall="keep", crater="cracked")[1].kind == "hand"
    # On a coupon that was measured whole as well: nobody keeps what is full of specks.
    fine = {"bead_width_mm": WIDTH, "border_left_mm": BORDER, "border_right_mm": BORDER, "length_mm": 100}
    fine["seconds"] = 100 / SETTINGS.travel_mm_s
    kinds = {}
    for name, more in {"kept": {}, "no": {"overall": "no"}, "specks": {"judged": {"specks": 3}}}.items():
        readings = Readings(**fine, **more)
        kinds[name] = next_change(
            JOB, SETTINGS, readings, read(JOB, SETTINGS, readings, MACHINE), MACHINE
        ).kind
    assert kinds["kept"] == "keep"
    assert "keep" not in (kinds["no"], kinds["specks"])
