"""The map as a page: any axes, kept as the board's settings, in both unit systems, and nonsense asked of it."""

import itertools
import re

import pytest

from anvilsong.core.board import AXES
from anvilsong.core.machine import arc_energy_kj_mm
from anvilsong.core.said import in_units as text
from anvilsong.core.settings import Settings
from anvilsong.store import book
from anvilsong.store.reading import readable


@pytest.fixture
def job(job_id):
    return job_id("Float tank")


def newest(make_session, job):
    with make_session() as session:
        row = book.find_plan(session, job)
        return row.revision, row.words, readable(Settings, row.settings)


@pytest.mark.parametrize(
    "pair",
    [*list(itertools.combinations(AXES, 2))[::3], ("nonsense", "amps_run"), ("ep_trim", "ep_amps"), ("", "")],
)
def test_any_two_axes_have_their_map(client, job, pair):
    page = client.get(f"/jobs/{job}/map", params={"x": pair[0], "y": pair[1], "lines": "border"})
    assert page.status_code == 200
    assert 'class="map-allowed"' in page.text
    assert "cannot be drawn" not in page.text
    assert page.text.count('class="map-edge') >= 1


def test_what_is_set_on_the_map_is_kept(client, make_session, job):
    before = newest(make_session, job)
    sent = {"x": "amps_run", "y": "travel_mm_s", "value_amps_run": "135", "value_travel_mm_s": "4.5 mm/s"}
    answer = client.post(f"/jobs/{job}/map", data=sent)
    assert answer.headers["location"] == f"/jobs/{job}/tune"
    revision, words, settings = newest(make_session, job)
    assert revision == before[0] + 1
    assert text(words) == "From the map: welding amps 135, travel 4.5 mm/s"
    assert (settings.amps_run, settings.travel_mm_s) == (135, 4.5)
    assert settings.amps_set == max(135, before[2].amps_set)
    client.post(f"/jobs/{job}/map", data=sent)
    assert newest(make_session, job)[0] == revision  # nothing new to keep
    client.post(
        f"/jobs/{job}/map",
        data={"x": "ep_amps", "y": "amps_run", "value_ep_amps": "108", "value_amps_run": "120"},
    )
    settings = newest(make_session, job)[2]
    assert settings.amps_run == 120
    assert settings.ep_trim == pytest.approx(-0.1)


def test_inches_are_read_and_drawn(client, make_session, job):
    client.cookies.set("units", "inch")
    page = client.get(f"/jobs/{job}/map?x=preheat_c&y=travel_mm_s").text
    assert "Preheat, °F" in page
    shown = re.search(r'name="value_travel_mm_s" value="([\d.]+)"', page)[1]
    assert float(shown) == pytest.approx(newest(make_session, job)[2].travel_mm_s * 60 / 25.4, abs=0.3)
    client.post(
        f"/jobs/{job}/map",
        data={"x": "preheat_c", "y": "travel_mm_s", "value_preheat_c": "130", "value_travel_mm_s": "10"},
    )
    settings = newest(make_session, job)[2]
    assert settings.preheat_c == pytest.approx((130 - 32) / 1.8, abs=0.1)
    assert settings.travel_mm_s == pytest.approx(10 * 25.4 / 60, abs=0.01)


@pytest.mark.parametrize("text", ["half", "nan", "-4", "1e9", "12 lemons"])
def test_nonsense_is_said_and_not_kept(client, make_session, job, text):
    before = newest(make_session, job)
    typed = {"x": "amps_run", "y": "travel_mm_s", "value_amps_run": "many", "value_travel_mm_s": text}
    answer = client.post(f"/jobs/{job}/map", data=typed | {"lines": "border", "from_revision": "1"})
    assert answer.status_code == 422
    assert "Not saved." in answer.text
    assert answer.text.count("cannot be used") == 2
    for given in ("many", text):  # both are said, and stand where they were typed
        assert f'value="{given}"' in answer.text
    assert 'value="border" selected' in answer.text
    assert newest(make_session, job) == before


