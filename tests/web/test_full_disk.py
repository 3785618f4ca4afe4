"""The disk is full: every write says so in one sentence, nothing is half written, and nothing is left lying about."""

import io
import os
import shutil
import sqlite3
import subprocess
import time
from contextlib import closing

import numpy as np
import pytest
from fastapi.testclient import TestClient
from PIL import Image
from tests.web.test_once import COUPON, JOB
from tests.web.test_part import SMALL

from anvilsong.config import Config
from anvilsong.store.backup import backup_to
from anvilsong.web.app import create_app

HTML = {"accept": "text/html"}


@pytest.fixture
def small_disk(tmp_path):
    """A disk of its own of twelve megabytes, where this machine lets us have one."""
    place = tmp_path / "disk"
    place.mkdir()
    made = subprocess.run(["mount", "-t", "tmpfs", "-o", "size=12m", "tmpfs", place], capture_output=True)
    if made.returncode:
        pytest.skip("no disk of its own is to be had here")
    yield place
    subprocess.run(["umount", "--lazy", place], check=True)


def fill(place, leave):
    """Fill the disk but for some bytes."""
    left = os.statvfs(place)
    size = left.f_bavail * left.f_frsize - leave
    (place / "filler").write_bytes(b"x" * max(size, 0))


def rows(data):
    with closing(sqlite3.connect(data)) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        tables = (
            "jobs",
            "plans",
            "coupons",
            "readings",
            "attachments",
            "heat_runs",
            "machines",
            "sent_forms",
        )
        return [connection.execute(f"SELECT count(*) FROM {table}").fetchone()[0] for table in tables]


def png():
    """A picture that does not become small: noise."""
    out = io.BytesIO()
    noise = np.random.default_rng(1).integers(0, 255, (900, 1200, 3), dtype=np.uint8)
    Image.fromarray(noise).save(out, "PNG")
    return out.getvalue()


def test_every_write_says_that_the_disk_is_full(small_disk, workshop_file, tmp_path, job_id):
    data, tank = small_disk / "book.sqlite", job_id("Float tank")
    shutil.copy(workshop_file, data)
    copy = backup_to(data, tmp_path / "copy.sqlite")
    picture = png()
    with TestClient(
        create_app(Config(data=data)), base_url="http://127.0.0.1", follow_redirects=False
    ) as client:
        export = client.get("/book/export.json").content
        welding = client.post(f"/jobs/{tank}/part", data=SMALL, headers=HTML)
        assert welding.status_code == 303
        with closing(sqlite3.connect(data)) as connection:
            connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        fill(small_disk, 8192)
        before = rows(data)
        asked = {
            "coupon": lambda: client.post(f"/jobs/{tank}/coupon", data=COUPON | {"note": "x" * 390}, headers=HTML),
            "job": lambda: client.post("/jobs/new", data=JOB, headers=HTML),
            "photograph": lambda: client.post(f"/jobs/{tank}/photographs", files={"file": ("a.png", picture)}, headers=HTML),
            "backup": lambda: client.get("/book/backup", headers=HTML),
            "export": lambda: client.get("/book/export.json", headers=HTML),
            "import": lambda: client.post("/book/import", files={"file": ("a.json", export)}, headers=HTML),
            "restore": lambda: client.post("/book/restore", files={"file": ("a.sqlite", copy.read_bytes())}, headers=HTML),
            "part": lambda: client.post(f"/jobs/{tank}/part", data=SMALL | {"start_c": "35"}, headers=HTML),
        }  # fmt: skip
        for words, ask in asked.items():
            answer = ask()
            assert answer.status_code == 507, (words, answer.status_code)
            assert "The disk is full" in answer.text, words
            assert client.get(f"/jobs/{tank}/tune", headers=HTML).status_code == 200, words
        run = int(welding.headers["location"].rpartition("=")[2])
        until = time.monotonic() + 400
        while (said := client.get(f"/api/heat-runs/{run}").json())["state"] in ("waits", "runs"):
            assert time.monotonic() < until
            time.sleep(0.05)
        assert said["state"] == "failed"
        assert "The disk is full" in said["said"]
        assert rows(data) == before
        assert {each.name for each in small_disk.iterdir()} <= {
            "book.sqlite", "book.sqlite-wal", "book.sqlite-shm", "filler", ".book.sqlite.server",
        }  # fmt: skip
        (small_disk / "filler").unlink()
        assert client.post(f"/jobs/{tank}/coupon", data=COUPON).status_code == 303
        assert (
            client.post("/book/restore", files={"file": ("a.sqlite", copy.read_bytes())}).status_code == 303
        )


def test_the_command_line_says_so_too(small_disk, workshop_file, run):
    data = small_disk / "book.sqlite"
    shutil.copy(workshop_file, data)
    fill(small_disk, 8192)
    for call in (("backup", str(small_disk / "b.sqlite")), ("export", str(small_disk / "e.json"))):
        said = run(*call, data=data)
        assert said.returncode == 2, call
        assert "disk is full" in said.stderr
        assert said.stderr.count("\n") == 1
    lying = {each.name for each in small_disk.iterdir()}
    assert lying - {"book.sqlite-wal", "book.sqlite-shm"} == {"book.sqlite", "filler"}
