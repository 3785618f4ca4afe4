"""The logbook that a firm would have after some years.

Three hundred machines of fifteen models and three hundred kits, 2,050 jobs with 100,000 coupons (forty of the
jobs have 500 each, run with versions that follow one another), 5,000 photographs and fifty recipes. What the
demo data brings is recorded and judged by the store; the rest are copies of those rows under other numbers,
so that every page reads real documents.
"""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from sqlalchemy import text
from sqlalchemy.orm import Session

from _years import readings_of
from anvilsong.core.job import Job
from anvilsong.core.settings import Settings
from anvilsong.demo.machines import MACHINES
from anvilsong.demo.shelf import KITS
from anvilsong.demo.workshop import load_demo
from anvilsong.store import book, coupons, shop
from anvilsong.store.calibrations import refit
from anvilsong.store.database import open_database, sessions
from anvilsong.store.models import JobRow

OWNED, JOBS, LONG_JOBS, PHOTOGRAPHS, RECIPES = 300, 2050, 40, 5000, 50
COUPONS, LONG_COUPONS, VERSIONS = 49, 500, 20
PHOTOGRAPH_BYTES, MODELS = 60_000, 15


def make_firm(data: Path) -> dict[str, int]:
    """Write the book; the numbers of one long job, and of the machine with the most coupons."""
    engine = open_database(data)
    make = sessions(engine)
    with make.begin() as session:
        load_demo(session)
        _own(session)
    with make.begin() as session:
        long = _long_job(session)
        _record_some(session, long)
    with make.begin() as session:
        _copy_jobs(session, long)
        _fill_coupons(session, long)
        _keep_recipes_and_photographs(session)
    with make.begin() as session:
        machine = _busiest(session)
    engine.dispose()
    return {"long": long, "machine": machine}


