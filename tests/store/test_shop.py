"""The shop's shelf: names are kept, nobody writes over another, logs and ticks say what was done."""

import re
import sqlite3
from contextlib import closing

import pytest
from sqlalchemy import func, select, text
from sqlalchemy.exc import OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeout

from anvilsong.core.errors import BadInput, CannotRead
from anvilsong.core.job import Job, School, read_job
from anvilsong.core.machine import IDEAL, Machine
from anvilsong.core.said import in_units
from anvilsong.core.torch.kit import Cylinder, Kit
from anvilsong.store import book, gauges, shop
from anvilsong.store.backup import backup_to, restore_from
from anvilsong.store.columns import UNREADABLE, is_printable
from anvilsong.store.database import open_database, sessions
from anvilsong.store.databases import make_engine
from anvilsong.store.faults import store_fault
from anvilsong.store.lines import book_page
from anvilsong.store.merge import merge
from anvilsong.store.migrating import step_back
from anvilsong.store.models import KitRow, MachineRow, ReadingRow, TickRow, WelderRow
from anvilsong.store.reading import digest, readable_text
from anvilsong.store.words import searchable

JOB = read_job({"a": {"alloy": "6061", "thickness": 3}, "joint": "tee"})


def refused(field, words, call, *given):
    with pytest.raises(BadInput) as trouble:
        call(*given)
    (problem,) = trouble.value.problems
    assert (problem.field, words in problem.allowed) == (field, True), problem


def test_a_machine_keeps_its_name_and_nobody_writes_over_another(make_session):
    with make_session.begin() as session:
        row = shop.add_machine(session, Machine(name="Ruff 90", most_a=90))
        seen = digest(row.document)
        refused("name", "its name stays", shop.change_machine, session, row, Machine(name="Reeve"), seen)
        shop.change_machine(session, row, Machine(name="Ruff 90", most_a=95), seen)
        assert shop.find_machine(session, "Ruff 90").most_a == 95
        # The second of two who opened the same thing is told what differs; without a mark it is written.
        late = Machine(name="Ruff 90", most_a=80, note="Mine.")
        refused("seen", "differs from theirs in most_a, note", shop.change_machine, session, row, late, seen)
        shop.change_machine(session, row, late)
        assert shop.find_machine(session, "Ruff 90").most_a == 80
        refused("name", "is here already", shop.add_machine, session, late)
        refused("machine", "known machines are ", shop.find_machine, session, "Nobody")
        assert shop.find_machine(session, None) is IDEAL


def test_what_is_put_away_keeps_its_name_and_comes_back(make_session):
    with make_session.begin() as session:
        kit = Kit(name="Spare box", cups=(6,))
        row = shop.save_kit(session, kit)
        shop.put_away(session, row)
        assert kit not in shop.kits(session)
        assert [each.name for each in shop.rows(session, KitRow, away=True)] == ["Spare box"]
        refused("name", "archived: restore it", shop.save_kit, session, kit)
        shop.bring_back(session, row)
        assert kit in shop.kits(session)
        refused("name", "its name stays", shop.save_kit, session, kit.model_copy(update={"name": "B"}), row)
        more = kit.model_copy(update={"cups": (6, 8)})
        assert shop.save_kit(session, more, row) is row
        assert shop.find_kit(session, "Spare box") == more
        assert shop.find_kit(session, None) == Kit()
        row.document = {"name": 7}
        session.flush()
        refused("kit", "is damaged", shop.find_kit, session, "Spare box")
        assert more not in shop.kits(session)


def test_welders_have_names_of_their_own(make_session):
    with make_session.begin() as session:
        first, second = shop.welders(session)[:2]
        refused("name", "is here already", shop.save_welder, session, None, first.name, School(), "")
        refused("name", "is here already", shop.save_welder, session, second, first.name, School(), "")
        assert shop.save_welder(session, first, first.name, School(pedal="hot"), "Same.") is first
        assert (first.school["pedal"], first.note) == ("hot", "Same.")
        shop.put_away(session, first)
        refused("name", "was archived", shop.save_welder, session, None, first.name, School(), "")
        refused("welder", "choose one of the list", shop.find_welder, session, 999)
        assert shop.find_welder(session, None) is None
        count = session.scalar(select(func.count()).select_from(WelderRow))
        assert shop.save_welder(session, None, "Wenna", School(), "").id > 0
        assert session.scalar(select(func.count()).select_from(WelderRow)) == count + 1


