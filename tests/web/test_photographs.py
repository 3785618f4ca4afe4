"""A photograph from the form to the coupon: kept, measured, given on; refused without a trace; put away and brought back."""

import html
import io
import json
import re
import threading
import time
from collections import Counter

import numpy as np
import pytest
from PIL import Image

from anvilsong.instruments import Camera, Coupon, photograph
from anvilsong.store import attachments, book, coupons
from anvilsong.store.models import AttachmentRow
from anvilsong.work import PICTURES, submit

COUPON = Coupon(5.9, 0.8, 1.7, 1.2)


@pytest.fixture(scope="module")
def taken():
    return photograph(COUPON, Camera(width_px=1100, height_px=600, px_per_mm=11), 8)


@pytest.fixture(scope="module")
def png(taken):
    out = io.BytesIO()
    Image.fromarray(taken.pixels).save(out, "PNG")
    return out.getvalue()


@pytest.fixture
def tank(job_id):
    return job_id("Float tank")


def kept(make_session):
    with make_session() as session:
        return session.query(AttachmentRow).count()


def sent(client, job, data, name="coupon.png", uid="a" * 32):
    return client.post(f"/jobs/{job}/photographs", data={"uid": uid}, files={"file": (name, data)})


def marked(taken):
    return taken.marks.model_dump(mode="json")


def test_from_the_picture_to_the_coupon(client, make_session, tank, taken, png):
    answer = sent(client, tank, png)
    assert answer.status_code == 303
    place = answer.headers["location"]
    assert sent(client, tank, png).headers["location"] == place  # sent twice, kept once
    number = int(place.rsplit("/", 1)[1])
    page = client.get(place).text
    assert "How long it is" in page
    assert "hidden>Use these figures" in " ".join(page.split()).replace("hidden >", "hidden>")
    picture = client.get(f"{place}/picture")
    assert picture.headers["content-type"] == "image/jpeg"
    assert Image.open(io.BytesIO(picture.content)).size == (1100, 600)

    told = client.post(
        f"/api/photographs/{number}/measure", json={"marks": marked(taken), "edges": None}
    ).json()
    said = {figure["key"]: figure["value"] for figure in told["figures"]}
    figures = {key: float(value.removesuffix(" mm")) for key, value in said.items()}
    true = {"bead_width": 5.9, "border_left": 0.8, "border_right": 1.7, "ripple_pitch": 1.2}
    assert figures == pytest.approx(true, abs=0.15)
    assert told["told"] == [True] * 4
    assert len(told["places"]) == len(told["edges"]["along_mm"])
    assert "5.9" in client.get(place).text  # and it is there after a reload

    form = client.get(f"/jobs/{tank}/coupon?photograph={number}").text
    assert f'name="photograph" value="{number}"' in form
    fields = {"bead_width_mm": "5.9 mm", "border_left_mm": "0.8 mm", "border_right_mm": "1.7 mm"}
    for field, value in fields.items():
        shown = re.search(rf'name="{field}" value="([^"]*)"', form).group(1)
        assert float(shown.removesuffix(" mm")) == pytest.approx(float(value.removesuffix(" mm")), abs=0.15)
    recorded = client.post(
        f"/jobs/{tank}/coupon",
        data={**fields, "length_mm": "100", "seconds": "25", "photograph": str(number), "revision": "3"},
    )
    assert recorded.headers["location"] == f"/jobs/{tank}/read"
    with make_session() as session:
        newest = coupons.find_coupons(session, tank, 1)[0]
        mine = attachments.of_coupons(session, [newest.id])[newest.id]
        assert [row.id for row in mine] == [number]
    assert f"/photographs/{number}" in client.get(f"/jobs/{tank}/read").text
    assert f"Correct coupon {newest.number}" in client.get(place).text


def test_in_inches_too(client, taken, png, tank):
    number = sent(client, tank, png).headers["location"].rsplit("/", 1)[1]
    client.cookies.set("units", "inch")
    body = {"marks": marked(taken) | {"known_mm": "1.9685 in"}}
    told = client.post(f"/api/photographs/{number}/measure", json=body).json()
    shown = [float(figure["value"].removesuffix(" in")) for figure in told["figures"]]
    assert shown == pytest.approx([5.9 / 25.4, 0.8 / 25.4, 1.7 / 25.4, 1.2 / 25.4], abs=0.006)
    assert 'value="1.9685 in"' in client.get(f"/jobs/{tank}/photographs/{number}").text


