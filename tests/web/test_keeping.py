"""What a shop keeps, on its pages: versions and marks of recipes, memories of machines, welds on parts, the first page."""

import csv
import io
import re

import pytest
from PIL import Image
from sqlalchemy import select, text
from tests.forms import form_on, sent

from anvilsong.core.bead import Looks
from anvilsong.core.quantities import parse
from anvilsong.core.said import in_units
from anvilsong.core.settings import Settings
from anvilsong.core.shop import brought_to
from anvilsong.store import attachments, book, coupons, memories, part_runs, recipe_marks, recipes, shop
from anvilsong.store.changes import changes
from anvilsong.store.models import AttachmentRow, JobRow, MachineRow, PlanRow
from anvilsong.store.reading import document


def words_of(answer):
    return " ".join(re.sub(r"<[^>]+>", " ", answer.text).split())


@pytest.fixture
def tank(job_id):
    return job_id("Float tank")


def newest(make_session, job):
    with make_session() as session:
        return book.find_plan(session, job).revision


def recipe_id(make_session, name):
    with make_session() as session:
        return next(one.plan_id for one in recipes.recipes(session) if one.name == name)


LID = "Tank lid, bright and tight"


def test_a_recipe_has_versions_with_why_and_marks(client, make_session, tank):
    first = recipe_id(make_session, LID)
    said = words_of(client.get(f"/recipes/{first}"))
    assert "1 coupon as wanted, 3 runs on parts" in said
    assert "photograph" in said
    client.post(f"/jobs/{tank}/as-set", data={"ep_share": "66"})
    revision = newest(make_session, tank)
    page = client.get(f"/jobs/{tank}/recipe?revision={revision}")
    assert f'<option value="{LID}"' in page.text
    form = {
        "recipe": "whatever",
        "version_of": LID,
        "why": "A narrower border was asked for",
        "revision": str(revision),
    }
    assert client.post(f"/jobs/{tank}/recipe", data=form).status_code == 303
    second = recipe_id(make_session, LID)
    assert second != first
    with make_session() as session:
        (one,) = recipes.recipes(session)
        assert (one.versions, one.revision, one.proof.state) == (2, revision, "as_planned")
    said = words_of(client.get(f"/recipes/{second}"))
    assert "as planned" in said
    assert "A narrower border was asked for" in said
    unknown = client.post(f"/jobs/{tank}/recipe", data=form | {"version_of": "No such"})
    assert unknown.status_code == 422
    assert (
        client.post(
            f"/recipes/{second}/mark", data={"tags": "raft, thin , raft", "favourite": "1"}
        ).status_code
        == 303
    )
    listed = client.get("/recipes?tag=thin").text
    assert "★" in listed
    assert LID in listed
    assert LID not in client.get("/recipes?tag=thick").text.partition("<main")[2]
    client.post(f"/recipes/{second}/mark", data={"tags": "raft", "retired": "1"})
    assert "1 retired" in words_of(client.get("/recipes"))
    assert client.post(f"/recipes/{second}/mark", data={"tags": "x" * 201}).status_code == 422
    # Deleting the newest version brings the one before back.
    client.post(f"/recipes/{second}/drop")
    assert recipe_id(make_session, LID) == first


NEW = {"a_alloy": "5083", "a_thickness": "4 mm", "joint": "butt", "position": "flat", "surface": "brushed", "control": "pedal", "machine": "Heron 320", "kit": "Bench kit"}  # fmt: skip


