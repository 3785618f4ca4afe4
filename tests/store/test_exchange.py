"""Export and import: everything comes back, all or nothing, and every refusal names the place in the file."""

import json
import random
import re
import resource
import shutil
from datetime import datetime, timedelta

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from sqlalchemy import select, text

from anvilsong.core.errors import AnvilsongError, BadInput
from anvilsong.core.job import read_job
from anvilsong.core.plan import make_plan
from anvilsong.core.practice import Practised
from anvilsong.core.shop import PartRun
from anvilsong.core.trials import Layout, StartTest, make_series, ready_made
from anvilsong.core.warming import PRESETS
from anvilsong.demo.machines import MACHINES
from anvilsong.store import (
    attachments,
    bench_trials,
    book,
    calibrations,
    heat_runs,
    memories,
    part_runs,
    practice,
    recipe_marks,
    recipes,
    shop,
)
from anvilsong.store.database import open_database, sessions
from anvilsong.store.exchange import import_from
from anvilsong.store.exchange_format import NOT_CARRIED
from anvilsong.store.export import export_book, export_to
from anvilsong.store.kept_models import MemoryRow, PartRunRow, RecipeRow
from anvilsong.store.models import (
    AttachmentRow,
    Base,
    CouponRow,
    FaultTrialRow,
    GaugeRow,
    JobRow,
    KitRow,
    MachineRow,
    PlanRow,
    WelderRow,
)

JOB = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"})


@pytest.fixture
def whole(make_session):
    """The workshop's export, with a ticked step and something put away, as plain data."""
    with make_session.begin() as session:
        row = book.find_jobs(session, "tank")[0]
        book.tick(session, row, "prep:degrease", True)
        shop.put_away(session, book.find_jobs(session, "cleat")[0])
    with make_session() as session:
        return export_book(session)


def written(tmp_path, data):
    file = tmp_path / "in.json"
    file.write_text(
        data if isinstance(data, str) else json.dumps(data), encoding="utf-8", errors="surrogatepass"
    )
    return file


def without_date(data):
    return {key: value for key, value in data.items() if key != "made_at"}


def test_everything_comes_back(whole, fresh, tmp_path):
    came = import_from(fresh, written(tmp_path, whole))
    assert (came.jobs, came.machines, came.kits, came.welders, came.here_already) == (10, 7, 2, 2, 0)
    with fresh() as session:
        assert without_date(export_book(session)) == without_date(whole)
        tank = book.find_jobs(session, "float tank")[0]
        for coupon in tank.coupons:  # their calibration finds them by these
            named = coupon.plan.job_document
            assert (coupon.machine, coupon.kit) == (named["machine"], named["kit"] or "")
        assert tank.coupons[0].machine
        assert tank.coupons[2].plan.revision == 3
        assert [tick.step for tick in tank.ticks] == ["prep:degrease"]
        assert [(one.name, one.job_id, one.revision, one.coupons) for one in recipes.recipes(session)] == [
            ("Tank lid, bright and tight", tank.id, 3, 1)
        ]
        assert book.find_jobs(session, "cleat") == []
        assert len(book.find_jobs(session, "cleat", away=True)) == 1
        (photograph,) = attachments.attachments_of(session, tank.id)
        assert photograph.coupon_id == tank.coupons[2].id
        assert photograph.document["bead"]["border_left"]["value_mm"] == pytest.approx(1.0, abs=0.2)
        assert photograph.content.startswith(b"\xff\xd8")
    again = import_from(fresh, written(tmp_path, whole))
    assert (again.jobs, again.machines, again.here_already) == (0, 0, 10)
    with fresh() as session:
        assert without_date(export_book(session)) == without_date(whole)