def test_a_cylinder_has_its_own_log_newest_first(make_session):
    big, small = (Cylinder(name=name, volume_l=20, full_bar=200) for name in ("Log A", "Log B"))
    with make_session.begin() as session:
        for bar in (200, 180, 0):
            gauges.read_gauge(session, big, bar)
        gauges.read_gauge(session, small, 250, "  hot day  ")
        assert [row.bar for row in gauges.gauge_log(session, "Log A")] == [0, 180, 200]
        assert [row.bar for row in gauges.gauge_log(session, "Log A", limit=2)] == [0, 180]
        assert [(row.bar, row.note) for row in gauges.gauge_log(session, "Log B")] == [(250, "hot day")]
        refused("bar", "holds 0 to 200 bar", gauges.read_gauge, session, small, 251)
        refused("bar", "holds 0 to 200 bar", gauges.read_gauge, session, small, -0.1)


def test_two_jobs_of_one_title_are_two_and_a_step_has_one_tick(make_session):
    with make_session.begin() as session:
        one = book.add_job(session, "Bracket", JOB)
        assert book.add_job(session, "Bracket", JOB).id != book.add_job(session, "Bracket", JOB).id
        ticked = lambda: session.scalars(select(TickRow.step).where(TickRow.job_id == one.id)).all()  # noqa: E731
        for done, steps in (
            (True, ["brush"]),
            (True, ["brush"]),
            (False, []),
            (False, []),
            (True, ["brush"]),
        ):
            book.tick(session, one, "brush", done)
            session.flush()
            assert ticked() == steps
        book.tick(session, one, "wipe", False)
        session.flush()
        assert ticked() == ["brush"]
        other = book.add_job(session, "Cleat", JOB)
        book.tick(session, other, "brush", False)
        session.flush()
        assert ticked() == ["brush"]
        for title in ("", "   ", "x" * 121, "one\x00two"):
            with pytest.raises(BadInput):
                book.clean_title(title)
        assert book.clean_title("  Rail  ") == "Rail"


def test_what_a_search_may_find():
    found = searchable(
        "Rail", {"joint": "tube_plate", "a": {"alloy": "6061", "thickness": "1/8"}, "b": {"alloy": "5083"},
                 "machine": "Heron 320", "purposes": ["tight"], "surface": "mill", "position": "flat"},
        "Bram", ["specks"],
    )  # fmt: skip
    assert found.split() == [
        "Rail",
        "tube",
        "plate",
        "6061",
        "5083",
        "1/8",
        "Heron",
        "320",
        "Bram",
        "tight",
        "mill",
        "flat",
        "specks",
    ]
    assert searchable("Rail", {"a": "x", "b": None, "purposes": "tight"}, "", []).split() == ["Rail"]


def test_the_book_line_says_what_is_asked_for(make_session):
    with make_session.begin() as session:
        lines = {line.title: line for line in book_page(session).lines}
        assert {line.last_change for line in lines.values()} == {"", "keep"}
        refused_ones = [line for line in lines.values() if line.refused]
        assert refused_ones
        assert all(line.settings is None for line in refused_ones)
        assert all(line.settings is not None for line in lines.values() if not line.refused)


@pytest.mark.parametrize(
    ("change", "kind"),
    [('{"kind": "keep"}', "keep"), ('{"kind": 7}', ""), ('{"kind": "ü"}', ""), ("[1]", ""), (None, ""), ("{", "")],
)  # fmt: skip
def test_what_a_damaged_change_asks_for(data_file, change, kind):
    """An older logbook says so of each reading when it is brought up to date."""
    engine = make_engine(data_file, wal=False)
    step_back(engine, "0019")
    with engine.begin() as connection:
        connection.execute(text("UPDATE readings SET change = :change"), {"change": change or "null"})
    engine.dispose()
    with sessions(open_database(data_file))() as session:
        assert {line.last_change for line in book_page(session).lines if line.coupons} == {kind}
        assert set(session.scalars(select(ReadingRow.kind))) == {kind}


def test_twelve_words_are_searched_for(make_session):
    with make_session() as session:
        assert len(book.find_jobs(session, " ".join(["tank"] * 12 + ["nothing"]))) == 1
        assert book.find_jobs(session, " ".join(["tank"] * 11 + ["nothing"])) == []


def test_a_plan_of_nothing_is_unreadable_and_no_settings_are_none(make_session):
    with make_session.begin() as session:
        session.execute(text("UPDATE plans SET plan = 'null', settings = 'null'"))
        row = book.find_plan(session, 8)
        assert (row.plan, row.settings) == (UNREADABLE, None)


def test_half_letters_and_what_is_no_document():
    assert is_printable('{"a": "ü"}', {"a": "ü"})
    assert not is_printable('{"a": "\\udc00"}', {"a": "\udc00"})
    assert is_printable('{"a": "\\ud83d\\ude00"}', {"a": "😀"})
    assert is_printable(None, None)
    assert readable_text(Job, '{"a": "\\udc00"}') is None
    assert readable_text(Job, "[" * 5000) is None
    assert readable_text(Job, None) is None
    assert readable_text(Job, JOB.model_dump_json()) == JOB
    assert digest({"a": 1, "b": 2}) == digest({"b": 2, "a": 1}) != digest({"a": 1, "b": 3})


