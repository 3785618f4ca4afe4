"""Sixty things as people write them, what they meant, and that lane, form and JSON all read them alike."""

import pytest

from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.quantities import parse
from anvilsong.web.job_form import job_from_form

# What was typed, the units of the page, the field it was typed in, and what it means in the inside unit (None: refused).
THICKNESS, LENGTH, SPEED, WARM, FLOW, AMPS, SHARE = "thickness", "weld_length_mm", "travel_mm_s", "part_temperature_c", "flow_l_min", "amps_set", "ep_share"  # fmt: skip
TYPED = [
    ("3 mm", "mm", THICKNESS, 3.0), ("3", "mm", THICKNESS, 3.0), ("3,2", "mm", THICKNESS, 3.2), ("3.2mm", "mm", THICKNESS, 3.2),
    ("1/8", "mm", THICKNESS, 3.175), ("1/8", "inch", THICKNESS, 3.175), ('1/8"', "mm", THICKNESS, 3.175), ("1/8''", "mm", THICKNESS, 3.175),
    ("⅛", "mm", THICKNESS, 3.175), ("⅛ in", "mm", THICKNESS, 3.175), ("1/8 inch", "inch", THICKNESS, 3.175), (".125", "inch", THICKNESS, 3.175),
    ("0.125 in", "mm", THICKNESS, 3.175), ("0,125 in", "mm", THICKNESS, 3.175), (".063", "mm", THICKNESS, 1.6002), ("063", "mm", THICKNESS, 1.6002),
    ("125 thou", "mm", THICKNESS, 3.175), ("11ga", "mm", THICKNESS, 2.30485), ("11 gauge", "inch", THICKNESS, 2.30485), ("#11 ga", "mm", THICKNESS, 2.30485),
    ("11 swg", "mm", THICKNESS, 2.9464), ("16 SWG", "inch", THICKNESS, 1.6256), ("0.32 cm", "mm", THICKNESS, 3.2), ("3,2 mm", "inch", THICKNESS, 3.2),
    ("1,200 mm", "mm", LENGTH, 1200.0), ("1 200 mm", "mm", LENGTH, 1200.0), ("1.2 m", "mm", LENGTH, 1200.0), ("2'", "mm", LENGTH, 609.6),
    ("12 in", "mm", LENGTH, 304.8), ("12", "inch", LENGTH, 304.8), ("1 1/2 ft", "mm", LENGTH, 457.2), ("1-1/2 in", "mm", LENGTH, 38.1),
    ("25 ft", "mm", LENGTH, 7620.0), ("1½ in", "mm", LENGTH, 38.1),
    ("3.6", "mm", SPEED, 3.6), ("8.5 in/min", "mm", SPEED, 3.598333), ("8.5 ipm", "inch", SPEED, 3.598333), ("8.5", "inch", SPEED, 3.598333),
    ("216 mm/min", "mm", SPEED, 3.6), ("0.0036 m/s", "mm", SPEED, 3.6), ("21.6 cm / min", "mm", SPEED, 3.6),
    ("20", "mm", WARM, 20.0), ("68", "inch", WARM, 20.0), ("20 degrees", "mm", WARM, 20.0), ("68°", "inch", WARM, 20.0), ("120 C", "inch", WARM, 120.0),
    ("250F", "mm", WARM, 121.111111), ("-10 C", "mm", WARM, -10.0), ("−10 °C", "mm", WARM, -10.0),
    ("15 cfh", "mm", FLOW, 7.079211), ("7 lpm", "inch", FLOW, 7.0), ("7 l/min", "mm", FLOW, 7.0), ("15", "inch", FLOW, 7.079211),
    ("120", "mm", AMPS, 120.0), ("120 A", "mm", AMPS, 120.0), ("120 amps", "inch", AMPS, 120.0),
    ("32", "mm", SHARE, 0.32), ("32 %", "mm", SHARE, 0.32), ("32 % EP", "mm", SHARE, 0.32), ("68 EN", "mm", SHARE, 0.32),
    ("half", "mm", THICKNESS, None), ("abc", "mm", AMPS, None), ("²", "mm", THICKNESS, None), ("3²", "mm", THICKNESS, None), ("1/0", "mm", THICKNESS, None),
    ("3 bananas", "mm", LENGTH, None), ("900 mm", "mm", THICKNESS, None), ("3 kg", "mm", THICKNESS, None), ("1e3", "mm", AMPS, None), ("", "mm", THICKNESS, None),
]  # fmt: skip
LANES = {SPEED: SPEED, FLOW: FLOW, AMPS: AMPS, SHARE: SHARE}
BARE = {"a": {"alloy": "6061", "thickness": 3}, "joint": "butt"}


