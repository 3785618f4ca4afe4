"""Shared fixtures: a store with the workshop in it, the application, a served copy, a browser."""

import os
import random
import re
import shutil
import socket
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
from contextlib import closing, contextmanager
from pathlib import Path

import pytest
import uvicorn
from fastapi.testclient import TestClient
from hypothesis import settings
from tests.server import Server

from anvilsong.config import Config
from anvilsong.demo.workshop import load_demo
from anvilsong.store.database import open_database, sessions
from anvilsong.web.app import create_app

# No timed tests, and the same cases on every machine.
settings.register_profile("shop", deadline=None, derandomize=True)
settings.load_profile("shop")

CHROMIUM_ARGS = [
    "--no-sandbox",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
    "--disable-gpu",
]


COMMAND = str(Path(sys.executable).with_name("anvilsong"))
# No test measures time: where one waits for an event, it waits long enough for a machine with other work.
ANSWERS_WITHIN_S, PATIENCE_MS = 200.0, 90_000
LISTENS_WITHIN_S = (
    400  # a shared machine may be slow, and a server that never comes up must not stop the rest
)


def open_port():
    """A port that nobody listens on, under those that the system gives to connections that go out."""
    while True:
        port = random.SystemRandom().randrange(20_000, 32_000)
        with socket.socket() as free:
            if free.connect_ex(("127.0.0.1", port)) != 0:
                return port


# Where commands keep their compiled modules, as an installed program does: also where the caller forbids it.
COMPILED = {
    "PYTHONPYCACHEPREFIX": str(Path(tempfile.gettempdir()) / "anvilsong-tests-compiled"),
    "PYTHONDONTWRITEBYTECODE": "",
}


def environment(data, **more):
    """The environment of a command: nothing of ours from outside."""
    own = {name: value for name, value in os.environ.items() if not name.startswith(("ANVILSONG_", "PORT"))}
    patience = {"ANVILSONG_ANSWER_WITHIN_S": str(ANSWERS_WITHIN_S)}
    return own | {"ANVILSONG_DATA": str(data), "PYTHONUNBUFFERED": "1"} | patience | COMPILED | more


class Serving:
    """`anvilsong serve` in a process of its own; what it says goes to a file, so that it never waits for a reader."""

    def __init__(self, data, port, said_file, **more):
        self.port, self.said_file = port, said_file
        self.address = f"http://127.0.0.1:{port}"
        with said_file.open("w") as said:
            self.process = subprocess.Popen(
                [COMMAND, "serve"],
                env=environment(data, ANVILSONG_PORT=str(port), **more),
                stdout=said,
                stderr=subprocess.STDOUT,
            )
        until = time.monotonic() + LISTENS_WITHIN_S
        while not re.search(r"^Anvilsong: .*\n", said_file.read_text(), re.MULTILINE):
            assert self.process.poll() is None, said_file.read_text()
            assert time.monotonic() < until, f"not listening: {said_file.read_text()}"
            time.sleep(0.05)
        self.said = said_file.read_text().splitlines()

    def kill(self):
        self.process.kill()
        self.process.wait(30)


@pytest.fixture
def free_port():
    return open_port()


@pytest.fixture
def run():
    """Runs a command to its end: what it returned, said and complained of."""

    def to_its_end(*arguments, data, given="", cwd=None, **more):
        return subprocess.run(
            [COMMAND, *arguments],
            input=given,
            env=environment(data, **more),
            cwd=cwd,
            capture_output=True,
            text=True,
            timeout=LISTENS_WITHIN_S,
        )

    return to_its_end


@pytest.fixture
def serve(tmp_path_factory):
    """Starts servers; what still runs at the end of the test is killed."""
    folder, running = tmp_path_factory.mktemp("said"), []

    def start(data, port=None, **more):
        server = Serving(data, port or open_port(), folder / f"{len(running)}.txt", **more)
        running.append(server)
        return server

    yield start
    for server in running:
        server.kill()


@pytest.fixture(scope="session")
def workshop_file(tmp_path_factory):
    """A database file with the demo workshop, made once; copy it to change it."""
    path = tmp_path_factory.mktemp("workshop") / "demo.sqlite"
    engine = open_database(path)
    with sessions(engine).begin() as session:
        assert load_demo(session)
    engine.dispose()
    return path


