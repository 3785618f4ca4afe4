"""A current trace on the pages of a machine: read, set beside the panel, put to use; and what is none refused."""

import json
import re
from functools import cache

import numpy as np
import pytest
from tests.forms import forms_of

from anvilsong.core.arc.waveform import Wave
from anvilsong.core.machine import amps_on_basis
from anvilsong.instruments.trace.probe import Probe, current_of, recorded
from anvilsong.store import bench_trials, shop

KNOB, DIGITS = (
    "/shop/machines/4",
    "/shop/machines/1",
)  # a balance knob from seven to five; digits, amps as peak
AC = Wave(118.0, 0.25, 92.0, 0.0, "soft", "soft")


def words_of(answer):
    text = re.sub(r"<script.*?</script>", " ", answer.text, flags=re.DOTALL)
    return " ".join(re.sub(r"<[^>]+>", " ", text).split())


def form_on(answer, to):
    """The fields of the form of a page that goes to an address."""
    return next(form["fields"] for form in forms_of(answer) if form["to"] == to)


@cache
def trace_file(wave, seed=1, seconds=0.5):
    recording = recorded(wave, Probe(noise_a=1.5), seconds, 0.06, seed)
    rows = zip(np.arange(len(recording.amps)) / recording.rate_hz, recording.amps, strict=True)
    return ("time (s),clamp (A)\n" + "\n".join(f"{t:.6f},{a:.2f}" for t, a in rows)).encode()


def send(client, at, data, name="arc.csv", **panel):
    form = form_on(client.get(f"{at}/trace"), f"{at}/trace") | panel
    return client.post(f"{at}/trace", data=form, files={"file": (name, data)})


def test_a_trace_corrects_the_knob_and_the_next_plan_stands_elsewhere(client, make_session):
    answer = send(client, KNOB, trace_file(AC), ep_share="9:30", frequency_hz="12:00")
    own = answer.headers["location"].partition("#")[0]
    page = client.get(own)
    said = words_of(page)
    assert "arc.csv" in said
    assert re.search(r"AC frequency (9[12]\.\d) Hz", said)
    assert re.search(r"AC balance Deep … clean: 9:30 o’clock 20 % EP 25 % EP 5 points more than set", said)
    assert re.search(r"AC frequency Slow … fast: 12:00 o’clock 85 Hz 92 Hz 8 % more than set", said)
    assert "Sure." in said
    before = {control.setting: control for control in machine(make_session, "Plover 200").controls}
    put = form_on(page, f"{own}/point")
    assert put["setting"] == "ep_share"  # amps were not typed, so nothing is said of them
    answer = client.post(f"{own}/point", data=put)
    assert answer.headers["location"] == own
    after = {control.setting: control for control in machine(make_session, "Plover 200").controls}
    assert dict(after["ep_share"].scale.points)[9.5] == pytest.approx(0.25, abs=0.005)
    assert len(after["ep_share"].scale.points) == 5
    assert after["frequency_hz"] == before["frequency_hz"]
    assert "20 % EP 25 % EP" not in words_of(client.get(own))  # what is set is what flows, now
    again = client.post(f"{own}/point", data=put | {"uid": "0" * 32})
    assert (again.status_code, "somebody saved it since" in words_of(again)) == (422, True)


def machine(make_session, name):
    with make_session() as session:
        return shop.find_machine(session, name)


def test_three_traces_find_how_the_amps_are_counted(client, make_session):
    waves = (
        Wave(110.0, 0.2, 90.0, -0.3, "sine", "sine"), Wave(95.0, 0.4, 80.0, 0.25, "soft", "soft"),
        Wave(125.0, 0.3, 100.0, 0.0, "triangle", "triangle"),
    )  # fmt: skip
    for seed, wave in enumerate(waves):
        assert "3 traces with the amps" in words_of(client.get(f"{DIGITS}/trace")) or seed == 0
        shown = round(float(amps_on_basis(wave, "rms")))
        own = (
            send(client, DIGITS, trace_file(wave, seed), amps_set=str(shown))
            .headers["location"]
            .partition("#")[0]
        )
    page = client.get(own)
    assert "As rms of the AC cycle . Here it is written down as peak of the EN half" in words_of(page)
    point = form_on(page, f"{own}/remark") | {"setting": "amps_set"}
    assert "comes first" in words_of(page)
    assert client.post(f"{own}/point", data=point).status_code == 422
    form = form_on(page, f"{own}/count")
    assert client.post(f"{own}/count", data=form | {"basis": "volts"}).status_code == 422
    assert client.post(f"{own}/count", data=form).status_code == 303
    assert machine(make_session, "Curlew 220").control("amps_set").basis == "rms"
    said = words_of(client.get(own))
    assert "So it is written down here" in said
    assert "not as set" not in said
    page = client.get(own)
    client.post(f"{own}/counts", data=form_on(page, f"{own}/counts"))
    assert "3 traces with the amps" in words_of(client.get(own))
    assert "Count again" in words_of(client.get(own))


