"""Tidewrack Works: two welders, three machines, and the jobs of a shop that builds fittings for rafts and
rowing shells.
"""

from __future__ import annotations

import random
from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from anvilsong.core.bead import NextChange, Readings
from anvilsong.core.job import Job, School, read_job
from anvilsong.core.settings import Settings
from anvilsong.core.shop import PartRun
from anvilsong.core.trials import Layout, Proposals, make_series, ready_made, shuffled
from anvilsong.demo.machines import MACHINES
from anvilsong.demo.pictures import photograph_last
from anvilsong.demo.shelf import BENCH, GAUGES, KITS, VAN
from anvilsong.store import bench_trials, book, coupons, gauges, memories, part_runs, recipes, shop
from anvilsong.store.models import JobRow, PlanRow, WelderRow

WELDERS: tuple[tuple[str, dict[str, str], str], ...] = (
    (
        "Ottilie",
        {"pedal": "patient", "amplitude": "trimmed", "frequency": "tight"},
        "Appearance work: bright beads, narrow straight borders.",
    ),
    ("Bram", {"pedal": "hot", "balance": "middle"}, "Brackets and repairs: hot and quick."),
)

JOBS: tuple[tuple[str, str, dict[str, Any]], ...] = (
    (
        "Cast cleat, worn horn built up",
        "Bram",
        {
            "a": {"alloy": "A356", "thickness": "8 mm"},
            "joint": "build_up",
            "surface": "cast",
            "machine": "Heron 320",
            "weld_length_mm": 60,
        },
    ),
    (
        "Rudder stock, offered in 7075",
        "Bram",
        {
            "a": {"alloy": "7075", "thickness": "10 mm"},
            "joint": "butt",
            "machine": "Heron 320",
            "purposes": ["strength"],
        },
    ),
    (
        "Hatch coaming, gap to bridge",
        "Bram",
        {
            "a": {"alloy": "5052", "thickness": "1.5 mm"},
            "joint": "butt",
            "gap_mm": 2,
            "machine": "Curlew 220",
            "weld_length_mm": 160,
        },
    ),
    (
        "Keel bracket, thick for the bench",
        "Bram",
        {
            "a": {"alloy": "6082", "thickness": "8 mm"},
            "joint": "tee",
            "purposes": ["strength"],
            "machine": "Curlew 220",
            "weld_length_mm": 150,
        },
    ),
    (
        "Mast step ring, bevelled",
        "Bram",
        {
            "a": {"alloy": "5083", "thickness": "10 mm"},
            "joint": "butt",
            "bevel": {"angle_deg": 60, "root_face_mm": 1.6},
            "gap_mm": 1.5,
            "machine": "Heron 320",
        },
    ),
    (
        "Deck plate, old stock",
        "Bram",
        {
            "a": {"alloy": "5052", "thickness": "4 mm"},
            "joint": "lap",
            "surface": "stored",
            "machine": "Dunlin 180",
            "control": "switch_4",
            "weld_length_mm": 240,
        },
    ),
    (
        "Rigger bracket, tube to foot",
        "Bram",
        {
            "a": {"alloy": "6082", "thickness": "5 mm"},
            "b": {"alloy": "6060", "thickness": "2.5 mm", "outside_diameter_mm": 32},
            "joint": "tube_plate",
            "purposes": ["strength"],
            "machine": "Heron 320",
            "weld_length_mm": 100,
        },
    ),
    (
        "Survey raft rail, 1/8 in 6061",
        "Bram",
        {
            "a": {"alloy": "6061", "thickness": "1/8"},
            "joint": "tee",
            "machine": "Curlew 220",
            "weld_length_mm": 400,
        },
    ),
    (
        "Instrument housing seam",
        "Ottilie",
        {
            "a": {"alloy": "5005", "thickness": "1.5 mm"},
            "joint": "outside_corner",
            "purposes": ["appearance", "colour"],
            "machine": "Curlew 220",
            "weld_length_mm": 180,
        },
    ),
    (
        "Float tank lid",
        "Ottilie",
        {
            "a": {"alloy": "5083", "thickness": "3 mm"},
            "joint": "butt",
            "purposes": ["tight"],
            "machine": "Heron 320",
            "weld_length_mm": 520,
        },
    ),
)

# What the big machine's panel proposes by itself for butts, as it was written down.
PROPOSED: tuple[dict[str, Any], ...] = tuple(
    {
        "thickness_mm": thickness,
        "panel": {"amps_set": amps, "ep_share": 70, "frequency_hz": 100, "post_flow_s": after},
        "tungsten_mm": tungsten,
        "rod_mm": rod,
        "flow_l_min": flow,
    }
    for thickness, amps, after, tungsten, rod, flow in (
        (1.5, 66, 5, 1.6, 1.6, 7),
        (2, 90, 6, 2.4, 2.0, 8),
        (4, 180, 10, 3.2, 3.2, 10),
        (6, 250, 14, 3.2, 4.0, 12),
    )
)  # fmt: skip

