"""A ladder's rungs beside one another: several changes are warned of, the nearest is pinned, and one can go back to it."""

import re

import pytest

from anvilsong.core.bead import Readings, read
from anvilsong.core.job import read_job
from anvilsong.core.plan import make_plan
from anvilsong.core.said import in_units as text
from anvilsong.core.settings import Settings
from anvilsong.demo.machines import MACHINES
from anvilsong.store import book, coupons
from anvilsong.store.reading import readable
from anvilsong.web.drawings.score import score_drawing
from anvilsong.web.rung_words import changed_by_hand, nearest, score_of, set_apart, several_said

JOB = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"})
SETTINGS = make_plan(JOB, MACHINES[2]).settings


def verdict(border=1.0, width=None, **more):
    wide = width or read(JOB, SETTINGS, ran(6.0, 1.0), MACHINES[2]).wanted_width_mm
    return read(JOB, SETTINGS, ran(wide, border, **more), MACHINES[2])


def ran(wide, border, **more):
    return Readings(
        bead_width_mm=wide,
        border_left_mm=border,
        border_right_mm=border,
        length_mm=100,
        seconds=100 / SETTINGS.travel_mm_s,
        **more,
    )


def test_the_nearest_is_the_least_of_the_largest_misses():
    good, thin, wide = verdict(1.0), verdict(0.3), verdict(1.0, 9.0)
    assert score_of(good) == pytest.approx(0, abs=0.05)
    assert score_of(thin) == pytest.approx(1.4)  # 0.7 mm of 0.5
    assert score_of(wide) > 1
    assert nearest([thin, good, wide]) == 1
    assert nearest([good, thin, good]) == 2  # the newer of two alike
    assert nearest([thin, None, wide]) in (0, 2)
    assert nearest([None, None]) is None
    assert nearest([]) is None


def test_a_crack_is_not_the_nearest():
    cracked = verdict(1.0, crater="cracked")
    assert score_of(cracked) == pytest.approx(score_of(verdict(1.0)) + 1)
    assert nearest([verdict(0.8), cracked]) == 0


def test_what_somebody_changed():
    apart = [("Welding amps", "120 A", "130 A"), ("AC balance", "30 %", "35 %")]
    from anvilsong.web.rung_words import FOOT

    apart[0] = (FOOT, *apart[0][1:])
    assert changed_by_hand(apart, "pedal") == apart[1:]
    assert changed_by_hand(apart, "switch_4") == apart
    assert several_said(apart[1:]) == several_said([]) == ""
    assert "2 settings were changed at once: " in several_said(apart)
    assert "says nothing of either alone" in several_said(apart)


def test_the_drawing_keeps_its_words_apart():
    def places(one, other):
        drawn = text(score_drawing([(1, one), (2, other)]))
        return {words: float(y) for y, words in re.findall(r'y="([\d.]+)"[^>]*>(border|bead)<', drawn)}

    near = places(verdict(0.2), verdict(1.0))
    assert abs(near["border"] - near["bead"]) >= 14
    far = places(verdict(0.2), verdict(0.2))
    assert far["border"] > far["bead"] + 14  # too narrow lies lower


def test_several_changes_are_warned_of_and_one_can_go_back(client, make_session, job_id):
    job = job_id("Float tank")
    with make_session.begin() as session:
        row = book.find_jobs(session, "float tank")[0]
        plan = book.find_plan(session, job)
        before = readable(Settings, plan.settings)
        changed = before.model_copy(update={"frequency_hz": 90.0, "ep_share": 0.25})
        made = book.read_plan(plan)
        book.add_plan(session, row, made.plan.job, "tuned", "Two at once", changed)
        session.refresh(row)
        coupons.add_coupon(session, row, book.find_plan(session, job), ran(6.0, 0.1))
        last, third = coupons.find_coupons(session, job, 2)[::-1]
        assert {words for words, *_ in set_apart(third, last)} >= {"Frequency", "AC balance"} or len(
            set_apart(third, last)
        ) >= 2
    page = " ".join(client.get(f"/jobs/{job}/read").text.split())
    assert page.count("settings were changed at once") == 1
    assert page.index("Nearest so far") < page.index("settings were changed at once")
    assert "Go back to its settings" in page
    answer = client.post(f"/jobs/{job}/read/back/3")
    assert answer.headers["location"] == f"/jobs/{job}/coupon"
    with make_session() as session:
        now = book.find_plan(session, job)
        assert text(now.words) == "Back to the settings of coupon 3"
        assert readable(Settings, now.settings) == before
        revision = now.revision
    assert client.post(f"/jobs/{job}/read/back/99").status_code == 404
    with make_session() as session:
        assert book.find_plan(session, job).revision == revision
