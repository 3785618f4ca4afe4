"""Daily copies: one a day on which something changed, checked, thinned by the rule, and nobody else's file touched."""

import os
import time
from datetime import date, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from anvilsong.core.errors import AnvilsongError
from anvilsong.store import copies
from anvilsong.store.backup import counts_of
from anvilsong.store.copies import copies_of, copy_now, copy_path, kept
from anvilsong.store.models import WelderRow

DAY = date(2026, 5, 20)


def change(make_session, name):
    with make_session.begin() as session:
        session.add(WelderRow(name=name, school={}))


def test_one_a_day_and_only_when_something_changed(make_session, data_file):
    first = copy_now(data_file, DAY)
    assert first == copy_path(data_file, DAY)
    assert counts_of(first) == counts_of(data_file)
    os.utime(first, (time.time() + 5,) * 2)
    assert copy_now(data_file, DAY + timedelta(days=1)) is None  # nothing changed
    os.utime(first, (time.time() - 500,) * 2)
    change(make_session, "Wenna")
    assert copy_now(data_file, DAY) is None  # today has one
    second = copy_now(data_file, DAY + timedelta(days=1))
    assert counts_of(second)["welders"] == counts_of(first)["welders"] + 1
    assert [one.day for one in copies_of(data_file)] == [DAY + timedelta(days=1), DAY]


def test_what_is_damaged_does_not_stay_and_what_was_before_does(make_session, data_file, monkeypatch):
    first = copy_now(data_file, DAY)
    os.utime(first, (1, 1))

    def damaged(data, target):
        target.write_bytes(b"SQLite format 3\0" + b"x" * 5000)
        return target

    monkeypatch.setattr(copies, "backup_to", damaged)
    with pytest.raises(AnvilsongError):
        copy_now(data_file, DAY + timedelta(days=1))
    assert [one.path for one in copies_of(data_file)] == [first]


def test_files_of_other_names_stay(make_session, data_file):
    folder = copy_path(data_file, DAY).parent
    folder.mkdir()
    others = [
        folder / name
        for name in (
            "book-2026-13-40.sqlite",
            "other-2020-01-01.sqlite",
            "book-2020-01-01.sqlite.txt",
            "notes",
        )
    ]
    for one in others:
        one.write_text("mine")
    for days in range(40):
        change(make_session, f"W{days}")
        for one in copies_of(data_file)[:1]:
            os.utime(one.path, (1, 1))
        assert copy_now(data_file, DAY + timedelta(days=days))
    assert all(one.read_text() == "mine" for one in others)
    assert len(copies_of(data_file)) == 7 + 1  # a week, and the last of May; June's newest is of the week


@given(st.sets(st.integers(0, 500), min_size=1))
def test_the_rule(numbers):
    days = {DAY + timedelta(days=n) for n in numbers}
    stay = kept(days)
    assert stay <= days
    assert set(sorted(days)[-7:]) <= stay
    assert len(stay) <= 13
    assert kept(stay) == stay  # thinning once more takes nothing
    for year, month in sorted({(day.year, day.month) for day in days})[-6:]:
        assert max(day for day in days if (day.year, day.month) == (year, month)) in stay
