"""Practice: the pedal run, on a job's own part with the settings of its newest version."""

from __future__ import annotations

import contextlib
import logging
import time
from collections.abc import Mapping
from typing import Any, NamedTuple

from fastapi import APIRouter, HTTPException, Request, WebSocket
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session
from starlette.requests import HTTPConnection
from starlette.websockets import WebSocketDisconnect

from anvilsong.core import say
from anvilsong.core.checks import MELT_AMBER
from anvilsong.core.errors import BadInput
from anvilsong.core.model import situation
from anvilsong.core.practice import MODES, PRACTICE_PARTS, ModeKey, PedalResult, Practised
from anvilsong.core.practice.seen import BAND
from anvilsong.core.words import sentence
from anvilsong.store import heat_runs, practice, shop
from anvilsong.store.faults import store_fault
from anvilsong.web.asgi import STAYS
from anvilsong.web.codes import qr_code
from anvilsong.web.door.addresses import seen_from_outside
from anvilsong.web.drawings.practice import pedal_drawing
from anvilsong.web.frame import fragment, part, render, see_other, spoken_json, units
from anvilsong.web.job_view import JobView
from anvilsong.web.live import Hearing, LiveRun, NoPlace, weld_over
from anvilsong.web.live.welding import BAD_MESSAGE, Told
from anvilsong.web.live.welding import say as tell
from anvilsong.web.once import page_router
from anvilsong.web.practice_choice import choosable_jobs, chosen_job, chosen_welder
from anvilsong.web.practice_words import advice_lines, headline
from anvilsong.web.requests import Fields, RowId, found, typed_query

log = logging.getLogger("anvilsong")
router = page_router()
sockets = APIRouter()

GONE, NO_PLACE, NOT_STORED, FAILED = 4404, 4429, 4503, 4500


class Chosen(NamedTuple):
    """What is to be practised, by whom."""

    view: JobView
    part: str
    mode: ModeKey
    welder: str


def _chosen(
    session: Session, asked: Mapping[str, str], connection: HTTPConnection, strictly: bool = False
) -> Chosen | None:
    """What an address asks for, or what one would begin with; None without a job that can be welded."""
    view = chosen_job(session, asked, strictly)
    if view is None:
        return None
    has_own = _own_part(session, view) is not None
    key = asked.get("part", "")
    if key not in PRACTICE_PARTS and not (key == "own" and has_own):
        key = "own" if has_own else "strip"
    usual: ModeKey = "hold" if view.job.control == "pedal" else "switch"
    mode = next((each for each in MODES if each == asked.get("mode")), usual)
    return Chosen(view, key, mode, chosen_welder(session, connection, asked, view))


def _own_part(session: Session, view: JobView) -> Any:
    return heat_runs.part_of(heat_runs.newest_heat_run(session, view.row.id))


@router.get("/practice", response_class=HTMLResponse)
def show_practice(request: Request) -> HTMLResponse:
    """Choose a part and a way, and weld it with your own pedal."""
    asked = typed_query(request)
    with request.app.state.sessions() as session:
        chosen = _chosen(session, asked, request)
        welders = [row.name for row in shop.welders(session)]
        if chosen is None:
            return render(request, "practice.html", here="practice", chosen=None, welders=welders)
        done = practice.practised(session, chosen.welder, "pedal", 8)
        return render(
            request,
            "practice.html",
            here="practice",
            chosen=chosen,
            mode=MODES[chosen.mode],
            modes=MODES,
            parts=PRACTICE_PARTS,
            has_own=_own_part(session, chosen.view) is not None,
            jobs=choosable_jobs(session, chosen.view),
            welders=welders,
            done=[(row, one, MODES.get(one.item)) for row, one in done],  # type: ignore[call-overload]
        )


@router.get("/practice/done/{number}")
def show_done(request: Request, number: RowId) -> Response:
    """What an exercise came to, for the page it was done on."""
    with request.app.state.sessions() as session:
        row, done = found(practice.find_practised(session, number))
        earlier = practice.before(session, row)
    if done.pedal is None:
        raise HTTPException(404)
    before = earlier[1] if earlier else None
    return spoken_json(request, {"done": _told(request, done.pedal, done, before)})


def _told(request: Request, result: PedalResult, done: Practised, before: Practised | None) -> Any:
    last = before.pedal if before else None
    return fragment(
        request,
        "practice_done.html",
        done=done,
        result=result,
        headline=headline(result),
        lines=advice_lines(result),
        before=before,
        drawing=part("run", lambda: pedal_drawing(result, last)),
    )


@router.post("/practice/erase")
def erase_practice(request: Request, form: Fields) -> Response:
    """Forget all that a welder practised."""
    welder = form.get("welder", "")[:60]
    with request.app.state.sessions.begin() as session:
        count = practice.erase(session, welder)
    who = welder or "nobody named"
    return see_other("/practice", sentence("web.practice_erased", count=count, who=who))


@router.get("/practice/pedal/{token}", response_class=HTMLResponse)
def show_hand(request: Request, token: str) -> HTMLResponse:
    """This device as the pedal of a run on another one."""
    live = request.app.state.live_runs.find(token)
    if live is None:
        raise HTTPException(404)
    return render(
        request, "practice_hand.html", here="practice", token=live.token, mode=MODES[live.task.mode]
    )


