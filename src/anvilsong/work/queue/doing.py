"""A worker: takes works from the queue of a logbook and does each in a process that can be ended."""

from __future__ import annotations

import asyncio
import gc
import itertools
import logging
import os
import signal
import time
from collections.abc import Callable
from contextlib import ExitStack
from pathlib import Path
from typing import Any, Literal

from sqlalchemy import text
from sqlalchemy.exc import SQLAlchemyError

from anvilsong.core.errors import AnvilsongError, CannotRead
from anvilsong.core.words import sentence
from anvilsong.store.database import Sessions, open_database, sessions
from anvilsong.store.files import aside, own_file, remove_beside
from anvilsong.store.places import OnServer, beside
from anvilsong.work import rooms, tasks
from anvilsong.work.limits import BOOK, PARTS, PICTURES, Ended, Stopped
from anvilsong.work.queue.asking import TASK
from anvilsong.work.queue.rows import BEAT_S, STALLED_S, WorkRow, Works, address_of, prepare
from anvilsong.work.queue.values import Local, found_json, read_given, refusal_json, sendings

log = logging.getLogger("anvilsong")
ROOMS = {room.words: room for room in (PICTURES, PARTS, BOOK)}
LOOKS_EVERY_S = 0.25
BEATS_A_TIDYING = 1800
MOST_TURNS = 3  # what was begun so often and never ended takes its workers down


def work(place: OnServer, say: Callable[[str], None]) -> None:
    """Do what is asked until told to stop. A worker that is stopped or killed leaves what it was doing to
    others.
    """
    engine = open_database(place)
    prepare(place)
    say(f"Anvilsong works for {place}")
    asyncio.run(_serve(Worker(place, sessions(engine))))


def _leave() -> None:
    """End at once, with what is being computed: another worker does it."""
    rooms.close()
    gc.collect()
    os._exit(0)


async def _serve(worker: Worker) -> None:
    for sign in (signal.SIGTERM, signal.SIGINT):
        asyncio.get_running_loop().add_signal_handler(sign, _leave)
    while True:
        try:
            await _serve_while_there(worker)
        except Exception as error:  # the database of the logbook went away: it will come again
            log.warning("The queue cannot be read just now: %s", error)
            await asyncio.sleep(BEAT_S)


async def _serve_while_there(worker: Worker) -> None:
    from procrastinate import App, PsycopgConnector

    app = App(connector=PsycopgConnector(conninfo=address_of(worker.place), min_size=2, max_size=8))
    app.task(name=TASK)(worker.do)
    async with app.open_async(), asyncio.TaskGroup() as group:
        group.create_task(_take_up_again(app, worker.works))
        # One of each kind at a time: a photograph does not wait for a part.
        for room in ROOMS:
            group.create_task(
                app.run_worker_async(
                    queues=[room],
                    name=room,
                    install_signal_handlers=False,
                    update_heartbeat_interval=BEAT_S,
                    stalled_worker_timeout=STALLED_S,
                    delete_jobs="always",
                )
            )


async def _take_up_again(app: Any, works: Works) -> None:
    """What a worker that is gone was doing is asked for again, and what nobody fetched is forgotten."""
    for beat in itertools.count():
        if beat % BEATS_A_TIDYING == 0:
            await asyncio.to_thread(works.forget_old)
        await asyncio.sleep(BEAT_S)
        for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=STALLED_S):
            await app.job_manager.retry_job(job)


class Worker:
    """Does one work after another."""

    def __init__(self, place: OnServer, make_session: Sessions) -> None:
        self.place, self.make_session, self.works = place, make_session, Works(place)

    def do(self, work: int) -> None:
        """A work by its number, from its beginning to its end."""
        row = self.works.begin(work)
        if row is None:
            return
        if row.turn > MOST_TURNS:
            self.works.finish(row, "failed", refusal_json(Ended(sentence("work.was_lost"))))
            return
        with ExitStack() as files:
            local: dict[Local, Any] = {Local.LOGBOOK: self.place}
            takes = sendings()[row.function].takes
            if Local.SENT in takes:
                local[Local.SENT] = files.enter_context(own_file(beside(self.place), "work"))
                self.works.fetch(row.id, "sent", local[Local.SENT])
            if Local.MADE in takes:
                local[Local.MADE] = aside(beside(self.place), "work")
                files.callback(remove_beside, local[Local.MADE])
            self._end(row, local)

    def _end(self, row: WorkRow, local: dict[Local, Any]) -> None:
        try:
            found = self._found(row, local)
            if found is None:
                self.works.finish(row, "stopped", None)
            elif row.part is not None:
                self._keep(row, row.part, found)
            else:
                made: Path | None = local.get(Local.MADE)
                if made is not None:
                    self.works.send(row.id, "made", made)
                self.works.finish(row, "done", found_json(row.function, found))
        except Stopped:
            self.works.finish(row, "stopped", None)
        except AnvilsongError as refused:
            if isinstance(refused, CannotRead) and refused.what == str(local.get(Local.SENT)):
                refused = CannotRead(Local.SENT.value, refused.why)  # its name here tells nobody anything
            self.works.finish(row, "failed", refusal_json(refused))
        except Exception as error:
            log.error("%s could not be done", row.function, exc_info=error)
            self.works.finish(row, "failed", refusal_json(Ended(sentence("work.failed_there"))))

    def _found(self, row: WorkRow, local: dict[Local, Any]) -> Any:
        """What comes of it, while its row says how far it has come and whether anybody still wants it."""
        function = getattr(tasks, row.function)
        given = read_given(row.function, row.count, row.given, local)
        task = rooms.submit(ROOMS[row.room], function, *given)
        while not task.future.done():
            time.sleep(LOOKS_EVERY_S)
            now = self._goes_on(row, task.share)
            if now == "stops" and row.part is not None:
                task.stop()
            elif now != "on":
                task.end()
        return task.result()

    def _goes_on(self, row: WorkRow, share: float) -> Literal["on", "stops", "lost"]:
        try:
            return self.works.goes_on(row, share)
        except SQLAlchemyError:  # the database went away: the work goes on meanwhile
            return "on"

    def _keep(self, row: WorkRow, part: str, found: Any) -> None:
        """A part's result into the logbook, in the transaction that ends the work: once, whoever else did
        it.
        """
        from anvilsong.store import heat_runs

        ended = {"state": "done", "found": None, "number": row.id, "turn": row.turn}
        with self.make_session.begin() as session:
            if session.connection().execute(text(Works.FINISH), ended).rowcount:
                heat_runs.keep_result(session, part, *found)
