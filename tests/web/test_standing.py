"""No stored state takes its own pages down: every page of a job, and the lists, after each kind of change.

About 270 states. A state that our own forms can store must also be drawn whole; a damaged one may say what
it cannot draw.
"""

import json
import logging
import random
import sqlite3
from contextlib import closing

import pytest

from anvilsong.core.machine.model import Machine
from anvilsong.core.settings import Settings
from anvilsong.store import book
from anvilsong.store.database import open_database, sessions

HTML = {"accept": "text/html"}
STATIONS = (
    "job prep torch tune wave wave.svg wave.csv coupon read card machines schools faults?sign=border_thin compare day "
    "tune?compare=1 coupon?correct=1"
)
PAGES = [f"/jobs/{{}}/{name}" for name in STATIONS.split()]
LISTS = [
    "/book",
    "/shop",
    "/shop/kits/1",
    "/shop/machines/1",
    "/shop/machines/2",
    "/shop/machines/2/coupons",
    "/shop/welders/1",
    "/swap?job={}",
]


def walk(client, job, lists=True, some=None):
    """Every page of a job, or a third of them by `some` chance; returns what they say."""
    said, pages = "", PAGES + (LISTS if lists else [])
    for address in some.sample(pages, len(pages) // 3) if some else pages:
        answer = client.get(address.format(job), headers=HTML)
        assert answer.status_code in (200, 404, 303), (address.format(job), answer.status_code)
        assert "This did not work" not in answer.text, address
        said += answer.text
    return said


def walk_whole(client, job, lists=False, some=None):
    said = walk(client, job, lists, some)
    assert "cannot be drawn" not in said
    assert "cannot be read" not in said


def board(client, job, **changed):
    """Keep the board with some fields changed, as a page without scripts sends it."""
    answer = client.post(f"/jobs/{job}/tune", data=changed, headers=HTML)
    assert answer.status_code in (303, 422)
    return answer


@pytest.mark.parametrize("job", range(1, 11))
def test_pulse_and_mix_on_and_off(client, job):
    chance = random.Random(job)
    for number, changed in enumerate((
        {"pulse_rate_hz": "1.2"},
        {"pulse_off": "1", "mix_ac_share": "60"},
        {"mix_off": "1", "pulse_rate_hz": "33", "pulse_peak_share": "20", "pulse_base_share": "10"},
        {"pulse_off": "1", "mix_off": "1"},
        {"shape_en": "triangle"},
        {"ep_trim": "-30", "ep_share": "42", "preheat_c": "150 C"},
    )):  # fmt: skip
        board(client, job, **changed)
        walk_whole(client, job, some=chance if number > 1 else None)


@pytest.mark.parametrize("name", range(1, 8))
def test_every_machine_for_every_job_with_pulse_and_mix(client, make_session, name):
    with make_session() as session:
        machine = book.shop.machines(session)[name - 1].name
    chance = random.Random(name)
    for job in range(1 + name % 2, 11, 2):
        assert client.post(f"/jobs/{job}/machines", data={"machine": machine}).status_code == 303
        board(client, job, **({"mix_cycle_s": "0.8"} if job % 2 else {"pulse_rate_hz": "2"}))
        walk_whole(client, job, some=chance if job > 2 else None)


def test_refused_and_extreme_jobs(client, job_id):
    cases = [
        {"a_alloy": "7075"},
        {"a_alloy": "2024"},
        {"surface": "anodised"},
        {"surface": "painted"},
        {"a_thickness": "0.3 mm", "travel_mm_s": "0.3"},
        {"a_thickness": "50 mm", "travel_mm_s": "50"},
        {"a_thickness": "50 mm", "b_thickness": "0.3 mm", "joint": "lap"},
        {"weld_length_mm": "20 m"},
        {"gap_mm": "20", "a_thickness": "0.3 mm", "weld_length_mm": "5 mm"},
        {"bevel_angle_deg": "120", "bevel_root_face_mm": "0", "a_thickness": "50 mm"},
        {"part_temperature_c": "400 C"},
        {"part_temperature_c": "-40 C", "helium_share": "75 %", "draught_m_s": "10", "arc_length_mm": "10"},
        {"filler_wanted": "none", "position": "overhead", "control": "switch_4"},
        {"joint": "tube_tube", "a_outside_diameter_mm": "3 mm", "a_thickness": "0.5 mm"},
        {"joint": "edge", "purposes_appearance": "on", "school_pulse": "fast", "a_thickness": "0.5"},
    ]
    form = {
        "title": "Odd one",
        "a_alloy": "6061",
        "a_thickness": "3 mm",
        "joint": "butt",
        "machine": "Heron 320",
    }
    for changed in cases:
        made = client.post("/jobs/new", data=form | changed, headers=HTML)
        assert made.status_code == 303, changed
        walk_whole(client, int(made.headers["location"].split("/")[2]))


def edges(settings: Settings, chance: random.Random) -> Settings:
    """Settings at a random corner of their bounds."""
    ends = {
        "amps_run": (0.5, 2000), "amps_set": (0.5, 2000), "ep_trim": (-0.9, 1.0), "ep_share": (0.01, 0.99),
        "frequency_hz": (10, 1000), "start_amps": (0, 1000), "finish_amps": (0, 1000), "up_slope_s": (0, 30),
        "down_slope_s": (0, 60), "pre_flow_s": (0, 60), "post_flow_s": (0, 300), "travel_mm_s": (0.3, 50),
        "preheat_c": (-40, 400),
    }  # fmt: skip
    document = book.document(settings) | {
        name: chance.choice(both) for name, both in ends.items() if chance.random() < 0.5
    }
    match chance.randrange(4):
        case 0:
            document |= {
                "pulse": {
                    "rate_hz": chance.choice((0.1, 500)),
                    "peak_share": chance.choice((0.02, 0.98)),
                    "base_share": 0,
                },
                "mix": None,
            }
        case 1:
            document |= {
                "mix": {
                    "ac_share": chance.choice((0.02, 0.98)),
                    "cycle_s": chance.choice((0.02, 5)),
                    "dc_level": 1,
                },
                "pulse": None,
            }
    document |= {"tungsten": None} if chance.random() < 0.2 else {}
    document |= (
        {"filler": None}
        if chance.random() < 0.3
        else {"filler": {"class": "5356", "diameter_mm": chance.choice((0.5, 8))}}
    )
    document |= {
        "cup": {
            "number": chance.choice((3, 24)),
            "gas_lens": chance.random() < 0.5,
            "stick_out_mm": chance.choice((0.5, 60)),
        }
    }
    document |= {"gas": {"kind": "argon", "flow_l_min": chance.choice((0.5, 100))}}
    return Settings.model_validate(document)


@pytest.mark.parametrize("job", range(1, 11))
def test_settings_at_the_corners_of_their_bounds(client, make_session, job):
    chance = random.Random(job)
    with make_session.begin() as session:
        row = book.get_job(session, job)
        read = book.read_plan(row.plans[0])
        if read.plan.settings is None:
            return
        book.add_plan(session, row, read.plan.job, "tuned", "Corners", edges(read.plan.settings, chance))
    walk_whole(client, job)
    coupon = {"bead_width_mm": chance.choice(("0.5", "60")), "border_left_mm": "0", "border_right_mm": "30", "length_mm": "5", "seconds": chance.choice(("0.5", "12")), "ripple_pitch_mm": "0.1"}  # fmt: skip
    assert client.post(f"/jobs/{job}/coupon", data=coupon, headers=HTML).status_code == 303
    walk_whole(client, job)


COLUMNS = [("plans", name) for name in ("plan", "settings", "job_document", "machine_document")]
COLUMNS += [("readings", name) for name in ("document", "verdict", "change")]
COLUMNS += [("machines", "document"), ("kits", "document"), ("welders", "school")]
COLUMNS += [("calibrations", "document"), ("calibrations", "members")]


def damages(document, chance):
    """A document damaged in every way that a hand, a disk or an older version might."""
    yield "not json {"
    yield chance.choice(["null", "{}", "[1, 2]", '"' + "x" * 5000 + '"'])
    yield "[" * 2000
    yield json.dumps(document).replace(": ", ': NaN, "', 1)
    for _ in range(6):
        bad = json.loads(json.dumps(document))
        place = bad
        while isinstance(place, dict) and place:
            key = chance.choice(sorted(place))
            if isinstance(place[key], dict) and place[key] and chance.random() < 0.7:
                place = place[key]
                continue
            if chance.random() < 0.3:
                del place[key]
            else:
                place[key] = chance.choice(
                    [None, -1, 1e308, "inch", [], {}, 99, True, "\udc00", float("nan"), float("inf")]
                )
            break
        yield json.dumps(bad)


@pytest.mark.parametrize(("table", "column"), COLUMNS)
def test_documents_damaged_by_hand(client, data_file, job_id, table, column, caplog):
    caplog.set_level(logging.CRITICAL)
    job = job_id("Float tank")
    with closing(sqlite3.connect(data_file, timeout=200)) as connection:
        rows = connection.execute(f"SELECT id, {column} FROM {table} ORDER BY id DESC").fetchall()
        key, sound = rows[0] if table in ("plans", "readings") else rows[-1]
        chance = random.Random(f"{table}.{column}")
        for number, damaged in enumerate(damages(json.loads(sound), chance)):
            connection.execute(f"UPDATE {table} SET {column} = ? WHERE id = ?", (damaged, key))
            connection.commit()
            walk(client, job, some=chance if number else None)
        connection.execute(f"UPDATE {table} SET {column} = ? WHERE id = ?", (sound, key))
        connection.commit()
    walk_whole(client, job, lists=True)


def test_a_row_that_belongs_to_nothing_and_odd_columns(client, data_file, job_id):
    job = job_id("Float tank")
    with closing(sqlite3.connect(data_file, timeout=200)) as connection:
        for change in (
            "UPDATE jobs SET made_at = 'yesterday', changed_at = 'never'",
            "UPDATE plans SET made_at = 'soon'",
            f"UPDATE jobs SET title = '{'long ' * 2000}'",
            "UPDATE plans SET words = 'x', origin = 'elsewhere'",
            "DELETE FROM ticks",
            "DELETE FROM readings WHERE coupon_id = 3",
            "UPDATE jobs SET welder_id = NULL",
            "DELETE FROM welders",
            "DELETE FROM kits",
            "DELETE FROM machines",
        ):
            connection.execute(change)
            connection.commit()
            walk(client, job)


def test_a_random_machine_takes_no_page_down(client):
    """Any machine that its model lets in can be shown, planned for, swapped with and calibrated."""
    chance = random.Random(4)
    for number in range(12):
        shapes = chance.sample(["square", "soft", "trapezoid", "sine", "triangle"], chance.randint(1, 5))
        low, high = sorted((chance.uniform(0.01, 0.99), chance.uniform(0.01, 0.99)))
        controls = chance.sample(
            [
                {"setting": "amps_set", "label": "A", "basis": chance.choice(["peak", "mean", "rms", "both_halves"]), "scale": {"points": [[0.5, 0.5], [1000, 1000]], "step": 0.1}},
                {"setting": "ep_share", "label": "B" * 40, "scale": {"points": [[n, 0.1 + n / 100] for n in range(60)], "shown_as": "clock"}},
                {"setting": "ep_trim", "label": "T", "basis": "ep_amps", "scale": {"points": [[7, 7]]}},
                {"setting": "frequency_hz", "label": "<b>", "scale": {"points": [[-1e9, 10], [1e9, 1000]], "step": 1e4, "signed": True}},
                {"setting": "shape_en", "label": "F", "scale": {"points": [[0, 2]], "names": ["Only"], "shown_as": "names"}},
                {"setting": "start_amps", "label": "S", "basis": "share_of_set", "scale": {"points": [[0, 1.5], [100, 0.01]], "shown_as": "percent"}},
            ],
            chance.randint(0, 6),
        )  # fmt: skip
        machine = Machine.model_validate({
            "name": f"Odd & Sons {number}/{'?'*number} ..", "shapes": shapes, "least_ep_share": low, "most_ep_share": high,
            "least_a": chance.choice((0.5, 200)), "most_a": chance.choice((201, 1000)), "can_pulse": chance.random() < 0.5,
            "can_trim": chance.random() < 0.5, "can_mix": chance.random() < 0.5, "least_frequency_hz": 10,
            "most_frequency_hz": chance.choice((10, 1000)), "triggers": [], "controls": controls, "torch_amps": 1, "torch_duty": 0.01,
        })  # fmt: skip
        made = client.post("/shop/machines/import", data={"text": machine.model_dump_json()}, headers=HTML)
        assert made.status_code == 303, made.text
        assert client.get(made.headers["location"], headers=HTML).status_code == 200
        for control in machine.controls:
            knob = client.get(f"{made.headers['location']}/knob/{control.setting}", headers=HTML)
            assert knob.status_code in (200, 404, 422)
        assert client.post("/jobs/8/machines", data={"machine": machine.name}).status_code == 303
        walk_whole(client, 8)
        for query in (
            {"theirs": machine.name, "mine": "Heron 320"},
            {"theirs": "Heron 320", "mine": machine.name},
        ):
            assert client.get("/swap", params=query, headers=HTML).status_code in (200, 422)


def test_an_empty_book_has_pages(tmp_path):
    from fastapi.testclient import TestClient

    from anvilsong.config import Config
    from anvilsong.web.app import create_app

    sessions(open_database(tmp_path / "empty.sqlite"))
    with TestClient(
        create_app(Config(data=tmp_path / "empty.sqlite")), base_url="http://127.0.0.1"
    ) as client:
        for address in ("/", "/book", "/book?away=true", "/jobs/new", "/shop", "/shop/kit", "/shop/kits/new", "/shop/machines/new", "/shop/welders/new", "/swap", "/metals", "/metals/6061", "/book/care", "/api/docs"):  # fmt: skip
            assert client.get(address, headers=HTML).status_code == 200, address
        assert client.get("/jobs/1/tune", headers=HTML).status_code == 404
