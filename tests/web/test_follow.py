"""Everything follows: what is kept on the board or the torch page is worked out whole, as the plan was."""

import pytest

from anvilsong.core.board import board
from anvilsong.core.coefficients import nominal
from anvilsong.core.job import read_job
from anvilsong.core.machine import IDEAL
from anvilsong.core.model import Plan
from anvilsong.core.plan import worked_out
from anvilsong.core.plan.follow import with_settings
from anvilsong.core.registry import get_value
from anvilsong.core.said import in_units as text
from anvilsong.core.spoken import spoken
from anvilsong.store import book
from anvilsong.store.lines import book_page
from anvilsong.web.lane_rows import _lane_row


def newest(make_session, job):
    with make_session() as session:
        row = book.get_job(session, job)
        return book.read_plan(row.plans[-1]).plan


def stops(plan):
    return {warning.code for warning in plan.warnings if warning.level == "stop"}


def test_a_kept_tungsten_and_cup_are_in_sheet_windows_reasons_and_card(client, make_session, job_id):
    job = job_id("Float")
    before = newest(make_session, job)
    assert before.settings.tungsten.diameter_mm != 3.2
    client.post(
        f"/jobs/{job}/torch",
        data={"tungsten": "WLa 20|3.2", "cup": "10|lens"},
        headers={"origin": "http://127.0.0.1"},
    )
    after = newest(make_session, job)
    assert (after.settings.tungsten.diameter_mm, after.settings.cup.number) == (3.2, 10)
    sheet = " ".join(text(step.text) + text(step.why) for step in after.run_sheet)
    assert "3.2 mm" in sheet
    assert f" {before.settings.tungsten.diameter_mm} mm" not in " ".join(
        text(s.text) for s in after.run_sheet if s.station == "torch"
    )
    # A bigger cup wants more gas, and a bigger tungsten bears more share.
    assert after.windows["flow_l_min"][1] > before.windows["flow_l_min"][1]
    assert after.windows["flow_l_min"][0] <= after.settings.gas.flow_l_min <= after.windows["flow_l_min"][1]
    for key in ("tungsten_mm", "cup_number", "flow_l_min"):
        assert after.reason(key).rule == "Set by you"
        assert after.reason(key).value == get_value(after.settings, key)
    assert after.reason("frequency_hz") == before.reason("frequency_hz")
    card = client.get(f"/jobs/{job}/card").text
    assert "10, lens" in card


@pytest.mark.parametrize("field", ["flow_l_min", "frequency_hz"])
def test_what_a_machine_cannot_do_stays_said(client, make_session, job_id, field):
    job = job_id("Keel")
    before = newest(make_session, job)
    assert "machine_short" in stops(before)
    value = get_value(before.settings, field)
    client.post(
        f"/jobs/{job}/tune", data={field: f"{value * 1.1:.1f}"}, headers={"origin": "http://127.0.0.1"}
    )
    after = newest(make_session, job)
    assert get_value(after.settings, field) == pytest.approx(value * 1.1, rel=0.02)
    assert stops(after) == stops(before)


def test_the_live_board_warns_as_the_kept_one(client, make_session, job_id):
    """Torch, machine and kit are the same on both."""
    for title in ("Float", "Keel", "Deck plate", "Cast cleat", "Rigger"):
        job = job_id(title)
        plan = newest(make_session, job)
        body = {
            "job": plan.job.model_dump(mode="json", by_alias=True),
            "settings": plan.settings.model_dump(mode="json", by_alias=True),
        }
        live = client.post("/api/consequences", json=body).json()["warnings"]
        kept = {warning.code for warning in plan.warnings}
        own = {
            "machine_slow",
            "tungsten_short",
            "filler_short",
            "cup_short",
            "no_pulse",
            "pulse_short",
        }  # said while planning
        assert {warning["code"] for warning in live} == kept - own


def test_board_and_plan_say_the_same(client, make_session):
    """What a kept revision says and what the live board says of its settings: one working-out, with the kit's torch."""
    with make_session() as session:
        rows = [
            (line.job_id, book.read_plan(book.find_plan(session, line.job_id)))
            for line in book_page(session).lines
        ]
    met = 0
    for job_id, read in rows:
        if read.plan.settings is None:
            continue
        asked = {
            "job": read.plan.job.model_dump(mode="json", by_alias=True),
            "settings": read.plan.settings.model_dump(mode="json", by_alias=True),
            "coefficients": read.plan.coefficients.model_dump(),
            "show": ["margins", "panel"],
        }
        live = client.post("/api/consequences", json=asked).json()
        kept = spoken(read.plan.model_dump(by_alias=True))
        assert live["consequences"] == pytest.approx(kept["consequences"]), job_id
        assert live["margins"] == kept["margins"]
        assert live["panel"] == kept["panel"]
        # The planner has more to say, of what it could not have.
        own = {"machine_slow", "tungsten_short", "cup_short", "filler_short", "pulse_short", "no_pulse"}
        assert [each for each in kept["warnings"] if each["code"] not in own] == [
            each for each in live["warnings"] if each["code"] not in own
        ]
        met += 1
    assert met >= 7


def test_a_plan_keeps_the_coefficients_it_was_made_with():
    job = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"})
    hot = nominal().model_copy(update={"heat_factor": 1.15})
    plain, fitted = worked_out(job), worked_out(job, c=hot)
    assert plain.coefficients == nominal()
    assert fitted.coefficients == hot
    assert fitted.settings.amps_run == pytest.approx(plain.settings.amps_run / 1.15, rel=0.01)
    # The same amps put more heat in, by the plan's own coefficients, wherever it is worked out again.
    moved = with_settings(fitted, plain.settings, IDEAL)
    assert moved.coefficients == hot
    assert moved.consequences.work_heat_w == pytest.approx(1.15 * plain.consequences.work_heat_w)
    assert worked_out(job, plain.settings, c=hot).consequences == moved.consequences
    assert Plan.model_validate(fitted.model_dump(mode="json", by_alias=True)).coefficients == hot


def test_a_lane_by_ratio_reaches_both_ends_of_the_machine():
    """1.6 Hz lies as far from 16 as 16 from 160; what is drawn and what a script reckons with agree."""
    machine = IDEAL.model_copy(update={"most_pulse_hz": 300.0})
    plan = worked_out(read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"}), None, machine)
    lane = next(lane for lane in board(plan, plan.settings, machine) if lane.key == "pulse_rate_hz")
    at = _lane_row(lane, "mm", machine, "")["at"]
    assert (lane.low, lane.high, lane.by_ratio) == (0.5, 300, True)
    assert (at(0.5), at(300), at(0.1), at(900)) == (0, 100, 0, 100)
    assert at(16) - at(1.6) == pytest.approx(at(160) - at(16))
    slow = IDEAL.model_copy(update={"most_pulse_hz": 0.4})
    lanes = {lane.key: lane for lane in board(plan, plan.settings, slow)}
    assert lanes["pulse_rate_hz"].low <= lanes["pulse_rate_hz"].high == 0.4