def by_form(typed, system, field):
    form = {"a_alloy": "6061", "a_thickness": "3 mm", "joint": "butt"}
    form |= {"a_thickness": typed} if field == THICKNESS else {field: typed}
    job = job_from_form(form, system)
    return job.a.thickness_mm if field == THICKNESS else getattr(job, field)


def by_json(typed, field):
    given = BARE | ({"a": {"alloy": "6061", "thickness": typed}} if field == THICKNESS else {field: typed})
    job = read_job(given)
    return job.a.thickness_mm if field == THICKNESS else getattr(job, field)


def by_lane(client, typed, system, field):
    client.cookies.set("units", system)
    answer = client.post("/api/read", json={"setting": LANES[field], "typed": typed})
    if answer.status_code == 422:
        raise BadInput.one(field, typed, answer.json()["detail"])
    return answer.json()["value"]


@pytest.mark.parametrize(("typed", "system", "field", "meant"), TYPED)
def test_read_alike_everywhere(client, typed, system, field, meant):
    readers = []
    if field not in (FLOW, AMPS, SHARE):
        readers.append(lambda: by_form(typed, system, field))
        if system == "mm":  # JSON knows no page, so a bare number there is in the inside unit
            readers.append(lambda: by_json(typed, field))
    if field in LANES:
        readers.append(lambda: by_lane(client, typed, system, field))
    for read in readers:
        if meant is None:
            with pytest.raises(BadInput):
                read()
        else:
            assert read() == pytest.approx(meant, abs=1e-5)


def test_there_are_enough():
    assert len(TYPED) >= 60


def test_without_scripts_the_board_reads_the_same(client, make_session):
    """A form sent by a page without scripts: units count, nonsense is refused at its lane, limits are said, nothing is stored."""
    sent = {"flow_l_min": "15 cfh", "ep_share": "68 EN", "travel_mm_s": "8.5 ipm"}
    assert client.post("/jobs/8/tune", data=sent).status_code == 303
    from anvilsong.store import book

    with make_session() as session:
        kept = book.get_job(session, 8).plans[-1].settings
    assert kept["gas"]["flow_l_min"] == pytest.approx(7.0792, abs=1e-3)
    assert (kept["ep_share"], round(kept["travel_mm_s"], 3)) == (pytest.approx(0.32), 3.598)
    for wrong, said in (
        ("1/8", "goes from 5 A to 220 A"),
        ("250", "Curlew 220 goes from 5 A to 220 A"),
        ("half", "type a number"),
    ):
        answer = client.post(
            "/jobs/8/tune", data={"amps_set": wrong, "frequency_hz": "abc"}, headers={"accept": "text/html"}
        )
        assert answer.status_code == 422
        assert said in answer.text
        assert "“abc” cannot be used" in answer.text  # every field at once
        assert f'value="{wrong}"' in answer.text


@pytest.mark.parametrize(
    ("alloy", "name", "temper"),
    [("6061 T6", "6061", "T6"), ("6061t6", "6061", "T6"), ("6061-T651", "6061", "T651"), ("356", "A356", None), ("5083 H111", "5083", "H111"), ("EN AW-6082", "6082", None)],
)  # fmt: skip
def test_alloys_as_people_name_them(alloy, name, temper):
    job = read_job(BARE | {"a": {"alloy": alloy, "thickness": 3}})
    assert (job.a.metal.name, job.b.metal.name, job.temper) == (name, name, temper)


@pytest.mark.parametrize("gap", [0.25, 2.25, 0.55, 1 / 3])
@pytest.mark.parametrize("system", ["mm", "inch"])
def test_saving_again_rounds_nothing(gap, system):
    from anvilsong.web.job_form import form_from_job

    job = read_job(
        BARE
        | {
            "gap_mm": round(gap, 6),
            "arc_length_mm": 2.25,
            "a": {"alloy": "6061", "thickness": 0.55},
            "travel_mm_s": 3.333,
        }
    )
    again = job_from_form(form_from_job(job, "x", None, system), system)
    assert again.gap_mm == pytest.approx(job.gap_mm, abs=2e-6)
    assert (again.arc_length_mm, again.travel_mm_s) == (pytest.approx(2.25), pytest.approx(3.333))
    assert again.a.thickness_mm == pytest.approx(0.55, abs=2e-6)


def test_fractions_of_an_inch_in_lists():
    assert parse("1/16", "length", "rods_mm") == 1.5875
