"""Shop: machines, kits and welders; putting them away and bringing them back."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal
from urllib.parse import urlencode

from fastapi import Request
from fastapi.responses import HTMLResponse, RedirectResponse
from sqlalchemy.orm import Session

from anvilsong.core.job import School
from anvilsong.core.machine import Machine
from anvilsong.core.torch.kit import Kit
from anvilsong.core.words import sentence
from anvilsong.store import shop
from anvilsong.store.models import KitRow, MachineRow, WelderRow
from anvilsong.store.reading import readable
from anvilsong.web.frame import render, see_other
from anvilsong.web.once import page_router
from anvilsong.web.requests import RowId, found, typed_query, whole

router = page_router()

Kind = Literal["machines", "kits", "welders"]
TABLES: dict[Kind, Any] = {"machines": MachineRow, "kits": KitRow, "welders": WelderRow}
MODELS: dict[Kind, Any] = {"machines": Machine, "kits": Kit, "welders": School}
COLUMNS: dict[Kind, str] = {"machines": "document", "kits": "document", "welders": "school"}
A_PAGE: dict[Kind, int] = {"machines": 14, "kits": 20, "welders": 20}
MOST_LETTERS = 60  # of a name that is looked for


@dataclass(frozen=True)
class Listed:
    """One page of a list of the workshop."""

    of: int
    """How many rows the whole list has."""
    number: int
    pages: int
    here: list[tuple[Any, Any]]
    """Rows with their values; None for one that cannot be read."""


@router.get("/shop", response_class=HTMLResponse)
def show_shop(request: Request) -> HTMLResponse:
    query = typed_query(request)
    asked = query.get("q", "").strip()[:MOST_LETTERS]
    with request.app.state.sessions() as session:
        away = [
            (kind, row) for kind, table in TABLES.items() for row in shop.names(session, table, away=True)
        ]
        lists = {kind: _listed(session, kind, asked, whole(query.get(kind)) or 1) for kind in A_PAGE}
        return render(
            request,
            "shop.html",
            asked=asked,
            is_long=any(one.pages > 1 for one in lists.values()),
            kept_pages={kind: _kept_pages(asked, lists, kind) for kind in lists},
            away=away,
            here="shop",
            machines=lists["machines"],
            kits=lists["kits"],
            welders=lists["welders"],
        )


def _listed(session: Session, kind: Kind, asked: str, number: int) -> Listed:
    """A page of the rows whose names hold what is asked, in the order of their numbers."""
    table, model, column = TABLES[kind], MODELS[kind], COLUMNS[kind]
    wanted = [row.id for row in shop.names(session, table) if asked.lower() in row.name.lower()]
    pages = max(1, -(-len(wanted) // A_PAGE[kind]))
    number = min(max(number, 1), pages)
    rows = shop.rows_of(session, table, wanted[(number - 1) * A_PAGE[kind] : number * A_PAGE[kind]])
    here = [(row, readable(model, getattr(row, column))) for row in rows]
    return Listed(len(wanted), number, pages, here)


def _kept_pages(asked: str, lists: dict[Kind, Listed], kind: Kind) -> str:
    """The address of another page of a list, to be followed by its number; the others stay where they are."""
    others = {other: one.number for other, one in lists.items() if other != kind and one.number > 1}
    kept = urlencode(({"q": asked} if asked else {}) | others)
    return f"/shop?{kept}&" if kept else "/shop?"


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
