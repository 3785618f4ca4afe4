"""The door: the passphrase, who works at this browser, this page on a phone, and who changed what."""

from __future__ import annotations

from threading import Semaphore
from typing import Any
from urllib.parse import quote

from fastapi import APIRouter, Request
from fastapi.responses import FileResponse, HTMLResponse, JSONResponse, Response
from starlette.responses import RedirectResponse

from anvilsong.core.errors import AnvilsongError, BadInput
from anvilsong.core.words import sentence
from anvilsong.store import book, shop
from anvilsong.store.changes import A_PAGE, changes
from anvilsong.web.asgi import VISIT
from anvilsong.web.change_words import change_words
from anvilsong.web.codes import qr_code
from anvilsong.web.door import Guesses, Keeper, Visit, fresh
from anvilsong.web.door.addresses import addresses
from anvilsong.web.door.certificate import certificate_of
from anvilsong.web.door.visits import VISIT_COOKIE, VISIT_S, WHO_COOKIE
from anvilsong.web.files import ASK_AGAIN, folder, mark
from anvilsong.web.frame import render, see_other
from anvilsong.web.requests import Fields, found, own_address, whole

router = APIRouter(include_in_schema=False)

# A guess takes a tenth of a second of computing: two at a time leave the rest of the machine to the pages.
_AT_ONCE = Semaphore(2)
YEAR_S = 365 * 24 * 3600


@router.get("/enter", response_class=HTMLResponse)
def show_enter(request: Request, next: str = "/", ticket: str = "") -> Response:
    """Ask for the passphrase, or let a phone in that brings a ticket."""
    keeper: Keeper | None = request.app.state.keeper
    to = own_address(next, "/")
    if keeper is None or request.scope.get(VISIT) is not None:
        return RedirectResponse(to, 303)
    visits = keeper.visits()
    if ticket and visits:
        visit = visits.take(ticket)
        if visit is not None:
            return _let_in(request, keeper, visit, to)
        return _enter(request, to, sentence("web.ticket_is_over"), 403)
    return _enter(request, to)


@router.post("/enter", response_model=None)
def enter(request: Request, form: Fields) -> Response:
    """Let in who knows the passphrase."""
    keeper: Keeper | None = request.app.state.keeper
    to = own_address(form.get("next", ""), "/")
    if keeper is None:
        return RedirectResponse(to, 303)
    guesses: Guesses = request.app.state.guesses
    address = request.client.host if request.client else ""
    wait_s = guesses.begin(address)
    if wait_s > 0:
        answer = _enter(request, to, sentence("web.wait_before_guess", seconds=int(wait_s) + 1), 429)
        answer.headers["retry-after"] = str(int(wait_s) + 1)
        return answer
    lock = keeper.lock()
    with _AT_ONCE:
        fits = lock is not None and lock.fits(form.get("passphrase", ""))
    if not fits:
        return _enter(request, to, sentence("web.not_the_passphrase"), 403)
    guesses.right(address)
    return _let_in(request, keeper, fresh(), to)


def _enter(request: Request, to: str, trouble: Any = "", status: int = 200) -> HTMLResponse:
    answer = render(request, "enter.html", status, to=to, trouble=trouble)
    answer.headers["cache-control"] = "no-store"
    return answer


def _let_in(request: Request, keeper: Keeper, visit: Visit, to: str) -> Response:
    """Begin a visit; where nobody said who works here, that is asked next."""
    with request.app.state.sessions() as session:
        asks = not visit.who and bool(shop.welders(session))
    answer = RedirectResponse(f"/who?next={quote(to, safe='')}" if asks else to, 303)
    _carry(request, answer, keeper, visit)
    return answer


def _carry(request: Request, answer: Response, keeper: Keeper, visit: Visit) -> None:
    visits = keeper.visits()
    if visits is not None:
        answer.set_cookie(
            VISIT_COOKIE,
            visits.note(visit),
            max_age=VISIT_S,
            httponly=True,
            samesite="lax",
            secure=request.url.scheme == "https",
        )


@router.get("/who", response_class=HTMLResponse)
def show_who(request: Request, next: str = "/") -> HTMLResponse:
    """Who works at this browser; nothing but a name, and no passphrase of one's own."""
    return _who(request, own_address(next, "/"))


