"""What stands in each table: its heads, with their units, and where each value comes from."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from typing import Any, Literal, get_args

from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from anvilsong.core.bead import JudgedWord, Looks
from anvilsong.core.machine import Machine
from anvilsong.core.said import in_units
from anvilsong.store import memories, part_runs, recipes, shop
from anvilsong.store.models import CouponRow, JobRow, MachineRow
from anvilsong.store.reading import readable
from anvilsong.store.recipes import Recipe

Kind = Literal["coupons", "runs", "recipes", "memories"]
KINDS: tuple[Kind, ...] = get_args(Kind)
AT_ONCE = 500

# Heads of what is read back, by the field of `Looks` or `PartRun` that each gives.
COUPON_FIGURES = {
    "bead_width_mm": "bead width [mm]",
    "border_left_mm": "border left [mm]",
    "border_right_mm": "border right [mm]",
    "seconds": "seconds [s]",
    "length_mm": "length [mm]",
    "bead_height_mm": "bead height [mm]",
    "ripple_pitch_mm": "ripple spacing [mm]",
    "border_stray_mm": "border stray [mm]",
    "ball_mm": "ball [mm]",
}
COUPON_WORDS = {
    "tip": "tip",
    "back_side": "back side",
    "crater": "crater",
    "overall": "overall",
    "note": "note",
}
JUDGED: dict[JudgedWord, str] = {word: f"{word} [0 to 3]" for word in get_args(JudgedWord)}
RUN_FIGURES = {
    "seconds": "arc seconds [s]",
    "gas_l": "gas [L]",
    "rod_mm": "filler rod [mm]",
    "cost": "cost",
}
RUN_WORDS = {"part": "part", "serial": "serial", "welder": "welder", "remarks": "remarks"}
WHOSE = ("uid", "job", "job uid", "version", "when [UTC]")

HEADS: dict[Kind, tuple[str, ...]] = {
    "coupons": (
        *WHOSE, "number", "machine", "kit", *COUPON_FIGURES.values(), *JUDGED.values(),
        *COUPON_WORDS.values(), "left out", "as wanted",
    ),
    "runs": (*WHOSE, *RUN_FIGURES.values(), *RUN_WORDS.values()),
    "recipes": (
        "recipe", "versions", "state", "job", "version", "coupons", "alloy a", "thickness a [mm]", "alloy b",
        "thickness b [mm]", "joint", "position", "machine", "kit", "amps on the panel", "peak of EN [A]",
        "EP [%]", "frequency [Hz]", "travel [mm/s]", "tungsten", "tungsten [mm]", "cup", "gas [L/min]",
        "filler", "filler rod [mm]", "preheat [°C]", "tags", "favourite", "retired",
    ),
    "memories": (
        "machine", "memory", "label", "job", "version", "recipe", "since [UTC]", "out of date", "panel",
    ),
}  # fmt: skip


def rows(session: Session, kind: Kind) -> Iterator[tuple[Any, ...]]:
    """The rows of a table under its heads, read piece by piece: text, numbers, moments and None."""
    return {"coupons": _coupons, "runs": _runs, "recipes": _recipes, "memories": _memories}[kind](session)


def _coupons(session: Session) -> Iterator[tuple[Any, ...]]:
    asked = (
        select(CouponRow, JobRow.title, JobRow.uid)
        .join(JobRow, JobRow.id == CouponRow.job_id)
        .order_by(CouponRow.id)
        .options(selectinload(CouponRow.readings), selectinload(CouponRow.plan))
        .execution_options(yield_per=AT_ONCE)
    )
    for row, title, job_uid in session.execute(asked):
        newest = row.readings[-1] if row.readings else None
        looks = readable(Looks, newest.document) if newest is not None else None
        if newest is None or looks is None:
            continue  # damaged: what cannot be read is in a backup alone
        yield (
            row.uid, title, job_uid, row.plan.revision, row.made_at, row.number, row.machine, row.kit,
            *(getattr(looks, name) for name in COUPON_FIGURES), *(looks.judged.get(word) for word in JUDGED),
            *(getattr(looks, name) for name in COUPON_WORDS), _yes(row.left_out),
            _yes(newest.change.get("kind") == "keep"),
        )  # fmt: skip


def _runs(session: Session) -> Iterator[tuple[Any, ...]]:
    uids = {job.id: job.uid for job in session.execute(select(JobRow.id, JobRow.uid))}
    for row, title, run in part_runs.every_run(session):
        yield (
            row.uid, title, uids.get(row.job_id, ""), row.revision, row.made_at,
            *(getattr(run, name) for name in (*RUN_FIGURES, *RUN_WORDS)),
        )  # fmt: skip


def _recipes(session: Session) -> Iterator[tuple[Any, ...]]:
    for one in recipes.recipes(session):
        yield (
            one.name, one.versions, one.proof.state, one.title, one.revision, one.coupons, *_job(one),
            *_settings(one), ", ".join(one.tags), _yes(one.favourite), _yes(one.retired),
        )  # fmt: skip


def _job(one: Recipe) -> tuple[Any, ...]:
    job = one.job
    if job is None:
        return (None,) * 8
    b = job.b or job.a
    return (
        job.a.alloy, job.a.thickness_mm, b.alloy, b.thickness_mm, job.joint, job.position, job.machine,
        job.kit,
    )  # fmt: skip


def _settings(one: Recipe) -> tuple[Any, ...]:
    set_ = one.settings
    if set_ is None:
        return (None,) * 12
    tungsten, filler = set_.tungsten, set_.filler
    return (
        one.amps, set_.amps_set, 100 * set_.ep_share, set_.frequency_hz, set_.travel_mm_s,
        tungsten.class_ if tungsten else None, tungsten.diameter_mm if tungsten else None, set_.cup.number,
        set_.gas.flow_l_min, filler.class_ if filler else None, filler.diameter_mm if filler else None,
        set_.preheat_c,
    )  # fmt: skip


def _memories(session: Session) -> Iterator[tuple[Any, ...]]:
    for row in shop.rows(session, MachineRow):
        machine = readable(Machine, row.document)
        if machine is None or not machine.memory_slots:
            continue
        for slot, one in sorted(memories.memories_of(session, machine).items()):
            panel = "; ".join(f"{line.label} {line.shown}" for line in one.lines)
            yield (
                machine.name, slot, one.row.label, one.title, one.row.revision, one.recipe, one.row.made_at,
                _yes(one.is_old), in_units(panel),
            )  # fmt: skip


def _yes(is_so: bool) -> str:
    return "yes" if is_so else "no"


def when(moment: datetime) -> str:
    """A moment as tables write it, UTC."""
    return moment.strftime("%Y-%m-%d %H:%M:%S")