def test_figures_that_no_way_of_counting_fits_are_doubted(client):
    for seed, (amps, shown) in enumerate(((100.0, 100), (130.0, 60), (80.0, 140))):
        wave = Wave(amps, 0.2 + 0.1 * seed, 90.0, 0.2 * seed - 0.2, "soft", "soft")
        own = (
            send(client, DIGITS, trace_file(wave, seed), amps_set=str(shown))
            .headers["location"]
            .partition("#")[0]
        )
    said = words_of(client.get(own))
    assert "No way of counting fits these traces" in said
    assert "Count its amps so" not in said


def test_what_differs_becomes_a_remark_at_the_machine(client, make_session):
    own = (
        send(client, DIGITS, trace_file(AC), frequency_hz="110", ep_share="25")
        .headers["location"]
        .partition("#")[0]
    )
    form = form_on(client.get(own), f"{own}/remark")
    for _ in range(2):
        client.post(f"{own}/remark", data=form | {"seen": ""})
    note = machine(make_session, "Curlew 220").note
    assert (
        len(re.findall("current trace: ac frequency 92 Hz, 16 % less than set \\(AC rate: 110 Hz\\)", note))
        == 1
    )
    own = (
        send(client, DIGITS, trace_file(AC), frequency_hz="92", ep_share="25")
        .headers["location"]
        .partition("#")[0]
    )
    assert "Write it into" not in client.get(own).text
    refused = client.post(f"{own}/remark", data=form | {"seen": ""})
    assert (refused.status_code, "everything flows as set" in words_of(refused)) == (422, True)


@pytest.mark.parametrize(
    ("name", "data", "more", "why"),
    [
        ("job.csv", b"name,remark\nbracket,good\n" * 60, {}, "no table of numbers"),
        ("arc.csv", b"", {}, "no table of numbers"),
        ("", b"", {}, "choose a file"),
        ("arc.csv", None, {"amps_per_unit": "many"}, "Amps for one of its numbers"),
        ("arc.csv", None, {"amps_per_unit": "0"}, "such as 100"),
        ("arc.csv", None, {"frequency_hz": "900"}, "AC rate"),
        ("arc.csv", None, {"rate_hz": "3"}, "from 10 on"),
    ],
)  # fmt: skip
def test_a_refusal_says_why_and_what_was_typed_stays(client, make_session, name, data, more, why):
    answer = send(client, DIGITS, trace_file(AC) if data is None else data, name, ep_share="33", **more)
    assert answer.status_code == 422
    assert why in words_of(answer)
    typed = form_on(answer, f"{DIGITS}/trace")
    assert typed["ep_share"] == "33"
    for field, text in more.items():
        assert typed[field] == text
    with make_session() as session:
        assert bench_trials.newest_traces(session, "Curlew 220", 9) == []


def test_what_is_typed_beside_the_file_is_used(client):
    recording = recorded(AC, Probe(noise_a=1.0), 0.5, 0.06, 1)
    data = "\n".join(f"{value / 100 + 0.25:.5f}" for value in recording.amps).encode()
    own = (
        send(client, DIGITS, data, amps_per_unit="100", rate_hz="20000", zero="0.25")
        .headers["location"]
        .partition("#")[0]
    )
    said = words_of(client.get(own))
    assert float(re.search(r"EN, peak ([\d.]+) A", said)[1]) == pytest.approx(118, rel=0.01)
    assert float(re.search(r"AC balance ([\d.]+) % EP", said)[1]) == pytest.approx(25, abs=0.5)
    own = (
        send(client, DIGITS, data, rate_hz="20000", amps_set="100", zero="0.25")
        .headers["location"]
        .partition("#")[0]
    )
    said = words_of(client.get(own))
    assert "type what the clamp gives" in said
    assert "Machine amps" not in said


def test_a_recording_without_an_arc_is_kept_and_says_so(client):
    own = send(client, DIGITS, trace_file(Wave(0.0, 0.3, 90.0))).headers["location"].partition("#")[0]
    page = client.get(own)
    assert "No arc burns in it" in words_of(page)
    state = json.loads(re.search(r'id="trace-state">(.*?)</script>', page.text, re.DOTALL)[1])
    assert (state["period"], state["cycle"]) == (None, [])
    assert len(state["lows"]) == len(state["highs"]) == 3000


def test_a_job_fills_in_its_panel_and_is_planned_again(client, make_session):
    form = {
        "a_alloy": "6061",
        "a_thickness": "3",
        "joint": "butt",
        "machine": "Curlew 220",
        "title": "Float tank",
    }
    made = client.post("/jobs/new", data=form)
    job = re.search(r"/jobs/(\d+)", made.headers["location"])[1]
    page = client.get(f"{DIGITS}/trace?job={job}")
    typed = form_on(page, f"{DIGITS}/trace")
    assert typed["job"] == job
    assert float(typed["amps_set"]) > 20
    answer = client.post(f"{DIGITS}/trace", data=typed, files={"file": ("a.csv", trace_file(AC))})
    assert answer.headers["location"].endswith(f"?job={job}#told")
    page = client.get(answer.headers["location"].partition("#")[0])
    assert "Plan the job again for this machine" in words_of(page)
    assert (
        client.post(f"/jobs/{job}/machines", data=form_on(page, f"/jobs/{job}/machines")).status_code == 303
    )


