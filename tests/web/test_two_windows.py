"""Two windows on one thing: the second to save is told what the first saved, loses nothing of its own, and holds when it saves again."""

import re

import pytest
from sqlalchemy import select
from tests.forms import form_on, forms_of, sent
from tests.web.test_once import COUPON

from anvilsong.core.bead import Readings
from anvilsong.store.models import CouponRow, JobRow, MachineRow, PlanRow, WelderRow

KNOB = "100 = 50\n50 = 30\n0 = 15"


def stored(make_session, what):
    with make_session() as session:
        return session.scalar(what)


# The page, where its form goes, what both begin with, what the first saves, what the second saves, and what is stored of it.
EDITED = {
    "welder": ("/shop/welders/1", "/shop/welders", {"note": "Ann’s"}, {"note": "Ben’s"}, select(WelderRow.note).where(WelderRow.id == 1)),
    "title": ("/jobs/8/job", None, {"title": "Ann’s rail"}, {"title": "Ben’s rail"}, select(JobRow.title).where(JobRow.id == 8)),
    "welder of a job": ("/jobs/8/job", None, {"welder": "1"}, {"welder": ""}, select(JobRow.welder_id).where(JobRow.id == 8)),
    "recipe": ("/jobs/8/recipe", None, {"recipe": "Ann’s recipe"}, {"recipe": "Ben’s recipe"}, select(PlanRow.recipe).where(PlanRow.job_id == 8)),
}  # fmt: skip


@pytest.mark.parametrize("what", EDITED)
def test_the_second_is_told_and_holds_when_it_saves_again(client, make_session, what):
    page, to, ann, ben, asked = EDITED[what]
    first, second = (form_on(client, page, to) for _ in range(2))
    if what == "welder of a job":
        with make_session.begin() as session:
            session.get(JobRow, 8).welder_id = 2
        first, second = (form_on(client, page, to) for _ in range(2))
    assert sent(client, first, **ann).status_code == 303
    theirs = stored(make_session, asked)
    refused = sent(client, second, **ben)
    assert refused.status_code == 422
    assert "since" in refused.text
    assert "save again to have yours" in refused.text
    assert stored(make_session, asked) == theirs
    again = next(form for form in forms_of(refused) if form["to"] == (to or page))
    for name, value in ben.items():
        assert again["fields"].get(name, "") == value
    assert sent(client, again).status_code == 303
    assert stored(make_session, asked) != theirs


def test_a_title_that_was_left_alone_stays_as_somebody_else_left_it(client, make_session):
    """Also where the form was refused for something else in between."""
    first, second = (form_on(client, "/jobs/8/job") for _ in range(2))
    assert sent(client, first, title="Ann’s rail").status_code == 303
    refused = sent(client, second, gap_mm="99")
    again = next(form for form in forms_of(refused) if form["to"] == "/jobs/8/job")
    assert again["fields"]["title"] == "Ann’s rail"
    assert sent(client, again, gap_mm="0.3 mm").status_code == 303
    assert stored(make_session, select(JobRow.title).where(JobRow.id == 8)) == "Ann’s rail"


def test_a_knob_that_was_calibrated_twice(client, make_session):
    page = "/shop/machines/1/knob/ep_share"
    first, second = (form_on(client, page) for _ in range(2))
    before = stored(make_session, select(MachineRow.document).where(MachineRow.id == 1))
    place = first["fields"]["points"].splitlines()
    ann, ben = (
        "\n".join([*place[:-1], re.sub(r"= ([\d.]+)", f"= {value}", place[-1])]) for value in (49, 48)
    )
    assert sent(client, first, points=ann).status_code == 303
    assert sent(client, second, points=ben).status_code == 422
    kept = stored(make_session, select(MachineRow.document).where(MachineRow.id == 1))
    assert kept != before
    again = form_on(client, page)
    assert sent(client, again, points=ben).status_code == 303


