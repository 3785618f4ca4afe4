"""The jobs of an export, some at a time: checked entries, with what is damaged left out and named."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from anvilsong.store.exchange_format import JobEntry
from anvilsong.store.models import CouponRow, JobRow
from anvilsong.store.reading import readable

AT_ONCE, MOST_NAMED = 200, 12
TRIAL_FIELDS = ("uid", "document", "made_at")
MEMORY_FIELDS = ("uid", "revision", "machine", "slot", "label", "gone_at", "panel", "made_at")
PART_RUN_FIELDS = ("uid", "revision", "document", "made_at")
ONE_OF = {"plans": "revision", "heat_runs": "part", "memories": "memory", "part_runs": "run on a part"}
HEAT_FIELDS = ("uid", "revision", "part", "result", "made_at")
PLAN_FIELDS = (
    "revision",
    "origin",
    "words",
    "job_document",
    "machine_document",
    "settings",
    "recipe",
    "recipe_why",
    "recipe_at",
    "from_recipe",
    "plan",
    "made_at",
)


@dataclass
class Written:
    """How much an export holds, and what could not be read and was left out."""

    jobs: int = 0
    machines: int = 0
    damaged: list[str] = field(default_factory=list)
    """What was left out, each named as its owner would look for it."""

    @property
    def left_out(self) -> int:
        """How many entries were left out."""
        return len(self.damaged)

    @property
    def said(self) -> str:
        """The outcome in words."""
        return f"{self.jobs} jobs and {self.machines} machines{self.left_out_said}"

    @property
    def left_out_said(self) -> str:
        """What was left out, as the end of a sentence; empty where nothing was."""
        if not self.damaged:
            return ""
        named = ", ".join(self.damaged[:MOST_NAMED])
        more = f" and {self.left_out - MOST_NAMED} more" if self.left_out > MOST_NAMED else ""
        entries = "entry was" if self.left_out == 1 else "entries were"
        return f"; {self.left_out} damaged {entries} left out: {named}{more}"


def jobs_as_entries(session: Session, welders: set[str], written: Written) -> Iterator[dict[str, Any]]:
    """Every job that passes, oldest first; what does not is named in ``written``."""
    last = 0
    while rows := _next_jobs(session, last):
        for row in rows:
            last = row.id
            entry = _job(row, welders, written)
            if entry is not None:
                yield entry
        session.expunge_all()


def _next_jobs(session: Session, after: int) -> list[JobRow]:
    loaded = (
        selectinload(JobRow.plans).undefer("*"),
        selectinload(JobRow.ticks),
        selectinload(JobRow.heat_runs),
        selectinload(JobRow.trials),
        selectinload(JobRow.memories),
        selectinload(JobRow.part_runs),
        selectinload(JobRow.welder),
        selectinload(JobRow.coupons).selectinload(CouponRow.readings),
    )
    return list(
        session.scalars(
            select(JobRow).where(JobRow.id > after).order_by(JobRow.id).limit(AT_ONCE).options(*loaded)
        )
    )


def _job(row: JobRow, welders: set[str], written: Written) -> dict[str, Any] | None:
    """A job as an entry. When it does not pass as a whole, what does pass of its plans, coupons and ticks is
    kept.
    """
    head: dict[str, Any] = {
        "uid": row.uid,
        "title": row.title,
        "made_at": row.made_at,
        "changed_at": row.changed_at,
        "put_away_at": row.put_away_at,
    }
    head["welder"] = row.welder.name if row.welder and row.welder.name in welders else None
    given: dict[str, list[dict[str, Any]]] = {
        "plans": [{name: getattr(plan, name) for name in PLAN_FIELDS} for plan in row.plans],
        "coupons": [_coupon(coupon) for coupon in row.coupons],
        "ticks": [{"step": tick.step, "done_at": tick.done_at} for tick in row.ticks],
        "heat_runs": [{name: getattr(run, name) for name in HEAT_FIELDS} for run in row.heat_runs],
        "trials": _listed(row.trials, TRIAL_FIELDS),
        "memories": _listed(row.memories, MEMORY_FIELDS),
        "part_runs": _listed(row.part_runs, PART_RUN_FIELDS),
    }
    whole = readable(JobEntry, head | given)
    if whole is None:
        kept: dict[str, Any] = head
        for words, entries in given.items():
            kept = kept | {words: [one for one in entries if _passes(kept, words, one)]}
        whole = readable(JobEntry, kept)
        if whole is None:
            written.damaged.append(f"job “{row.title}”")
            return None
        for words, entries in given.items():
            lost = len(entries) - len(kept[words])
            one = ONE_OF.get(words, words.removesuffix("s"))
            written.damaged += [f"a {one} of job “{row.title}”"] * lost
    return whole.model_dump(mode="json", by_alias=True)


def _listed(rows: Sequence[Any], fields: tuple[str, ...]) -> list[dict[str, Any]]:
    return [{name: getattr(row, name) for name in fields} for row in rows]


def _passes(kept: dict[str, Any], words: str, one: dict[str, Any]) -> bool:
    """Whether one entry of a job's list can be read, beside what is kept of the lists before it."""
    return readable(JobEntry, kept | {words: [one]}) is not None


def _coupon(coupon: CouponRow) -> dict[str, Any]:
    readings = [
        {
            "document": r.document,
            "verdict": r.verdict,
            "change": r.change,
            "typed": r.typed,
            "made_at": r.made_at,
        }
        for r in coupon.readings
    ]
    return {
        "uid": coupon.uid,
        "number": coupon.number,
        "revision": coupon.plan.revision,
        "left_out": coupon.left_out,
        "made_at": coupon.made_at,
        "readings": readings,
    }
