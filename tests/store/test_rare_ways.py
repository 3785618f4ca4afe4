"""Ways that only damage, rare files and rare moments take: each ends in a sentence, and nothing is stored by half."""

import json
import os
import shutil
import sqlite3
from contextlib import closing

import pytest
from sqlalchemy import text

from anvilsong.core.bead import Readings
from anvilsong.core.errors import BadInput, CannotRead
from anvilsong.core.job import read_job
from anvilsong.core.said import in_units
from anvilsong.store import attachments, book, coupons, exchange_pictures, exchange_reading, recipes, shop
from anvilsong.store.backup import backup_to, restore_from
from anvilsong.store.database import existing_database, open_database, sessions
from anvilsong.store.exchange import import_from
from anvilsong.store.exchange_taking import Imported
from anvilsong.store.export import export_book, export_to

READINGS = Readings(bead_width_mm=6.4, border_left_mm=0.8, border_right_mm=0.8, seconds=27, length_mm=100)
REFUSED = {"a": {"alloy": "7075", "thickness": 3}, "joint": "butt"}


@pytest.fixture
def whole(make_session):
    with make_session.begin() as session:
        book.add_job(session, "Refused", read_job(REFUSED))
    with make_session() as session:
        return export_book(session)


def came(fresh, tmp_path, data):
    file = tmp_path / "in.json"
    file.write_text(json.dumps(data), encoding="utf-8")
    return import_from(fresh, file)


def job_of(data, title):
    return next(place for place, job in enumerate(data["jobs"]) if job["title"] == title)


@pytest.mark.on_file
def test_a_revision_is_of_one_piece(whole, fresh, tmp_path):
    tank, refused = job_of(whole, "Float tank lid"), job_of(whole, "Refused")
    again = json.loads(json.dumps(whole))
    plans = again["jobs"][tank]["plans"]
    plans[1]["job_document"]["title_of_nothing"] = None
    plans[1]["job_document"] = plans[1]["job_document"] | {"gap_mm": 0.5}
    del plans[1]["job_document"]["title_of_nothing"]
    with pytest.raises(
        BadInput, match=rf"jobs.{tank}.plans.1.plan.job: .* must be the job of the same version"
    ):
        came(fresh, tmp_path, again)
    again = json.loads(json.dumps(whole))
    again["jobs"][tank]["plans"][1]["revision"] = 1
    with pytest.raises(BadInput, match=rf"jobs.{tank}.plans: .* each version has a number of its own"):
        came(fresh, tmp_path, again)
    again = json.loads(json.dumps(whole))
    again["jobs"][refused]["plans"][0]["recipe"] = "Kept"
    with pytest.raises(
        BadInput, match=rf"jobs.{refused}.plans.0.recipe: .* a refused plan has no settings to save"
    ):
        came(fresh, tmp_path, again)
    with fresh() as session:
        assert book.find_jobs(session) == []


@pytest.mark.on_file
def test_a_photograph_stands_once(whole, fresh, tmp_path):
    twice = whole | {"photographs": whole["photographs"] * 2}
    with pytest.raises(BadInput, match=r"photographs.1.uid: .* it stands twice in the file"):
        came(fresh, tmp_path, twice)
    with fresh() as session:
        assert book.find_jobs(session) == []


@pytest.mark.on_file
@pytest.mark.parametrize("limit", ["jobs", "photographs"])
def test_more_than_one_may_bring(whole, fresh, tmp_path, monkeypatch, limit):
    """With limits lowered to one, since a million jobs take an hour."""
    monkeypatch.setitem(exchange_reading.MOST_OF_A_LIST, "jobs", 1 if limit == "jobs" else 1000)
    monkeypatch.setattr(exchange_pictures, "MOST_PHOTOGRAPHS", 0 if limit == "photographs" else 1000)
    most = 1 if limit == "jobs" else 0
    with pytest.raises(
        BadInput, match=rf"{limit}: {most} cannot be used; there may be {most} of them at most"
    ):
        came(fresh, tmp_path, whole)


def test_a_welder_who_is_only_in_the_book_is_found_again(whole, make_session, tmp_path):
    for job in whole["jobs"]:
        job["uid"] = job["uid"][::-1]
    for photograph in whole["photographs"]:
        photograph["job"], photograph["uid"] = photograph["job"][::-1], photograph["uid"][::-1]
    with make_session() as session:
        before = {row.name: row.id for row in shop.welders(session)}
    assert came(make_session, tmp_path, whole | {"welders": []}).jobs == len(whole["jobs"])
    with make_session() as session:
        assert {row.name: row.id for row in shop.welders(session)} == before
        names = [row.welder.name for row in book.find_jobs(session, "float tank lid")]
        assert names == ["Ottilie", "Ottilie"]
        assert {row.welder.school["pedal"] for row in book.find_jobs(session, "float tank lid")} == {
            shop.welders(session)[0].school["pedal"]
        }


