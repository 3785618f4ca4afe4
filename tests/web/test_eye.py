"""Eye on its pages: nothing of a question gives its answer away, answers are judged, told and kept once."""

import json
import re

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text

from anvilsong.config import Config
from anvilsong.core.practice import AnswerResult, Practised
from anvilsong.core.practice.eye import TIPS, ends_with, right_answers
from anvilsong.store import book, practice, shop
from anvilsong.web.app import create_app
from anvilsong.web.eye_questions import ask, item_marked, planned_run
from anvilsong.web.job_view import job_view

NAMES = ("uid", "book", "job", "welder", "kind", "level", "seed", "of", "shown")


def question_of(client, kind, query="job=10&level=1&welder=Bram"):
    page = client.get(f"/practice/eye?kind={kind}&{query}").text
    form = {name: page.rsplit(f'name="{name}" value="', 1)[1].split('"')[0] for name in NAMES}
    item = item_marked(kind, form["of"], int(form["seed"]))
    with client.app.state.sessions() as session:
        view = job_view(session, 10)
        planned = planned_run(view, shop.bench_of(session, view.job))
    return page, form, ask(planned, item, int(form["level"]), int(form["seed"])), item


def practised(client):
    with client.app.state.sessions() as session:
        rows = session.execute(text("SELECT item, score, document FROM practice ORDER BY id")).all()
    return [(row.item, row.score, json.loads(row.document)["answer"]) for row in rows]


def test_what_went_wrong_is_asked_without_its_answer_and_told_with_it(client):
    page, form, question, item = question_of(client, "fault")
    assert item not in page
    assert not re.search(r"\b\d[.,]\d mm", page.split("How it was run")[0].split("longer one")[1])
    assert "What each change would have done" not in page
    sign = question.causes[0][0]
    right = right_answers(question, {"sign": sign})
    said = {
        "sign": sign,
        f"cause_{sign}": right["cause"],
        f"check_{sign}": right["check"],
        "change": right["change"],
    }
    for name in said:
        refused = client.post("/practice/eye", data={**form, **said, name: ""})
        assert refused.status_code == 422
        assert "One of what stands there" in refused.text
        kept = next(each for each in ("sign", "change") if each != name)
        assert re.search(rf'name="{kept}" value="{said[kept]}"\s+checked', refused.text)
        assert f'value="{form["of"]}"' in refused.text  # the same question
    assert not practised(client)
    sent = client.post("/practice/eye", data=form | said)
    assert sent.status_code == 303
    told = client.get(sent.headers["location"]).text
    assert "What each change would have done" in told
    assert "<h2>Right</h2>" in told
    (kept_item, score, answer), *_ = practised(client)
    assert (kept_item, score) == (item, 100)
    for mend in question.offered:
        seen = ends_with(question.run, question.planned, mend)
        assert answer["figures"][mend] == pytest.approx([seen.border_mm, seen.bead_width_mm])
        assert (answer["told"][mend] == "good") == (mend == question.mend)
    assert told.count('<tr class="right">') == 4 + 1  # the four answers, and the one change that mends it
    # Sent again, it is stored once; sent from another form with the same question, it is another answer.
    assert client.post("/practice/eye", data=form | said).status_code == 303
    assert len(practised(client)) == 1


def test_a_wrong_answer_is_told_by_what_was_wrong_and_comes_back(client):
    _, form, question, item = question_of(client, "fault")
    mend = next(each for each in question.offered if each != question.mend)
    sign = next(each for each in ("crater", "soot") if each not in question.signs)
    first = {"crater": "crater.hot_short", "soot": "soot.magnesium"}[sign]
    said = {"sign": sign, f"cause_{sign}": first, f"check_{sign}": first, "change": mend}
    sent = client.post("/practice/eye", data=form | said)
    told = client.get(sent.headers["location"]).text
    assert "Right: 0 %" in told
    assert told.count('class="not-right"') == 4
    seen = [item]
    for _ in range(3):
        _, form, question, item = question_of(client, "fault")
        seen.append(item)
        sign = question.causes[0][0]
        right = right_answers(question, {"sign": sign})
        said = {f"{name}_{sign}" if name in ("cause", "check") else name: way for name, way in right.items()}
        client.post("/practice/eye", data=form | said)
    assert seen[3] == seen[0]  # failed, so it comes back after two others
    assert len(set(seen[:3])) == 3


