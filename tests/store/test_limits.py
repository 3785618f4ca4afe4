"""Every column of the tables and every limit of the store, written out: none moves unnoticed.

Run as a script, this file writes limits.json anew; read the difference before it is kept.
"""

import importlib
import io
import json
import os
import pkgutil
import subprocess
import sys
import time
from pathlib import Path

import pytest
from sqlalchemy import func, select

from anvilsong import store
from anvilsong.core.bead import Tried, find_sign
from anvilsong.core.bead.coupon import Readings
from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.warming import PRESETS, PartResult
from anvilsong.store import attachments, book, calibrations, coupons, heat_runs
from anvilsong.store.database import open_database
from anvilsong.store.export import write_book
from anvilsong.store.fault_trials import add_trial, trials
from anvilsong.store.models import Base, CalibrationRow

FILE = Path(__file__).with_name("limits.json")
READINGS = Readings(bead_width_mm=6.4, border_left_mm=0.8, border_right_mm=0.8, seconds=27, length_mm=100)


def columns():
    return {
        table.name: {
            column.name: f"{column.type}{'' if column.nullable else ' not null'}{' unique' if column.unique else ''}"
            for column in table.columns
        }
        for table in Base.metadata.sorted_tables
    }


def constants():
    """Every limit of every module of the store; moments, statements and patterns are none."""
    found = {}
    for module in pkgutil.iter_modules(store.__path__):
        if not module.ispkg:
            names = vars(importlib.import_module(f"anvilsong.store.{module.name}"))
            kept = {
                name: value
                for name, value in names.items()
                if name.isupper() and name[0] != "_" and is_plain(value)
            }
            found |= {module.name: kept} if kept else {}
    return found


def is_plain(value):
    if isinstance(value, dict):
        return all(is_plain(each) for each in value.values())
    if isinstance(value, tuple | list | frozenset | set):
        return all(is_plain(each) for each in value)
    return isinstance(value, int | float | str | bool)


def everything():
    return json.loads(
        json.dumps(
            {"columns": columns(), "constants": constants()},
            default=lambda value: sorted(map(str, value)),
        )
    )


@pytest.mark.parametrize("part", ["columns", "constants"])
def test_no_limit_moves_unnoticed(part):
    assert everything()[part] == json.loads(FILE.read_text(encoding="utf-8"))[part]


def test_a_refused_job_takes_no_coupon(make_session):
    with make_session.begin() as session:
        job = read_job({"a": {"alloy": "7075", "thickness": 3}, "joint": "butt"})
        row = book.add_job(session, "Refused", job)
        with pytest.raises(BadInput, match="refused, so there are no settings"):
            coupons.add_coupon(session, row, row.plans[-1], READINGS)
        assert row.coupons == []


def test_each_coupon_has_a_name_and_a_number_of_its_own(make_session):
    with make_session.begin() as session:
        row = book.find_jobs(session, "tank")[0]
        plan = row.plans[-1]
        one, other = (coupons.add_coupon(session, row, plan, READINGS) for _ in range(2))
        assert len(other.uid) == 32
        assert other.uid != one.uid
        assert (one.number, other.number) == (4, 5)
        assert one.machine == plan.job_document["machine"]
        assert (one.kit, one.left_out) == (plan.job_document["kit"] or "", False)


def test_moved_settings_are_judged_by_what_their_plan_was_made_with(make_session):
    """Coupons that come between teach a new plan, and leave what stands."""
    with make_session.begin() as session:
        row = book.find_jobs(session, "tank")[0]
        first = row.plans[-1]
        plan = book.read_plan(first).plan
        job = plan.job
        before = first.plan["coefficients"]
        for _ in range(6):
            coupons.add_coupon(session, row, first, READINGS.model_copy(update={"bead_width_mm": 7.6}))
    with make_session.begin() as session:
        row = book.get_job(session, row.id)
        moved = plan.settings.model_copy(update={"amps_run": 101.0})
        kept = book.add_plan(session, row, job, "tune", "By hand", moved)
        assert kept.plan["coefficients"] == before
        fresh = book.add_plan(session, row, job, "plan", "Afresh")
        assert fresh.plan["coefficients"]["heat_factor"] != pytest.approx(before["heat_factor"], rel=0.01)


def test_an_attachment_belongs_to_one_coupon_of_its_job(make_session):
    with make_session.begin() as session:
        tank = book.find_jobs(session, "float tank")[0]
        other = next(row for row in book.find_jobs(session) if row.id != tank.id)
        theirs = coupons.add_coupon(session, other, other.plans[-1], READINGS)
        first, second = tank.coupons[:2]
        row = attachments.add_attachment(session, tank, "photograph", "image/jpeg", b"x")
        attachments.give_to(session, row, theirs)
        assert row.coupon_id is None
        attachments.give_to(session, row, first)
        attachments.give_to(session, row, second)
        assert row.coupon_id == first.id
        one, gone = (
            attachments.add_attachment(session, tank, kind, "image/jpeg", b"y")
            for kind in ("photograph", "photograph")
        )
        sound = attachments.add_attachment(session, tank, "sound", "audio/wav", b"z")
        for each in (one, gone, sound):
            attachments.give_to(session, each, second)
        gone.put_away_at = tank.changed_at
        session.flush()
        found = attachments.of_coupons(session, [first.id, second.id])
        assert {key: [each.id for each in rows][-1:] for key, rows in found.items()} == {
            first.id: [row.id],
            second.id: [one.id],
        }
        assert attachments.of_coupons(session, []) == {}