def test_a_drawn_part_comes_along_without_its_film(make_session, fresh, tmp_path):
    with make_session.begin() as session:
        tank = book.find_jobs(session, "float tank")[0]
        heat_runs.add_heat_run(session, tank, 2, PRESETS["box_panel"][1]()).uid = "a" * 32
        damaged = heat_runs.add_heat_run(session, tank, 2, PRESETS["strip"][1]())
        damaged.part = {"thickness_mm": "no part"}
    with make_session() as session:
        file = tmp_path / "parts.json"
        file.write_text(json.dumps(export_book(session)), "utf-8")
    import_from(fresh, file)
    with fresh() as session:
        tank = book.find_jobs(session, "float tank")[0]
        (run,) = tank.heat_runs
        assert heat_runs.part_of(run) == PRESETS["box_panel"][1]()
        assert (run.uid, run.revision, run.result, run.film) == ("a" * 32, 2, None, None)


def test_into_a_book_that_is_not_empty(whole, make_session, fresh, tmp_path):
    """Numbers of rows are given anew; welders and machines of a known name are those that are here."""
    for job in whole["jobs"]:
        job["uid"] = f"{random.Random(job['uid']).getrandbits(128):032x}"
        job["title"] = "Twin of " + job["title"]
    whole["photographs"][0] |= {"job": next(j["uid"] for j in whole["jobs"] if "tank lid" in j["title"])}
    import_from(make_session, written(tmp_path, whole))
    with make_session() as session:
        twin = book.find_jobs(session, "twin tank")[0]
        assert twin.title == "Twin of Float tank lid"
        assert twin.welder.name == "Ottilie"
        assert [coupon.plan.job_id for coupon in twin.coupons] == [twin.id] * 3
        (photograph,) = attachments.attachments_of(session, twin.id)
        assert photograph.coupon_id == twin.coupons[2].id
        assert len(shop.welders(session)) == 2
        assert len(book.find_jobs(session)) == 18


def bent(data, path, value):
    """The data with one place set to a value; ``...`` takes the place out."""
    data = json.loads(json.dumps(data))
    *way, last = path
    place = data
    for part in way:
        place = place[part]
    if value is ...:
        del place[last]
    else:
        place[last] = value
    return data


@pytest.mark.on_file  # the file is read into a database aside before the logbook is asked
@pytest.mark.parametrize(
    ("path", "value", "said"),
    [
        (["version"], 9, "does not say format"),
        (["machines", 2, "document", "most_a"], "inf", "machines.2.document.most_a: “inf”"),
        (["machines", 0, "document", "shapes"], [], "machines.0.document.shapes"),
        (["machines", 1, "document", "name"], "Curlew 220", "machines.1.name: “Curlew 220” cannot be used; it stands twice"),
        (["kits", 0, "document", "tungstens"], [], "kits.0.document.tungstens"),
        (["welders", 0, "school", "pedal"], "lead", "welders.0.school.pedal: “lead”"),
        (["gauge_readings", 1, "bar"], 1e9, "gauge_readings.1.bar"),
        (["jobs", 3, "plans", 0, "settings", "travel_mm_s"], 0.001, "jobs.3.plans.0.settings.travel_mm_s: 0.001"),
        (["jobs", 3, "plans", 0, "settings", "ep_share"], 0.33, "jobs.3.plans.0.plan.settings: .* must be the settings of the same version"),
        (["jobs", 3, "plans", 0, "job_document", "joint"], "scarf", "jobs.3.plans.0.job_document.joint"),
        (["jobs", 3, "welder"], "Nobody", "jobs.3.welder: “Nobody” .* neither in the file nor in the logbook"),
        (["jobs", 9, "coupons", 0, "revision"], 7, "jobs.9.coupons.0.revision"),
        (["jobs", 9, "coupons", 0, "readings", 0, "document", "ripple_pitch_mm"], 1e-7, "jobs.9.coupons.0.readings.0.document.ripple_pitch_mm"),
        (["jobs", 9, "coupons", 1, "number"], 1, "each coupon has a number of its own"),
        (["jobs", 2, "plans"], [], "jobs.2.plans"),
        (["jobs", 9, "ticks"], [{"step": "prep:degrease"}, {"step": "prep:degrease"}], "each step stands once"),
        (["machines"], [{"document": {"name": f"M {n}"}} for n in range(501)], "machines: 501 .* 500 of them at most"),
        (["jobs", 9, "coupons", 0, "readings"], [{}] * 201, "jobs.9.coupons.0.readings: .* 200 of them at most"),
        (["jobs", 2, "title"], "x" * 900_000, "jobs.2.title: .* 120 letters at most"),
        (["jobs", 2], 5, "jobs.2: 5"),
        (["jobs"], ..., "jobs is empty"),
        (["machines"], {"a": 1}, "machines: .* a list"),
        (["photographs", 0, "job"], "0" * 32, "photographs.0.job: .* not in the file"),
        (["photographs", 0, "coupon"], "0" * 32, "photographs.0.coupon: .* not one of its job"),
        (["photographs", 0, "content"], "bm8gcGljdHVyZQ==" * 20, "photographs.0.content: .* a whole JPEG"),
        (["photographs", 0, "content"], "half", "photographs.0.content"),
        (["photographs", 0, "width_px"], 1201, "photographs.0.content: .* of the size that it says"),
        (["photographs", 0, "bead", "marks", "known_mm"], 0.001, "photographs.0.bead.marks.known_mm"),
    ],
)  # fmt: skip
def test_every_refusal_names_its_place_and_nothing_is_stored(whole, fresh, tmp_path, path, value, said):
    with fresh() as session:
        before = without_date(export_book(session))
    with pytest.raises(AnvilsongError, match=said):
        import_from(fresh, written(tmp_path, bent(whole, path, value)))
    with fresh() as session:
        assert without_date(export_book(session)) == before
    assert not [left for left in tmp_path.iterdir() if left.name.startswith(".")]


