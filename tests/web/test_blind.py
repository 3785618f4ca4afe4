"""Blind judging on its pages: nothing tells which is which before the last answer, and what is told then."""

import re

import pytest

from anvilsong.store import attachments, bench_trials, coupons
from anvilsong.store.models import JobRow

OTHER = b"\xff\xd8other"
HTML = {"accept": "text/html"}


@pytest.fixture
def job(job_id):
    return job_id("Float tank")


def started(client, job, **form):
    answer = client.post(
        f"/jobs/{job}/blind", data={"first": "1", "second": "3", "pairs": "6", "of": "pieces"} | form
    )
    assert answer.status_code == 303, answer.text
    return answer.headers["location"]


def test_pieces_from_the_first_pair_to_the_answer(client, make_session, job):
    place = started(client, job)
    helper = client.get(f"{place}/helper").text
    lefts = re.findall(r"<td>\d+</td><td>a piece of version (\d)</td>", helper)
    assert sorted(lefts) == ["1"] * 3 + ["3"] * 3
    for number, left in enumerate(lefts, 1):
        page = client.get(place).text
        assert f"Pair {number} of 6" in page
        assert not re.search(r"version [13]</td>", page)
        # The third version is preferred in all pairs but one.
        wanted = "1" if number == 2 else "3"
        client.post(place, data={"pair": str(number), "answer": "left" if left == wanted else "right"})
        client.post(place, data={"pair": str(number), "answer": "neither"})  # a second tap changes nothing
    page = " ".join(client.get(place).text.split())
    assert "Version 3 was preferred in 5 of 6 pairs." in page
    assert "It is 94 % sure that you prefer it; guessing gets as far in 22 % of such trials." in page
    assert "More pairs would tell more" in page
    assert "version 3</td>" in page
    assert "done" in client.get(f"/jobs/{job}/blind").text
    with make_session() as session:
        trial, *_ = bench_trials.trials_of(session, job, "blind")
        assert bench_trials.blind_of(trial).preferred == (1, 5, 0)


def test_photographs_under_addresses_that_tell_nothing(client, make_session, job):
    refused = client.post(
        f"/jobs/{job}/blind", data={"first": "1", "second": "3", "pairs": "6", "of": "photographs"}
    )
    assert refused.status_code == 422
    assert "both versions need a coupon with a photograph" in refused.text
    assert re.search(r'value="photographs"\s+checked', refused.text)
    with make_session.begin() as session:
        (known,) = attachments.attachments_of(session, job)
        row = session.get(JobRow, job)
        other = attachments.add_attachment(session, row, "photograph", "image/jpeg", OTHER)
        attachments.give_to(session, other, coupons.find_coupon(session, job, 1))
        contents = {known.content, OTHER}
    place = started(client, job, of="photographs")
    page = client.get(place).text
    addresses = re.findall(r'src="(/jobs/[^"]+/picture/[^"]+)"', page)
    assert addresses == [f"{place}/picture/0/left", f"{place}/picture/0/right"]
    shown = [client.get(address) for address in addresses]
    assert {answer.content for answer in shown} == contents
    assert all(answer.headers["cache-control"] == "no-store" for answer in shown)
    assert client.get(f"{place}/helper", headers=HTML).status_code == 404
    for odd in ("picture/6/left", "picture/0/top", "picture/-1/left"):
        assert client.get(f"{place}/{odd}", headers=HTML).status_code == 404


@pytest.mark.parametrize(
    ("form", "words"),
    [
        ({"second": "1"}, "choose two versions that have settings"),
        ({"second": "99"}, "choose two versions that have settings"),
        ({"first": "x"}, "choose two versions that have settings"),
        ({"pairs": "3"}, "choose 4 to 20 pairs"),
        ({"pairs": "many"}, "choose 4 to 20 pairs"),
    ],
)
def test_what_cannot_be_judged_is_said(client, job, form, words):
    answer = client.post(f"/jobs/{job}/blind", data={"first": "1", "second": "3", "pairs": "6"} | form)
    assert answer.status_code == 422
    assert words in answer.text
