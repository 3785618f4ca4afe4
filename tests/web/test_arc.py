"""A machine's arc on scrap: a knob's places found and put on it, starts tried, and half rows refused."""

import re

import numpy as np
import pytest
from tests.forms import form_on, sent

from anvilsong.core.bead import Readings
from anvilsong.core.job import read_job
from anvilsong.store import bench_trials, book, coupons, shop
from anvilsong.store.calibrated import calibration_of, calibration_row
from anvilsong.store.models import MachineRow

KNOB = "/shop/machines/4"  # a balance knob from seven to five, 15 to 45 % EP


def words_of(answer):
    return " ".join(re.sub(r"<[^>]+>", " ", answer.text).split())


def burned(share_at, **more):
    """Fifteen spots of a hidden knob, both diameters to a tenth."""
    form, number = {"amps": "120"} | more, 0
    for hour in (7, 9.5, 12, 14.5, 17):
        for _ in range(3):
            number += 1
            dose = share_at(hour) * 120 * 0.8 / (2 * np.pi * 1.91**2 * 0.29)
            wide = 2 * 1.91 * np.sqrt(2 * np.log(dose))
            form |= {
                f"s{number}_position": f"{int(hour)}:{'30' if hour % 1 else '00'}",
                f"s{number}_seconds": "0.8",
            }
            form |= {f"s{number}_along": f"{wide + 0.1:.1f}", f"s{number}_across": f"{wide - 0.1:.1f} mm"}
    return form


def test_a_hidden_knob_is_found_and_put_on_the_panel(client, make_session):
    page = client.get(f"{KNOB}/arc")
    assert re.findall(r'name="s\d+_position"[^>]*value="([^"]+)"', page.text)[::3] == [
        "7:00",
        "9:30",
        "12:00",
        "14:30",
        "17:00",
    ]
    hidden = lambda hour: 0.15 + 0.30 * ((hour - 7) / 10) ** 1.4  # noqa: E731
    assert client.post(f"{KNOB}/arc/spots", data=burned(hidden)).status_code == 303
    said = words_of(client.get(f"{KNOB}/arc"))
    found = dict(re.findall(r"At (\d+:\d+) ?: ([\d.]+)", said))
    for place, hour in (("9:30", 9.5), ("12:00", 12), ("14:30", 14.5)):
        assert float(found[place]) == pytest.approx(100 * hidden(hour), abs=3)
    answer = client.post(f"{KNOB}/arc/use")
    assert answer.headers["location"] == f"{KNOB}/knob/ep_share"
    with make_session() as session:
        points = shop.find_machine(session, "Plover 200").control("ep_share").scale.points
    assert [place for place, _ in points] == [7, 9.5, 12, 14.5, 17]
    assert points[0][1] == 0.15
    assert points[-1][1] == 0.45


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"s1_seconds": ""}, "s1_position", "type position, seconds"),
        ({"s2_along": "", "s2_across": ""}, "s2_position", "type position, seconds"),
        ({"s4_position": "noon"}, "s4_position", "type a number"),
        ({"s5_across": "wide"}, "s5_along", ""),
        ({"amps": ""}, "amps", ""),
        ({f"s{n}_seconds": "" for n in (1, 2, 3)} | {f"s{n}_{s}": "" for n in (1, 2, 3) for s in ("along", "across")}, "spots", "each end"),
        ({"s8_position": "18:00"}, "spots", "does not go so far"),
    ],
)  # fmt: skip
def test_what_cannot_be_read_stores_nothing(client, make_session, change, field, words):
    answer = client.post(f"{KNOB}/arc/spots", data=burned(lambda hour: 0.03 * hour) | change)
    assert answer.status_code == 422
    assert words in answer.text
    assert field in answer.text
    assert 'value="120"' in answer.text or "amps" in change
    with make_session() as session:
        assert bench_trials.newest_of_machine(session, "Plover 200", "spots") is None