# The float tank's ladder: the border starts thin on mill-worn sheet, each rung takes the change that was
# proposed.
LADDER: tuple[dict[str, Any], ...] = (
    {
        "bead_width_mm": 6.2,
        "border_left_mm": 0.2,
        "border_right_mm": 0.1,
        "seconds": 27.5,
        "length_mm": 100,
        "ripple_pitch_mm": 1.6,
        "judged": {"specks": 2, "bright": 1},
        "overall": "no",
        "note": "Specks at both toes, dull skin.",
    },
    {
        "bead_width_mm": 6.0,
        "border_left_mm": 0.4,
        "border_right_mm": 0.4,
        "seconds": 27.0,
        "length_mm": 100,
        "ripple_pitch_mm": 1.4,
        "judged": {"specks": 1, "bright": 2},
        "overall": "nearly",
        "note": "Cleaner, a few specks at the start.",
    },
    {
        "bead_width_mm": 6.1,
        "border_left_mm": 1.0,
        "border_right_mm": 0.9,
        "seconds": 27.2,
        "length_mm": 100,
        "ripple_pitch_mm": 1.3,
        "judged": {"specks": 0, "bright": 3},
        "overall": "keep",
        "note": "Bright, even border. As wanted.",
    },
)


def load_demo(session: Session) -> bool:
    """Fill an empty store with the workshop; False when something is already there."""
    if session.scalar(select(func.count()).select_from(JobRow)):
        return False
    for machine in MACHINES:
        shop.add_machine(session, machine)
    table = Proposals.model_validate({"rows": PROPOSED})
    bench_trials.add_machine_trial(session, "Heron 320", table)
    cylinders = {cylinder.name: cylinder for kit in KITS for cylinder in kit.cylinders}
    for kit in KITS:
        shop.save_kit(session, kit)
    for name, bar, note in GAUGES:
        gauges.read_gauge(session, cylinders[name], bar, note)
    welders = {
        name: WelderRow(name=name, school=School.model_validate(school).model_dump(), note=note)
        for name, school, note in WELDERS
    }
    session.add_all(welders.values())
    session.flush()
    row = None
    for title, welder, given in JOBS:
        owned = VAN if given.get("machine") == "Dunlin 180" else BENCH
        job = read_job({**given, "kit": owned.name, "school": welders[welder].school})
        row = book.add_job(session, title, job, welders[welder].id)
    assert row is not None
    _climb(session, row)
    photograph_last(session, row)
    proved = book.find_plan(session, row.id)
    assert proved is not None
    recipes.keep_recipe(session, proved, "Tank lid, bright and tight")
    _lay_out(session, row, proved)
    _keep(session, row, proved)
    return True


def _keep(session: Session, row: JobRow, proved: PlanRow) -> None:
    """The lid's settings in a memory of the big machine, as its first version is too, and welds on lids."""
    heron = shop.find_machine(session, "Heron 320")
    first = book.find_plan(session, row.id, 1)
    assert first is not None
    memories.store_now(session, heron, first, 1, "Lid, before coupons")
    memories.store_now(session, heron, proved, 4, "Tank lid")
    for number in (11, 12, 13):
        run = PartRun(
            part="Float tank", serial=f"FT-{number:03d}", welder="Ottilie", seconds=141, gas_l=21, rod_mm=1650
        )
        part_runs.add_run(session, row, proved, run)


def _lay_out(session: Session, row: JobRow, proved: PlanRow) -> None:
    """A test series that waits to be run, and two versions to be judged blind."""
    made = book.read_plan(proved)
    assert made is not None
    assert made.plan.settings is not None
    job, settings, machine = made.plan.job, made.plan.settings, made.machine
    ready = next(one for one in ready_made(job, settings, machine) if one.key == "balance")
    layout = Layout(ready.title, ready.axes, ready.kept, 2, proved.revision)
    bench_trials.add_trial(session, row, make_series(layout, job, settings, machine))
    blind = shuffled("Version 1 against version 3", (1, proved.revision), 8, random.Random(8))
    bench_trials.add_trial(session, row, blind)


def _climb(session: Session, row: JobRow) -> None:
    """Run the ladder: each rung's settings are the change that the one before proposed."""
    for numbers in LADDER:
        plan = book.find_plan(session, row.id)
        assert plan is not None
        coupon = coupons.add_coupon(session, row, plan, Readings(**numbers))
        change = NextChange.model_validate(coupon.readings[-1].change)
        if change.kind == "setting":
            book.add_plan(
                session,
                row,
                Job.model_validate(plan.job_document),
                "rung",
                change.said,
                Settings.model_validate(change.settings.model_dump(by_alias=True)),
            )
        session.refresh(row)