@pytest.mark.parametrize(
    ("key", "typed", "said"),
    [
        ("ep_trim", "75", -0.25),
        ("ep_trim", "75 %", -0.25),
        ("ep_trim", "−25 %", "Heron 320 goes from 50 % to 130 %"),
        ("ep_share", "70 EN", 0.30),
        ("ep_share", "1", "Heron 320 goes from"),
        ("amps_run", "999", "this lane goes from 8 A to 320 A"),
        ("ep_amps", "999", "Heron 320 goes from"),
        ("travel_mm_s", "40", "this lane goes from"),
        ("preheat_c", "150", "this lane goes from 20 °C to 60 °C"),
    ],
)
def test_a_field_is_read_as_its_lane_is(client, make_session, job, key, typed, said):
    """A share is typed in per cent, and nothing is kept that the machine or the metal does not allow."""
    other = "travel_mm_s" if key != "travel_mm_s" else "amps_run"
    before = newest(make_session, job)
    answer = client.post(f"/jobs/{job}/map", data={"x": key, "y": other, f"value_{key}": typed})
    if isinstance(said, str):
        assert answer.status_code == 422
        assert said in answer.text
        assert f'value="{typed}"' in answer.text
        assert newest(make_session, job) == before
    else:
        assert answer.status_code == 303
        assert getattr(newest(make_session, job)[2], key) == pytest.approx(said)


def test_axes_that_the_machine_has_no_choice_in_are_not_offered(client, job_id):
    page = client.get(f"/jobs/{job_id('Hatch coaming')}/map?x=ep_trim&y=frequency_hz").text
    offered = set(re.findall(r'<option value="(\w+)"', page))
    assert {"amps_run", "travel_mm_s", "preheat_c", "thickness_mm"} <= offered
    assert not {"ep_trim", "ep_amps"} & offered


def test_a_refused_job_has_no_map(client, job_id):
    refused = job_id("Rudder")
    assert client.get(f"/jobs/{refused}/map").status_code == 200
    assert client.post(f"/jobs/{refused}/map", data={}).status_code == 303


def test_what_was_only_printed_is_no_change(client, make_session, job):
    """The page shows whole amps and tenths; as warm as the part is no preheat; what somebody kept meanwhile stays."""
    with make_session.begin() as session:
        row = book.find_plan(session, job)
        odd = readable(Settings, row.settings).model_copy(update={"amps_run": 121.37, "travel_mm_s": 3.96})
        book.add_plan(session, book.get_job(session, job), book.read_plan(row).plan.job, "tuned", "Odd", odd)
    opened = newest(make_session, job)[0]
    sent = {
        "x": "amps_run",
        "y": "travel_mm_s",
        "value_amps_run": "121",
        "value_travel_mm_s": "4.0",
        "from_revision": str(opened),
    }
    client.post(f"/jobs/{job}/map", data=sent)
    assert newest(make_session, job)[0] == opened
    warm = {
        "x": "preheat_c",
        "y": "amps_run",
        "value_preheat_c": "20",
        "value_amps_run": "130",
        "from_revision": str(opened),
    }
    client.post(f"/jobs/{job}/map", data=warm)
    _, words, settings = newest(make_session, job)
    assert text(words) == "From the map: welding amps 130"
    assert (settings.preheat_c, settings.travel_mm_s) == (None, 3.96)
    client.post(
        f"/jobs/{job}/map", data=sent | {"value_amps_run": "121", "value_travel_mm_s": "4.4"}
    )  # the older window
    settings = newest(make_session, job)[2]
    assert (settings.amps_run, settings.travel_mm_s) == (130, 4.4)