def test_a_new_job_starts_from_the_nearest_recipe(client, make_session, tank):
    asked = client.post("/api/recipes/nearest", data=NEW).json()["nearest"]
    assert LID in asked
    assert "proved" in asked
    assert "the thickness" in asked
    amps = float(re.search(r"<b>(\d+) A</b> while welding", asked)[1])
    number = re.search(r'name="from_recipe" value="(\d+)"', asked)[1]
    assert client.post("/api/recipes/nearest", data=NEW | {"a_alloy": "nothing"}).json() == {"nearest": ""}
    assert (
        client.post(
            "/api/recipes/nearest", data=NEW | {"a_alloy": "A356", "surface": "cast", "a_thickness": "20"}
        )
        .json()["nearest"]
        .strip()
        == ""
    )
    made = client.post("/jobs/new", data=NEW | {"title": "Lid of 4", "from_recipe": number}).headers[
        "location"
    ]
    job = int(re.search(r"/jobs/(\d+)/", made)[1])
    with make_session() as session:
        plans = session.scalars(select(PlanRow).where(PlanRow.job_id == job).order_by(PlanRow.revision)).all()
        assert [plan.origin for plan in plans] == ["plan", "recipe"]
        assert in_units(plans[1].words) == f"Brought over from the recipe {LID}"
        assert plans[1].settings["amps_run"] == pytest.approx(amps, abs=0.6)
    plain = client.post("/jobs/new", data=NEW | {"title": "Plain", "from_recipe": "99999"}).headers[
        "location"
    ]
    assert newest(make_session, int(re.search(r"/jobs/(\d+)/", plain)[1])) == 1


def test_a_memory_goes_out_of_date_and_is_stored_anew(client, make_session, tank):
    machine = "/shop/machines/2/memories"
    page = words_of(client.get(machine))
    assert "2 of 40 used, the next free one is 2" in page
    assert (
        "Out of date Heat share 70 % neg, now 60 % neg, Clean level 85 % of main, now 100 % of main" in page
    )
    assert "Heron 320 : memory 1" in words_of(client.get("/"))
    form = form_on(client, f"/jobs/{tank}/store", f"/jobs/{tank}/store")
    assert form["fields"]["slot"] == "1"  # where this job lies already
    assert sent(client, form, label="Lid, newest").headers["location"] == machine
    page = words_of(client.get(machine))
    assert "Lid, newest" in page
    assert "Out of date" not in page
    assert "memory 1" not in words_of(client.get("/"))
    client.post(f"{machine}/4/clear")
    assert "1 of 40 used" in words_of(client.get(machine))
    for slot in ("0", "41", "x"):
        assert client.post(f"/jobs/{tank}/store", data={"slot": slot}).status_code == 422
    # The job is planned for another machine: its settings are not those of this one's memories.
    client.post(f"/jobs/{tank}/machines", data={"machine": "Dunlin 180"})
    assert client.post(f"/jobs/{tank}/store", data={"slot": "1"}).status_code == 422
    assert "No numbered memory" in words_of(client.get(f"/jobs/{tank}/store"))
    with make_session() as session:
        heron = shop.find_machine(session, "Heron 320")
        assert list(memories.memories_of(session, heron)) == [1]


def test_a_memory_knows_the_panel_that_it_was_stored_on(client, make_session, tank):
    """A machine whose memories are written down after a plan has them there too; one whose scale is changed
    makes what was stored before old, until it is stored again.
    """
    memories_page, store = "/shop/machines/2/memories", f"/jobs/{tank}/store"
    with make_session.begin() as session:
        heron = shop.find_machine(session, "Heron 320")
        row = session.get(MachineRow, shop.machine_id(session, "Heron 320"))
        share = heron.control("ep_share")
        scale = share.scale.model_copy(update={"points": ((45, 0.60), (95, 0.10))})
        other = share.model_copy(update={"scale": scale})
        rest = tuple(each for each in heron.controls if each.setting != "ep_share")
        shop.change_machine(
            session, row, heron.model_copy(update={"controls": (*rest, other), "memory_slots": 60})
        )
    page = words_of(client.get(memories_page))
    assert "memories 1, 4" in words_of(client.get("/"))
    assert "The machine was changed since. Store version 3 again" in page
    page = words_of(client.get(f"{store}?revision=3"))
    assert "The machine was changed since this version was planned" in page
    assert ">60<" in client.get(store).text.replace("\n", "").replace(" ", "")
    form = form_on(client, f"{store}?revision=3", store)
    sent(client, form, slot="4")
    sent(client, form_on(client, f"{store}?revision=3", store), slot="1", label="")
    assert "Out of date" not in words_of(client.get(memories_page))
    assert "letters that can be printed" in client.post(store, data={"slot": "2", "label": "x" * 41}).text
    # Fewer memories: those past the end are gone from the list, and from what is out of date.
    with make_session.begin() as session:
        row = session.get(MachineRow, 2)
        fewer = shop.find_machine(session, "Heron 320").model_copy(update={"memory_slots": 3})
        shop.change_machine(session, row, fewer)
    assert "1 of 3 used, the next free one is 2" in words_of(client.get(memories_page))