def test_no_job_stands_twice(whole, fresh, tmp_path):
    doubled = whole | {"jobs": [*whole["jobs"], whole["jobs"][0]]}
    with pytest.raises(
        AnvilsongError, match=rf"jobs.10.uid: “{whole['jobs'][0]['uid']}” .* stands twice in the file"
    ):
        import_from(fresh, written(tmp_path, doubled))
    with fresh() as session:
        assert book.find_jobs(session) == []


@pytest.mark.on_file  # the file is read into a database aside before the logbook is asked
@pytest.mark.parametrize("what", ["machine", "kit"])
def test_a_job_names_machines_and_kits_that_are_somewhere(whole, fresh, tmp_path, what):
    place = ["jobs", 3, "plans", 0]
    other = bent(whole, [*place, "job_document", what], "Nobody’s")
    other = bent(other, [*place, "plan", "job", what], "Nobody’s")  # the plan is of the same job
    said = rf"jobs.3.plans.0.job_document.{what}: “Nobody’s” .* this {what} is neither in the file nor in the logbook"
    with pytest.raises(AnvilsongError, match=said):
        import_from(fresh, written(tmp_path, other))


@pytest.mark.on_file  # the file is read into a database aside before the logbook is asked
def test_as_many_as_are_granted_come_in(whole, fresh, tmp_path):
    """Five hundred machines, and two hundred corrections of a coupon."""
    readings = whole["jobs"][9]["coupons"][0]["readings"] * 200
    more = bent(whole, ["jobs", 9, "coupons", 0, "readings"], readings)
    names = {entry["document"]["name"] for entry in whole["machines"]}
    more["machines"] += [{"document": {"name": f"M {n}"}} for n in range(500 - len(names))]
    assert import_from(fresh, written(tmp_path, more)).machines == 500
    with fresh() as session:
        assert len(book.find_jobs(session, "float tank")[0].coupons[0].readings) == 200