def test_a_trace_belongs_to_its_machine_and_comes_along_with_the_logbook(client, make_session):
    own = send(client, DIGITS, trace_file(AC), amps_set="118").headers["location"].partition("#")[0]
    trial = own.rpartition("/")[2]
    assert client.get(f"{KNOB}/trace/{trial}").status_code == 404
    assert client.get(f"{DIGITS}/trace/99999").status_code == 404
    exported = client.get("/book/export.json")
    told = [each for each in exported.json()["machine_trials"] if each["document"]["kind"] == "trace"]
    assert told[0]["document"]["panel"] == {"amps_set": 118.0}


def test_how_the_run_goes_along_is_told_and_set_beside_the_panel(client):
    rate, rng = 20_000.0, np.random.default_rng(3)
    times = np.arange(int(2.6 * rate)) / rate - 0.1
    level = np.where((times < 0) | (times > 2.4), 0.0, np.clip(np.minimum(0.3 + 0.7 * times / 0.8, 1), 0, 1))
    amps = level * current_of(AC, times) + rng.normal(0, 1, len(times))
    volts = np.where(level > 0, np.sign(amps) * (11.2 + 0.02 * np.abs(amps)), 0.0)
    rows = "\n".join(f"{t:.6f},{a:.2f},{u:.2f}" for t, a, u in zip(times, amps, volts, strict=True))
    data = f"time (s),current (A),voltage (V)\n{rows}".encode()
    own = send(client, DIGITS, data, up_slope_s="2", start_amps="35").headers["location"].partition("#")[0]
    said = words_of(client.get(own))
    assert re.search(r"Upslope 0\.[78]\d s from or to 3\d\.\d A", said)
    assert re.search(r"Upslope Rise: 2\.0 s 2\.0 s 0\.8 s 60 % less than set “Rise” at 2 means 0\.8", said)
    assert re.search(r"Start amps Hot tip: 35 A 35 A 3[4567] A as set", said)
    assert re.search(r"DC part −\d", said)
    assert re.search(r"Arc power 1\d{3} W", said)
    assert re.search(r"Arc length 3\.[45] mm", said)
    told = re.search(
        r"by the measured power: ([\d.]+) kJ/mm; by amps and the conventional voltage ([\d.]+) kJ/mm",
        words_of(client.get(f"{own}?job=8")),
    )
    power = float(re.search(r"Arc power (\d+) W", said)[1])
    assert 0.7 < float(told[1]) / float(told[2]) < 1.3
    travel = float(
        re.search(r'id="lane-travel_mm_s"[^>]*value="([\d.]+)"', client.get("/jobs/8/tune").text)[1]
    )
    assert power / float(told[1]) / 1000 == pytest.approx(travel, rel=0.03)
    assert "measured power" not in said
    assert "Arc length 0.1" in words_of(client.get(own, headers={"cookie": "units=inch"}))


def test_a_clamp_the_other_way_round_is_seen_and_turned(client):
    turned = trace_file(Wave(118.0, 0.75, 92.0, 0.0, "soft", "soft"))
    own = send(client, DIGITS, turned, ep_share="25").headers["location"].partition("#")[0]
    page = client.get(own)
    assert "a clamp that points the other way" in words_of(page)
    assert "25 % EP 75 % EP 50 points more than set" in words_of(page)
    other_window = form_on(client.get(own), f"{own}/turn")
    assert client.post(f"{own}/turn", data=form_on(page, f"{own}/turn")).headers["location"] == own
    again = client.post(f"{own}/turn", data=other_window)  # it shows the trace as it was: no second turn
    assert (again.status_code, "somebody saved it since" in words_of(again)) == (422, True)
    said = words_of(client.get(own))
    assert "a clamp that points the other way" not in said
    assert "25 % EP 25 % EP as set" in said


def test_a_bottle_tells_what_went_out_between_two_readings(client):
    form = form_on(client.get("/jobs/8/torch"), "/shop/gauge")
    for bar in ("180", "120"):
        assert client.post("/shop/gauge", data=form | {"bar": bar, "uid": ""}).status_code == 303
    at = {"cylinder": form["cylinder"], "arc_min": "390", "starts": "10"}
    said = words_of(client.get("/jobs/8/torch", params=at))
    assert re.search(r"[\d.]+ L/min ± [\d.]+ L/min really flow", said)
    few = words_of(client.get("/jobs/8/torch", params=at | {"arc_min": "3"}))
    assert "Too little went out to tell a flow" in few
    at_once = words_of(client.get("/jobs/8/torch", params=at | {"arc_min": "0", "starts": ""}))
    assert "Read it again after 0.5 hours or more at rest" in at_once
    for text in ("many", "-3", "1e9999"):
        said = words_of(client.get("/jobs/8/torch", params=at | {"arc_min": text}))
        assert "Type minutes of arc and starts as numbers" in said
    assert "really flow" not in words_of(client.get("/jobs/8/torch"))
