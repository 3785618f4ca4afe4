"""The page of order and turning: what it says of a tee and of a tube, and diameters typed."""

import math
import re

import pytest

from anvilsong.core.job import read_job
from anvilsong.store import book


def words_of(answer):
    return " ".join(re.sub(r"<[^>]+>", " ", answer.text).split())


def test_a_tee_in_stretches(client, job_id):
    number = job_id("Survey raft")  # 400 mm
    page = client.get(f"/jobs/{number}/order")
    said = words_of(page)
    assert "400 mm in 4 stretches" in said
    told = re.search(r'id="stretches">(.*?)</p>', page.text, re.S)[1]
    assert re.findall(r"(\d+) → (\d+)", told) == [
        ("200", "100"),
        ("200", "300"),
        ("0", "100"),
        ("400", "300"),
    ]
    assert re.search(r"This corner closes by about [01]\.\d° free", said)
    assert "Rough figures" in said
    assert "turns a minute" not in said
    assert f'href="/jobs/{number}/order"' in client.get(f"/jobs/{number}/tune").text


def test_turned(client, job_id):
    number = job_id("Rigger bracket")  # a tube of 32 mm
    assert "A diameter of 32 mm" in words_of(client.get(f"/jobs/{number}/order"))
    typed = words_of(client.get(f"/jobs/{number}/order?diameter=2 in"))
    assert re.search(r"A diameter of (51|50\.8) mm", typed)
    for wrong in ("x", "1", "1e9", "-5"):
        answer = client.get(f"/jobs/{number}/order?diameter={wrong}")
        assert answer.status_code == 422
        assert 'id="problem-diameter"' in answer.text
    assert client.get(f"/jobs/{job_id('Rudder stock')}/order").status_code == 200


def test_the_torch_in_the_hand(client, job_id):
    """Longer arcs are wider, weaker in steering and hotter by 3 % a mm; a tilt moves the arc and opens the cup."""
    page = client.get(f"/jobs/{job_id('Survey raft')}/torch").text
    hand = page[page.index('id="hand"') :].partition("</details>")[0]
    rows = re.findall(
        r"<tr><td>([^<]+)</td><td>([^<]+)</td><td>([^<]+)</td>\s*<td>([^<]+)</td><td>([^<]+)</td>", hand
    )
    assert [row[0] for row in rows] == ["2.0 mm", "3.0 mm", "4.0 mm", "6.0 mm"]
    assert [row[3] for row in rows] == ["−3 %", "+0 %", "+3 %", "+9 %"]
    beads, volts = ([float(row[place].split()[0]) for row in rows] for place in (1, 4))
    assert beads == sorted(set(beads))
    assert volts[3] - volts[1] == pytest.approx(2.4, abs=0.11)
    tilts = re.findall(r"<td>(\d+)°</td><td>([\d.]+) mm off</td><td>([\d.]+) mm</td><td>([^<]*)</td>", hand)
    assert [tilt[0] for tilt in tilts] == ["0", "10", "20", "30"]
    assert float(tilts[2][1]) == pytest.approx(3 * math.tan(math.radians(20)), abs=0.06)
    assert [bool(tilt[3]) for tilt in tilts] == [False, False, False, True]


def test_the_lower_voltage_of_a_machine_of_two(client, make_session):
    """What is left on it is told before the fuse is asked, and whether that is enough."""
    with make_session.begin() as session:
        ids = [
            book.add_job(
                session,
                f"Van {size}",
                read_job(
                    {"a": {"alloy": "6061", "thickness": size}, "joint": "butt", "machine": "Plover 200"}
                ),
            ).id
            for size in (1.5, 4)
        ]
    said = [words_of(client.get(f"/jobs/{each}/power?volts=115")) for each in ids]
    assert all(
        "On this supply Plover 200 gives 130 A at most, 30 % of ten minutes at 130 A" in each for each in said
    )
    assert "That is there, for shorter." in said[0]
    assert "That is more than there is." in said[1]
    assert "On this supply" not in words_of(client.get(f"/jobs/{ids[0]}/power?volts=230"))
    assert client.get(f"/jobs/{ids[0]}/power?volts=x").status_code == 422


def test_a_second_level_in_the_panels_own_words(client, make_session):
    with make_session.begin() as session:
        given = {"a": {"alloy": "6061", "thickness": 3}, "joint": "butt", "machine": "Gannet 350"}
        number = book.add_job(session, "Levels", read_job(given | {"control": "switch_4_two_levels"})).id
    page = words_of(client.get(f"/jobs/{number}/trigger"))
    share = int(re.search(r"Second amps (\d+) %", page)[1])
    amps = float(re.search(r"Second level (\d+) A ?, by a tap", page)[1])
    full = float(re.search(r"Minus amps Machine amps (\d+)", page)[1])
    assert share == pytest.approx(100 * amps / full, abs=2.6)
