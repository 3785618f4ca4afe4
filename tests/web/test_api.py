"""HTTP and command line: the contract, and bad input that stores nothing."""

import json
import re
from pathlib import Path

import pytest

from anvilsong import __version__

SIMPLE = {"a": {"alloy": "6061", "thickness": "3.2 mm"}, "joint": "butt"}
HTML = {"accept": "text/html"}


def test_plan_and_consequences_agree(client):
    assert client.get("/healthz").json() == {"status": "ok"}
    plan = client.post("/api/plan", json=SIMPLE | {"machine": "Heron 320"}).json()
    assert plan["panel"]["machine"] == "Heron 320"
    seen = client.post("/api/consequences", json={"job": plan["job"], "settings": plan["settings"]}).json()
    assert seen["consequences"] == pytest.approx(plan["consequences"])
    assert set(seen) == {"consequences", "warnings"}
    faces = client.post(
        "/api/consequences",
        json={
            "job": plan["job"],
            "settings": plan["settings"],
            "show": ["panel", "margins", "section", "wave"],
        },
    ).json()
    assert faces["panel"] == plan["panel"]
    assert faces["margins"] == plan["margins"]
    assert faces["section"].startswith("<svg")
    assert "<title>" in faces["wave"]
    assert "/api/consequences" in client.get("/api/openapi.json").json()["paths"]


@pytest.mark.parametrize(
    ("body", "field"),
    [
        (json.dumps(SIMPLE | {"joint": "scarf"}), "joint"),
        (json.dumps(SIMPLE | {"a": {"alloy": "tin", "thickness": 3}}), "a.alloy"),
        (json.dumps(SIMPLE | {"a": {"alloy": "6061", "thickness": "1e9 mm"}}), "a.thickness"),
        (json.dumps(SIMPLE | {"machine": "No Such 300"}), "machine"),
        (json.dumps([1, 2]), "job"),
        ("not json {", "body"),
        ("", "body"),
    ],
)
def test_bad_bodies(client, body, field):
    answer = client.post("/api/plan", content=body, headers={"content-type": "application/json"})
    assert answer.status_code == 422
    assert answer.headers["content-type"] == "application/problem+json"
    assert answer.json()["field"].startswith(field) or field == "body"
    assert any(words in answer.json()["detail"] for words in ("cannot be used", "is empty"))


def test_bad_settings_name_their_field(client):
    plan = client.post("/api/plan", json=SIMPLE).json()
    answer = client.post(
        "/api/consequences", json={"job": plan["job"], "settings": plan["settings"] | {"ep_share": 1.5}}
    )
    assert (answer.status_code, answer.json()["field"]) == (422, "ep_share")
    assert client.post("/api/consequences", json={"job": plan["job"]}).status_code == 422


def test_forms_keep_what_was_typed(client):
    form = {
        "title": "Keel box",
        "a_alloy": "6061",
        "a_thickness": "thick as a plank",
        "joint": "tee",
        "weld_length_mm": "250 mm",
        "purposes_tight": "on",
    }
    answer = client.post("/jobs/new", data=form, headers=HTML)
    assert answer.status_code == 422
    for kept in ("Keel box", "thick as a plank", "250 mm"):
        assert f'value="{kept}"' in answer.text
    assert "a length such as 3.2 mm" in answer.text
    assert "Keel box" not in client.get("/book", headers=HTML).text
    made = client.post("/jobs/new", data=form | {"a_thickness": "1/4"}, headers=HTML)
    assert made.status_code == 303
    assert made.headers["location"].endswith("/tune")


def test_a_page_in_inches_and_a_missing_one(client, job_id):
    client.cookies.set("units", "inch")
    assert "0.118 in" in client.get(f"/jobs/{job_id('Float tank')}/job", headers=HTML).text
    assert client.get("/jobs/999/tune", headers=HTML).status_code == 404
    assert "The logbook lists them all" in client.get("/jobs/999/tune", headers=HTML).text


def test_the_board_without_javascript(client, job_id):
    board = f"/jobs/{job_id('Survey raft')}/tune"
    page = client.get(board, headers=HTML).text
    shown = dict(re.findall(r'name="(amps_set|ep_share|frequency_hz|flow_l_min)"\s+value="([^"]+)"', page))
    assert shown["ep_share"] == "30"
    kept = client.post(board, data=shown | {"ep_share": "25"})
    assert kept.status_code == 303
    after = client.get(board, headers=HTML).text
    assert "Tuned: AC balance" in after
    wrong = client.post(board, data={"ep_share": "a lot"}, headers=HTML)
    assert wrong.status_code == 422
    assert 'value="a lot"' in wrong.text


def test_command_line(data_file, tmp_path, run):
    done = run("plan", "-", given=json.dumps(SIMPLE), data=data_file)
    assert done.returncode == 0
    assert 110 <= json.loads(done.stdout)["settings"]["amps_run"] <= 140
    named = run("plan", "-", given=json.dumps(SIMPLE | {"machine": "Dunlin 180"}), data=data_file)
    assert json.loads(named.stdout)["panel"]["machine"] == "Dunlin 180"
    for given, words in (
        (json.dumps(SIMPLE | {"joint": "scarf"}), "joint: “scarf”"),
        ("{", "not JSON"),
        (json.dumps(SIMPLE | {"machine": "X"}), "machine: “X”"),
    ):
        bad = run("plan", "-", given=given, data=data_file)
        assert bad.returncode == 2
        assert words in bad.stderr
        assert len(bad.stderr.strip().splitlines()) == 1
        assert bad.stdout == ""
    assert run("backup", str(tmp_path / "b.sqlite"), data=data_file).returncode == 0
    assert run("export", str(tmp_path / "e.json"), data=data_file).returncode == 0
    assert run("import", str(tmp_path / "e.json"), data=data_file).stdout.startswith(
        "Read 0 jobs; 10 jobs were here"
    )


def test_the_changelog_knows_this_version():
    assert f"## {__version__}" in Path(__file__).parents[2].joinpath("CHANGELOG.md").read_text()