def test_files_that_cannot_be_opened(fresh, tmp_path):
    with pytest.raises(CannotRead, match="No such file") as told:
        import_from(fresh, tmp_path / "nowhere.json")
    assert "Errno" not in str(told.value)
    with pytest.raises(CannotRead, match="directory"):
        import_from(fresh, tmp_path)
    with pytest.raises(CannotRead, match="there is no database there"):
        existing_database(tmp_path / "nowhere.sqlite")
    with pytest.raises(CannotRead, match="there is no database there"):
        backup_to(tmp_path / "nowhere.sqlite", tmp_path / "b.sqlite")
    assert not (tmp_path / "nowhere.sqlite").exists()
    assert not (tmp_path / "b.sqlite").exists()


def test_an_export_replaces_only_an_export(make_session, tmp_path):
    file = tmp_path / "out.json"
    with make_session() as session:
        export_to(session, file)
        first = file.read_bytes()
        export_to(session, file)
        assert abs(len(file.read_bytes()) - len(first)) < 10
        for mine in (b"Mine.", b"\xff\xfe\x00", b'{"format": "other"}'):
            file.write_bytes(mine)
            with pytest.raises(CannotRead, match="another program's file"):
                export_to(session, file)
            assert file.read_bytes() == mine


def test_damage_is_left_out_and_counted_once(make_session, fresh, tmp_path):
    """A photograph that is none, and a job that cannot be mended."""
    with make_session.begin() as session:
        tank = book.find_jobs(session, "float tank")[0]
        before = len(book.find_jobs(session))
        attachments.attachments_of(session, tank.id)[0].document = {"width_px": -1}
        cleat = book.find_jobs(session, "cleat")[0]
        session.flush()
        session.execute(text("UPDATE jobs SET title = '' WHERE id = :id"), {"id": cleat.id})
    with make_session() as session:
        out = export_to(session, tmp_path / "out.json")
    assert out.left_out == 2
    assert import_from(fresh, tmp_path / "out.json").jobs == before - 1
    with fresh() as session:
        tank = book.find_jobs(session, "float tank")[0]
        assert attachments.attachments_of(session, tank.id) == []


def test_what_cannot_be_read_is_judged_by_nothing(make_session):
    with make_session.begin() as session:
        tank = book.find_jobs(session, "float tank")[0]
        plan = tank.plans[-1]
        assert coupons.judge(plan, READINGS)[0].border_mm == pytest.approx(0.8)
        recipe = next(iter(recipes.recipes(session)))
        kept = recipes.find_recipe(session, recipe.plan_id)
        made = recipes.start_from(session, kept, "As the lid")
        assert [each.origin for each in made.plans] == ["plan", "recipe"]
        assert made.plans[-1].settings == kept.settings
        kept.settings = {"amps_run": "many"}
        with pytest.raises(BadInput, match="a recipe whose settings can be read"):
            recipes.start_from(session, kept, "Another")
        plan.plan = plan.job_document = {"half": 1}
        plan.machine_document = {}
        with pytest.raises(BadInput, match=r"plan: “version 3” .* cannot be read"):
            coupons.judge(plan, READINGS)


def test_a_backup_with_strays_is_refused(make_session, data_file, tmp_path):
    """A row that belongs to nothing: the backup is whole as a file, and no book."""
    bad = backup_to(data_file, tmp_path / "bad.sqlite")
    with closing(sqlite3.connect(bad)) as connection:
        connection.execute("PRAGMA foreign_keys = OFF")
        connection.execute("UPDATE plans SET job_id = 4000 WHERE id = 1")
        connection.commit()
    with make_session() as session:
        before = export_book(session)["jobs"]
    with pytest.raises(CannotRead, match="something in it belongs to nothing; the logbook was not touched"):
        restore_from(data_file, bad)
    with make_session() as session:
        assert export_book(session)["jobs"] == before


def test_back_to_where_no_book_is(data_file, tmp_path):
    copy = backup_to(data_file, tmp_path / "copy.sqlite")
    for name, content in (("new.sqlite", None), ("empty.sqlite", b"")):
        place = tmp_path / name
        if content is not None:
            place.write_bytes(content)
        restored = restore_from(place, copy)
        assert restored.kept is None
        with sessions(open_database(place))() as session:
            assert len(book.find_jobs(session)) == 10


