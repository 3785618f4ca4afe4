"""Whatever is sent, the answer is a page or a problem, never a fault of the program, and nothing half-written stays."""

import itertools
import random

import pytest
from sqlalchemy import text

GARBAGE = [
    "",
    "x",
    "-1",
    "1e999",
    "nan",
    "🙂",
    "0",
    "999999999",
    "1/0",
    "<b>",
    "'; drop",
    "12 in",
    "7:99",
    "±",
    "⟦e mm 1⟧",
    "⟦1 kg 999999999⟧",
    "⟦1 m size⟧",
]
GOOD = {
    "a_alloy": "6061",
    "a_thickness": "3",
    "joint": "butt",
    "title": "t",
    "bead_width_mm": "6",
    "border_left_mm": "1",
    "border_right_mm": "1",
    "length_mm": "100",
    "seconds": "28",
    "name": "N",
}
FORMS = {
    "/jobs/new": "title a_alloy a_thickness b_alloy b_thickness joint gap_mm weld_length_mm travel_mm_s part_temperature_c machine kit filler_wanted bevel_angle_deg bevel_root_face_mm leg_mm helium_share draught_m_s arc_length_mm part_width_mm welder school_pedal",
    "/jobs/8/tune": "amps_set ep_share frequency_hz ep_trim shape_en flow_l_min pulse_rate_hz mix_ac_share tungsten_mm cup_number stick_out_mm travel_mm_s preheat_c start_amps pulse_off mix_off filler_mm",
    "/jobs/8/coupon": "bead_width_mm border_left_mm border_right_mm length_mm seconds back_side crater judged_bright note overall",
    "/jobs/8/torch": "tungsten cup",
    "/api/jobs/8/torch": "tungsten cup",
    "/api/jobs/2/torch": "cup",
    "/jobs/8/tick": "step done",
    "/jobs/8/machines": "machine",
    "/shop/machines/new": "name amps_label amps_low amps_high has_balance figure balance_most balance_most_means balance_least balance_least_means trim trim_low has_pulse_rate_hz pulse_rate_hz_low shape_sine fixed_hz fixed_share",
    "/shop/kits": "name cooler chill_blocks rod_price_kg currency torch0_name torch0_cooling torch0_rated_a torch0_hose cylinder0_name cylinder0_volume cylinder0_full cylinder0_helium",
    "/shop/gauge": "kit cylinder bar back",
    "/shop/machines": "name old most_a c0_setting c0_label c0_kind c0_meaning c0_step c0_basis least_ep_share",
    "/api/machine/check": "name c0_setting c0_label c0_kind c0_meaning",
    "/shop/machines/import": "text",
    "/shop/machines/4/knob/ep_share": "points",
    "/shop/welders": "name welder_id pedal",
    "/api/draw/joint": "a_alloy a_thickness joint gap_mm",
    "/jobs/2/tune": "amps_set",
    "/jobs/2/coupon": "bead_width_mm border_left_mm border_right_mm length_mm seconds",
    "/jobs/2/read/take": "",
    "/units": "to back",
}


@pytest.mark.parametrize("address", FORMS)
def test_forms_bear_anything(client, address):
    chance = random.Random(address)
    fields = FORMS[address].split()
    for _ in range(25 if fields else 1):
        data = {
            name: GOOD[name] if name in GOOD and chance.random() < 0.6 else chance.choice(GARBAGE)
            for name in fields
            if chance.random() < 0.7
        }
        answer = client.post(address, data=data, headers={"accept": "text/html"})
        assert answer.status_code in (200, 303, 404, 422), (address, data)
        if answer.status_code == 422:
            assert any(
                words in answer.text
                for words in ("cannot be used", "is empty", "cannot be read", "No settings for this")
            )
        if answer.status_code == 303:
            assert answer.headers["location"].startswith("/")
            assert not answer.headers["location"].startswith("//")


@pytest.mark.parametrize(
    "address",
    [
        "/book?q={}",
        "/jobs/8/tune?compare={}",
        "/jobs/8/card?revision={}",
        "/jobs/8/coupon?correct={}",
        "/metals/{}",
        "/shop/machines/{}",
        "/shop/kit?name={}",
        "/jobs/{}/tune",
        "/jobs/2/{}",
        "/swap?paste={}",
        "/swap?theirs=Curlew 220&typed_for=Curlew 220&mine=Heron 320&their_ep_share={}",
    ],
)
def test_addresses_bear_anything(client, address):
    for word in [*GARBAGE, "wave", "wave.svg", "wave.csv", "machines", "schools", "card", "read"]:
        answer = client.get(address.format(word.replace("/", "%2F")), headers={"accept": "text/html"})
        assert answer.status_code < 500, word


def test_bodies_bear_anything(client):
    plan = client.post("/api/plan", json={"a": {"alloy": "6061", "thickness": 3}, "joint": "butt"}).json()
    bodies = [
        None,
        [],
        1,
        "x",
        {"job": 1, "settings": 2},
        {"job": {}, "settings": {}},
        {"job": plan["job"], "settings": {"amps_run": 1}},
        {"settings": {}},
    ]
    for address, body in itertools.product(
        ("/api/plan", "/api/consequences", "/api/resolve", "/api/sound"), bodies
    ):
        answer = client.post(address, json=body)
        assert answer.status_code == 422, (address, body)
        assert answer.headers["content-type"] == "application/problem+json"
        assert answer.json()["field"]
    locked = client.post(
        "/api/resolve", json={"job": plan["job"], "settings": plan["settings"], "locked": ["nonsense"]}
    )
    assert locked.json()["field"] == "locked"


def test_nothing_half_written_stays(client, make_session):
    """After all kinds of refused forms the store holds what it held."""

    def counts():
        with make_session() as session:
            return [
                session.scalar(text(f"SELECT count(*) FROM {table}"))
                for table in ("jobs", "plans", "coupons", "readings", "machines", "kits", "words")
            ]

    before = counts()
    for address, data in (
        (
            "/jobs/new",
            {"title": "t", "a_alloy": "6061", "a_thickness": "3", "joint": "butt", "machine": "No Such"},
        ),
        (
            "/jobs/8/coupon",
            {
                "bead_width_mm": "6",
                "border_left_mm": "1",
                "border_right_mm": "1",
                "length_mm": "100",
                "seconds": "0",
            },
        ),
        ("/jobs/8/job", {"title": "t", "a_alloy": "6061", "a_thickness": "900 mm", "joint": "butt"}),
        (
            "/shop/machines",
            {
                "name": "Half",
                "c0_setting": "ep_share",
                "c0_label": "B",
                "c0_meaning": "1 = 10, 2 = 5, 3 = 30",
            },
        ),
        ("/shop/kits", {"name": "Half", "tungsten WLa 20 99": "1"}),
    ):
        assert client.post(address, data=data, headers={"accept": "text/html"}).status_code == 422
    assert counts() == before