@pytest.mark.on_file  # the file is read into a database aside before the logbook is asked
@pytest.mark.parametrize(
    ("text", "said"),
    [("[1]", r"it does not say format anvilsong-book\.$"), ('{"a": ' + "[" * 41 + "]" * 41 + "}", "deeper than any export")],
)  # fmt: skip
def test_what_is_wrong_with_a_file_is_said(fresh, tmp_path, text, said):
    with pytest.raises(AnvilsongError, match=said):
        import_from(fresh, written(tmp_path, text))


@pytest.mark.on_file  # the file is read into a database aside before the logbook is asked
@pytest.mark.parametrize("text", ["", "{", "[]", "null", "[" * 100_000, '{"format": "anvilsong-book"', '{"a": 1e999}', "\ud800", '{"format": "anvilsong-book", "version": 2, "machines": NaN}'])  # fmt: skip
def test_what_is_no_export_is_a_sentence(fresh, tmp_path, text):
    with pytest.raises(AnvilsongError):
        import_from(fresh, written(tmp_path, text))


def test_an_export_of_version_1_is_still_read(whole, fresh, tmp_path):
    """Machines and kits bare, no dates, no ticks, no uid: twice the same file adds nothing twice."""
    old = {"format": "anvilsong-book", "version": 1, "gauge_readings": whole["gauge_readings"]}
    old |= {name: [entry["document"] for entry in whole[name]] for name in ("machines", "kits")}
    old["welders"] = [{key: welder[key] for key in ("name", "school", "note")} for welder in whole["welders"]]
    old["jobs"] = [
        {
            "title": job["title"],
            "welder": job["welder"],
            "plans": [
                {key: value for key, value in plan.items() if key != "made_at"} for plan in job["plans"]
            ],
            "coupons": [
                {
                    "number": coupon["number"],
                    "revision": coupon["revision"],
                    "readings": [
                        {key: value for key, value in reading.items() if key != "made_at"}
                        for reading in coupon["readings"]
                    ],
                }
                for coupon in job["coupons"]
            ],
        }
        for job in whole["jobs"]
    ]
    assert import_from(fresh, written(tmp_path, old)).jobs == 10
    assert import_from(fresh, written(tmp_path, old)).here_already == 10
    with fresh() as session:
        assert book.find_jobs(session, "tank")[0].coupons[-1].readings[-1].change["kind"] == "keep"


def test_what_was_exported_is_always_accepted(make_session, fresh, tmp_path):
    """Also when rows of the book are damaged: they are left out, counted, and what names them still has its reference."""
    with make_session.begin() as session:
        session.execute(shop.select(shop.MachineRow)).scalars().first().document = {"broken": 1}
        shop.rows(session, shop.KitRow)[0].document = {}
        shop.rows(session, shop.WelderRow)[0].school = {"pedal": "lead"}
        tank = book.find_jobs(session, "tank")[0]
        tank.plans[1].plan = {"half": "a plan"}
        tank.coupons[0].readings[0].verdict = {}
    with make_session() as session:
        out = export_to(session, tmp_path / "out.json")
    assert out.left_out >= 5
    came = import_from(fresh, tmp_path / "out.json")
    assert came.jobs == 10
    with fresh() as session:
        names = [row.name for row in session.scalars(shop.select(shop.MachineRow))]
        assert "Curlew 220" in names  # a stand-in from a plan that keeps it
        assert [plan.revision for plan in book.find_jobs(session, "tank")[0].plans] == [1, 3]