def test_lists_say_amps_as_the_panel_counts_them(client, make_session, tank):
    """A sine machine that counts rms shows 1/√2 of the peak: no list says the peak to whoever sets it."""
    with make_session.begin() as session:
        heron = shop.find_machine(session, "Heron 320")
        amps = heron.control("amps_set").model_copy(update={"basis": "rms"})
        rest = tuple(each for each in heron.controls if each.setting not in ("amps_set", "shape_en"))
        old = {"name": "Old sine", "shapes": ("sine",), "controls": (amps, *rest)}
        shop.add_machine(session, heron.model_copy(update=old))
    client.post(f"/jobs/{tank}/machines", data={"machine": "Old sine"})
    with make_session() as session:
        plan = book.find_plan(session, tank)
        peak = plan.settings["amps_set"]
        (shown,) = [line["shown"] for line in plan.plan["panel"]["lines"] if line["setting"] == "amps_set"]
    assert float(shown) < 0.8 * peak
    client.post(f"/jobs/{tank}/recipe", data={"recipe": "Sine"})
    assert f'class="book-amps">{shown}<i>A' in client.get("/book").text
    assert f"Float tank lid , {shown} A, Old sine" in words_of(client.get("/"))
    assert f"<b>{shown} A</b>" in client.get("/recipes").text


def test_names_of_recipes_in_every_alphabet(client, make_session, job_id):
    """Large and small letters are the same beyond ASCII too, in lists, versions, marks and the search."""
    jobs = [job_id(name) for name in ("Float tank", "Rigger", "Survey")]
    for job, name, status in zip(jobs, ("Ärmel", "ärmel", "Äste"), (303, 422, 303), strict=True):
        assert client.post(f"/jobs/{job}/recipe", data={"recipe": name}).status_code == status
    data = {"recipe": "x", "version_of": "ärmel", "why": "wider"}
    assert client.post(f"/jobs/{jobs[1]}/recipe", data=data).status_code == 303
    number = recipe_id(make_session, "Ärmel")
    for tags in ("lid", "lid, tank"):
        assert client.post(f"/recipes/{number}/mark", data={"tags": tags}).status_code == 303
    page = client.get(f"/recipes/{number}")
    assert page.text.count("version 1 of") + page.text.count("version 3 of") == 2
    assert "Ärmel" in client.get("/book?q=ÄRM").text
    assert [one["name"] for one in client.get("/api/recipes").json()["recipes"]][-2:] == ["Ärmel", "Äste"]


def test_marks_go_with_the_name_and_are_not_lost_between_windows(client, make_session, tank):
    number = recipe_id(make_session, LID)
    page = f"/recipes/{number}"
    first, second = (form_on(client, page, f"{page}/mark") for _ in range(2))
    assert sent(client, first, tags="lid, bright", favourite="1").status_code == 303
    answer = sent(client, second, tags="tank")
    assert answer.status_code == 422
    assert "the marks of Tank lid" in words_of(answer)
    assert 'value="tank"' in answer.text
    # Under another name they are the same marks; the last version takes them with it.
    revision = str(newest(make_session, tank))
    assert (
        client.post(f"/jobs/{tank}/recipe", data={"recipe": "Lid", "revision": revision}).status_code == 303
    )
    (one,) = client.get("/api/recipes").json()["recipes"]
    assert (one["name"], one["tags"], one["favourite"]) == ("Lid", ["lid", "bright"], True)
    assert "No recipe is like that" in client.get("/recipes?q=zzz").text
    client.post(f"/recipes/{one['id']}/drop")
    with make_session() as session:
        assert not recipe_marks.marks_of(session)


