"""Shop: machines and welders."""

from __future__ import annotations

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from anvilsong.store import book
from anvilsong.web.frame import render

router = APIRouter(include_in_schema=False)


@router.get("/shop", response_class=HTMLResponse)
def show_shop(request: Request) -> HTMLResponse:
    with request.app.state.sessions() as session:
        return render(request, "shop.html", machines=book.machines(session), kits=book.kits(session), welders=book.welders(session), here="shop")
