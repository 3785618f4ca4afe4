"""What a panel proposes: typed once, kept in either unit system, held against a job, and run as a coupon."""

import re

import pytest
from tests.forms import form_on, sent

from anvilsong.core.job import read_job
from anvilsong.store import bench_trials, book

HERON = "/shop/machines/2/proposals"


def words_of(answer):
    return " ".join(re.sub(r"<[^>]+>", " ", answer.text).split())


@pytest.fixture
def butt(make_session):
    with make_session.begin() as session:
        job = read_job({"a": {"alloy": "5083", "thickness": 3}, "joint": "butt", "machine": "Heron 320"})
        return book.add_job(session, "Proposed", job).id


def rows(make_session):
    with make_session() as session:
        return bench_trials.proposals_of(session, "Heron 320").rows


def test_a_table_is_typed_and_comes_back(client, make_session):
    form = {
        "r1_thickness_mm": "1/8",
        "r1_joint": "tee",
        "r1_amps_set": "150",
        "r1_ep_share": "65",
        "r1_shape_en": "Wavy",
    }
    form |= {
        "r3_thickness_mm": "2 mm",
        "r3_tungsten_mm": "3/32",
        "r3_flow_l_min": "18 cfh",
        "r3_cup": "7",
        "r3_travel_mm_s": "3.5",
    }
    assert client.post(HERON, data=form).status_code == 303
    first, second = rows(make_session)
    assert (first.thickness_mm, first.joint, first.position) == (3.175, "tee", None)
    assert first.panel == {"amps_set": 150, "ep_share": 65, "shape_en": 3}
    assert (second.tungsten_mm, second.cup, second.travel_mm_s) == (2.4, 7, 3.5)
    assert second.flow_l_min == pytest.approx(8.4951, abs=1e-4)
    # Opened and saved again, in either units, it is what it was.
    for system in ("inch", "mm"):
        client.post("/units", data={"units": system})
        assert sent(client, form_on(client, HERON, HERON)).status_code == 303
        assert rows(make_session) == (first, second)
    assert client.post(HERON, data={}).status_code == 303
    assert rows(make_session) == ()


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"r1_amps_set": "150"}, "r1_thickness_mm", "type the thickness"),
        ({"r2_thickness_mm": "3", "r2_amps_set": "900"}, "r2_amps_set", "it runs from 8 to 320 A"),
        ({"r2_thickness_mm": "3", "r2_shape_en": "Curly"}, "r2_shape_en", "it has Steep"),
        ({"r1_thickness_mm": "3"}, "r1_thickness_mm", "at least one figure"),
        ({"r1_thickness_mm": "3", "r1_joint": "knot", "r1_cup": "7"}, "r1_joint", ""),
        ({"r1_thickness_mm": "3", "r1_cup": "7½"}, "r1_cup", ""),
        (
            {"r1_thickness_mm": "3", "r1_cup": "7", "r2_thickness_mm": "3 mm", "r2_cup": "8"},
            "rows",
            "stands once",
        ),
    ],
)
def test_what_cannot_be_read_stores_nothing(client, make_session, change, field, words):
    before = rows(make_session)
    answer = client.post(HERON, data=change)
    assert answer.status_code == 422
    assert words in answer.text
    assert rows(make_session) == before
    assert field in answer.text
    for text in change.values():
        assert f'value="{text}"' in answer.text or text in ("Curly", "knot")


def test_a_job_is_held_against_it_and_run(client, make_session, butt):
    client.post(HERON, data={"r1_thickness_mm": "2", "r1_amps_set": "90", "r1_ep_share": "60", "r1_rod_mm": "2",
                             "r2_thickness_mm": "4", "r2_amps_set": "110"})  # fmt: skip
    page = client.get(f"/jobs/{butt}/proposal")
    said = words_of(page)
    assert "Between its 2.0 mm and its 4.0 mm, at 3.0 mm" in said
    told = dict(re.findall(r'<tr data-set="(\w+)">.*?<b>([^<]+)</b>', page.text, re.S))
    assert told["amps_set"].split() == ["100", "A"]
    assert told["ep_share"].split()[0] == "40"
    assert set(told) == {"amps_set", "ep_share", "filler_mm"}
    assert "It brings" in said  # 100 A under a foot that wants 107
    form = form_on(client, f"/jobs/{butt}/proposal", f"/jobs/{butt}/proposal")
    answer = sent(client, form)
    assert answer.headers["location"] == f"/jobs/{butt}/coupon"
    with make_session() as session:
        plan = book.find_plan(session, butt)
        settings = book.read_plan(plan).plan.settings
        assert plan.words == "As the panel proposed"
    assert (settings.amps_set, settings.ep_share, settings.filler.diameter_mm) == (
        100,
        pytest.approx(0.4),
        2.0,
    )
    assert "It proposes what the plan says" in words_of(client.get(f"/jobs/{butt}/proposal"))
    # A row as it stands, by its place; what no row stands at is the job's own.
    assert "Its row for 2.0 mm" in words_of(client.get(f"/jobs/{butt}/proposal?row=1"))
    assert "Between" in words_of(client.get(f"/jobs/{butt}/proposal?row=99"))


def test_without_a_table_it_leads_there(client, make_session, butt, job_id):
    client.post(HERON, data={})
    page = client.get(f"/jobs/{butt}/proposal")
    assert f'href="{HERON}"' in page.text
    assert client.get(f"/jobs/{job_id('Rudder stock')}/proposal").status_code == 200
    assert client.post(f"/jobs/{butt}/proposal", data={}).status_code == 404
