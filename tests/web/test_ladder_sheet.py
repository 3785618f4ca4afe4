"""The ladder on paper, typed in afterwards: rows become rungs with the settings they were run with, all of them or none."""

import re

import pytest

from anvilsong.core.machine import show_on_panel
from anvilsong.core.settings import Settings
from anvilsong.store import book, coupons
from anvilsong.store.reading import readable

ROW = {"seconds": "28", "bead_width_mm": "6.1", "border_left_mm": "0.4", "border_right_mm": "0.6"}


@pytest.fixture
def job(job_id):
    return job_id("Rigger bracket")


def rows(**numbered):
    return {f"{rung}_{name}": text for rung, row in numbered.items() for name, text in row.items()}


def rungs(make_session, job):
    with make_session() as session:
        return [
            (
                coupon.number,
                coupon.plan.revision,
                readable(Settings, coupon.plan.settings),
                coupon.readings[-1].document,
            )
            for coupon in coupons.find_coupons(session, job, 20)
        ]


def test_the_sheet_says_the_panel_and_has_a_row_a_rung(client, job):
    page = client.get(f"/jobs/{job}/ladder-sheet").text
    sheet = page[page.index("ladder-sheet") :]
    assert sheet.count("<th>6</th>") == 2  # on paper, and to be typed in
    assert "Wanted: border 0.5 mm to 1.5 mm a side" in " ".join(sheet.split())
    for label in ("Main current", "Heat share", "Cycle rate"):
        assert label in sheet
    assert client.get(f"/jobs/{job}/read").text.count("ladder-sheet") == 1


def test_three_rows_become_three_rungs(client, make_session, job):
    typed = rows(
        r1=ROW | {"judged_specks": "2", "overall": "no"},
        r2=ROW | {"changed": "ep_share", "to": "62", "border_left_mm": "0.8", "seconds": "27"},
        r4=ROW | {"border_left_mm": "0.9", "length_mm": "120 mm", "overall": "keep"},
        r5=ROW | {"changed": "ep_share", "to": "64"},
    )
    answer = client.post(f"/jobs/{job}/ladder-sheet", data=typed | {"uid": "c" * 32})
    assert answer.headers["location"] == f"/jobs/{job}/read"
    found = rungs(make_session, job)
    assert [(number, revision) for number, revision, _, _ in found] == [(1, 1), (2, 2), (3, 2), (4, 3)]
    first, second, third, _ = (settings for _, _, settings, _ in found)
    assert second.ep_share == pytest.approx(0.38)  # 62 % of this panel is the negative half
    assert second.model_copy(update={"ep_share": first.ep_share}) == first
    assert third == second
    assert [document["length_mm"] for *_, document in found] == [100, 100, 120, 100]
    assert found[0][3]["judged"] == {"specks": 2}
    assert [document["overall"] for *_, document in found] == ["no", None, "keep", None]
    with make_session() as session:
        plan = book.find_plan(session, job)
        assert plan.words == "Heat share 64, from the sheet"
        assert plan.origin == "rung"
    # Sent twice it is stored once.
    client.post(f"/jobs/{job}/ladder-sheet", data=typed | {"uid": "c" * 32})
    assert rungs(make_session, job) == found
    assert "Heat share 62" in client.get(f"/jobs/{job}/read").text


@pytest.mark.parametrize(
    ("row", "field", "words"),
    [
        ({"seconds": "soon"}, "r2_seconds", "Row 2, seconds"),
        ({"bead_width_mm": "half"}, "r2_bead_width_mm", "Row 2, bead width"),
        ({"changed": "ep_share", "to": "200"}, "r2_to", "Row 2, what it was set to"),
        ({"changed": "ep_share", "to": ""}, "r2_to", "type what Heat share was set to"),
        ({"to": "62"}, "r2_changed", "say which setting it is of"),
        ({"changed": "no_such", "to": "62"}, "r2_changed", "say which setting it is of"),
        ({"seconds": "0.5"}, "r2_seconds", "a run goes"),
    ],
)
def test_one_wrong_row_stores_none_and_keeps_what_was_typed(client, make_session, job, row, field, words):
    answer = client.post(f"/jobs/{job}/ladder-sheet", data=rows(r1=ROW, r2=ROW | row))
    assert answer.status_code == 422
    assert words in " ".join(answer.text.split())
    assert re.search(rf'name="{field}"', answer.text)
    assert 'id="r1_bead_width_mm"\n      value="6.1"' in answer.text
    assert rungs(make_session, job) == []
    with make_session() as session:
        assert book.find_plan(session, job).revision == 1