def test_pictures_are_of_the_question_and_of_nothing_else(client):
    page, form, *_ = question_of(client, "two")
    addresses = re.findall(r'src="(/practice/eye/picture[^"]+)"', page)
    assert len(addresses) == 2
    first, other = (client.get(address.replace("&amp;", "&")) for address in addresses)
    assert first.headers["content-type"] == "image/jpeg"
    assert first.content.startswith(b"\xff\xd8\xff")
    assert first.content != other.content
    address = addresses[0].replace("&amp;", "&")
    assert client.get(address).content == first.content
    assert "private" in first.headers["cache-control"]
    for wrong in (
        address.replace(form["of"], "0" * 16),
        address.replace("kind=two", "kind=odd"),
        address.replace("place=0", "place=2"),
        address.replace("job=10", "job=999"),
        address.replace(f"seed={form['seed']}", "seed="),
        "/practice/eye/picture",
    ):
        assert client.get(wrong).status_code == 404, wrong


@pytest.mark.parametrize(("kind", "name"), [("two", "more"), ("odd", "odd"), ("tip", "tip")])
def test_one_choice_is_judged_and_told(client, kind, name):
    for is_right in (True, False):
        page, form, question, item = question_of(client, kind)
        assert client.post("/practice/eye", data=form).status_code == 422
        assert client.post("/practice/eye", data=form | {name: "9"}).status_code == 422
        right = question.item if kind == "tip" else str(question.right)
        choices = tuple(TIPS) if kind == "tip" else ("0", "1")
        said = right if is_right else next(each for each in choices if each != right)
        assert page.count(f'name="{name}"') == {"two": 2, "odd": 4, "tip": 3}[kind]
        sent = client.post("/practice/eye", data=form | {name: said})
        told = client.get(sent.headers["location"]).text
        assert ("<h2>Right</h2>" in told, "<h2>Not quite</h2>" in told) == (is_right, not is_right)
        assert practised(client)[-1][:2] == (item, 100 * is_right)
    assert "1 of the last 2 wholly right." in told


def test_a_tips_drawing_has_the_same_words_whatever_its_state(client):
    drawn = set()
    for seed in range(40):
        page = client.get(f"/practice/eye?kind=tip&job=10&level=1&n={seed}").text
        svg = re.search(r"<svg.*?eye-tip.*?</svg>", page, re.DOTALL)[0]
        drawn.add(re.sub(r"[\d.,]+", "", re.sub(r'd="[^"]*"|points="[^"]*"|<circle[^>]*>', "", svg)))
        assert not re.search("balls|melts|wanders|rounds|good", svg)
    assert len(drawn) <= 2  # with a ball's circle or without


def test_lengths_by_eye_are_read_in_the_units_of_the_page(client):
    page, form, question, _ = question_of(client, "size")
    border, bead = question.sight.border_mm, question.sight.bead_width_mm
    assert f"{border:.1f} mm" not in page.split("<form method")[-1]
    for bad in ("", "wide", "-1", "900", "1e999", "nan"):
        refused = client.post("/practice/eye", data=form | {"border_mm": bad, "bead_mm": "6"})
        assert refused.status_code == 422, bad
        assert 'value="6"' in refused.text
        assert 'aria-invalid="true"' in refused.text
    inches = form | {"typed_in": "inch", "border_mm": f"{border / 25.4:.4f}", "bead_mm": f"{bead / 25.4:.4f}"}
    sent = client.post("/practice/eye", data=inches)
    assert "<h2>Right</h2>" in client.get(sent.headers["location"]).text
    _, form, question, _ = question_of(client, "size")
    bead = f"{question.sight.bead_width_mm:.2f}".replace(".", ",")
    sent = client.post("/practice/eye", data=form | {"border_mm": "20", "bead_mm": bead})
    assert "Right: 50 %" in client.get(sent.headers["location"]).text
    assert practised(client)[-1][2]["given"] == {"border": "over", "bead": "near"}