def test_a_run_and_a_coupon_belong_to_the_version_that_was_welded(client, make_session, tank):
    """Somebody changes the board in the office while a tablet at the machine shows the version before."""
    runs, coupon = f"/jobs/{tank}/runs", f"/jobs/{tank}/coupon"
    ran = newest(make_session, tank)
    forms = [form_on(client, runs, runs), form_on(client, coupon, coupon)]
    client.post(f"/jobs/{tank}/as-set", data={"ep_share": "66"})
    assert newest(make_session, tank) == ran + 1
    bad = sent(client, forms[0], seconds="0")
    assert f"with version {ran}" in words_of(bad)
    assert f'name="revision" value="{ran}"' in bad.text
    sent(client, forms[0])
    bad = sent(client, forms[1], bead_width_mm="x")
    assert f"Run as version {ran} says" in words_of(bad)
    sent(client, forms[1], bead_width_mm="7")
    older = client.get(f"{coupon}?revision={ran}")
    assert f"Run as version {ran} says" in words_of(older)
    with make_session() as session:
        assert part_runs.runs(session, tank)[0][0].revision == ran
        assert coupons.find_coupons(session, tank, 1)[0].plan.revision == ran


def test_a_weld_on_a_part_is_photographed(client, make_session, tank):
    """The picture belongs to the run and to no coupon; a bad one logs nothing."""
    page, picture = f"/jobs/{tank}/runs", io.BytesIO()
    Image.new("RGB", (640, 480), "grey").save(picture, "PNG")
    waited = client.get(f"/jobs/{tank}/coupon").text.count("/picture")
    taken = {"file": ("lid.png", picture.getvalue(), "image/png")}
    answer = client.post(page, data={"seconds": "30", "part": "Lid", "serial": "7"}, files=taken)
    assert answer.status_code == 303
    with make_session() as session:
        (row, _, run), *_ = logged = part_runs.runs(session, tank)
        (shown,) = attachments.of_runs(session, [row.id]).values()
        assert run.serial == "7"
    picture_address = f"/jobs/{tank}/photographs/{shown}/picture"
    assert f'src="{picture_address}"' in client.get(page).text
    assert 'alt="Photograph of Lid 7"' in client.get(page).text
    assert client.get(picture_address).headers["content-type"] == "image/jpeg"
    assert client.get(f"/jobs/{tank}/coupon").text.count("/picture") == waited
    with make_session.begin() as session:
        attachment, newest_coupon = (
            session.get(AttachmentRow, shown),
            coupons.find_coupons(session, tank, 1)[0],
        )
        attachments.give_to(session, attachment, newest_coupon)
        assert attachment.coupon_id is None
    bad = client.post(page, data={"seconds": "30"}, files={"file": ("lid.png", b"no picture", "image/png")})
    assert (bad.status_code, 'id="problem-photograph"' in bad.text) == (422, True)
    refused = client.post(page, data={"seconds": "0"}, files=taken)
    assert (refused.status_code, 'id="choose-again"' in refused.text) == (422, True)
    with make_session() as session:
        assert len(part_runs.runs(session, tank)) == len(logged)
    away = client.post(f"/jobs/{tank}/photographs/{shown}/put-away")
    assert away.headers["location"] == page
    assert picture_address not in client.get(page).text
    client.post(f"/jobs/{tank}/photographs/{shown}/bring-back")
    assert picture_address in client.get(page).text


def test_welds_on_parts_in_two_taps(client, make_session, tank):
    page = f"/jobs/{tank}/runs"
    form = form_on(client, page, page)
    assert (form["fields"]["part"], form["fields"]["serial"], form["fields"]["welder"]) == (
        "Float tank",
        "FT-014",
        "Ottilie",
    )
    assert sent(client, form).headers["location"] == page
    with make_session() as session:
        row, title, run = part_runs.runs(session, tank)[0]
        planned_s = run.seconds
        assert (title, run.serial, row.revision) == ("Float tank lid", "FT-014", 3)
        assert run.gas_l > 5
        assert run.rod_mm > 300
    assert form_on(client, page, page)["fields"]["serial"] == "FT-015"
    client.post(
        page,
        data={"seconds": f"{2 * planned_s:.0f}", "gas_l": "40", "remarks": "=HYPERLINK(1)", "part": "Lid"},
    )
    with make_session() as session:
        longer = part_runs.runs(session, tank)[0][2]
        assert longer.gas_l == 40
        assert longer.rod_mm == pytest.approx(2 * run.rod_mm, rel=0.02)
    for bad in (
        {"seconds": ""},
        {"seconds": "0"},
        {"seconds": "20", "gas_l": "-1"},
        {"seconds": "20", "rod_mm": "x"},
    ):
        answer = client.post(page, data=bad)
        assert answer.status_code == 422
        assert f'id="problem-{list(bad)[-1]}"' in answer.text
    text = client.get("/book/sheets/runs.csv").text.lstrip("\ufeff")
    rows = list(csv.DictReader(io.StringIO(text)))
    assert len(rows) == 5
    assert rows[0]["remarks"] == "'=HYPERLINK(1)"  # no formula for whoever opens the table
    log = words_of(client.get("/runs"))
    assert "5 runs" in log
    assert "certifies no weld" in log
    refused = client.post("/jobs/9999/runs", data={"seconds": "20"})
    assert refused.status_code == 404