def _own(session: Session) -> None:
    """The firm's machines, of fifteen models that differ in their most amps, and its kits."""
    for n in range(OWNED - len(shop.machines(session))):
        model = MACHINES[n % MODELS % len(MACHINES)]
        most = model.most_a - 5 * (n % MODELS // len(MACHINES))
        shop.add_machine(session, model.model_copy(update={"name": f"{model.name} no. {n}", "most_a": most}))
    for n in range(OWNED - len(shop.kits(session))):
        kit = KITS[n % len(KITS)]
        shop.save_kit(session, kit.model_copy(update={"name": f"{kit.name} no. {n}"}))


def _long_job(session: Session) -> int:
    """One job of twenty versions, and a coupon judged with each."""
    row = session.query(JobRow).filter(JobRow.state != "refused").first()
    assert row is not None
    plan = book.find_plan(session, row.id)
    assert plan is not None
    assert plan.settings is not None
    job, settings = Job.model_validate(plan.job_document), Settings.model_validate(plan.settings)
    for n in range(VERSIONS):
        tuned = settings.model_copy(update={"ep_share": 0.25 + 0.005 * n})
        plan = book.add_plan(session, row, job, "tuned", f"Tuned {n}", tuned)
        coupons.add_coupon(session, row, plan, readings_of(n))
    return row.id


def _record_some(session: Session, long: int) -> None:
    for row in session.query(JobRow).filter(JobRow.id != long):
        plan = book.find_plan(session, row.id)
        if plan is None or plan.settings is None:
            continue
        while (count := coupons.count_coupons(session, row.id)) < 5:
            coupons.add_coupon(session, row, plan, readings_of(count))


def _rows(session: Session, table: str, where: str = "1") -> list[dict[str, Any]]:
    asked = session.execute(text(f"SELECT * FROM {table} WHERE {where} ORDER BY id"))
    return [dict(row._mapping) for row in asked]


def _insert(session: Session, table: str, rows: list[dict[str, Any]]) -> None:
    if rows:
        names = ", ".join(rows[0])
        places = ", ".join(f":{name}" for name in rows[0])
        session.execute(text(f"INSERT INTO {table} ({names}) VALUES ({places})"), rows)


def _owned_by(document: str | None, machine: str, kit: str) -> str | None:
    """A job's document for another machine and kit."""
    return json.dumps(json.loads(document) | {"machine": machine, "kit": kit}) if document else None


def _copy_jobs(session: Session, long: int) -> None:
    """Jobs up to the whole number, on machines and kits in turn; the long one among them forty times."""
    jobs = _rows(session, "jobs")
    plans = {row["id"]: _rows(session, "plans", f"job_id = {row['id']}") for row in jobs}
    words = {row[0]: row[1] for row in session.execute(text("SELECT rowid, text FROM words"))}
    machines = [machine.name for machine in shop.machines(session)]
    kits = [kit.name for kit in shop.kits(session)]
    of_long = next(job for job in jobs if job["id"] == long)
    others = [job for job in jobs if job["id"] != long]
    number, plan_id = max(plans), max(row["id"] for each in plans.values() for row in each)
    for n in range(JOBS - len(jobs)):
        from_job = of_long if n < LONG_JOBS - 1 else others[n % len(others)]
        number += 1
        machine, kit = machines[n % OWNED], kits[(n * 7) % OWNED]
        of_machine = json.dumps(shop.find_machine(session, machine).model_dump(mode="json", by_alias=True))
        title, uid = f"{from_job['title']} {number}", f"{number:032x}"
        named = from_job | {"id": number, "uid": uid, "title": title, "machine": machine}
        _insert(session, "jobs", [named])
        copied = []
        for plan in plans[from_job["id"]]:
            plan_id += 1
            owned = json.loads(plan["plan"])
            owned["job"] |= {"machine": machine, "kit": kit}
            changed = {
                "id": plan_id,
                "job_id": number,
                "job_document": _owned_by(plan["job_document"], machine, kit),
                "machine_document": of_machine,
                "plan": json.dumps(owned),
                "recipe": None,
                "recipe_key": None,
                "recipe_at": None,
            }
            copied.append(plan | changed)
        _insert(session, "plans", copied)
        indexed = {"id": number, "text": f"{words.get(from_job['id'], '')} {number}"}
        session.execute(text("INSERT INTO words (rowid, text) VALUES (:id, :text)"), indexed)
        session.execute(text("INSERT OR IGNORE INTO terms (term) VALUES (:term)"), {"term": str(number)})


def _fill_coupons(session: Session, long: int) -> None:
    """Every job's coupons up to its number, each with the readings of one that was judged."""
    title = session.execute(text("SELECT title FROM jobs WHERE id = :id"), {"id": long}).scalar_one()
    given = _rows(session, "coupons", f"job_id = {long}")
    read = {row["coupon_id"]: row for row in _rows(session, "readings")}
    coupon_id = max(_ids(session, "coupons"))
    reading_id = max(_ids(session, "readings"))
    have = dict(session.execute(text("SELECT job_id, count(*) FROM coupons GROUP BY job_id")).all())
    asked = (
        "SELECT id, title, machine FROM jobs WHERE id IN (SELECT job_id FROM plans WHERE settings != 'null')"
    )
    for job, name, machine in session.execute(text(asked)).all():
        wanted = LONG_COUPONS if name.startswith(title) else COUPONS
        run = session.execute(
            text(
                "SELECT id, json_extract(job_document, '$.kit') FROM plans"
                " WHERE job_id = :job AND settings != 'null' ORDER BY revision"
            ),
            {"job": job},
        ).all()
        rows, readings = [], []
        for n in range(have.get(job, 0), wanted):
            coupon_id, reading_id = coupon_id + 1, reading_id + 1
            plan, kit = run[n * len(run) // wanted]
            like = given[n % len(given)]
            named = {"job_id": job, "plan_id": plan, "number": n + 1, "machine": machine, "kit": kit or ""}
            rows.append(like | named | {"id": coupon_id, "uid": f"{coupon_id:032x}"})
            readings.append(read[like["id"]] | {"id": reading_id, "coupon_id": coupon_id})
        _insert(session, "coupons", rows)
        _insert(session, "readings", readings)


def _ids(session: Session, table: str) -> list[int]:
    return [row[0] for row in session.execute(text(f"SELECT id FROM {table}"))]


def _keep_recipes_and_photographs(session: Session) -> None:
    for statement in (
        "UPDATE plans SET recipe = 'Recipe ' || id, recipe_key = 'recipe ' || id, recipe_at = made_at"
        " WHERE id IN (SELECT max(id) FROM plans WHERE settings != 'null' GROUP BY job_id"
        f" ORDER BY job_id % 41, job_id LIMIT {RECIPES})",
        "INSERT INTO attachments (uid, job_id, coupon_id, kind, media_type, content, document, made_at)"
        " SELECT lower(hex(randomblob(16))), job_id, id, 'photograph', 'image/jpeg',"
        f" zeroblob({PHOTOGRAPH_BYTES}), '{{}}', made_at"
        f" FROM coupons ORDER BY id % 20, id LIMIT {PHOTOGRAPHS}",
    ):
        session.execute(text(statement))


def _busiest(session: Session) -> int:
    """The machine and kit with the most coupons, calibrated anew; the number of the machine."""
    machine, kit = session.execute(
        text("SELECT machine, kit FROM coupons WHERE kit != '' GROUP BY machine, kit ORDER BY count(*) DESC")
    ).first()
    refit(session, machine, kit)
    found = shop.machine_id(session, machine)
    assert found is not None
    return found
