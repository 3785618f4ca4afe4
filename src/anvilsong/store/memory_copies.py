"""What lies in a memory of one machine, brought to another: a job of its own there. The caller commits."""

from __future__ import annotations

from typing import NamedTuple

from sqlalchemy.orm import Session

from anvilsong.core.checks import newly_broken
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine
from anvilsong.core.plan import worked_out
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.shop import Swap, brought_to, keeps_heat
from anvilsong.core.words import sentence
from anvilsong.store import shop
from anvilsong.store.book import add_job, add_plan
from anvilsong.store.models import JobRow, PlanRow
from anvilsong.store.reading import readable

MOST_TITLE = 120


class Copied(NamedTuple):
    """A version on another machine: the job there, what the swap makes of its settings, why they are not
    taken (empty where they are), and what to look out for that the plan there has not.
    """

    job: Job
    swap: Swap
    against: list[Words]
    cautions: list[Words]


def on_other_machine(session: Session, plan: PlanRow, machine: Machine) -> Copied:
    """A version of a job as another machine would be set for it. Nothing is written.

    Raises
    ------
    BadInput : its job or settings cannot be read
    """
    job, settings = readable(Job, plan.job_document), readable(Settings, plan.settings or {})
    if job is None or settings is None:
        raise BadInput.one("version", plan.revision, sentence("store.what_stored_cannot_read"))
    there = job.model_copy(update={"machine": machine.name})
    bench = shop.bench_of(session, there)
    swap = brought_to(settings, bench.machine, bench.c, job.control)
    planned = worked_out(there, None, *bench).settings
    if planned is None:
        return Copied(there, swap, [sentence("store.refused_plan_has_no")], [])
    broken = newly_broken(there, planned, swap.mine, *bench)
    against = [warning.message for warning in broken if warning.level == "stop"]
    if not keeps_heat(settings, swap.mine) or not swap.keeps_heat:
        against.append(sentence("store.heat_does_not_come_along", name=machine.name))
    cautions = [warning.message for warning in broken if warning.level != "stop"]
    return Copied(there, swap, against, cautions)


def copy_to(session: Session, row: JobRow, plan: PlanRow, machine: Machine) -> JobRow:
    """A new job for the other machine: planned afresh there, then with the settings brought over.

    Raises
    ------
    BadInput : as ``on_other_machine``, or something stands against the settings there
    """
    copied = on_other_machine(session, plan, machine)
    if copied.against:
        raise BadInput.one("machine", machine.name, copied.against[0])
    ending = f", {machine.name}"
    made = add_job(session, row.title[: MOST_TITLE - len(ending)] + ending, copied.job, row.welder_id)
    said = sentence(
        "store.brought_from_memory", machine=plan.job_document.get("machine") or "", title=row.title
    )
    add_plan(session, made, copied.job, "swap", said, copied.swap.mine)
    return made