def test_an_empty_sheet_says_so(client, make_session, job):
    answer = client.post(f"/jobs/{job}/ladder-sheet", data=rows(r1={"length_mm": "100"}))
    assert answer.status_code == 422
    assert "type in at least one row" in answer.text
    assert rungs(make_session, job) == []
    # A row of rings alone is a coupon: looks count.
    client.post(f"/jobs/{job}/ladder-sheet", data=rows(r1={"judged_specks": "2", "overall": "no"}))
    (*_, document) = rungs(make_session, job)[0]
    assert (document["judged"], document["overall"], document["bead_width_mm"]) == ({"specks": 2}, "no", None)


def test_in_inches(client, make_session, job):
    client.cookies.set("units", "inch")
    assert "Coupons of 4 in" in " ".join(client.get(f"/jobs/{job}/ladder-sheet").text.split())
    row = {"seconds": "28", "bead_width_mm": "1/4", "border_left_mm": ".03", "border_right_mm": "0.9 mm"}
    client.post(f"/jobs/{job}/ladder-sheet", data=rows(r1=row))
    (*_, document) = rungs(make_session, job)[0]
    assert (document["bead_width_mm"], document["length_mm"]) == (6.35, 101.6)
    assert document["border_left_mm"] == pytest.approx(0.762)
    assert document["border_right_mm"] == 0.9


def test_a_sheet_of_an_earlier_revision_starts_from_its_own_settings(client, make_session, job):
    """Printed on Monday, planned anew on Tuesday, typed in on Wednesday."""
    with make_session.begin() as session:
        first = book.find_plan(session, job)
        made = book.read_plan(first)
        tuned = made.plan.settings.model_copy(update={"frequency_hz": 80.0})
        book.add_plan(session, first.job, made.plan.job, "tuned", "Tuned since", tuned)
    assert "Version 1. Coupons" in " ".join(client.get(f"/jobs/{job}/ladder-sheet?revision=1").text.split())
    page = " ".join(client.get(f"/jobs/{job}/ladder-sheet").text.split())
    assert re.search(r'<option value="2" selected>', page)
    client.post(f"/jobs/{job}/ladder-sheet", data=rows(r1=ROW) | {"revision": "1"})
    client.post(f"/jobs/{job}/ladder-sheet", data=rows(r1=ROW) | {"revision": "2"})
    assert [(revision, settings.frequency_hz) for _, revision, settings, _ in rungs(make_session, job)] == [
        (1, made.plan.settings.frequency_hz),
        (2, 80.0),
    ]


def test_a_refused_job_records_nothing(client, make_session, job_id):
    refused = job_id("Rudder")
    assert "No settings for this" in client.get(f"/jobs/{refused}/ladder-sheet").text
    answer = client.post(f"/jobs/{refused}/ladder-sheet", data=rows(r1=ROW))
    assert answer.status_code == 422
    assert "No settings for this" in answer.text
    assert rungs(make_session, refused) == []


def test_every_control_of_every_panel_can_be_what_was_changed(make_session, job_id):
    """Read back, what a panel shows of the settings is the settings: no control on the sheet leads nowhere."""
    from anvilsong.core.machine import read_panel
    from anvilsong.demo.machines import MACHINES
    from anvilsong.web.panel_fields import panel_values

    with make_session() as session:
        plan = book.find_plan(session, job_id("Rigger bracket"))
        settings = readable(Settings, plan.settings)
    for machine in MACHINES:
        for line in show_on_panel(settings, machine).lines:
            control = machine.control(line.setting)
            if control is None or len(control.scale.points) < 2:
                continue
            values = panel_values({line.setting: line.shown.split(" of ")[0]}, machine)
            assert read_panel(values, machine, settings, "pedal") is not None