def _who(request: Request, to: str, trouble: AnvilsongError | None = None) -> HTMLResponse:
    with request.app.state.sessions() as session:
        names = [welder.name for welder in shop.welders(session)]
    return render(request, "who.html", 422 if trouble else 200, to=to, names=names, trouble=trouble)


@router.post("/who", response_model=None)
def choose_who(request: Request, form: Fields) -> Response:
    """From now on what this browser writes carries this name."""
    who, to = form.get("who", ""), own_address(form.get("next", ""), "/")
    with request.app.state.sessions() as session:
        names = [welder.name for welder in shop.welders(session)]
    if who and who not in names:
        return _who(request, to, BadInput.one("who", who, sentence("store.choose_one_list")))
    answer = see_other(to)
    keeper: Keeper | None = request.app.state.keeper
    if keeper is None:
        answer.set_cookie(WHO_COOKIE, quote(who), max_age=YEAR_S, httponly=True, samesite="lax")
    else:
        _carry(request, answer, keeper, Visit(request.scope[VISIT].number, who))
    return answer


@router.post("/leave", response_model=None)
def leave(request: Request) -> Response:
    """End the visit on this device, and what it kept of the shop's pages."""
    answer = RedirectResponse("/enter", 303)
    for cookie in (VISIT_COOKIE, WHO_COOKIE):
        answer.delete_cookie(cookie)
    answer.headers["clear-site-data"] = '"cache", "storage"'
    return answer


@router.get("/phone", response_class=HTMLResponse)
def show_phone(request: Request, to: str = "/") -> HTMLResponse:
    """This page on a phone: codes that let one device in, or how to make that possible."""
    keeper: Keeper | None = request.app.state.keeper
    config, to = request.app.state.config, own_address(to, "/")
    visits = keeper.visits() if keeper else None
    ways = []
    if visits is not None:
        for address in addresses(config):
            ticket = visits.ticket(request.scope[VISIT].who)
            link = f"{address}/enter?ticket={ticket}&next={quote(to, safe='')}"
            ways.append({"address": address, "code": qr_code(link)})
    answer = render(request, "phone.html", ways=ways, to=to, https=config.https)
    answer.headers["cache-control"] = "no-store"
    return answer


@router.get("/phone/authority", response_model=None)
def hand_out_authority(request: Request) -> Response:
    """The authority that a phone must know before it takes this server's certificate as safe."""
    config = request.app.state.config
    found(config.https or None)
    return FileResponse(
        certificate_of(config.beside).authority,
        filename="anvilsong-authority.crt",
        media_type="application/x-x509-ca-cert",
    )


@router.get("/manifest.webmanifest")
def show_manifest() -> JSONResponse:
    """What a phone needs to install the pages."""
    sizes = (192, 512)
    return JSONResponse(
        {
            "name": "Anvilsong",
            "short_name": "Anvilsong",
            "start_url": "/",
            "scope": "/",
            "display": "standalone",
            "background_color": "#f3f0e8",
            "theme_color": "#1d2125",
            "icons": [
                {
                    "src": f"/static/{mark()}/icons/icon-{size}.png",
                    "sizes": f"{size}x{size}",
                    "type": "image/png",
                    "purpose": "any maskable",
                }
                for size in sizes
            ],
        },
        media_type="application/manifest+json",
    )


@router.get("/worker.js")
def show_worker() -> FileResponse:
    """The worker that keeps pages on a phone; from the root, so that it stands before every page."""
    return FileResponse(
        folder() / "js" / "worker.js", media_type="text/javascript", headers={"cache-control": ASK_AGAIN}
    )


@router.get("/book/changes", response_class=HTMLResponse)
def show_changes(request: Request, job: str = "", before: str = "") -> HTMLResponse:
    """Who changed what: of one job, or of all."""
    job_id = whole(job)
    with request.app.state.sessions() as session:
        title = found(book.get_job(session, job_id)).title if job_id else ""
        rows = changes(session, job_id, whole(before))
    return render(
        request,
        "changes.html",
        rows=[each for _, each in rows],
        older=rows[-1][0] if len(rows) == A_PAGE else None,
        job_id=job_id,
        title=title,
        words=change_words,
    )