@pytest.mark.on_file  # the file is read into a database aside before the logbook is asked
@pytest.mark.parametrize("kind", ["coupons", "heat_runs", "trials", "machine_trials", "photographs"])
def test_a_name_that_stands_twice_is_refused(make_session, fresh, tmp_path, kind):
    """Whatever has a name of its own: the second one is a sentence with its place, and nothing is stored."""
    with make_session.begin() as session:
        tank = book.find_jobs(session, "float tank")[0]
        heat_runs.add_heat_run(session, tank, 2, PRESETS["strip"][1]())
        tries = StartTest(tungsten_mm=2.4, rows=({"amps": 12, "lit": 10},))
        bench_trials.add_machine_trial(session, "Heron 320", tries)
    with make_session() as session:
        data = export_book(session)
    jobs = [job for job in data["jobs"] if job["title"] == "Float tank lid"]
    entries = data[kind] if kind in data else jobs[0][kind]
    entries.append(json.loads(json.dumps(entries[0])))
    if kind == "coupons":
        entries[-1]["number"] = 99
    with pytest.raises(BadInput) as trouble:
        import_from(fresh, written(tmp_path, data))
    assert kind in trouble.value.problems[0].field or "uid" in trouble.value.problems[0].field
    with fresh() as session:
        assert book.find_jobs(session) == []


def test_a_trial_of_nothing_known_is_refused(make_session, fresh, tmp_path):
    with make_session() as session:
        data = export_book(session)
    tank = next(job for job in data["jobs"] if job["title"] == "Float tank lid")
    for path, value in (("revision", 77), ("coupons", [77])):
        broken = json.loads(json.dumps(data))
        document = next(job for job in broken["jobs"] if job["uid"] == tank["uid"])["trials"][0]["document"]
        (document if path == "revision" else document["runs"][0])[path] = value
        with pytest.raises(BadInput, match="must be of this job"):
            import_from(fresh, written(tmp_path, broken))
    data["machine_trials"] = [
        {
            "uid": "a" * 32,
            "machine": "Nobody",
            "made_at": "2026-01-01T00:00:00",
            "document": {"kind": "starts", "tungsten_mm": 2.4, "rows": [{"amps": 9, "lit": 1}]},
        }
    ]
    with pytest.raises(BadInput, match="neither"):
        import_from(fresh, written(tmp_path, data))


@pytest.mark.on_file  # the file is read into a database aside before the logbook is asked
def test_a_large_file_needs_no_large_memory(whole, fresh, tmp_path):
    """8 MB of jobs raise this process's peak by far less than the file's size."""
    head = {key: value for key, value in whole.items() if key not in ("jobs", "photographs")}
    job = next(job for job in whole["jobs"] if job["title"] == "Float tank lid")
    file = tmp_path / "large.json"
    with file.open("w", encoding="utf-8") as out:
        out.write(json.dumps(head)[:-1] + ', "jobs": [')
        number = 0
        while out.tell() < 8_000_000:
            coupons = [
                coupon | {"uid": f"{number * 10 + n + 1:032x}"} for n, coupon in enumerate(job["coupons"])
            ]
            out.write(
                (", " if number else "")
                + json.dumps(
                    job
                    | {"uid": f"{number:032x}", "coupons": coupons}
                    | {"trials": [], "memories": [], "part_runs": []}
                )
            )
            number += 1
        out.write("]}")
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    assert import_from(fresh, file).jobs == number
    assert resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before < 40_000  # kilobytes


@pytest.mark.on_file  # the file is read into a database aside before the logbook is asked
@pytest.mark.parametrize("seed", range(4))
def test_the_parts_of_a_file_stand_in_any_order(whole, fresh, tmp_path, seed):
    """Jobs before what they name, photographs before their jobs; what is none of ours is passed over."""
    keys = [*whole, "ours_not"]
    random.Random(seed).shuffle(keys)
    mixed = {key: whole.get(key, {"machines": [1, {"a": []}], "jobs": "none"}) for key in keys}
    came = import_from(fresh, written(tmp_path, mixed))
    assert (came.jobs, came.machines, came.kits, came.welders) == (10, 7, 2, 2)
    with fresh() as session:
        assert without_date(export_book(session)) == without_date(whole)