def test_a_coupon_that_was_corrected_twice(client, make_session, job_id):
    tank = job_id("Float tank")
    page = f"/jobs/{tank}/coupon?correct=1"
    first, second = (form_on(client, page) for _ in range(2))
    assert sent(client, first, bead_width_mm="7 mm").status_code == 303
    refused = sent(client, second, bead_width_mm="8 mm")
    assert refused.status_code == 422
    assert "Coupon 1 as you opened it" in refused.text
    again = next(form for form in forms_of(refused) if form["to"] == page)
    assert sent(client, again).status_code == 303
    with make_session() as session:
        coupon = session.scalar(select(CouponRow).where(CouponRow.job_id == tank, CouponRow.number == 1))
        widths = [Readings.model_validate(reading.document).bead_width_mm for reading in coupon.readings]
    assert widths[-2:] == [7, 8]


def test_what_is_typed_as_set_goes_on_top_of_what_somebody_kept_since(client, make_session):
    """Ben’s page shows 30 % and 110 Hz; Ann keeps 90 Hz on the board; Ben’s 36 % takes nothing of it back."""
    form = form_on(client, "/jobs/8/as-set")
    assert client.post("/jobs/8/tune", data={"from_revision": "1", "frequency_hz": "90"}).status_code == 303
    assert sent(client, form, ep_share="36").status_code == 303
    kept = stored(
        make_session, select(PlanRow.settings).where(PlanRow.job_id == 8).order_by(PlanRow.revision.desc())
    )
    assert (kept["frequency_hz"], round(kept["ep_share"], 2)) == (90, 0.36)


def test_a_torch_that_clashes_comes_back_as_it_was_picked(client, make_session):
    first, second = (form_on(client, "/jobs/8/torch") for _ in range(2))
    assert sent(client, first, cup="7|lens").status_code == 303
    refused = sent(client, second, cup="8|lens")
    assert refused.status_code == 422
    assert "Cup: your 8 cannot be used" in refused.text
    assert refused.text.count("save again to have yours") == 1  # not of stick-out and flow, which follow
    again = next(form for form in forms_of(refused) if form["to"] == "/jobs/8/torch")
    assert (again["fields"]["cup"], again["fields"]["from_revision"]) == ("8|lens", "2")
    assert sent(client, again).status_code == 303
    kept = stored(
        make_session, select(PlanRow.settings).where(PlanRow.job_id == 8).order_by(PlanRow.revision.desc())
    )
    assert kept["cup"]["number"] == 8


@pytest.mark.parametrize(
    ("page", "typed", "field"),
    [("job", {"gap_mm": "0.3 mm"}, "from_revision"), ("coupon", COUPON, "revision"), ("tune", {"ep_share": "36"}, "from_revision"),
     ("torch", {"cup": "8|lens"}, "from_revision"), ("as-set", {"ep_share": "36"}, "from_revision"), ("recipe", {"recipe": "Rail"}, "revision"),
     ("map", {"value_amps_run": "99"}, "from_revision")],
)  # fmt: skip
def test_a_form_whose_revision_is_gone_goes_to_the_newest_with_what_was_typed(
    client, make_session, page, typed, field
):
    """The page comes back on the newest revision, as typed; sent again it is stored."""
    form = form_on(client, f"/jobs/8/{page}")
    refused = sent(client, form, **typed, **{field: "77"})
    assert refused.status_code == 422
    assert "gone from the logbook" in refused.text
    again = next(form for form in forms_of(refused) if form["to"] == f"/jobs/8/{page}")
    assert again["fields"][field] == "1"
    for name, value in typed.items():
        assert again["fields"][name] == value
    assert sent(client, again).status_code == 303


def test_what_looks_like_a_quantity_stays_as_it_was_typed(client, make_session):
    """In a title, a note, a search and a refused field, whatever units the page is in."""
    typed = "Lid ⟦3 mm 1⟧"
    form = form_on(client, "/jobs/8/job")
    assert sent(client, form, title=typed).status_code == 303
    coupon = form_on(client, "/jobs/8/coupon")
    assert sent(client, coupon, **COUPON, note=typed).status_code == 303
    client.cookies.set("units", "inch")
    pages = [client.get(f"/jobs/8/{page}").text for page in ("tune", "read", "card", "coupon?correct=1")]
    pages += [client.get("/book?q=⟦3 mm 1⟧").text, sent(client, form, gap_mm=typed).text]
    pages += [client.post("/api/plan", json={"a": {"alloy": typed, "thickness": 3}, "joint": "butt"}).text]
    for page in pages:
        assert "⟦3 mm 1⟧" in page
        assert "0.118 in⟧" not in page
        assert "Lid 0.118 in" not in page
