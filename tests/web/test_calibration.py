"""Coupons move what is planned: recorded, switched, left out, exported and brought in again; a kept plan stays as it was."""

import re

import pytest

from anvilsong.core.coefficients import nominal
from anvilsong.core.model import Plan
from anvilsong.store import book, shop
from anvilsong.store.calibrated import calibration_row, coefficients_of
from anvilsong.store.exchange import import_from
from anvilsong.store.export import export_to

HTML = {"accept": "text/html"}
WIDE = {"bead_width_mm": "9 mm", "border_left_mm": "0.3", "border_right_mm": "0.3", "length_mm": "100", "seconds": "28"}  # fmt: skip


def pair(make_session, job):
    with make_session() as session:
        given = book.find_plan(session, job).job_document
    return given["machine"], given["kit"]


def known(make_session, machine, kit):
    with make_session() as session:
        return coefficients_of(session, machine, kit)


def plan_of(make_session, job, revision=None):
    with make_session() as session:
        return Plan.model_validate(book.find_plan(session, job, revision).plan)


def record(client, job, **changed):
    assert client.post(f"/jobs/{job}/coupon", data=WIDE | changed, headers=HTML).status_code == 303


def again(client, job):
    page = client.get(f"/jobs/{job}/job", headers=HTML).text
    form = dict(re.findall(r'<input[^>]*?name="([^"]+)"[^>]*?value="([^"]*)"', page))
    form |= {"joint": "tee", "machine": "Curlew 220", "kit": "Bench kit", "control": "pedal"}
    assert client.post(f"/jobs/{job}/job", data=form, headers=HTML).status_code == 303


@pytest.fixture
def rail(job_id):
    return job_id("Survey raft")


def test_coupons_move_the_next_plan_and_not_the_kept_one(client, make_session, rail):
    machine, kit = pair(make_session, rail)
    assert known(make_session, machine, kit) == nominal()
    before = plan_of(make_session, rail)
    assert "until you record coupons" in client.get(f"/jobs/{rail}/tune", headers=HTML).text
    for _ in range(4):
        record(client, rail)
    hot = known(make_session, machine, kit)
    assert hot.heat_factor > 1.08  # wide beads: this pair is hotter than nominal
    assert plan_of(make_session, rail) == before
    page = client.get(f"/jobs/{rail}/tune", headers=HTML).text
    assert "4 of your coupons on this machine and kit say more by now" in page
    # Settings kept on the board are judged by what their plan was made with.
    assert client.post(f"/jobs/{rail}/tune", data={"ep_share": "33"}).status_code == 303
    assert plan_of(make_session, rail).coefficients == nominal()
    again(client, rail)
    planned = plan_of(make_session, rail)
    assert planned.coefficients == hot
    assert planned.settings.amps_run < 0.95 * before.settings.amps_run
    page = client.get(f"/jobs/{rail}/tune", headers=HTML).text
    said = re.search(r'id="known">(.*?)\n', page)[1]
    assert re.match(
        r"From 4 of your coupons on this machine and kit: amps within \d %, border \d\.\d mm to ", said
    )
    # Another kit, another machine and no machine at all are other pairs.
    for other in ((machine, "Van kit"), ("Heron 321", kit), (None, None)):
        assert known(make_session, *other) == nominal()


def test_what_counts_is_switched_by_hand(client, make_session, rail):
    machine, kit = pair(make_session, rail)
    for width in ("9 mm", "9 mm", "4 mm"):
        record(client, rail, bead_width_mm=width)
    with make_session() as session:
        row = calibration_row(session, machine, kit)
        number, ids = (
            shop.machines(session).index(shop.find_machine(session, machine)) + 1,
            row.members["coupons"],
        )
    address = f"/shop/machines/{number}/coupons"
    with_all = known(make_session, machine, kit).heat_factor
    page = client.get(address, headers=HTML).text
    assert page.count("Leave it out") == 3
    assert f"What your coupons say of {machine}" in page
    assert client.post(f"{address}/{ids[2]}", data={"left_out": "1"}).status_code == 303
    assert known(make_session, machine, kit).heat_factor > with_all
    assert "left out" in client.get(address, headers=HTML).text
    assert client.post(f"{address}/{ids[2]}", data={"left_out": "0"}).status_code == 303
    assert known(make_session, machine, kit).heat_factor == pytest.approx(with_all)
    assert client.post(address, data={"kit": kit, "is_on": "0"}).status_code == 303
    assert known(make_session, machine, kit) == nominal()
    assert "New plans are estimates" in client.get(address, headers=HTML).text
    record(client, rail)
    assert known(make_session, machine, kit) == nominal()  # a coupon does not switch it on
    assert client.post(address, data={"kit": kit, "is_on": "1"}).status_code == 303
    assert known(make_session, machine, kit).heat_factor > with_all
    # A correction is what counts.
    corrected = client.post(
        f"/jobs/{rail}/coupon?correct=4", data=WIDE | {"bead_width_mm": "3 mm"}, headers=HTML
    )
    assert corrected.status_code == 303
    assert known(make_session, machine, kit).heat_factor < with_all
    # What is not there, or another machine's.
    assert client.post(f"{address}/999", data={"left_out": "1"}).status_code == 404
    assert client.post(f"/shop/machines/7/coupons/{ids[0]}", data={"left_out": "1"}).status_code == 404
    assert client.post(address, data={"kit": "No such", "is_on": "1"}).status_code == 404
    assert "No coupon was recorded" in client.get("/shop/machines/7/coupons", headers=HTML).text