@pytest.mark.on_file  # the file is read into a database aside before the logbook is asked
@pytest.mark.parametrize("left_out", ["kits", "gauge_readings", "fault_trials", "photographs"])
def test_what_may_be_missing(whole, fresh, tmp_path, left_out):
    less = {key: value for key, value in whole.items() if key != left_out}
    if left_out == "kits":  # then no job may name one
        for job in less["jobs"]:
            for plan in job["plans"]:
                plan["job_document"]["kit"] = plan["plan"]["job"]["kit"] = None
    assert import_from(fresh, written(tmp_path, less)).jobs == 10
    with fresh() as session:
        again = export_book(session)
    assert again[left_out] == []
    assert again["welders"] == whole["welders"]


@pytest.mark.on_file  # the file is read into a database aside before the logbook is asked
def test_the_deepest_that_is_read(whole, fresh, tmp_path):
    """Forty in one another are read, forty-one are none of any export's."""
    for depth, fits in ((39, True), (40, False)):
        file = written(tmp_path, whole | {"ours_not": json.loads("[" * depth + "]" * depth)})
        if fits:
            assert import_from(fresh, file).jobs == 10
        else:
            with pytest.raises(AnvilsongError, match="deeper than any export"):
                import_from(fresh, file)


def natural(session):
    """Every row of every table by what it says, its numbers replaced by the names of what they point to."""
    names = {
        "job_id": dict(session.execute(text("SELECT id, uid FROM jobs")).all()),
        "coupon_id": dict(session.execute(text("SELECT id, uid FROM coupons")).all()),
        "welder_id": dict(session.execute(text("SELECT id, name FROM welders")).all()),
        "part_run_id": dict(session.execute(text("SELECT id, uid FROM part_runs")).all()),
        "plan_id": {
            number: f"{uid} {revision}"
            for number, uid, revision in session.execute(
                text("SELECT p.id, j.uid, p.revision FROM plans p JOIN jobs j ON j.id = p.job_id")
            )
        },
    }
    found = {}
    for table in Base.metadata.sorted_tables:
        if table.name in NOT_CARRIED:
            continue
        wanted = [
            c.name for c in table.columns if c.name != "id" and f"{table.name}.{c.name}" not in NOT_CARRIED
        ]
        found[table.name] = sorted(
            repr({name: named(table.name, name, row[name], names) for name in wanted})
            for row in session.execute(select(table)).mappings()
        )
    return found


def named(table, column, value, names):
    if column in names:
        return names[column].get(value)
    dropped = [each.rpartition(".")[2] for each in NOT_CARRIED if each.startswith(f"{table}.{column}.")]
    return {key: each for key, each in value.items() if key not in dropped} if dropped else value


