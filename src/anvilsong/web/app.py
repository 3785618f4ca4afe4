"""The application: one factory, pages and JSON on the same core values."""

from __future__ import annotations

import gc
import logging
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from threading import Timer

from fastapi import FastAPI
from sqlalchemy.orm import Session

from anvilsong import __version__, work
from anvilsong.config import Config
from anvilsong.core.job import read_job
from anvilsong.core.plan import make_plan
from anvilsong.store.calibrations import catch_up
from anvilsong.store.database import Sessions, open_database, sessions
from anvilsong.store.places import OnServer
from anvilsong.store.sent import forget_old
from anvilsong.web.api import book_api, docs_api, drawing_api, plan_api
from anvilsong.web.api.docs_api import describe_api
from anvilsong.web.copying import Copying
from anvilsong.web.door import Guesses, Keeper
from anvilsong.web.errors import register_errors
from anvilsong.web.files import MarkedFiles
from anvilsong.web.guard import Guards, patience
from anvilsong.web.heat_works import HeatWorks, QueuedHeatWorks
from anvilsong.web.live import LiveRuns
from anvilsong.web.once import Answers
from anvilsong.web.once import before_commit as note_form
from anvilsong.web.pages import (
    again_page,
    arc_page,
    as_set_page,
    beside_page,
    blind_page,
    book_page,
    calibration_page,
    card_page,
    care_page,
    changes_page,
    compare_page,
    coupon_page,
    day_page,
    door_page,
    eye_page,
    fault_page,
    guide_page,
    help_page,
    home_page,
    import_page,
    job_page,
    kit_page,
    knob_page,
    ladder_page,
    machine_page,
    map_page,
    memory_copy_page,
    memory_page,
    metal_page,
    order_page,
    panels_page,
    part_page,
    photograph_page,
    power_page,
    practice_page,
    prep_page,
    progress_page,
    proposal_page,
    read_page,
    recipe_page,
    rhythm_page,
    run_page,
    school_page,
    series_page,
    sheet_page,
    shop_page,
    sound_page,
    swap_page,
    together_page,
    torch_page,
    trace_page,
    trace_use_page,
    trigger_page,
    tune_page,
    wall_page,
    wave_page,
    wrong_page,
)
from anvilsong.web.who import before_commit as note_change
from anvilsong.work.queue import Queue

# Two paths that begin alike are told apart by their order here.
PARTS = (
    plan_api,
    drawing_api,
    book_api,
    docs_api,
    door_page,
    import_page,
    sheet_page,
    care_page,
    blind_page,
    home_page,
    book_page,
    job_page,
    kit_page,
    guide_page,
    help_page,
    machine_page,
    knob_page,
    calibration_page,
    metal_page,
    prep_page,
    again_page,
    together_page,
    torch_page,
    trace_page,
    trace_use_page,
    trigger_page,
    tune_page,
    part_page,
    order_page,
    map_page,
    power_page,
    wave_page,
    coupon_page,
    photograph_page,
    read_page,
    ladder_page,
    fault_page,
    wrong_page,
    compare_page,
    beside_page,
    day_page,
    card_page,
    shop_page,
    sound_page,
    swap_page,
    wall_page,
    recipe_page,
    run_page,
    memory_copy_page,
    memory_page,
    arc_page,
    as_set_page,
    proposal_page,
    school_page,
    series_page,
    practice_page,
    rhythm_page,
    changes_page,
    eye_page,
    panels_page,
    progress_page,
)


log = logging.getLogger("anvilsong")
FIRST_PLAN_AFTER_S = 1.0


def _first_plan() -> None:
    make_plan(read_job({"a": {"alloy": "6061", "thickness": 3}, "joint": "butt"}))


def _before_commit(session: Session) -> None:
    """Asked last of all by every write: is it a form that was stored before, who sent it, does somebody still
    wait?
    """
    note_form(session)
    note_change(session)
    patience.before_commit()


def _tidy(make: Sessions) -> None:
    """What can wait: forms of long ago are forgotten, and where a stop came between coupons and what they
    say, that is made up for. A book that cannot be written just now is served all the same.
    """
    try:
        with make.begin() as session:
            forget_old(session)
            catch_up(session)
    except Exception as error:  # damaged, busy or full: the pages say so, each where it matters
        log.warning("The logbook could not be tidied at the start: %s", error)


def create_app(config: Config | None = None) -> FastAPI:
    """The application on a database file; the file is made and migrated when it is not there."""
    config = config or Config()

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        engine = open_database(config.data)
        app.state.sessions = sessions(engine, _before_commit)
        app.state.answers = Answers()
        app.state.live_runs = LiveRuns()
        _tidy(app.state.sessions)
        # What start-up made stays: keep the collector from walking it, which would show as pauses of 100 ms.
        gc.freeze()
        gc.enable()
        queue = Queue(config.data) if isinstance(config.data, OnServer) else None
        work.through(queue)
        app.state.heat_works = HeatWorks() if queue is None else QueuedHeatWorks(queue)
        # The first plan reads every table; neither the start nor a visitor has to wait for that.
        first = Timer(FIRST_PLAN_AFTER_S, _first_plan)
        first.daemon = True
        first.start()
        copying = Copying(config.data) if config.copies and not isinstance(config.data, OnServer) else None
        yield
        first.cancel()
        if copying is not None:
            copying.end()
        app.state.heat_works.close()
        if queue is not None:
            work.through(None)
            queue.close()
        engine.dispose()

    app = FastAPI(
        title="Anvilsong",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        lifespan=lifespan,
    )
    app.mount("/static", MarkedFiles(), name="static")
    register_errors(app)
    describe_api(app)
    app.state.config = config
    app.state.keeper = keeper = Keeper(config.beside) if config.asks_who else None
    app.state.guesses = Guesses()
    app.add_middleware(Guards, config=config, keeper=keeper)
    for module in PARTS:
        app.include_router(module.router)
    app.include_router(practice_page.sockets)
    return app