def test_no_machine_has_no_calibration(make_session):
    with make_session.begin() as session:
        before = session.scalar(select(func.count()).select_from(CalibrationRow))
        assert calibrations.refit(session, "", "Bench kit") is None
        assert session.scalar(select(func.count()).select_from(CalibrationRow)) == before


def test_an_export_counts_what_it_leaves_out(make_session):
    """One damaged coupon among ticks and drawings that are sound: one is left out."""
    with make_session.begin() as session:
        tank = book.find_jobs(session, "float tank")[0]
        for step in ("prep:degrease", "prep:brush", "torch:cup"):
            book.tick(session, tank, step, True)
        heat_runs.add_heat_run(session, tank, 1, PRESETS["strip"][1]())
        tank.coupons[1].readings[-1].document = {"bead_width_mm": -1}
        session.flush()
        said = io.StringIO()
        left = write_book(session, said)
        assert (left.left_out, left.jobs) == (1, len(book.find_jobs(session)))
        assert left.said.endswith("1 damaged entry was left out: a coupon of job “Float tank lid”")
        kept = next(job for job in json.loads(said.getvalue())["jobs"] if job["uid"] == tank.uid)
        assert [len(kept[name]) for name in ("plans", "coupons", "ticks", "heat_runs")] == [3, 2, 3, 1]


def test_trials_are_counted_by_sign_and_cause(make_session):
    with make_session.begin() as session:
        had = trials(session, ["soot", "tip_blue"])
        one, two = (cause.key for cause in find_sign("soot").cause[:2])
        for cause, helped in ((one, True), (one, False), (one, True), (two, False)):
            add_trial(session, "soot", cause, helped)
        now = trials(session, ["soot"])
        for cause, helped, tried in ((one, 2, 3), (two, 0, 1)):
            before = had.get(("soot", cause), Tried(0, 0))
            assert now["soot", cause] == Tried(before.helped + helped, before.tried + tried)
        assert trials(session, ["tip_blue"]).keys() == {key for key in had if key[0] == "tip_blue"}
        with pytest.raises(BadInput, match="choose one of the list"):
            add_trial(session, "soot", "moonlight", helped=True)


def test_what_killed_work_left_is_cleared_at_the_next_start(tmp_path):
    """Files of a process that is gone, or a day old; what is being worked on is left alone, and so is what is not ours."""
    place, ended = tmp_path / "book.sqlite", subprocess.Popen([sys.executable, "-c", ""])
    ended.wait()
    live, mark = os.getppid(), "0123456789ab"
    files = {
        f".book.sqlite.{ended.pid}-{mark}.came": (0, False),
        f".book.sqlite.{ended.pid}-{mark}.restore-journal": (0, False),
        f".book.sqlite.{live}-{mark}.export": (80_000, True),
        f".book.sqlite.{live}-{mark}.new": (90_000, False),
        f".other.{ended.pid}-{mark}.new": (90_000, True),
        f".book.sqlite.{ended.pid}-{mark}.letter": (90_000, True),
        ".book.sqlite.server": (90_000, True),
    }
    for name, (age, _) in files.items():
        (tmp_path / name).write_bytes(b"")
        os.utime(tmp_path / name, (time.time() - age,) * 2)
    open_database(place).dispose()
    assert {name: (tmp_path / name).exists() for name in files} == {
        name: stays for name, (_, stays) in files.items()
    }
    assert place.stat().st_mode & 0o777 == 0o600


def test_old_films_and_very_old_parts_go(make_session):
    """Three films of a job are kept, a hundred drawings, and eight finished ones are offered again."""
    drawing = PRESETS["strip"][1]()
    with make_session.begin() as session:
        job = book.find_jobs(session, "float tank")[0]
        for number in range(103):
            run = heat_runs.add_heat_run(session, job, 1, drawing)
            if number >= 90:
                run.result, run.film = {"of": number}, b"film"
        session.expire(job)
        ids = [row.id for row in job.heat_runs]
        assert len(ids) == 100
        assert [run.id for run in heat_runs.earlier_runs(session, job.id)] == ids[-8:]
        heat_runs.keep_result(session, job.heat_runs[-1].uid, result(), b"newest")
        with_film = [row.id for row in job.heat_runs if heat_runs.has_film(session, row.id)]
        assert with_film == ids[-3:]
        assert heat_runs.film_of(session, ids[-1]) == b"newest"
        heat_runs.keep_result(session, "f" * 32, result(), b"")  # taken away meanwhile


def result():
    trace = {"waited_s": 0, "begins_s": 0, "stood_s": 0, "ends_s": 9, "way_mm": (1,), "share": (1,), "width_mm": (6,),
             "travel_mm_s": (3,), "ahead_c": (20,), "reached_mm": None}  # fmt: skip
    run = {"reference_w": 900, "wanted_mm": 6, "travel_mm_s": 3, "cell_mm": 1, "runs": (trace,), "ends_s": 9,
           "end_mean_c": 80, "end_hottest_c": 200, "touch_s": None, "heat_j": 1, "lost_j": 0, "lumped_c": 90}  # fmt: skip
    foot, film = (
        {"pool_w": 800, "rod_w": 9, "per_amp_w": 6},
        {"seconds": (0,), "rows": 1, "columns": 1, "cell_mm": 1},
    )
    return PartResult.model_validate(
        {"run": run, "foot": foot, "ceiling_a": 150, "has_pedal": True, "film": film}
    )


if __name__ == "__main__":
    FILE.write_text(json.dumps(everything(), indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
