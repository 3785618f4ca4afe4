"""The van's logbook and the workshop's: brought together in either direction nothing is lost, nothing stands twice, and both end alike."""

import io
import itertools
import json
import shutil
from datetime import datetime, timedelta

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image
from sqlalchemy import select

from anvilsong.core.bead import Looks, Readings
from anvilsong.core.machine import Machine
from anvilsong.core.shop import PartRun
from anvilsong.instruments import open_picture
from anvilsong.store import attachments, book, coupons, memories, part_runs, shop
from anvilsong.store.database import open_database, sessions
from anvilsong.store.exchange import import_from
from anvilsong.store.export import export_book
from anvilsong.store.kept_models import PartRunRow
from anvilsong.store.models import AttachmentRow, CouponRow, JobRow, MachineRow, PlanRow

LID = "Float tank lid"


def lid(session):
    return session.scalar(select(JobRow).where(JobRow.title == LID))


def brought(target, source, tmp_path):
    with source() as session:
        file = tmp_path / "out.json"
        file.write_text(json.dumps(export_book(session)), "utf-8")
    return import_from(target, file)


MOMENTS = itertools.count()


def later(row):
    """A stored moment is of whole seconds: what is made in a test is made a minute after the last."""
    row.made_at = datetime(2026, 11, 1) + timedelta(minutes=next(MOMENTS))


def coupon(make, width, note=""):
    with make.begin() as session:
        row = lid(session)
        plan = book.find_plan(session, row.id)
        looks = Readings(
            bead_width_mm=width, border_left_mm=1, border_right_mm=1, seconds=28, length_mm=100, note=note
        )
        made = coupons.add_coupon(session, row, plan, looks)
        later(made)
        later(made.readings[-1])
        return made.uid


def amps(make, value):
    with make.begin() as session:
        row = lid(session)
        plan = book.read_plan(book.find_plan(session, row.id))
        changed = plan.plan.settings.model_copy(update={"amps_set": value, "amps_run": value})
        later(book.add_plan(session, row, plan.plan.job, "board", "", changed))


def told(make):
    """What must be alike in both books, whatever numbers they give: the newest version and everything by its uid."""
    with make() as session:
        found = {}
        for row in session.scalars(select(JobRow)):
            newest = row.plans[-1]
            versions = {(plan.made_at, json.dumps(plan.settings, sort_keys=True)) for plan in row.plans}
            found[row.uid] = {
                "title": row.title,
                "newest": json.dumps(newest.settings, sort_keys=True),
                "versions": versions,
                "coupons": {one.uid: (one.readings[-1].document, one.plan.made_at) for one in row.coupons},
                "numbers": len({one.number for one in row.coupons}),
                "runs": {run.uid: run.document for run in row.part_runs},
                "pictures": {
                    shown.uid: session.get(PartRunRow, shown.part_run_id).uid
                    for shown in session.scalars(
                        select(AttachmentRow).where(
                            AttachmentRow.job_id == row.id, AttachmentRow.part_run_id.is_not(None)
                        )
                    )
                },
                "memories": {one.uid: (one.slot, one.gone_at is None) for one in row.memories},
                "ticks": {tick.step for tick in row.ticks},
                "trials": {
                    one.uid: [
                        sorted(
                            session.scalar(
                                select(CouponRow.uid).where(CouponRow.job_id == row.id, CouponRow.number == n)
                            )
                            for n in run["coupons"]
                        )
                        for run in one.document.get("runs", ())
                    ]
                    for one in row.trials
                },
            }
        return found


def both_ways(one, other, tmp_path):
    """Both brought into each other; what both then are."""
    brought(one, other, tmp_path)
    brought(other, one, tmp_path)
    assert told(one) == told(other)
    stands = told(one)
    again = [brought(one, other, tmp_path).merged, brought(other, one, tmp_path).merged]
    assert again == [0, 0]
    assert told(one) == told(other) == stands
    return stands


def test_what_each_added_is_in_both(make_session, van, tmp_path):
    file = io.BytesIO()
    Image.new("RGB", (320, 240), "grey").save(file, "PNG")
    picture = open_picture(file.getvalue())
    before = told(van)
    ours, theirs = coupon(make_session, 6.2, "in the workshop"), coupon(van, 6.6, "in the van")
    with van.begin() as session:
        row = lid(session)
        ran = part_runs.add_run(
            session, row, book.find_plan(session, row.id), PartRun(seconds=40, part="Lid", serial="V-1")
        )
        attachments.add_photograph(session, row, picture).part_run_id = ran.id
        book.tick(session, row, "prep:degrease", True)
        row.title = LID
    came = brought(make_session, van, tmp_path)
    assert (came.jobs, came.merged, came.here_already) == (0, 1, 9)
    assert "1 that stood in both put together" in came.said.in_units("mm")
    stands = both_ways(make_session, van, tmp_path)
    uid = next(uid for uid, one in stands.items() if one["title"] == LID)
    assert {ours, theirs} <= set(stands[uid]["coupons"])
    assert len(stands[uid]["pictures"]) == 1
    assert stands[uid]["numbers"] == len(stands[uid]["coupons"]) == len(before[uid]["coupons"]) + 2
    with make_session() as session:
        assert lid(session).id in [
            row.id for row in book.find_jobs(session, "van")
        ]  # found by the note that came