def test_the_first_page(client, make_session, tank, tmp_path):
    page = client.get("/")
    said = words_of(page)
    assert "The bench today" in said
    assert f'href="/jobs/{tank}/day"' in page.text
    assert "Float tank lid : Three balances" in said
    assert "0 of 3 runs have a coupon" in said
    assert re.search(r"Argon, van: \d+ L, 40 %", said)
    assert "3 welds on parts" in said
    with make_session.begin() as session:
        for row in book.find_jobs(session):
            shop.put_away(session, row)
    assert client.get("/").headers["location"] == "/book"


def titles(client, query):
    return re.findall(r'<b class="as-typed">([^<]+)</b>\s*<span>', client.get(f"/book?{query}").text)


@pytest.mark.parametrize(
    ("query", "first", "read"),
    [
        ("q=tank", "Float tank lid", ""),
        ("q=ank", "Float tank lid", ""),  # a piece of a word
        ("q=tnak", "Float tank lid", "tank"),  # letters the wrong way round
        ("q=riger bracket", "Rigger bracket, tube to foot", "rigger"),
        ("q=housng", "Instrument housing seam", "housing"),
        ("q=608", "Keel bracket, thick for the bench", ""),  # the beginning of a number
        ("q=ottilie lid", "Float tank lid", ""),
    ],
)
def test_what_was_meant_is_found(client, query, first, read):
    assert titles(client, query)[0] == first or first in titles(client, query)
    page = words_of(client.get(f"/book?{query}"))
    assert ("Nothing has" in page) == bool(read)
    assert read in page


def test_nothing_is_guessed_from_little(client):
    for query in ("q=zzzzzz", "q=tnk", "q=%22%27%20OR", "q=tank zzzzzz"):
        page = client.get(f"/book?{query}")
        assert page.status_code == 200
        assert titles(client, query) == []


def test_the_book_is_narrowed_and_other_things_are_found(client, make_session):
    assert set(titles(client, "machine=Dunlin 180")) == {"Deck plate, old stock"}
    assert set(titles(client, "joint=tee")) == {
        "Keel bracket, thick for the bench",
        "Survey raft rail, 1/8 in 6061",
    }
    assert set(titles(client, "joint=tee&machine=Curlew 220&q=raft")) == {"Survey raft rail, 1/8 in 6061"}
    assert "Float tank lid" in titles(client, "alloy=5083")
    assert titles(client, "since=2999-01-01") == []
    assert set(titles(client, "thinnest=1.4&thickest=1.5")) == set(
        titles(client, "thinnest=.055 in&thickest=1.5 mm")
    )
    sheets = {row["title"]: row["job"]["a"]["thickness"] for row in client.get("/api/jobs").json()["jobs"]}
    eighths = {title for title, thickness in sheets.items() if thickness == "1/8 in"}
    assert eighths <= set(titles(client, "thinnest=3.1&thickest=3.2"))
    assert set(titles(client, "thinnest=5")) | set(titles(client, "thickest=4.999")) == set(sheets)
    assert len(titles(client, "thinnest=thin&thickest=")) == 10
    standing = [
        set(titles(client, f"state={state}")) for state in ("planned", "in_work", "as_wanted", "refused")
    ]
    assert set.union(*standing) == set(sheets)
    assert sum(map(len, standing)) == 10
    assert standing[2] == {"Float tank lid"}
    assert standing[3] == {row["title"] for row in client.get("/api/jobs").json()["jobs"] if row["refused"]}
    with make_session.begin() as session:  # what is damaged is found by what it was, and stops no list
        session.execute(text("UPDATE plans SET job_document = '{' WHERE job_id = 8"))
        session.execute(text("UPDATE readings SET change = 'x'"))
    assert len(titles(client, "thinnest=0.1")) == 10
    assert set(titles(client, "state=as_wanted")) == {"Float tank lid"}
    assert len(titles(client, "since=x&welder=y")) == 10  # what is no day and no number narrows nothing
    page = client.get("/book?q=lid").text
    assert "Tank lid, bright and tight" in page
    assert 'href="/shop/machines/2"' in client.get("/book?q=heron").text
    assert 'href="/metals/6082"' in client.get("/book?q=EN AW-6082").text


