"""Kit: what stands on the shelf, ticked and typed in rows; and the log of gauge readings."""

from __future__ import annotations

from fastapi import Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.quantities import parse
from anvilsong.core.torch.kit import Kit
from anvilsong.core.words import sentence
from anvilsong.store import gauges, shop
from anvilsong.store.models import KitRow
from anvilsong.store.reading import digest, readable
from anvilsong.web.frame import render, see_other, units
from anvilsong.web.kit_form import choices, form_of_kit, kit_from_form, rows_of
from anvilsong.web.once import page_router
from anvilsong.web.requests import Fields, RowId, found, own_address, whole

router = page_router()


def _page(
    request: Request, session: Session, form: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    problems = {problem.field.split(".")[0]: problem for problem in trouble.problems} if trouble else {}
    # After a clash the form carries what stands there now: saving it again is then meant.
    here = session.get(KitRow, whole(form.get("kit_id"))) if whole(form.get("kit_id")) else None
    form = form | {"seen": digest(here.document) if here else ""}
    own = readable(Kit, here.document) if here else None
    cylinders = own.cylinders if own is not None else ()
    return render(
        request,
        "kit.html",
        422 if trouble else 200,
        form=form,
        problems=problems,
        trouble=trouble,
        kits=shop.names(session, KitRow),
        own=own,
        choices=choices(own),
        torch_rows=rows_of(form, "torch"),
        cylinder_rows=rows_of(form, "cylinder"),
        logs={cylinder.name: gauges.gauge_log(session, cylinder.name) for cylinder in cylinders},
        here="shop",
    )


@router.get("/shop/kit", response_class=HTMLResponse)
def show_first_kit(request: Request) -> Response:
    """The first kit of the shop, or the form for one."""
    with request.app.state.sessions() as session:
        rows = shop.names(session, KitRow)
    return see_other(f"/shop/kits/{rows[0].id}" if rows else "/shop/kits/new")


@router.get("/shop/kits/new", response_class=HTMLResponse)
def new_kit(request: Request) -> HTMLResponse:
    with request.app.state.sessions() as session:
        return _page(
            request,
            session,
            form_of_kit(Kit(), units(request)) | {"name": "" if shop.kits(session) else "Bench kit"},
        )


@router.get("/shop/kits/{kit_id}", response_class=HTMLResponse)
def show_kit(request: Request, kit_id: RowId) -> HTMLResponse:
    with request.app.state.sessions() as session:
        row = found(session.get(KitRow, kit_id))
        kit = readable(Kit, row.document) or Kit(name=row.name)
        return _page(request, session, form_of_kit(kit, units(request)) | {"kit_id": str(row.id)})


@router.post("/shop/kits")
def save_kit(request: Request, form: Fields) -> Response:
    make = request.app.state.sessions
    try:
        with make.begin() as session:
            row = found(session.get(KitRow, whole(form["kit_id"]))) if whole(form.get("kit_id")) else None
            kit = kit_from_form(form, units(request), readable(Kit, row.document) if row else None)
            kept = shop.save_kit(session, kit, row, form.get("seen") or None).id
    except BadInput as trouble:
        with make() as session:
            return _page(request, session, form, trouble)
    return see_other(f"/shop/kits/{kept}")


@router.post("/shop/gauge")
def record_gauge(request: Request, form: Fields) -> Response:
    with request.app.state.sessions.begin() as session:
        kit = shop.find_kit(session, form.get("kit") or None)
        cylinder = next((item for item in kit.cylinders if item.name == form.get("cylinder")), None)
        if cylinder is None:
            raise BadInput.one("cylinder", form.get("cylinder", ""), sentence("web.take_one_kits_cylinders"))
        gauges.read_gauge(
            session,
            cylinder,
            parse(form.get("bar", ""), "pressure", "bar", units(request)),
            form.get("note", ""),
        )
    return see_other(own_address(form.get("back", ""), "/shop/kit"))
