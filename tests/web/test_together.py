"""The page of one setting for several jobs: ticked, told, saved into each, and what cannot go together."""

import re

import pytest

from anvilsong.core.job import read_job
from anvilsong.store import book


@pytest.fixture
def three(make_session):
    with make_session.begin() as session:
        return [
            book.add_job(
                session,
                f"Rail {size}",
                read_job(
                    {"a": {"alloy": "6061", "thickness": size}, "joint": "butt", "machine": "Heron 320"}
                ),
            ).id
            for size in (2.5, 3, 4)
        ]


def test_three_jobs_get_one_setting(client, make_session, three):
    address = "/together?" + "&".join(f"job={each}" for each in three)
    page = client.get(address)
    said = " ".join(re.sub(r"<[^>]+>", " ", page.text).split())
    assert "Set Heron 320 so" in said
    assert said.count("% of the pedal") == 3
    sent = re.search(r'name="jobs" value="([^"]+)"', page.text)[1]
    answer = client.post("/together", data={"jobs": sent})
    assert answer.headers["location"] == f"/jobs/{three[0]}/tune"
    with make_session() as session:
        made = [book.read_plan(book.find_plan(session, each)).plan.settings for each in three]
    assert len({(one.amps_set, one.ep_share, one.frequency_hz) for one in made}) == 1
    assert len({one.amps_run for one in made}) == 3
    assert "One setting for 3 jobs" in client.get(f"/jobs/{three[1]}/tune").text


def test_what_does_not_go_together(client, make_session, job_id, three):
    other = job_id("Survey raft")  # another machine
    for ids in ([three[0], other], [other]):
        answer = client.post("/together", data={"jobs": " ".join(map(str, ids))})
        assert answer.status_code == 422
        assert "tick two jobs or more, of one machine and one kit" in answer.text
    assert client.get(f"/together?job={three[0]}").status_code == 200
    assert client.get("/together?job=9999&job=x&job=-1").status_code == 200
    assert client.post("/together", data={}).status_code == 422
