"""Two ladders side by side: the other hand's rungs, each with its own nearest, and pages that stand whatever is stored."""

import re

from anvilsong.core.bead import Readings
from anvilsong.store import book, coupons


def run(make_session, job, borders):
    with make_session.begin() as session:
        plan = book.find_plan(session, job)
        for border in borders:
            readings = Readings(
                bead_width_mm=6, border_left_mm=border, border_right_mm=border, seconds=27, length_mm=100
            )
            coupons.add_coupon(session, plan.job, plan, readings)


def words(client, address):
    return " ".join(client.get(address).text.split())


def test_the_other_hand_stands_beside(client, make_session, job_id):
    tank, rail = job_id("Float tank"), job_id("Survey raft rail")
    assert "No other job has coupons yet" in words(client, f"/jobs/{tank}/beside")
    run(make_session, rail, [0.2, 1.0])
    page = words(client, f"/jobs/{tank}/beside")
    assert "Survey raft rail, 1/8 in 6061, Bram" in page  # to choose, with whose hand it was
    columns = page.split('<section aria-label="')[1:]
    assert [re.match(r"[^\"]+", column).group() for column in columns] == [
        "Float tank lid",
        "Survey raft rail, 1/8 in 6061",
    ]
    assert [column.count("<svg") for column in columns] == [3, 2]
    assert [column.count("nearest</b>") for column in columns] == [1, 1]
    assert f"/jobs/{tank}/beside" in words(client, f"/jobs/{tank}/read")
    # From the other side too, and a number that is none shows the first there is.
    assert "Float tank lid, Ottilie" in words(client, f"/jobs/{rail}/beside?other=999")


def test_damage_beside_leaves_the_page_standing(client, make_session, job_id):
    tank, rail = job_id("Float tank"), job_id("Survey raft rail")
    run(make_session, rail, [0.5])
    with make_session.begin() as session:
        plan = book.find_plan(session, rail)
        plan.plan, plan.job_document = {"half": 1}, {"half": 1}
    answer = client.get(f"/jobs/{tank}/beside?other={rail}")
    assert answer.status_code == 200
    assert "damaged" in answer.text