def test_a_file_system_without_links(tmp_path, monkeypatch):
    """The new book is moved to its place; one that came meanwhile is not written over where links are."""

    def refuse(*_):
        raise PermissionError("no links here")

    with monkeypatch.context() as patched:
        patched.setattr(os, "link", refuse)
        open_database(tmp_path / "moved.sqlite").dispose()
    with sessions(open_database(tmp_path / "moved.sqlite"))() as session:
        assert book.find_jobs(session) == []
    theirs = tmp_path / "theirs.sqlite"
    shutil.copy(tmp_path / "moved.sqlite", theirs)
    link = os.link

    def late(source, target):
        shutil.copy(theirs, target)
        link(source, target)

    monkeypatch.setattr(os, "link", late)
    open_database(tmp_path / "raced.sqlite").dispose()
    assert (tmp_path / "raced.sqlite").read_bytes()[:16] == theirs.read_bytes()[:16]
    assert not [each for each in tmp_path.iterdir() if each.name.endswith(".new")]


def test_a_taking_over_that_fails_half_way_takes_nothing(whole, fresh, tmp_path):
    """The disk fills, or a rule of the book is broken, while rows are copied over."""
    on_file = fresh.engine.dialect.name == "sqlite"
    with fresh.begin() as session:
        session.execute(
            text(
                "CREATE TRIGGER full BEFORE INSERT ON coupons WHEN NEW.number = 3 BEGIN SELECT RAISE(ABORT, 'full'); END"
                if on_file
                else "ALTER TABLE coupons ADD CONSTRAINT it_is_full CHECK (number <> 3)"
            )
        )
    with pytest.raises(Exception, match="full"):
        came(fresh, tmp_path, whole)
    with fresh.begin() as session:
        for table in ("jobs", "plans", "coupons", "machines", "welders", "gauge_readings"):
            assert session.scalar(text(f"SELECT count(*) FROM {table}")) == 0
        session.execute(
            text("DROP TRIGGER full" if on_file else "ALTER TABLE coupons DROP CONSTRAINT it_is_full")
        )
    assert came(fresh, tmp_path, whole).jobs == len(whole["jobs"])


@pytest.mark.parametrize(
    ("came_in", "words"),
    [
        ((0, 0, 0, 0, 0), "0 jobs"),
        ((1, 0, 0, 0, 0), "1 job"),
        ((2, 1, 0, 3, 0), "2 jobs, 1 machine, 3 welders"),
        ((0, 0, 1, 0, 1), "0 jobs, 1 kit; 1 job was here already and stay as they are"),
        (
            (3, 2, 2, 1, 4),
            "3 jobs, 2 machines, 2 kits, 1 welder; 4 jobs were here already and stay as they are",
        ),
    ],
)
def test_what_came_in_is_said(came_in, words):
    assert in_units(Imported(*came_in).said) == words


@pytest.mark.parametrize("damage", [{"coefficients": None}, None])
def test_moved_settings_of_an_old_or_damaged_plan_are_judged_by_what_coupons_say(make_session, damage):
    """A plan that keeps no coefficients, or that cannot be read, is no reason to judge by nothing."""
    with make_session.begin() as session:
        tank = book.find_jobs(session, "float tank")[0]
        job = book.read_plan(tank.plans[-1]).plan.job
        settings = book.read_plan(tank.plans[-1]).plan.settings
        now = shop.bench_of(session, job).c
        newest = tank.plans[-1]
        newest.plan = (newest.plan | damage) if damage else {"half": 1}
        session.flush()
        moved = book.add_plan(
            session, tank, job, "tune", "By hand", settings.model_copy(update={"amps_run": 101.0})
        )
        assert moved.plan["coefficients"]["heat_factor"] == pytest.approx(now.heat_factor)
        assert now.heat_factor != 1.0


def test_a_correction_is_judged_after_the_coupons_before_it(make_session):
    """Those of this job that came earlier, none that came later, none of another job."""
    with make_session.begin() as session:
        tank = book.find_jobs(session, "float tank")[0]
        other = book.find_jobs(session, "rail")[0]
        coupons.add_coupon(session, other, other.plans[-1], READINGS)
        seen = []
        judge = coupons.judge

        def watched(plan, readings, before=()):
            seen.append([(row.job_id, row.number) for row in before])
            return judge(plan, readings, before)

        with pytest.MonkeyPatch.context() as patched:
            patched.setattr(coupons, "judge", watched)
            for number in (1, 2, 3):
                coupons.correct_coupon(session, coupons.find_coupon(session, tank.id, number), READINGS)
        assert seen == [[], [(tank.id, 1)], [(tank.id, 1), (tank.id, 2)]]
