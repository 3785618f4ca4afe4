"""Sixteen people writing at once: all is stored, and nobody waits while another's plan is worked out."""

import logging
import sqlite3
import threading
from collections import Counter
from contextlib import closing

import pytest
from fastapi.testclient import TestClient
from tests.web.test_once import COUPON, JOB

from anvilsong.config import Config
from anvilsong.store import book, calibrations, coupons, database
from anvilsong.store.calibrated import calibration_row, members_of
from anvilsong.web.app import create_app

WORKED_OUT = ((book, "worked_out"), (coupons, "next_rung"), (coupons, "read"), (calibrations, "calibrate"))


@pytest.fixture
def patient(data_file):
    """A program that waits long: a busy machine is no reason to fail."""
    config = Config(data=data_file, answer_within_s=200)
    with TestClient(create_app(config), base_url="http://127.0.0.1", follow_redirects=False) as client:
        yield client


def test_sixteen_writers_and_nothing_is_worked_out_while_they_wait(
    patient, make_session, data_file, monkeypatch
):
    own, held, calls = patient.app.state.sessions, Counter(), Counter()

    def watched(name, real):
        def watching(*given, **more):
            calls[name] += 1
            held[name] += own._turn._is_owned()
            return real(*given, **more)

        watching.__module__, watching.__qualname__ = real.__module__, real.__qualname__
        return watching

    for module, name in WORKED_OUT:
        monkeypatch.setattr(module, name, watched(name, getattr(module, name)))
    statuses = Counter()

    def write(number):
        for round_ in range(2):
            made = patient.post(
                "/jobs/new",
                data=JOB
                | {"title": f"W{number} {round_}", "a_thickness": f"{2 + number / 10 + round_ / 100} mm"},
            )
            statuses[made.status_code] += 1
            job = made.headers["location"].split("/")[2]
            statuses[
                patient.post(
                    f"/jobs/{job}/coupon", data=COUPON | {"note": f"of W{number} {round_}"}
                ).status_code
            ] += 1
            statuses[
                patient.post(
                    "/jobs/8/tune", data={"from_revision": "1", "amps_set": str(150 + number)}
                ).status_code
            ] += 1

    writers = [threading.Thread(target=write, args=(number,)) for number in range(16)]
    for writer in writers:
        writer.start()
    for writer in writers:
        writer.join()
    assert statuses[303] >= 64
    assert set(statuses) <= {303, 422}  # one of two who set the amps at once is told so
    with closing(sqlite3.connect(data_file)) as connection:
        titles = {title for (title,) in connection.execute("SELECT title FROM jobs")}
        notes = connection.execute("SELECT json_extract(document, '$.note') FROM readings").fetchall()
    assert {f"W{number} {round_}" for number in range(16) for round_ in range(2)} <= titles
    assert {f"of W{number} {round_}" for number in range(16) for round_ in range(2)} <= {
        note for (note,) in notes
    }
    # Where another wrote in between, what it changed is worked out again: of the same job's coupons and revisions, never of a new job.
    assert calls["worked_out"] >= 32
    assert held["worked_out"] <= 16
    assert (held["read"], held["next_rung"], held["calibrate"]) == (0, 0, 0)


def test_what_coupons_say_is_known_when_all_have_written(patient, make_session):
    """Each coupon is fitted after it is stored, side by side: the one that knows most stays."""
    machine = "Curlew 220"
    asks = [
        threading.Thread(
            target=patient.post, args=("/jobs/8/coupon",), kwargs={"data": COUPON | {"note": str(number)}}
        )
        for number in range(8)
    ]
    for each in asks:
        each.start()
    for each in asks:
        each.join()
    with make_session() as session:
        row = calibration_row(session, machine, "Bench kit")
        run = [coupon.id for coupon in calibrations.coupons_of(session, machine, "Bench kit")]
        assert len(run) >= 8
        assert members_of(row) == run
        assert row.document == calibrations.document(calibrations._fitted(session, machine, "Bench kit").made)


def test_a_rehearsal_leaves_nothing_behind(make_session):
    """What is gone through beforehand writes nothing, also where it fails in the middle."""
    seen = []

    def work(session):
        row = book.find_jobs(session, "tank")[0]
        row.title = f"Renamed {len(seen)}"
        session.flush()
        seen.append(type(session).__name__)
        if len(seen) == 1:
            raise RuntimeError("in the rehearsal alone")
        return row.id

    number = make_session.write(work)
    assert seen == ["Rehearsal", "Session"]
    with make_session() as session:
        assert book.get_job(session, number).title == "Renamed 1"


def test_a_coupon_that_is_stored_is_never_told_to_be_lost(
    client, data_file, make_session, monkeypatch, caplog
):
    """Its fit fails after it was stored: the answer says what holds, and the next start makes up for it."""
    caplog.set_level(logging.CRITICAL)

    def breaks(*given):
        raise RuntimeError("no memory")

    monkeypatch.setattr(calibrations, "_fitted", breaks)
    assert client.post("/jobs/8/coupon", data=COUPON).status_code == 303
    monkeypatch.undo()

    def known():
        with make_session() as session:
            newest = calibrations.coupons_of(session, "Curlew 220", "Bench kit")[-1].id
            row = calibration_row(session, "Curlew 220", "Bench kit")
            return row is not None and newest in members_of(row)

    assert not known()
    with TestClient(create_app(Config(data=data_file)), base_url="http://127.0.0.1"):
        assert known()


def test_a_book_that_another_program_writes_into_is_served_all_the_same(data_file, monkeypatch, caplog):
    caplog.set_level(logging.CRITICAL)
    monkeypatch.setattr(database, "BUSY_S", 0.2)
    with closing(sqlite3.connect(data_file, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        with TestClient(create_app(Config(data=data_file)), base_url="http://127.0.0.1") as client:
            assert client.get("/jobs/8/tune").status_code == 200
        other.execute("ROLLBACK")