def test_a_job_without_a_machine_calibrates_nothing(client, make_session):
    made = client.post(
        "/jobs/new", data={"a_alloy": "6061", "a_thickness": "3 mm", "joint": "tee"}, headers=HTML
    )
    job = int(made.headers["location"].split("/")[2])
    record(client, job)
    with make_session() as session:
        assert calibration_row(session, "", "") is None
        assert calibration_row(session, None, None) is None


def test_what_coupons_say_goes_with_the_book(client, make_session, rail, tmp_path):
    from anvilsong.store.database import open_database, sessions

    machine, kit = pair(make_session, rail)
    for width in ("9 mm", "8 mm", "4 mm"):
        record(client, rail, bead_width_mm=width)
    with make_session.begin() as session:
        row = calibration_row(session, machine, kit)
        from anvilsong.store.calibrations import leave_out
        from anvilsong.store.models import CouponRow

        leave_out(session, session.get(CouponRow, row.members["coupons"][2]), True)
    here = known(make_session, machine, kit)
    with make_session() as session:
        export_to(session, tmp_path / "book.json")
    fresh = sessions(open_database(tmp_path / "fresh.sqlite"))
    import_from(fresh, tmp_path / "book.json")
    assert known(fresh, machine, kit) == here
    with fresh() as session:
        assert sum(coupon.left_out for job in book.find_jobs(session) for coupon in job.coupons) == 1


def test_the_board_goes_on_with_what_its_plan_was_made_with(client, make_session, rail):
    plan = plan_of(make_session, rail)
    record(client, rail)
    asked = {
        "job": plan.job.model_dump(mode="json", by_alias=True),
        "settings": plan.settings.model_dump(mode="json", by_alias=True),
    }
    old = asked | {"coefficients": plan.coefficients.model_dump()}
    then = client.post("/api/consequences", json=old).json()["consequences"]
    now = client.post("/api/consequences", json=asked).json()["consequences"]
    assert then["pool_width_mm"] == pytest.approx(plan.consequences.pool_width_mm)
    assert now["pool_width_mm"] > 1.02 * then["pool_width_mm"]
    for bad in (0, -1, 1e9, "x", None):
        odd = asked | {"coefficients": plan.coefficients.model_dump() | {"foot": bad}}
        assert client.post("/api/consequences", json=odd).status_code == 422


def test_two_coupons_beside_one_another(client, job_id):
    tank = job_id("Float tank")
    page = client.get(f"/jobs/{tank}/compare?one=1&other=3", headers=HTML).text
    assert "They differ by more than your runs scatter: border, specks and skin." in page
    assert "2 settings changed between them" in page  # trim and balance; the foot only follows
    assert page.count("As measured") == 0
    newest = client.get(f"/jobs/{tank}/compare", headers=HTML).text
    assert "Coupon 2</th>" in newest
    assert "Coupon 3</th>" in newest
    assert "settings changed between them" not in newest
    same = client.get(f"/jobs/{tank}/compare?one=2&other=2", headers=HTML).text
    assert "These two are the same within the scatter of your runs." in same
    assert "Both were run with the same settings" in same
    for odd in ("one=99", "one=1&other=99"):
        assert client.get(f"/jobs/{tank}/compare?{odd}", headers=HTML).status_code == 200
    assert "There are not two coupons" in client.get("/jobs/8/compare", headers=HTML).text
    read = client.get(f"/jobs/{tank}/read", headers=HTML).text
    assert read.count("As expected") >= 1
    assert "Compare two coupons" in read


def test_what_is_expected_is_printed_with_its_range(client, make_session, job_id):
    """On card and Read: a quarter to either side before any coupon, what the coupons say after."""
    import re

    def range_on(job):
        said = " ".join(client.get(f"/jobs/{job}/card").text.split())
        low, high = re.search(r"border ([\d.]+)–([\d.]+) mm</dd>", said).groups()
        return float(low), float(high)

    plain = job_id("Survey raft rail")
    low, high = range_on(plain)
    assert high / low == pytest.approx(1.25 / 0.75, rel=0.15)
    tank = job_id("Float tank")
    page = client.get(f"/jobs/{tank}/read").text
    assert "border ± 25 %" in page or "nine times of ten" in page