def test_what_is_kept_can_be_read_as_json(client, make_session, tank):
    jobs = client.get("/api/jobs").json()
    assert (jobs["count"], jobs["page"], jobs["pages"], len(jobs["jobs"])) == (10, 1, 1, 10)
    lid = client.get("/api/jobs?q=tank&machine=Heron 320").json()["jobs"][0]
    assert (lid["id"], lid["title"], lid["welder"], lid["coupons"]) == (tank, "Float tank lid", "Ottilie", 3)
    assert lid["settings"]["gas"]["flow_l_min"] > 5
    assert lid["state"] == "as_wanted"
    assert [one["id"] for one in client.get("/api/jobs?state=as_wanted").json()["jobs"]] == [tank]
    thin = client.get("/api/jobs?thickest_mm=1.6").json()["jobs"]
    assert {one["uid"] for one in thin} == {
        one["uid"]
        for one in jobs["jobs"]
        if min(parse(str(one["job"][side]["thickness"]), "length", "t") for side in "ab") <= 1.6
    }
    assert 0 < len(thin) < 10
    moment = lid["changed_at"]
    assert moment.endswith("Z")
    assert tank in {one["id"] for one in client.get(f"/api/jobs?since={moment}").json()["jobs"]}
    later = moment.replace("Z", "-05:00")  # five hours later
    assert client.get("/api/jobs", params={"since": later}).json()["count"] == 0
    assert client.get("/api/jobs?state=lost").status_code == 422
    coupons_of = client.get(f"/api/coupons?job={tank}").json()
    assert [one["number"] for one in coupons_of["coupons"]] == [3, 2, 1]
    assert [one["as_wanted"] for one in coupons_of["coupons"]] == [True, False, False]
    assert coupons_of["coupons"][0]["readings"]["bead_width_mm"] == 6.1
    assert client.get("/api/coupons?job=999").json()["count"] == 0
    (recipe,) = client.get("/api/recipes").json()["recipes"]
    assert (recipe["name"], recipe["state"], recipe["versions"]) == (LID, "proved", 1)
    runs = client.get(f"/api/runs?page=7&job={tank}").json()  # past the last page is the last
    assert (runs["page"], runs["count"]) == (1, 3)
    assert runs["runs"][0]["run"]["serial"] == "FT-013"
    for wrong in ("/api/jobs?page=0", "/api/coupons?job=x", "/api/runs?page=1e9"):
        answer = client.get(wrong)
        assert answer.status_code == 422
        assert answer.json()["problems"]


