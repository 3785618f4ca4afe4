"""Shared fixtures: a store with the workshop in it, the application, a served copy, a browser."""

import shutil
import socket
import sqlite3
import threading
import time
from contextlib import closing

import pytest
import uvicorn
from fastapi.testclient import TestClient
from hypothesis import settings

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
        create_app(Config(data=data_file)), base_url="http://127.0.0.1", follow_redirects=False
    ) as client:
        yield client


@pytest.fixture(scope="session")
def served(workshop_file, tmp_path_factory):
    """The address of a running copy of the workshop."""
    data = shutil.copy(workshop_file, tmp_path_factory.mktemp("served") / "book.sqlite")
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    server = uvicorn.Server(
        uvicorn.Config(create_app(Config(data=data)), host="127.0.0.1", port=port, log_level="warning")
    )
    thread = threading.Thread(target=server.run, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.05)
    yield f"http://127.0.0.1:{port}"
    server.should_exit = True
    thread.join(5)


@pytest.fixture(scope="session")
def browser():
    from playwright.sync_api import expect, sync_playwright

    expect.set_options(timeout=15_000)  # a shared machine may be slow

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
    page.set_default_timeout(30_000)
    yield page
    context.close()
    assert complaints == []
