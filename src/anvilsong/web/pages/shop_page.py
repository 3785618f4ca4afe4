"""Shop: machines, kits and welders; putting them away and bringing them back."""

from __future__ import annotations

from typing import Any, Literal

from fastapi import Request
from fastapi.responses import HTMLResponse, RedirectResponse

from anvilsong.core.job import School
from anvilsong.core.machine import Machine
from anvilsong.core.torch.kit import Kit
from anvilsong.core.words import sentence
from anvilsong.store import shop
from anvilsong.store.models import KitRow, MachineRow, WelderRow
from anvilsong.store.reading import readable
from anvilsong.web.frame import render, see_other
from anvilsong.web.once import page_router
from anvilsong.web.requests import RowId, found

router = page_router()

Kind = Literal["machines", "kits", "welders"]
TABLES: dict[Kind, Any] = {"machines": MachineRow, "kits": KitRow, "welders": WelderRow}


@router.get("/shop", response_class=HTMLResponse)
def show_shop(request: Request) -> HTMLResponse:
    with request.app.state.sessions() as session:
        machines = [(row, readable(Machine, row.document)) for row in shop.rows(session, MachineRow)]
        kits = [(row, readable(Kit, row.document)) for row in shop.rows(session, KitRow)]
        welders = [(row, readable(School, row.school)) for row in shop.welders(session)]
        away = [(kind, row) for kind, table in TABLES.items() for row in shop.rows(session, table, away=True)]
        return render(
            request, "shop.html", machines=machines, kits=kits, welders=welders, away=away, here="shop"
        )


@router.post("/shop/{kind}/{row_id}/put-away")
def put_away(request: Request, kind: Kind, row_id: RowId) -> RedirectResponse:
    """Leave a machine, kit or welder out of the shop; jobs that name it keep it."""
    with request.app.state.sessions.begin() as session:
        row = found(session.get(TABLES[kind], row_id))
        shop.put_away(session, row)
        name = row.name
    return see_other("/shop", f"{name} was archived.", f"/shop/{kind}/{row_id}/bring-back")


@router.post("/shop/{kind}/{row_id}/bring-back")
def bring_back(request: Request, kind: Kind, row_id: RowId) -> RedirectResponse:
    """Undo: it is in the shop again."""
    with request.app.state.sessions.begin() as session:
        row = found(session.get(TABLES[kind], row_id))
        shop.bring_back(session, row)
        name = row.name
    return see_other("/shop", sentence("web.workshop_again", name=name))
