"""The first page: the bench today. Last jobs, what waits, what is out of date or runs out; one search."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.shop import Proof, proof_of
from anvilsong.core.torch.cylinder import gas_left_l
from anvilsong.core.torch.kit import Cylinder
from anvilsong.store import bench_trials, gauges, memories, part_runs, recipe_marks, recipes, shop
from anvilsong.store.lines import book_page
from anvilsong.store.models import now
from anvilsong.store.recipe_proof import evidence_of
from anvilsong.web.frame import render, see_other

router = APIRouter(include_in_schema=False)

LAST_JOBS, MOST_WAITING, MOST_CYLINDERS, LOOKED_AT, DAYS, LOW_SHARE = 6, 5, 12, 20, 7, 0.15


@router.get("/", response_class=HTMLResponse)
def show_home(request: Request) -> Response:
    """What a welder wants to see when the light goes on; an empty logbook leads to the first plan."""
    with request.app.state.sessions() as session:
        page = book_page(session, most=LAST_JOBS)
        if not page.lines:
            return see_other("/book")
        return render(
            request,
            "home.html",
            here="home",
            today=now(),
            lines=page.lines,
            jobs=page.jobs,
            waiting=bench_trials.open_series(session, MOST_WAITING),
            stale=_stale(session),
            gas=_gas(session),
            shaky=_shaky(session),
            week=part_runs.whole(session, since=now() - timedelta(days=DAYS)),
        )


def _shaky(session: Session) -> list[tuple[recipes.Head, Proof]]:
    """Of the recipes saved last, those that are offered and that coupons do not bear out as they should."""
    heads = recipes.newest_heads(session, LOOKED_AT)
    behind = evidence_of(session, [head.plan_id for head in heads])
    marks = recipe_marks.marks_of(session)
    offered = [head for head in heads if not marks.get(head.name.lower(), recipe_marks.Mark()).retired_at]
    proofs = [(head, proof_of(behind[head.plan_id])) for head in offered]
    return [(head, proof) for head, proof in proofs if proof.state == "needs_coupon"][:MOST_WAITING]


def _stale(session: Session) -> list[dict[str, Any]]:
    """Machines with memories that are out of date."""
    known = shop.machines_by_number(session)
    with_memories = {number: machine for number, machine in known.items() if machine.memory_slots}
    stored = memories.memories_of_each(session, with_memories.values())
    old = {
        number: [one.row.slot for one in stored[machine.name].values() if one.is_old]
        for number, machine in with_memories.items()
    }
    return [
        {"id": number, "name": with_memories[number].name, "slots": slots}
        for number, slots in old.items()
        if slots
    ]


def _gas(session: Session) -> list[dict[str, Any]]:
    """Cylinders of the kits by what their last reading leaves, the emptiest first; those never read are left
    out.
    """
    cylinders = dict[str, Cylinder]()
    for kit in shop.kits(session):
        for cylinder in kit.cylinders:
            cylinders.setdefault(cylinder.name, cylinder)
    last_bar = gauges.last_bar(session, cylinders)
    found = list[dict[str, Any]]()
    for name, cylinder in cylinders.items():
        if name not in last_bar:
            continue
        full = gas_left_l(cylinder.volume_l, cylinder.full_bar, cylinder.helium_share)
        left = gas_left_l(cylinder.volume_l, last_bar[name], cylinder.helium_share)
        share = left / full if full else 0.0
        found.append({"name": name, "left_l": left, "share": share, "low": share < LOW_SHARE})
    return sorted(found, key=lambda one: one["share"])[:MOST_CYLINDERS]