@settings(max_examples=4, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(seed=st.integers(0, 10**6))
def test_every_column_of_every_table_comes_back(workshop_file, database_server, tmp_path_factory, seed):
    """A book in which every column says something of its own, through export and import: only what is named as not carried differs.

    From a file to a server and to a file again, the exports are the same byte for byte.
    """
    chance, folder = random.Random(seed), tmp_path_factory.mktemp("columns")
    source = sessions(open_database(shutil.copy(workshop_file, folder / "source.sqlite")))
    moment = lambda: datetime(2026, 1, 1) + timedelta(seconds=chance.randrange(10**7))  # noqa: E731
    with source.begin() as session:
        tank = book.find_jobs(session, "float tank")[0]
        for key, words in PRESETS.items():
            if chance.random() < 0.5 and (drawing := words[1]()) is not None:
                heat_runs.add_heat_run(session, tank, 1 + chance.randrange(2), drawing)
                assert key
        made = make_plan(JOB, MACHINES[0]).settings
        for ready in ready_made(JOB, made, MACHINES[0]):
            if chance.random() < 0.5:
                bench_trials.add_trial(session, tank, make_series(Layout(*ready[1:]), JOB, made, MACHINES[0]))
        for number in range(3):
            session.add(GaugeRow(cylinder="Argon", bar=number + chance.random(), note=str(number)))
            session.add(FaultTrialRow(sign="soot", cause="gas", helped=chance.random() < 0.5))
        session.flush()
        for table in (MachineRow, KitRow, WelderRow, JobRow, AttachmentRow):
            for row in session.scalars(select(table)):
                row.put_away_at = moment() if chance.random() < 0.4 else None
        for table in (*(mapper.class_ for mapper in Base.registry.mappers),):
            for row in session.scalars(select(table)):
                for column in ("made_at", "done_at", "changed_at"):
                    if hasattr(row, column) and f"{table.__tablename__}.{column}" not in NOT_CARRIED:
                        setattr(row, column, moment())
        for row in session.scalars(select(CouponRow)):
            row.left_out = chance.random() < 0.3
        for row in session.scalars(select(WelderRow)):
            row.note = f"note {chance.random()}"
        for number, row in enumerate(session.scalars(select(PlanRow).where(PlanRow.settings.is_not(None)))):
            if not row.settings:
                continue
            row.recipe = f"Recipe {number // 2}" if chance.random() < 0.5 else None
            row.recipe_why = "Brighter" if row.recipe and chance.random() < 0.5 else ""
            row.recipe_at = moment() if row.recipe else None
            if row.recipe and chance.random() < 0.5:
                recipe_marks.mark_recipe(
                    session, row.recipe, "raft, thin", chance.random() < 0.5, chance.random() < 0.5
                )
            if chance.random() < 0.5 and (machine := row.job_document.get("machine")) == "Heron 320":
                memories.store_now(
                    session, shop.find_machine(session, machine), row, 1 + number % 3, f"M{number}"
                )
            if chance.random() < 0.5:
                part_runs.add_run(
                    session, row.job, row, PartRun(part="Lid", serial=str(number), seconds=40 + number)
                )
        for number in range(chance.randrange(4)):
            done = Practised(skill="pedal", item="hold", score=number * 31.5, on="Tank", seconds=12.5)
            practice.add_practised(session, chance.choice(["", "Bram"]), done).made_at = moment()
        for row in session.scalars(select(RecipeRow)):
            row.retired_at = moment() if row.retired_at else None
        for table in (MemoryRow, PartRunRow):
            for row in session.scalars(select(table)):
                row.made_at = moment()
        for row in session.scalars(select(AttachmentRow)):
            ran = session.scalar(select(PartRunRow.id).where(PartRunRow.job_id == row.job_id).limit(1))
            if chance.random() < 0.5 and ran is not None:
                row.coupon_id, row.part_run_id = None, ran
        for row in session.scalars(select(MemoryRow)):
            row.gone_at = moment() if row.gone_at else None
        session.flush()
        for machine, kit in session.execute(select(CouponRow.machine, CouponRow.kit).distinct()).all():
            row = calibrations.refit(session, machine, kit)
            if row is not None:
                row.is_on = chance.random() < 0.5
    target = sessions(open_database(folder / "target.sqlite"))
    with source() as session:
        before = natural(session)
        (folder / "out.json").write_text(json.dumps(export_book(session)), "utf-8")
    import_from(target, folder / "out.json")
    with target() as session:
        after = natural(session)
    assert before["calibrations"]
    for table, rows in before.items():
        assert after[table] == rows, table
    place = database_server.place(folder)
    on_server, back = sessions(open_database(place)), sessions(open_database(folder / "back.sqlite"))
    files = [folder / f"{number}.json" for number in range(3)]
    for make, file in ((source, files[0]), (on_server, files[1]), (back, files[2])):
        if make is not source:
            import_from(make, files[files.index(file) - 1])
        with make() as session:
            export_to(session, file)
    with on_server() as session:
        on_it = natural(session)
    assert {name: rows for name, rows in before.items() if on_it[name] != rows} == {}
    first, *others = [re.sub(rb'"made_at": "[^"]*"', b"", file.read_bytes(), count=1) for file in files]
    assert [other == first for other in others] == [True, True]
    on_server.engine.dispose()
    database_server.drop(place)