def test_both_went_on_and_the_newest_is_the_newest(make_session, van, tmp_path):
    amps(van, 131)
    amps(make_session, 137)
    late = coupon(van, 7.1)  # of the van's version, which the workshop's is newer than
    stands = both_ways(make_session, van, tmp_path)
    one = next(one for one in stands.values() if one["title"] == LID)
    assert json.loads(one["newest"])["amps_set"] == 137
    assert {json.loads(settings)["amps_set"] for _, settings in one["versions"]} >= {131, 137}
    with make_session() as session:
        ran = session.scalar(select(CouponRow).where(CouponRow.uid == late))
        assert ran.plan.settings["amps_set"] == 131  # run with what it was run with


def test_a_correction_made_last_stands_last(make_session, van, tmp_path):
    uid = coupon(make_session, 6.0)
    brought(van, make_session, tmp_path)
    for make, width in ((van, 6.3), (make_session, 6.4)):
        with make.begin() as session:
            row = session.scalar(select(CouponRow).where(CouponRow.uid == uid))
            coupons.correct_coupon(
                session,
                row,
                Readings(bead_width_mm=width, border_left_mm=1, border_right_mm=1, seconds=28, length_mm=100),
            )
            later(row.readings[-1])
    stands = both_ways(van, make_session, tmp_path)
    (document,) = (one["coupons"][uid][0] for one in stands.values() if uid in one["coupons"])
    assert document["bead_width_mm"] == 6.4


def test_a_series_that_went_on_in_both(make_session, van, tmp_path):
    """The demo's series: each logbook counts a coupon of its own to it, under the same number, and both count in both."""
    uids = {}
    for make, width in ((make_session, 6.1), (van, 6.9)):
        uids[width] = coupon(make, width)
        with make.begin() as session:
            row = lid(session)
            trial = next(one for one in row.trials if one.kind == "series")
            document = json.loads(json.dumps(trial.document))
            document["runs"][0]["coupons"].append(row.coupons[-1].number)
            trial.document = document
    stands = both_ways(make_session, van, tmp_path)
    trials = next(one for one in stands.values() if one["title"] == LID)["trials"].values()
    assert any(set(uids.values()) <= set(runs[0]) for runs in trials if runs)


def test_one_memory_holds_what_was_stored_last(make_session, van, tmp_path):
    for make, label in ((make_session, "earlier"), (van, "later")):
        with make.begin() as session:
            row = lid(session)
            plan = book.find_plan(session, row.id)
            machine = Machine.model_validate(
                session.scalar(
                    select(MachineRow).where(MachineRow.name == plan.job_document["machine"])
                ).document
            )
            later(memories.store_now(session, machine, plan, 2, label))
    both_ways(make_session, van, tmp_path)
    with make_session() as session:
        (open_,) = [one for one in lid(session).memories if one.slot == 2 and one.gone_at is None]
        assert open_.label == "later"


def test_archived_in_one_is_archived_in_both(make_session, van, tmp_path):
    with van.begin() as session:
        shop.put_away(session, lid(session))
        lid(session).put_away_at = datetime(2099, 1, 1)
    both_ways(make_session, van, tmp_path)
    with make_session() as session:
        assert lid(session).put_away_at == datetime(2099, 1, 1)


def test_two_coupons_of_one_second_are_two(make_session, van, tmp_path):
    """Recorded in the same second under the same number: what they say tells them apart."""
    moment = datetime(2026, 11, 2, 8, 0)
    uids = [coupon(make_session, 6.1), coupon(van, 6.7)]
    for make, uid in zip((make_session, van), uids, strict=True):
        with make.begin() as session:
            session.scalar(select(CouponRow).where(CouponRow.uid == uid)).made_at = moment
    stands = both_ways(make_session, van, tmp_path)
    assert set(uids) <= set(next(one for one in stands.values() if one["title"] == LID)["coupons"])


@settings(max_examples=5, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    st.lists(
        st.tuples(st.booleans(), st.sampled_from(["coupon", "amps", "run", "looks", "bring"])),
        min_size=1,
        max_size=7,
    )
)
def test_any_order_of_work(workshop_file, tmp_path_factory, steps):
    folder = tmp_path_factory.mktemp("two")
    books = [
        sessions(open_database(shutil.copy(workshop_file, folder / name)))
        for name in ("a.sqlite", "b.sqlite")
    ]
    expected = 0
    for number, (which, what) in enumerate(steps):
        make = books[which]
        if what == "coupon":
            coupon(make, 6 + number / 10)
            expected += 1
        elif what == "amps":
            amps(make, 120 + number)
        elif what == "bring":
            brought(make, books[not which], folder)
        else:
            with make.begin() as session:
                row = lid(session)
                plan = book.find_plan(session, row.id)
                if what == "run":
                    part_runs.add_run(session, row, plan, PartRun(seconds=30 + number))
                else:
                    coupons.add_coupon(session, row, plan, Looks(judged={"bright": 2}, note=f"n{number}"))
                    expected += 1
    with books[0]() as session:
        before = len(lid(session).coupons)
    stands = both_ways(*books, folder)
    one = next(one for one in stands.values() if one["title"] == LID)
    assert len(one["coupons"]) == 3 + expected >= before
    changed = [120 + number for number, (_, what) in enumerate(steps) if what == "amps"]
    if changed:
        assert json.loads(one["newest"])["amps_set"] == changed[-1]
    with books[0]() as session:
        revisions = [
            plan.revision
            for plan in session.scalars(
                select(PlanRow).where(PlanRow.job_id == lid(session).id).order_by(PlanRow.revision)
            )
        ]
    assert revisions == list(range(1, len(revisions) + 1))