@pytest.mark.parametrize(
    ("name", "data", "words"),
    [
        ("zip.png", b"PK\x03\x04" + bytes(3000), "a PNG or a JPEG file"),
        ("none.png", b"", "choose a picture"),
        ("cut.jpg", None, "damaged or cut short"),
    ],
)
def test_a_refusal_stores_nothing(client, make_session, tank, png, name, data, words):
    before = kept(make_session)
    answer = sent(client, tank, png[: len(png) // 2] if data is None else data, name)
    assert answer.status_code == 422
    assert words in answer.text
    assert kept(make_session) == before
    assert client.post(f"/jobs/{tank}/photographs", data={"uid": "b" * 32}).status_code == 422
    assert sent(client, 999_999, png).status_code == 404
    assert kept(make_session) == before


def test_too_many_bytes_are_refused_before_they_are_read(client, make_session, tank):
    before = kept(make_session)
    answer = sent(client, tank, bytes(26_000_000))
    assert answer.status_code == 413
    assert "25.1 MB" in answer.text
    assert kept(make_session) == before


@pytest.mark.parametrize(
    "body",
    [
        {},
        {"marks": 5},
        {"marks": {"known": [[0, 0], [1, 1]], "known_mm": 50, "line": [[0, 0], [900, 0]]}},
        {"marks": {"known": [[0, 0], [600, 0]], "known_mm": "half", "line": [[0, 0], [900, 0]]}},
        {"marks": {"known": [[0, 0], [600, 0]], "known_mm": 50, "line": [[0, 0], [9e99, 0]]}},
        {
            "marks": {"known": [[0, 0], [600, 0]], "known_mm": 50, "line": [[0, 0], [900, 0]]},
            "edges": {"along_mm": [1]},
        },
        {
            "marks": {"known": [[0, 0], [600, 0]], "known_mm": 50, "line": [[0, 0], [900, 0]]},
            "edges": {"along_mm": [5, 1], "across_mm": [[0, 0]] * 4, "sureness": [0] * 4},
        },
    ],
)
def test_marks_that_cannot_be_used_are_named_and_what_was_measured_stays(client, make_session, body):
    with make_session() as session:
        before = session.get(AttachmentRow, 1).document
    answer = client.post("/api/photographs/1/measure", json=body)
    assert answer.status_code == 422
    assert answer.json()["problems"]
    with make_session() as session:
        assert session.get(AttachmentRow, 1).document == before


def test_an_edge_that_was_set_is_kept(client, make_session):
    with make_session() as session:
        bead = session.get(AttachmentRow, 1).document["bead"]
    edges = bead["edges"]
    edges["across_mm"][0] = [place - 1.0 for place in edges["across_mm"][0]]
    edges["by_hand"][0] = True
    told = client.post("/api/photographs/1/measure", json={"marks": bead["marks"], "edges": edges}).json()
    with make_session() as session:
        now = session.get(AttachmentRow, 1).document
    assert now["bead"]["border_left"]["value_mm"] == pytest.approx(
        bead["border_left"]["value_mm"] + 1, abs=0.002
    )
    assert now["bead"]["edges"]["by_hand"] == [True, False, False, False]
    assert now["width_px"] == 1200
    assert told["figures"][1]["value"] == "2.0 mm"


def test_an_edge_that_was_set_stays_on_the_picture_when_the_known_length_is_corrected(client, make_session):
    with make_session() as session:
        bead = session.get(AttachmentRow, 1).document["bead"]
    edges = bead["edges"] | {"by_hand": [True] * 4}
    longer = bead["marks"] | {
        "known_mm": 1.1 * bead["marks"]["known_mm"],
        "reach_mm": 1.1 * bead["marks"]["reach_mm"],
    }
    body = {"marks": longer, "edges": edges, "found_with": bead["marks"]}
    told = client.post("/api/photographs/1/measure", json=body).json()
    with make_session() as session:
        now = session.get(AttachmentRow, 1).document["bead"]
    for name in ("bead_width", "border_left", "border_right"):
        assert now[name]["value_mm"] == pytest.approx(1.1 * bead[name]["value_mm"], abs=0.002)
    before = client.post("/api/photographs/1/measure", json={"marks": bead["marks"], "edges": edges}).json()
    for one, other in zip(told["places"], before["places"], strict=True):
        assert one[:2] == pytest.approx(other[:2], abs=0.01)  # the same pixels
    assert (
        client.post("/api/photographs/1/measure", json=body | {"found_with": {"known": 3}}).status_code == 422
    )


def test_a_crowd_at_the_reader_is_told_to_come_again(client, make_session, tank, png):
    """Who waits holds a thread that other pages need: only a few may."""
    before = kept(make_session)
    held = [submit(PICTURES, time.sleep, 600) for _ in range(PICTURES.most)]
    try:
        answer, page = sent(client, tank, png), client.get(f"/jobs/{tank}/tune")
    finally:
        for task in held:
            task.end()
    assert answer.status_code == 503
    assert "try again" in answer.text
    assert page.status_code == 200
    assert kept(make_session) == before
    assert sent(client, tank, png).status_code == 303


def test_a_page_that_asks_again_gives_way_to_itself(client, tank, taken, png):
    """Twelve drags one after another on a reader that is busy: the newest is measured, none is told that others are being read."""
    sent(client, tank, png)
    body = {"marks": marked(taken), "page": "a" * 32}
    busy = submit(PICTURES, time.sleep, 1.5)
    answers = []
    asks = [
        threading.Thread(target=lambda: answers.append(client.post("/api/photographs/1/measure", json=body)))
        for _ in range(12)
    ]
    for each in asks:
        each.start()
    for each in asks:
        each.join()
    busy.end()
    said = Counter(answer.status_code for answer in answers)
    assert set(said) <= {200, 409}
    assert said[200] >= 1


def test_a_tip_is_never_as_last_time(client, tank):
    """It is of this coupon, and moves what tungstens are taken to bear."""
    fields = {
        "bead_width_mm": "6",
        "border_left_mm": "1",
        "border_right_mm": "1",
        "length_mm": "100",
        "seconds": "25",
    }
    client.post(f"/jobs/{tank}/coupon", data=fields | {"tip": "balled", "back_side": "full", "revision": "3"})
    last = re.search(r"data-last=\"([^\"]*)\"", client.get(f"/jobs/{tank}/coupon").text).group(1)
    assert "back_side" in last
    assert "tip" not in last


def test_put_away_and_brought_back(client, make_session, tank):
    answer = client.post(f"/jobs/{tank}/photographs/1/put-away")
    assert "was archived" in client.get(answer.headers["location"]).text
    with make_session() as session:
        assert attachments.attachments_of(session, tank) == []
    assert "/photographs/1" not in client.get(f"/jobs/{tank}/read").text
    client.post(f"/jobs/{tank}/photographs/1/bring-back")
    with make_session() as session:
        assert len(attachments.attachments_of(session, tank)) == 1


def test_a_photograph_is_asked_for_at_its_own_job(client, job_id):
    other = job_id("Cast cleat")
    for address in (f"/jobs/{other}/photographs/1", f"/jobs/{other}/photographs/1/picture"):
        assert client.get(address).status_code == 404
    assert client.post(f"/jobs/{other}/photographs/1/put-away").status_code == 404
    assert client.get(f"/jobs/{other}/coupon?photograph=1").status_code == 404
    assert client.post("/api/photographs/77/measure", json={"marks": {}}).status_code in (404, 422)


def test_damage_in_the_book_leaves_the_pages_standing(client, make_session, tank):
    with make_session.begin() as session:
        row = session.get(AttachmentRow, 1)
        row.document = {"width_px": "wide", "bead": {"edges": 3}}
    assert client.get(f"/jobs/{tank}/photographs/1").status_code == 200
    assert client.get(f"/jobs/{tank}/read").status_code == 200
    assert client.get(f"/jobs/{tank}/coupon?photograph=1").status_code == 200


def test_a_job_keeps_so_many_and_no_more(make_session, tank, monkeypatch):
    monkeypatch.setattr(attachments, "MOST_OF_A_JOB", 2)
    with make_session.begin() as session:
        job = book.find_jobs(session, "float tank")[0]
        attachments.add_attachment(session, job, "photograph", "image/jpeg", b"x" * 9)
        with pytest.raises(Exception, match="at most 2"):
            attachments.add_attachment(session, job, "photograph", "image/jpeg", b"x" * 9)


def test_the_demo_photograph_shows_its_own_coupon(make_session, tank):
    """The workshop's picture is drawn from the coupon it belongs to, and read by the same reader."""
    with make_session() as session:
        coupon = coupons.find_coupons(session, tank, 1)[0]
        bead = attachments.of_coupons(session, [coupon.id])[coupon.id][0].document["bead"]
        true = coupon.readings[-1].document
    for key, field in (
        ("bead_width", "bead_width_mm"),
        ("border_left", "border_left_mm"),
        ("border_right", "border_right_mm"),
    ):
        assert bead[key]["value_mm"] == pytest.approx(true[field], abs=0.2)
    assert np.std(bead["edges"]["across_mm"][0]) > 0.01


def test_three_beads_on_one_picture_into_a_series(client, make_session, tank):
    """Coupons side by side, photographed once: measured one after the other, each into its run of the sheet."""
    beads = [Coupon(5.9, 0.8, 1.7, 1.2), Coupon(6.6, 1.2, 1.0, 1.4), Coupon(5.2, 0.6, 0.9, 1.1)]
    takens = [
        photograph(one, Camera(width_px=1100, height_px=500, px_per_mm=11), 8 + n)
        for n, one in enumerate(beads)
    ]
    out = io.BytesIO()
    Image.fromarray(np.vstack([one.pixels for one in takens])).save(out, "PNG")
    place = sent(client, tank, out.getvalue()).headers["location"]
    first = marked(takens[0])
    numbers, line = [], []
    for n, one in enumerate(takens):
        if n:  # the same picture once more, its known length kept and the line beside the one before
            answer = client.post(f"{place}/again")
            assert answer.status_code == 303
            place = answer.headers["location"]
        numbers.append(int(place.rsplit("/", 1)[1]))
        state = json.loads(html.unescape(re.search(r'data-state="([^"]*)"', client.get(place).text)[1]))
        if n:
            assert state["marks"]["known"] == first["known"]
            assert state["marks"]["known_mm"] == first["known_mm"]
            assert state["measured"] is None
            moved = state["marks"]["line"][0][1] - line[0][1]
            assert abs(moved) == pytest.approx(2 * first["reach_mm"] * 11, rel=0.05)
        line = [[x, y + 500 * n] for x, y in marked(one)["line"]]
        told = client.post(
            f"/api/photographs/{numbers[-1]}/measure", json={"marks": first | {"line": line}}
        ).json()
        assert float(told["figures"][0]["value"].removesuffix(" mm")) == pytest.approx(
            beads[n].bead_width_mm, abs=0.25
        )
    sheet = client.post(f"/jobs/{tank}/series", data={"ready": "balance", "revision": "3"}).headers[
        "location"
    ]
    page = client.get(sheet).text
    assert page.count(f'<option value="{numbers[2]}"') == 3
    form = {f"r{run}_1_photograph": str(number) for run, number in enumerate(numbers, 1)}
    form |= {f"r{run}_1_seconds": "27" for run in (1, 2, 3)} | {"r3_1_bead_width_mm": "5.5"}
    twice = client.post(sheet, data=form | {"r2_1_photograph": str(numbers[0])})
    assert twice.status_code == 422
    assert "belong to one coupon" in twice.text
    assert client.post(sheet, data=form).status_code == 303
    with make_session() as session:
        newest = coupons.find_coupons(session, tank, 3)
        widths = [coupon.readings[-1].document["bead_width_mm"] for coupon in newest]
        assert widths == pytest.approx([5.9, 6.6, 5.5], abs=0.25)
        assert widths[2] == 5.5  # what was typed goes before the picture
        given = attachments.of_coupons(session, [coupon.id for coupon in newest])
        assert [[row.id for row in given[coupon.id]] for coupon in newest] == [[number] for number in numbers]
    assert "From" not in re.search(r'id="typed".*?</thead>', client.get(sheet).text, re.S)[0]
