"""The pages of a weld that is there already: gone over as a job of its own, and a flaw cut out."""

import re

import pytest

from anvilsong.store import book


def words_of(answer):
    return " ".join(re.sub(r"<[^>]+>", " ", answer.text).split())


def test_going_over_becomes_a_job(client, make_session, job_id):
    number = job_id("Float tank")
    page = client.get(f"/jobs/{number}/again")
    said = words_of(page)
    assert "Cycle rate 45 Hz" in said
    amps = int(re.search(r"Welding amps (\d+) A ?; it was", said)[1])
    assert "reaches 30 mm to each side" in said
    answer = client.post(f"/jobs/{number}/again")
    made = int(re.search(r"/jobs/(\d+)/tune", answer.headers["location"])[1])
    assert made != number
    with make_session() as session:
        plan = book.find_plan(session, made)
        settings = book.read_plan(plan).plan.settings
        assert plan.job.title == "Float tank lid, gone over"
        assert plan.job.welder.name == "Ottilie"
    assert settings.frequency_hz == 45
    assert round(settings.amps_run) == amps
    refused = job_id("Rudder stock")
    assert client.get(f"/jobs/{refused}/again").status_code == 200
    assert client.post(f"/jobs/{refused}/again").status_code == 422


def test_a_flaw_is_cut_out(client, job_id):
    number = job_id("Cast cleat")  # 8 mm
    page = client.get(f"/jobs/{number}/cut-out?flaw=30&depth=4")
    said = words_of(page)
    assert (
        "A groove 50 mm long, 8.1 mm wide at the face and 4.0 mm deep; 4.0 mm of metal stay under it." in said
    )
    beads = re.findall(r"<td>(\d+)</td><td><b>(\d+) A</b>", page.text)
    assert [int(each) for each, _ in beads] == [1, 2]
    assert page.text.count('class="layer fill"') == 2
    inches = client.get(f"/jobs/{number}/cut-out?flaw=1 in&depth=0.16 in")
    assert "A groove 45 mm long" in words_of(inches)


@pytest.mark.parametrize(
    ("query", "field"),
    [
        ("flaw=30", "depth"),
        ("flaw=x&depth=2", "flaw"),
        ("flaw=30&depth=9", "depth"),
        ("flaw=1e9&depth=2", "flaw"),
    ],
)
def test_what_cannot_be_cut_out(client, job_id, query, field):
    answer = client.get(f"/jobs/{job_id('Cast cleat')}/cut-out?{query}")
    assert answer.status_code == 422
    assert f'id="problem-{field}"' in answer.text