@pytest.fixture(scope="session")
def job_id(workshop_file):
    """The id of a demo job by the beginning of its title."""
    with closing(sqlite3.connect(workshop_file)) as connection:
        ids = dict(connection.execute("SELECT title, id FROM jobs").fetchall())
    return lambda start: next(found for title, found in ids.items() if title.startswith(start))


@pytest.fixture(scope="session")
def database_server():
    """A PostgreSQL server for the tests of this process."""
    server = Server()
    yield server
    server.close()


@pytest.fixture(scope="session")
def workshop_on_server(database_server, tmp_path_factory):
    """A database with the demo workshop, made once; another is made like it to be changed."""
    place = database_server.place(tmp_path_factory.mktemp("on_server"))
    engine = open_database(place)
    with sessions(engine).begin() as session:
        assert load_demo(session)
    engine.dispose()
    return place


@pytest.fixture
def data_file(workshop_file, tmp_path):
    return shutil.copy(workshop_file, tmp_path / "book.sqlite")


@pytest.fixture
def make_session(data_file):
    engine = open_database(data_file)
    yield sessions(engine)
    engine.dispose()


@pytest.fixture
def client(data_file):
    with TestClient(
        create_app(Config(data=data_file, answer_within_s=ANSWERS_WITHIN_S)),
        base_url="http://127.0.0.1",
        follow_redirects=False,
    ) as client:
        yield client


@contextmanager
def answering(data):
    """The address of a server for a file, in this process; `serve` starts those that a test stops."""
    listening = socket.create_server(("127.0.0.1", 0))  # held from here on, so that nobody else takes it
    server = uvicorn.Server(
        uvicorn.Config(create_app(Config(data=data, answer_within_s=ANSWERS_WITHIN_S)), log_level="warning")
    )
    thread = threading.Thread(target=server.run, args=([listening],), daemon=True)
    thread.start()
    until = time.monotonic() + LISTENS_WITHIN_S
    while not server.started:
        assert thread.is_alive(), "the server ended"
        assert time.monotonic() < until, "not listening"
        time.sleep(0.02)
    yield f"http://127.0.0.1:{listening.getsockname()[1]}"
    server.should_exit = True
    thread.join(5)


@pytest.fixture(scope="session")
def served(workshop_file, tmp_path_factory):
    """The address of a running copy of the workshop."""
    with answering(shutil.copy(workshop_file, tmp_path_factory.mktemp("served") / "book.sqlite")) as address:
        yield address


@pytest.fixture(scope="session")
def browser():
    from playwright.sync_api import expect, sync_playwright

    expect.set_options(timeout=PATIENCE_MS)  # a shared machine may be slow

    with sync_playwright() as playwright:
        path = shutil.which("chromium") or shutil.which("chromium-browser")
        browser = playwright.chromium.launch(executable_path=path, args=CHROMIUM_ARGS)
        yield browser
        browser.close()


@pytest.fixture
def page(browser, served):
    """A page on the served workshop; anything the browser complains of fails the test."""
    context = browser.new_context(viewport={"width": 1280, "height": 800}, base_url=served)
    page = context.new_page()
    complaints = []
    page.on("pageerror", lambda error: complaints.append(str(error)))
    page.set_default_timeout(2 * PATIENCE_MS)
    yield page
    context.close()
    assert complaints == []


@pytest.fixture
def open_desk(browser, workshop_file, tmp_path):
    """Opens a window on a workshop of its own, which no other test sees; what the browser complains of fails the test.

    Wait in it with `expect`: the pages forbid evaluated text, so `wait_for_function` passes only where it is true at once.
    """
    opened, complaints = [], []

    with answering(shutil.copy(workshop_file, tmp_path / "book.sqlite")) as address:

        def desk(width=1280, height=900, **more):
            context = browser.new_context(
                viewport={"width": width, "height": height}, base_url=address, **more
            )
            opened.append(context)
            page = context.new_page()
            page.on("pageerror", lambda error: complaints.append(str(error)))
            page.set_default_timeout(2 * PATIENCE_MS)
            return page

        yield desk
        for context in opened:
            context.close()
    assert complaints == []