@sockets.websocket("/practice/live")
async def weld_live(socket: WebSocket) -> None:
    """A run: a new one, or one that goes on after its page was away."""
    await socket.accept()
    runs = socket.app.state.live_runs
    token = socket.query_params.get("run")
    with contextlib.suppress(WebSocketDisconnect):
        try:
            if token:
                live = runs.find(token)
            else:
                runs.make_place()
                live = await runs.made(_begun, socket)
            if live is None:
                await _end(socket, GONE, sentence("web.run_gone"))
                return
            if token is None:
                runs.add(live)
        except NoPlace:
            await _end(socket, NO_PLACE, sentence("web.run_no_place"))
        except BadInput as trouble:
            await _end(socket, GONE, say.joined(*(one.sentence for one in trouble.problems), by=" "))
        else:
            await _welded(socket, live)


async def _welded(socket: WebSocket, live: LiveRun) -> None:
    """Weld a run to its end and say what came of it. Where the page goes away, the run waits for it."""
    runs = socket.app.state.live_runs
    try:
        task = await runs.made(_task_of, socket, live)
        ended = await weld_over(socket, live, runs.stepper, task, socket.scope[STAYS])
    except Told as told:
        await socket.close(told.code, told.reason)
        return
    except WebSocketDisconnect:
        return
    except Exception as error:  # the program's own fault: told once, and the run is forgotten
        log.error("A pedal run failed", exc_info=error)
        runs.drop(live)
        await _end(socket, FAILED, sentence("web.run_failed"))
        return
    if not ended:
        return
    if live.is_given_up and not live.run.has_ended:
        runs.drop(live)
        await _end(socket, 1000, sentence("web.run_given_up"))
        return
    live.left_at = time.monotonic()  # until its page has heard of it
    try:
        async with live.keeping:
            if live.kept_as is None:
                live.kept_as = await runs.made(_kept, socket.app.state.sessions, live)
    except Exception as error:
        fault = store_fault(error)
        if fault is None and not isinstance(error, BadInput):
            raise
        why = fault.said if fault is not None else str(error)
        log.warning("A pedal run could not be stored: %s", error)
        await _end(socket, NOT_STORED, sentence("web.run_not_stored", why=why))
        return
    await tell(socket, {"done": live.kept_as})
    runs.drop(live)
    await socket.close(1000)


@sockets.websocket("/practice/live/hand")
async def hold_pedal(socket: WebSocket) -> None:
    """Another device as the pedal of a run."""
    await socket.accept()
    live, hearing = socket.app.state.live_runs.find(socket.query_params.get("run", "")), Hearing()
    if live is None:
        await socket.close(GONE)
        return
    try:
        async for text in socket.iter_text():
            hand = hearing.read(text)
            if hand is None or hand.do is not None:
                await socket.close(BAD_MESSAGE)
                return
            live.pedal = live.pedal if hand.pedal is None else hand.pedal
            live.travel = live.travel if hand.travel is None else hand.travel
    finally:
        live.pedal = 0.0


async def _end(socket: WebSocket, code: int, said: Any) -> None:
    await tell(socket, {"said": say.in_units(said, units(socket))})
    await socket.close(code)


def _begun(socket: WebSocket) -> LiveRun:
    """A new run as an address asks for it.

    Raises
    ------
    BadInput : no such job, or a part that cannot be welded in real time
    """
    from anvilsong.core.practice.pedal_run import PedalRun, pedal_task

    with socket.app.state.sessions() as session:
        chosen = _chosen(session, dict(socket.query_params), socket, strictly=True)
        if chosen is None:
            raise BadInput.one("job", socket.query_params.get("job"), sentence("web.run_no_job"))
        view = chosen.view
        thickness = min(max(situation(view.job).thickness_mm, 0.5), 25.0)
        own = _own_part(session, view) if chosen.part == "own" else None
        drawing = own or PRACTICE_PARTS[chosen.part if chosen.part != "own" else "strip"][1](thickness)
    task = pedal_task(situation(view.job), view.settings, view.c, drawing, chosen.mode)
    return LiveRun(task, PedalRun(task), view.row.title, view.job.machine, chosen.welder)


def _task_of(socket: WebSocket, live: LiveRun) -> dict[str, Any]:
    """What a page draws a run with."""
    task = live.task
    here = str(socket.base_url).replace("ws", "http", 1)
    pedal = f"{seen_from_outside(socket.app.state.config, here)}/practice/pedal/{live.token}"
    return {
        "token": live.token,
        "length": task.length_mm,
        "begins": task.begins_mm,
        "ends": task.ends_mm,
        "wanted": task.arc.width_mm,
        "band": BAND,
        "sags": MELT_AMBER,
        "beats": task.pulse.rate_hz if MODES[task.mode].over_a_pulse else None,
        "hand": pedal,
        "code": qr_code(pedal),
    }


def _kept(make: Any, live: LiveRun) -> int:
    """The run judged and stored; its number."""
    from anvilsong.core.practice.ideal import ideal_of
    from anvilsong.core.practice.judging import judged, score_of

    ideal = ideal_of(live.task) if MODES[live.task.mode].moves == "pedal" else None
    result = judged(live.run, ideal)
    done = Practised(
        skill="pedal",
        item=live.task.mode,
        score=score_of(live.task, result),
        on=live.on,
        machine=live.machine,
        seconds=round(live.run.last.time_s, 1),
        pedal=result,
    )
    with make.begin() as session:
        return practice.add_practised(session, live.welder, done).id
