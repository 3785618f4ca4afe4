"""What an export would bring is shown before anything is stored, and taken only as it was shown."""

import json
import re
import shutil

from sqlalchemy import select

from anvilsong.core.bead import Looks
from anvilsong.store import book, coupons
from anvilsong.store.database import open_database, sessions
from anvilsong.store.export import export_book
from anvilsong.store.models import CouponRow, JobRow

HTML = {"accept": "text/html"}
LID = "Float tank lid"


def van(workshop_file, tmp_path):
    """An export of a copy that was taken along, where the lid got a coupon and a version, and a new job stands.

    It is no copy of the file that the page works on: to open and close that one here would drop SQLite's locks on it.
    """
    make = sessions(open_database(shutil.copy(workshop_file, tmp_path / "van.sqlite")))
    with make.begin() as session:
        row = session.scalar(select(JobRow).where(JobRow.title == LID))
        plan = book.find_plan(session, row.id)
        coupons.add_coupon(session, row, plan, Looks(judged={"bright": 2}, note="in the van"))
        job = book.read_plan(plan).plan.job
        book.add_plan(session, row, job, "plan", "")
        book.add_job(session, "Oar lock", job)
    with make() as session:
        return json.dumps(export_book(session)).encode()


def looked(client, export):
    return client.post("/book/import", files={"file": ("van.json", export)}, headers=HTML)


def form_of(page):
    return {name: re.search(f'name="{name}" value="([^"]*)"', page)[1] for name in ("waiting", "seen")}


def stands(client):
    with client.app.state.sessions() as session:
        return sorted(session.scalars(select(JobRow.title))), len(list(session.scalars(select(CouponRow.id))))


def test_shown_then_taken_as_it_was_shown(client, workshop_file, tmp_path):
    export, before = van(workshop_file, tmp_path), stands(client)
    page = looked(client, export)
    assert page.status_code == 200
    assert stands(client) == before
    row = " ".join(re.sub("<[^>]*>", " ", page.text.split('id="together"')[1].split("</table>")[0]).split())
    assert f"{LID} 1 version, 1 coupon" in row
    assert "both went on" not in row
    assert re.findall(
        r'<li class="as-typed">(.*?)</li>', page.text.split('id="new-jobs"')[1].split("</ul>")[0]
    ) == ["Oar lock"]
    taken = client.post("/book/import/now", data=form_of(page.text))
    assert (taken.status_code, taken.headers["location"]) == (303, "/book")
    assert "Came in: 1 job" in client.get("/book", headers=HTML).text
    titles, count = stands(client)
    assert (titles, count) == (sorted([*before[0], "Oar lock"]), before[1] + 1)
    gone = client.post("/book/import/now", data=form_of(page.text), headers=HTML)
    assert (gone.status_code, "choose the file again" in gone.text) == (422, True)
    again = looked(client, export).text
    assert "Nothing here is new" in again
    assert 'id="together"' not in again


def test_where_both_went_on_it_says_so_and_a_change_in_between_is_shown_anew(client, workshop_file, tmp_path):
    page = looked(client, van(workshop_file, tmp_path))
    with client.app.state.sessions.begin() as session:  # somebody goes on at the lid meanwhile
        row = session.scalar(select(JobRow).where(JobRow.title == LID))
        job = book.read_plan(book.find_plan(session, row.id)).plan.job
        book.add_plan(session, row, job.model_copy(update={"weld_length_mm": 77.0}), "plan", "")
    before = stands(client)
    other = client.post("/book/import/now", data=form_of(page.text), headers=HTML)
    assert other.status_code == 422
    assert "has changed since you looked" in other.text
    assert "both went on" in other.text
    assert stands(client) == before
    assert form_of(other.text)["waiting"] == form_of(page.text)["waiting"]
    assert client.post("/book/import/now", data=form_of(other.text), headers=HTML).status_code == 303
    assert stands(client) != before


def test_what_cannot_be_used_never_waits(client, workshop_file, tmp_path):
    bad = looked(client, van(workshop_file, tmp_path).replace(b'"butt"', b'"scarf"', 1))
    assert (bad.status_code, "joint" in bad.text, 'name="waiting"' in bad.text) == (422, True, False)
    for name in ("", "../x", ".book.sqlite.1-000000000000.coming"):
        answer = client.post("/book/import/now", data={"waiting": name, "seen": ""}, headers=HTML)
        assert (answer.status_code, "choose the file again" in answer.text) == (422, True)


def test_a_script_brings_it_in_at_once(client, workshop_file, tmp_path):
    answer = client.post("/book/import", files={"file": ("van.json", van(workshop_file, tmp_path))})
    assert answer.status_code == 303
    assert "Oar lock" in stands(client)[0]


def test_the_command_looks_and_stores_nothing(run, workshop_file, data_file, tmp_path):
    (tmp_path / "van.json").write_bytes(van(workshop_file, tmp_path))
    said = run("import", str(tmp_path / "van.json"), "--look", data=data_file)
    assert said.returncode == 0
    assert "would bring 1 job" in said.stdout
    assert (
        "1 job" in run("import", str(tmp_path / "van.json"), data=data_file).stdout
    )  # so nothing was stored before