@pytest.mark.parametrize(
    ("base", "mine", "theirs", "merged", "clashes"),
    [
        ({"a": 1, "b": 1}, {"a": 2, "b": 1}, {"a": 1, "b": 3}, {"a": 2, "b": 3}, []),
        ({"a": 1}, {"a": 2}, {"a": 2}, {"a": 2}, []),
        ({"a": 1}, {"a": 2}, {"a": 3}, {"a": 3}, [("a", 2, 3)]),
        ({"a": 1}, {}, {"a": 1}, {}, []),
        ({"a": 1}, {}, {"a": 2}, {"a": 2}, [("a", None, 2)]),
        ({}, {"a": 1}, {"b": 2}, {"a": 1, "b": 2}, []),
        ({"g": {"x": 1, "y": 1}}, {"g": {"x": 2, "y": 1}}, {"g": {"x": 1, "y": 2}}, {"g": {"x": 2, "y": 2}}, []),
        ({"w": {"x": 1, "y": 1}}, {"w": {"x": 2, "y": 1}}, {"w": {"x": 1, "y": 2}}, {"w": {"x": 1, "y": 2}}, [("w", {"x": 2, "y": 1}, {"x": 1, "y": 2})]),
        ({"l": [1]}, {"l": [1, 2]}, {"l": [3]}, {"l": [3]}, [("l", [1, 2], [3])]),
    ],
)  # fmt: skip
def test_two_people_changed_the_same_thing(base, mine, theirs, merged, clashes):
    made = merge(base, mine, theirs, whole=("w",))
    assert made.document == merged
    assert [(clash.path, clash.mine, clash.theirs) for clash in made.clashes] == clashes


@pytest.mark.parametrize(
    ("words", "kind"),
    [
        ("database is locked", "busy"),
        ("database or disk is full", "full"),
        ("attempt to write a readonly database", "read_only"),
        ("unable to open database file", "read_only"),
        ("file is not a database", "damaged"),
        ("no such table: jobs", "damaged"),
        ("UNIQUE constraint failed: jobs.uid", "clash"),
        ("something nobody has seen", "other"),
    ],
)
def test_what_sqlite_says_in_a_persons_words(words, kind):
    fault = store_fault(OperationalError("SELECT 1", {}, sqlite3.OperationalError(words)))
    assert fault.kind == kind
    assert re.search(r"[.!]$", in_units(fault.said))
    assert store_fault(PoolTimeout()).kind == "busy"
    assert store_fault(ValueError("locked")) is None


def test_a_backup_of_other_pages_and_the_book_itself(make_session, data_file, tmp_path):
    """A backup with other pages is brought to the book's; nothing, an empty file and the book itself are no backups."""
    copy = backup_to(data_file, tmp_path / "copy.sqlite")
    with closing(sqlite3.connect(copy)) as connection:
        connection.execute("PRAGMA journal_mode = DELETE")
        connection.execute("PRAGMA page_size = 8192")
        connection.execute("VACUUM")
        assert connection.execute("PRAGMA page_size").fetchone()[0] == 8192
        connection.execute("UPDATE jobs SET title = 'From the copy' WHERE id = 1")
        connection.commit()
    restore_from(data_file, copy)
    with make_session() as session:
        assert book.get_job(session, 1).title == "From the copy"
        assert session.scalar(select(func.count()).select_from(MachineRow)) == 7
    (tmp_path / "empty.sqlite").touch()
    for file, said in (
        (tmp_path / "empty.sqlite", "there is nothing in it"),
        (tmp_path / "nowhere.sqlite", "there is no such file"),
        (data_file, "it is the logbook itself"),
    ):
        with pytest.raises(CannotRead, match=said):
            restore_from(data_file, file)
    with pytest.raises(CannotRead, match="it is the database itself"):
        backup_to(data_file, data_file)


def test_what_a_gauge_may_say(make_session):
    """From nothing to a quarter over full; a note is kept as far as its field goes."""
    with make_session.begin() as session:
        cylinder = shop.kits(session)[0].cylinders[0]
        most = 1.25 * cylinder.full_bar
        for bar in (0.0, most):
            assert gauges.read_gauge(session, cylinder, bar).bar == bar
        for bar in (-0.1, most + 0.1):
            with pytest.raises(BadInput, match=rf"{cylinder.name} holds 0 to {cylinder.full_bar:g} bar"):
                gauges.read_gauge(session, cylinder, bar)
        assert gauges.read_gauge(session, cylinder, 90, "  " + "x" * 500).note == "x" * 400
        assert [row.bar for row in gauges.gauge_log(session, cylinder.name, limit=3)] == [90, most, 0.0]