def test_a_memory_is_copied_to_another_machine_as_a_job_of_its_own(client, make_session, tank):
    """The same heat in the other panel's words, a job there with its checklist; what does not come along is not made."""
    copy, newest_before = "/shop/machines/2/memories/1/copy", newest(make_session, tank)
    assert copy in client.get("/shop/machines/2/memories").text
    page = client.get(f"{copy}?machine=Gannet 350")
    assert re.findall(r"<option (?:selected)?\s*>(.*?)</option>", page.text) == ["Curlew 220", "Gannet 350"]
    there, here = map(
        int, re.search(r"Heat (\d+) W on\s+Heron 320, (\d+) W on Gannet 350", page.text).groups()
    )
    assert there == pytest.approx(here, rel=0.01)
    with make_session() as session:
        heron, gannet = (shop.find_machine(session, name) for name in ("Heron 320", "Gannet 350"))
        stored = memories.memories_of(session, heron)[1].row
        settings = Settings.model_validate(book.find_plan(session, stored.job_id, stored.revision).settings)
        wanted = brought_to(settings, gannet)
    shown = dict(re.findall(r'data-set="(\w+)"><span>.*?</span> <b>(.*?)</b>', page.text))
    assert shown == {line.setting: line.shown for line in wanted.panel.lines if line.shown != "off"}
    made = sent(client, form_on(client, f"{copy}?machine=Gannet 350", copy))
    job = int(re.fullmatch(r"/jobs/(\d+)/store", made.headers["location"])[1])
    with make_session() as session:
        row, plan = session.get_one(JobRow, job), book.find_plan(session, job)
        assert (row.title, row.machine, plan.origin) == ("Float tank lid, Gannet 350", "Gannet 350", "swap")
        assert Settings.model_validate(plan.settings) == wanted.mine
        assert in_units(plan.words) == "From a memory of Heron 320: Float tank lid"
        assert next((one.what, one.job_id) for _, one in changes(session)) == ("copy_memory", job)
    stores = form_on(client, f"/jobs/{job}/store", f"/jobs/{job}/store")
    assert sent(client, stores, slot="7").headers["location"] == "/shop/machines/6/memories"
    assert "Float tank lid, Gannet 350" in words_of(client.get("/shop/machines/6/memories"))
    assert newest(make_session, tank) == newest_before  # the job that it came from is as it was
    # A machine too small for it: said, not offered, and not made by a form sent all the same.
    with make_session.begin() as session:
        row = session.scalar(select(MachineRow).where(MachineRow.name == "Curlew 220"))
        small = shop.find_machine(session, "Curlew 220").model_copy(update={"most_a": 60.0, "tig_a": 60.0})
        row.document = document(small)
    page = client.get(f"{copy}?machine=Curlew 220")
    assert "Not taken over" in page.text
    assert "Make it a job" not in page.text
    before = client.get("/api/jobs").json()["jobs"]
    assert client.post(copy, data={"machine": "Curlew 220"}).status_code == 422
    assert client.post(copy, data={"machine": "Dunlin 180"}).status_code == 404
    assert client.get("/shop/machines/2/memories/2/copy").status_code == 404
    assert client.get("/api/jobs").json()["jobs"] == before


def test_what_jobs_begun_from_a_recipe_show_counts_for_it(client, make_session, job_id):
    """The same job begun again and run with its settings bears the recipe out; another thickness or setting does not."""
    first = recipe_id(make_session, LID)

    def proof():
        with make_session() as session:
            (one,) = [each for each in recipes.recipes(session) if each.name == LID]
            behind = recipes.coupons_behind(session, recipes.find_recipe(session, one.plan_id))
            return one.proof.state, one.proof.why, len(behind)

    def recorded(job):
        with make_session.begin() as session:
            row, plan = session.get_one(JobRow, job), book.find_plan(session, job)
            coupons.add_coupon(session, row, plan, Looks(judged={"bright": 2}, overall="keep"))

    before = proof()
    begun = client.post(f"/recipes/{first}/use", data={"title": "Lid, second raft"}).headers["location"]
    job = int(re.search(r"/jobs/(\d+)", begun)[1])
    recorded(job)
    after = proof()
    assert after[2] == before[2] + 1
    assert "2 coupons as wanted" in words_of(client.get(f"/recipes/{first}"))
    assert "Lid, second raft" in client.get(f"/recipes/{first}").text
    with make_session.begin() as session:  # set otherwise, it is another setting
        row, plan = session.get_one(JobRow, job), book.read_plan(book.find_plan(session, job)).plan
        book.add_plan(
            session, row, plan.job, "tuned", "", plan.settings.model_copy(update={"amps_run": 99.0})
        )
    recorded(job)
    assert proof() == after
    # The recipe under another name: what was begun from it stays behind it.
    with make_session.begin() as session:
        recipes.keep_recipe(session, recipes.find_recipe(session, first), "Lid of rafts")
    with make_session() as session:
        (one,) = [each for each in recipes.recipes(session) if each.name == "Lid of rafts"]
        assert len(recipes.coupons_behind(session, recipes.find_recipe(session, one.plan_id))) == after[2]
