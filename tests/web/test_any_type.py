"""Any JSON type in any field, by every way in: the JSON addresses, the command line, an import, a row that was stored so."""

import json
import random

import pytest
from sqlalchemy import text
from tests.core.test_any_type import TUBE, TYPES, places, samples, with_at

from anvilsong.core.errors import AnvilsongError
from anvilsong.store.database import open_database, sessions
from anvilsong.store.exchange import import_from
from anvilsong.store.export import export_book

HTML = {"accept": "text/html"}
ROUND = {key: value for key, value in TUBE.items() if key not in ("weld_length_mm", "machine", "kit")}
EACH = 160  # changed bodies an address: the models themselves are searched whole in tests/core


def bodies():
    """A sound body of every JSON address."""
    settings, marks = (samples()[name][1] for name in ("settings", "marks"))
    faces = ["panel", "margins", "section", "wave", "overview", "ties", "figures", "pedal"]
    return {
        "/api/plan": ROUND,
        "/api/consequences": {"job": ROUND, "settings": settings, "show": faces, "ghost": settings},
        "/api/resolve": {"job": ROUND, "settings": settings, "locked": ["ep_share"]},
        "/api/read": {"job": ROUND, "settings": settings, "key": "ep_share", "text": "30"},
        "/api/sound": {"settings": settings},
        "/api/photographs/1/measure": {
            "marks": marks,
            "edges": None,
            "page": "a" * 32,
            "seen": "b",
            "uid": None,
        },
    }


@pytest.mark.parametrize("address", list(bodies()))
def test_json_addresses(client, address):
    chance, sound = random.Random(address), bodies()[address]
    asked = [(path, value) for path in places(sound) for value in TYPES]
    each = (
        EACH // 3 if "photographs" in address else EACH
    )  # a picture is measured for every one that is sound
    for path, value in chance.sample(asked, min(each, len(asked))):
        answer = client.post(address, json=with_at(sound, path, value))
        assert answer.status_code in (200, 404, 422), (path, value, answer.text[:300])
    for value in TYPES:
        assert client.post(address, json=value).status_code in (404, 422), value


def test_the_command_line(run, tmp_path):
    for path, value in (
        (("b", "outside_diameter_mm"), {}),
        (("a",), []),
        (("school",), 7),
        (("bevel", "angle_deg"), [1]),
    ):
        said = run("plan", "-", data=tmp_path / "none.sqlite", given=json.dumps(with_at(ROUND, path, value)))
        assert said.returncode == 2, (path, value)
        assert "Traceback" not in said.stderr
        assert said.stderr.count("\n") == 1
        assert path[-1] in said.stderr


def test_an_import(make_session, tmp_path):
    """A tube's diameter, and every other field of a job and its plan: refused with its place, or taken."""
    with make_session.begin() as session:
        session.execute(text("DELETE FROM heat_runs"))
    with make_session() as session:
        whole = export_book(session)
    chance, fresh, taken, unsaid = random.Random(5), sessions(open_database(tmp_path / "fresh.sqlite")), 0, 0
    job = whole["jobs"][0]
    whole |= {"jobs": [job], "photographs": []}
    asked = [(path, value) for path in places(job) for value in TYPES]
    asked = [(("plans", 0, "job_document", "a", "outside_diameter_mm"), {}), *chance.sample(asked, 90)]
    for path, value in asked:
        changed = whole | {"jobs": [with_at(job, path, value)]}
        (tmp_path / "in.json").write_text(json.dumps(changed), "utf-8")
        try:
            import_from(fresh, tmp_path / "in.json")
            taken += 1
        except AnvilsongError as refused:
            unsaid += not str(refused)
    assert taken < 45
    assert unsaid == 0


@pytest.mark.parametrize(
    "table", ["plans", "readings", "machines", "kits", "welders", "attachments", "calibrations"]
)
def test_a_row_that_was_stored_so(client, make_session, job_id, table):
    """One place of a stored document is of another type: the book, the export and every page of the job stand."""
    columns = {
        "plans": ("job_document", "plan", "settings", "machine_document"), "readings": ("document", "verdict", "change", "typed"),
        "machines": ("document",), "kits": ("document",), "welders": ("school",), "attachments": ("document",), "calibrations": ("document", "members"),
    }[table]  # fmt: skip
    chance, job = random.Random(table), job_id("Float tank")
    pages = [
        "/book",
        "/shop",
        "/shop/machines/1/coupons",
        "/shop/kits/1",
        "/shop/welders/1",
        f"/swap?job={job}",
        "/recipes",
    ]
    stations = "job prep torch tune wave coupon read card machines schools part map power day compare coupon?correct=1"
    pages += [f"/jobs/{job}/{page}" for page in stations.split()]
    for column in columns:
        with make_session() as session:
            stored = session.execute(
                text(f"SELECT id, {column} FROM {table} WHERE {column} IS NOT NULL")
            ).all()
        for number, sound in chance.sample(stored, min(2, len(stored))):
            document = json.loads(sound)
            for path in chance.sample(list(places(document)) or [()], 1):
                value = chance.choice(TYPES)
                with make_session.begin() as session:
                    bad = json.dumps(with_at(document, path, value) if path else value)
                    session.execute(
                        text(f"UPDATE {table} SET {column} = :bad WHERE id = :id"), {"bad": bad, "id": number}
                    )
                for page in chance.sample(pages, 9):
                    answer = client.get(page, headers=HTML)
                    assert answer.status_code in (200, 303, 404), (table, column, path, value, page)
                with make_session.begin() as session:
                    session.execute(
                        text(f"UPDATE {table} SET {column} = :good WHERE id = :id"),
                        {"good": sound, "id": number},
                    )
    assert client.get("/book/export.json").status_code == 200


def test_a_stored_tube_without_a_size(client, make_session, job_id):
    """The way round a tube is worked out from its diameter before that is checked: the job says that it cannot be read, all else stands."""
    job = job_id("Float tank")
    with make_session.begin() as session:
        for column in ("job_document", "plan"):
            path = "$" if column == "job_document" else "$.job"
            odd = f"""json_set({column}, '{path}.joint', 'tube_tube', '{path}.weld_length_mm', null, '{path}.a.outside_diameter_mm', json('{{}}'))"""
            session.execute(text(f"UPDATE plans SET {column} = {odd} WHERE job_id = :job"), {"job": job})
    for page in (
        "/book",
        f"/jobs/{job}/tune",
        f"/jobs/{job}/read",
        "/shop/machines/2/coupons",
        f"/swap?job={job}",
    ):
        assert client.get(page, headers=HTML).status_code == 200, page
    told = client.get("/book/export.json", headers=HTML)
    assert "The export is not complete" in told.text
    assert "job “Float tank lid”" in told.text
    assert client.get("/book/export.json?damaged=left-out", headers=HTML).json()["format"] == "anvilsong-book"
    assert client.get("/book/export.json").json()["format"] == "anvilsong-book"  # a script is not asked