def test_starts_go_into_plans(client, make_session):
    tried = {
        "tungsten_mm": "2.4",
        "t1_amps": "8",
        "t1_lit": "4",
        "t2_amps": "20",
        "t2_lit": "9",
        "t3_amps": "34",
        "t3_lit": "10",
    }
    answer = client.post("/shop/machines/1/arc/starts", data=tried)
    assert answer.status_code == 303
    assert "2.4 mm tungsten: from 34 A on" in words_of(client.get("/shop/machines/1/arc"))
    job = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt", "machine": "Curlew 220"})
    with make_session.begin() as session:
        settings = book.read_plan(book.add_job(session, "Tried", job).plans[0]).plan.settings
        assert settings.tungsten.diameter_mm == 2.4
        assert settings.start_amps == 34
        # The editor of the panel has no field for it, and keeps it all the same.
        row = session.get(MachineRow, 1)
        assert row.document["starts"] == [{"tungsten_mm": 2.4, "least_a": 34}]
    none = client.post(
        "/shop/machines/1/arc/starts", data={"tungsten_mm": "3.2", "t1_amps": "30", "t1_lit": "9"}
    )
    assert none.status_code == 303
    for odd in (
        {"t1_amps": "30", "t1_lit": "11"},
        {"t1_amps": "30"},
        {},
        {"t1_amps": "8", "t1_lit": "2", "t2_amps": "8", "t2_lit": "3"},
    ):
        assert (
            client.post("/shop/machines/1/arc/starts", data={"tungsten_mm": "2.4"} | odd).status_code == 422
        )
    assert "there is nothing to find by spots" in client.get("/shop/machines/5/arc").text
    assert client.post("/shop/machines/5/arc/spots", data={"amps": "100"}).status_code == 404


def test_the_editor_keeps_what_was_tried(client, make_session):
    client.post("/shop/machines/1/arc/starts", data={"tungsten_mm": "2.4", "t1_amps": "12", "t1_lit": "10"})
    form = form_on(client, "/shop/machines/1", "/shop/machines")
    saved = sent(client, form, note="By the door.")
    assert saved.status_code == 303, saved.text
    with make_session() as session:
        row = session.get(MachineRow, 1)
        assert row.document["note"] == "By the door."
        assert row.document["starts"] == [{"tungsten_mm": 2.4, "least_a": 12}]


def test_a_knob_written_down_the_wrong_way_round_is_turned(client, make_session):
    """Discs that shrink towards the cleaning end: told as such, nothing put on the knob, and turned by one tap."""
    shrinking = lambda hour: 0.45 - 0.30 * (hour - 7) / 10  # noqa: E731
    assert client.post(f"{KNOB}/arc/spots", data=burned(shrinking)).status_code == 303
    page = client.get(f"{KNOB}/arc")
    assert "counts the other half" in words_of(page)
    assert 'id="use-spots"' not in page.text
    answer = client.post(f"{KNOB}/arc/turn")
    assert answer.status_code == 303
    with make_session() as session:
        machine = shop.find_machine(session, "Plover 200")
        points = machine.control("ep_share").scale.points
        assert [meaning for _, meaning in points] == [0.45, 0.37, 0.28, 0.20, 0.15]
        assert (machine.least_ep_share, machine.most_ep_share) == (0.15, 0.45)
    page = client.get(f"{KNOB}/arc")
    assert 'id="use-spots"' in page.text
    assert client.post(f"{KNOB}/arc/turn").status_code == 422  # once is enough
    assert client.post("/shop/machines/1/arc/turn").status_code == 404  # no spot was burned there
    assert float(re.search(r"At 12:00 ?: ([\d.]+)", words_of(page))[1]) == pytest.approx(30, abs=3)


def test_a_ball_on_scrap_moves_what_tips_bear(client, make_session):
    with make_session.begin() as session:
        job = read_job({"a": {"alloy": "6061", "thickness": 3}, "joint": "butt", "machine": "Plover 200"})
        row = book.add_job(session, "Tips", job)
        plan, looks = (
            book.find_plan(session, row.id),
            {"bead_width_mm": 6, "border_left_mm": 1, "border_right_mm": 1},
        )
        coupons.add_coupon(session, row, plan, Readings(**looks, seconds=25, length_mm=100))

    def limit():
        with make_session() as session:
            return calibration_of(calibration_row(session, "Plover 200", None)).coefficients.tungsten_limit

    before = limit()
    form = burned(lambda hour: 0.15 + 0.03 * (hour - 7), burned_with="1.6")
    form |= {f"s{n}_ball": "2.4" for n in range(7, 16)}
    assert client.post(f"{KNOB}/arc/spots", data=form).status_code == 303
    assert limit() < before