def test_two_who_keep_a_point_of_the_same_map(client, make_session, job):
    """The second is told of the first; kept again, theirs holds, and what they left alone stays the first one's."""
    opened = newest(make_session, job)[0]
    shown = client.get(f"/jobs/{job}/map").text
    printed = dict(re.findall(r'name="value_(amps_run|travel_mm_s)" value="([^"]*)"', shown))
    assert f'name="from_revision" value="{opened}"' in shown
    axes = {"x": "amps_run", "y": "travel_mm_s", "from_revision": str(opened)}
    first = axes | {"value_amps_run": "131", "value_travel_mm_s": "3.1"}
    assert client.post(f"/jobs/{job}/map", data=first).status_code == 303
    second = axes | {"value_amps_run": "142", "value_travel_mm_s": printed["travel_mm_s"]}
    refused = client.post(f"/jobs/{job}/map", data=second, headers={"accept": "text/html"})
    assert refused.status_code == 422
    again = dict(re.findall(r'name="(\w+)" value="([^"]*)"', refused.text.split('id="map-form"')[1]))
    assert again["from_revision"] == str(opened + 1)
    assert (again["value_amps_run"], again["value_travel_mm_s"]) == ("142", "3.1")
    assert client.post(f"/jobs/{job}/map", data=again).status_code == 303
    settings = newest(make_session, job)[2]
    assert (settings.amps_run, settings.travel_mm_s) == (142, 3.1)
    # What cannot be read stays on the revision that it was typed on.
    wrong = client.post(f"/jobs/{job}/map", data=second | {"value_amps_run": "many"})
    assert f'name="from_revision" value="{opened}"' in wrong.text
    assert f'value="{printed["travel_mm_s"]}"' in wrong.text


def test_duty_supply_and_records(client, job, job_id):
    page = " ".join(client.get(f"/jobs/{job}/power").text.split())
    for words in ("Allowed at this current", "an electrician decides", "Arc energy", "Heat input", "kJ/mm"):
        assert words in page
    assert "within the fuse" in page
    small = client.get(f"/jobs/{job}/power", params={"volts": "110", "fuse": "10", "factor": "plain"}).text
    assert "more than the fuse" in small
    for volts in ("half", "0", "nan", "1e9", "-230"):
        refused = client.get(f"/jobs/{job}/power", params={"volts": volts})
        assert refused.status_code == 422
        assert f'value="{volts}"' in refused.text
    assert client.get(f"/jobs/{job_id('Rudder')}/power").status_code == 200


@pytest.mark.parametrize(
    ("settings", "share"),
    [
        ({"shape_en": "sine", "shape_ep": "sine", "ep_share": 0.5, "ep_trim": 0.0}, 0.5**0.5),
        ({"pulse": {"rate_hz": 2, "peak_share": 0.36, "base_share": 0.0}, "ep_trim": 0.0}, 0.6),
        ({"ep_trim": 0.0}, 1.0),
    ],
)
def test_supply_and_records_count_the_rms_and_not_the_peak(client, make_session, job, settings, share):
    """A balanced sine's rms is its peak over √2, a pulse's the root of its share; a square wave's is its peak."""
    with make_session.begin() as session:
        row = book.get_job(session, job)
        view = book.read_plan(book.find_plan(session, job))
        square = view.plan.settings.model_dump(mode="json", by_alias=True) | {
            "shape_en": "square",
            "shape_ep": "square",
        }
        made = Settings.model_validate(square | {"pulse": None} | settings)
        book.add_plan(session, row, view.plan.job, "tuned", "Tuned: wave", made)
        peak, travel = made.amps_run, made.travel_mm_s
    page = " ".join(client.get(f"/jobs/{job}/power").text.split())
    rms = peak * share
    assert f"<b>{rms:.0f} A rms</b> while welding" in page
    energy = arc_energy_kj_mm(rms, travel)
    assert f"{energy:.2f} kJ/mm (U·I/v)" in page
    assert f"{0.6 * energy:.2f} kJ/mm (0.6 of it" in page


def test_every_edge_says_what_makes_it(client, job_id):
    """A narrow region, its point and its lines in the middle of it: the names come first."""
    page = client.get(f"/jobs/{job_id('Float tank')}/map").text
    edges = set(re.findall(r'class="map-edge map-(?:stop|watch) map-(\w+)"', page))
    names = re.findall(r'class="label halo map-name"[^>]*>([^<]+)<', page)
    assert len(edges) >= 3
    assert len(names) == len(set(names)) == len(edges)
    assert {"no root", "melts through", "near sagging", "root short"} <= set(names)
    assert 'class="map-watched"' in page
    border = client.get(f"/jobs/{job_id('Float tank')}/map?x=ep_share&y=ep_trim").text
    assert (
        border.count('class="map-aim"') >= 1
    )  # the border wanted is an aim, and the edge is where it specks
    assert ">border thin<" in border
