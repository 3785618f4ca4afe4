"""A run over a socket: one task hears the hand, another steps the part in real time and says what is seen."""

from __future__ import annotations

import asyncio
import json
import time
from collections.abc import Awaitable, Callable
from typing import Any

import anyio
from starlette.websockets import WebSocket, WebSocketDisconnect, WebSocketState

from anvilsong.core.practice.seen import ENDED, LONGEST_STEP_S, PEDAL_UP, Seen
from anvilsong.web.live.messages import LONGEST_WALK_S, Hearing
from anvilsong.web.live.runs import LiveRun
from anvilsong.web.live.stepping import Stepper

IN_STILL_S = 5.0  # how often it is asked whether who welds may still be here
IDLE_S = 600.0  # that a run waits for its learner with the page open
STEPPED_S = 0.5  # of a run that goes on by steps
BAD_MESSAGE, TAKEN_OVER, NOT_IN, IDLE = 1008, 4001, 4003, 4008


class Told(Exception):
    """The run ends here, for its page: a code of closing and what was the matter."""

    def __init__(self, code: int, reason: str) -> None:
        super().__init__(reason)
        self.code, self.reason = code, reason


async def weld_over(
    socket: WebSocket, live: LiveRun, stepper: Stepper, task: dict[str, Any], may_stay: Callable[[], bool]
) -> bool:
    """Weld until the run ends or is given up; True then, False where the page went away. ``task`` is what the
    page is told first.

    Raises
    ------
    Told : the page said what no page of ours says, another page took the run over, or the visit ended
    """
    live.turn += 1
    live.left_at, mine = None, live.turn

    async def welded() -> bool:
        await say(socket, {"task": task})
        return await _weld(socket, live, mine, stepper, may_stay)

    over = anyio.Event()
    ended: list[bool] = []
    trouble: list[Told] = []

    async def alone(work: Callable[[], Awaitable[bool]]) -> None:
        try:
            ended.append(await work())
        except WebSocketDisconnect:
            ended.append(False)
        except Told as told:
            trouble.append(told)
        over.set()

    stepper.runs += 1
    try:
        async with anyio.create_task_group() as group:
            group.start_soon(alone, lambda: _hear(socket, live))
            group.start_soon(alone, welded)
            await over.wait()
            group.cancel_scope.cancel()
    finally:
        stepper.runs -= 1
        if not any(ended) and live.turn == mine:
            live.left_at, live.pedal, live.is_paused = time.monotonic(), 0.0, True
    if trouble:
        raise trouble[0]
    return any(ended)


async def _hear(socket: WebSocket, live: LiveRun) -> bool:
    """The hand, as it is told; ends when the page goes away or gives up."""
    hearing = Hearing()
    while socket.client_state is WebSocketState.CONNECTED:
        hand = hearing.read(await socket.receive_text())
        if hand is None:
            raise Told(BAD_MESSAGE, "message")
        if hand.pedal is not None:
            live.pedal = hand.pedal
        if hand.travel is not None:
            live.travel = hand.travel
        if hand.do == "stop":
            live.is_given_up = True
            return True
        if hand.do == "step":
            live.due_s = min(live.due_s + STEPPED_S, LONGEST_WALK_S)
        elif hand.do is not None:
            live.is_paused, live.due_s = hand.do == "pause", 0.0
    return False


async def _weld(
    socket: WebSocket, live: LiveRun, mine: int, stepper: Stepper, may_stay: Callable[[], bool]
) -> bool:
    """Step after step as time goes; what a slow machine cannot keep up with is slower, never coarser."""
    before = asked = stepped = time.monotonic()
    was_paused = live.is_paused
    await _show(socket, live.run.last, live)
    while live.run.last.state not in ENDED:
        await asyncio.sleep(max(0.0, before + stepper.step_s - time.monotonic()))
        now = time.monotonic()
        if live.turn != mine:
            raise Told(TAKEN_OVER, "other page")
        if now - asked > IN_STILL_S:
            asked = now
            if not may_stay():
                raise Told(NOT_IN, "not in")
        if now - stepped > IDLE_S:
            raise Told(IDLE, "idle")
        if live.is_paused != was_paused:
            was_paused = live.is_paused
            await _show(socket, live.run.last, live)
        passed, before = min(now - before, LONGEST_STEP_S), now
        if live.is_paused:
            passed = min(live.due_s, LONGEST_STEP_S)
            live.due_s -= passed
        if passed <= 0 or (live.run.last.state == "ready" and live.pedal <= PEDAL_UP):
            continue
        stepped = now
        seen = await stepper.step(live.run, passed, live.pedal, live.travel)
        await _show(socket, seen, live)
    return True


async def _show(socket: WebSocket, seen: Seen, live: LiveRun) -> None:
    """What is seen, in few letters: it goes out fifty times a second."""
    figures = [round(one, 3) if isinstance(one, float) else one for one in seen]
    await say(socket, {"seen": figures, "paused": live.is_paused})


async def say(socket: WebSocket, data: Any) -> None:
    """A message to the page, where it is still there."""
    if socket.application_state is WebSocketState.CONNECTED:
        await socket.send_text(json.dumps(data, separators=(",", ":"), allow_nan=False))