@pytest.mark.parametrize(
    "change", [{"of": "x"}, {"seed": ""}, {"kind": "tip"}, {"job": "999"}, {"level": "9"}, {"shown": ""}]
)
def test_a_question_that_is_none_is_told_and_not_kept(client, change):
    _, form, *_ = question_of(client, "two")
    sent = client.post("/practice/eye", data=form | {"more": "0"} | change)
    assert sent.status_code == 422
    assert not practised(client)


def test_a_job_changed_meanwhile_makes_its_open_question_another(client):
    _, form, *_ = question_of(client, "fault")
    with client.app.state.sessions.begin() as session:
        view = job_view(session, 10)
        thicker = view.job.a.model_copy(update={"thickness": "5 mm"})
        job = view.job.model_copy(update={"a": thicker, "b": thicker})
        book.add_plan(session, view.row, job, "plan", "thicker")
    sent = client.post("/practice/eye", data=form | {"sign": "soot", "change": "wipe"})
    assert sent.status_code == 422
    assert "changed meanwhile" in sent.text.split('id="what-is-wrong"')[1][:200]


def test_levels_go_up_with_what_was_right_and_jobs_that_show_signs_are_told(client):
    for _ in range(8):
        _, form, question, _ = question_of(client, "two")
        client.post("/practice/eye", data=form | {"more": str(question.right)})
    page = client.get("/practice/eye?kind=two&job=10&welder=Bram").text
    assert re.search(r'<option value="2" selected>', page)
    refused = client.get("/practice/eye?job=4").text
    assert "already show a sign (border too wide)" in refused
    assert client.get("/practice/eye?kind=bogus&level=x&done=9&job=x&welder=Nobody").status_code == 200


@pytest.mark.parametrize("kind", ["fault:dirt", "size:wide", "two:far", "odd:dirt", "tip:over", "zz"])
@pytest.mark.parametrize(
    ("skill", "path"),
    [("eye", "/practice/eye"), ("changes", "/practice/changes"), ("panels", "/practice/panels")],
)
def test_an_answer_that_came_in_from_a_file_may_be_any(client, kind, skill, path):
    strange = [
        {},
        {"right": {"pool": "more", "sign": "x"}},
        {
            "given": {
                "sign": "soot",
                "cause": "soot.zz",
                "check": "a",
                "change": "wipe",
                "more": "x",
                "odd": "7",
                "tip": "q",
            }
        },
        {
            "right": {"more": "1"},
            "given": {"more": "0"},
            "told": {"seed": "9" * 30, "of": "<b>", "sign": "zz"},
        },
        {"given": {"pool": "zz", "answer": "q"}, "right": {"pool": "w"}, "figures": {"pool": (1, 2)}},
    ]
    for answer in strange:
        with client.app.state.sessions.begin() as session:
            done = Practised(
                skill=skill, item=kind, score=50, on="Float tank lid", answer=AnswerResult(**answer)
            )
            number = practice.add_practised(session, "Bram", done).id
        for address in (path, "/practice/eye", "/practice/changes", "/practice/panels", "/practice/rhythm"):
            page = client.get(f"{address}?job=10&welder=Bram&done={number}")
            assert page.status_code == 200, (address, answer)
            assert 'id="run-result"' not in page.text


def test_without_a_job_it_still_opens(tmp_path):
    with TestClient(create_app(Config(data=tmp_path / "new.sqlite")), base_url="http://127.0.0.1") as client:
        page = client.get("/practice/eye")
        assert page.status_code == 200
        assert "Plan a first job" in page.text
