"""The command as people run it: its port, a second one beside it, half-sent requests, a polite stop, and one sentence for what is wrong."""

import os
import re
import socket
import subprocess
import sys
import time
from contextlib import closing
from pathlib import Path

import pytest

from anvilsong.config import Config
from anvilsong.web.server import bound

COMMAND = str(Path(sys.executable).with_name("anvilsong"))


def environment(data, **more):
    own = {
        key: value for key, value in os.environ.items() if not key.startswith("ANVILSONG_") and key != "PORT"
    }
    return own | {"ANVILSONG_DATA": str(data), "PYTHONUNBUFFERED": "1"} | more


def free_port():
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        return free.getsockname()[1]


def served(data, port, **more):
    """A server that has said where it is, and the lines it said until then."""
    server = subprocess.Popen(
        [COMMAND, "serve"], env=environment(data, PORT=str(port), **more), stdout=subprocess.PIPE, text=True
    )
    lines = []
    while not lines or not lines[-1].startswith("Anvilsong: "):
        lines.append(server.stdout.readline())
        assert lines[-1], "it ended without a word"
    return server, lines


def asked(port, sent, wait_s=10):
    """What comes back for raw bytes, and how long until the other side closes."""
    began = time.monotonic()
    with socket.create_connection(("127.0.0.1", port), timeout=wait_s) as client:
        client.sendall(sent)
        back = b""
        while piece := client.recv(65536):
            back += piece
    return back, time.monotonic() - began


def test_serving_as_people_do(tmp_path):
    data, port, other_port = tmp_path / "what? %20.sqlite", free_port(), free_port()
    first, lines = served(data, port, ANVILSONG_WHOLE_REQUEST_WITHIN_S="1")
    second, said = served(data, other_port)
    try:
        assert f"http://127.0.0.1:{port}" in lines[-1]
        assert re.search(rf"Another Anvilsong already serves this file at http://127.0.0.1:{port}", said[0])
        taken = subprocess.run(
            [COMMAND, "serve"],
            env=environment(data, ANVILSONG_PORT=str(port)),
            capture_output=True,
            text=True,
            timeout=30,
        )
        assert taken.returncode == 2
        assert "choose another port" in taken.stderr
        assert len(taken.stderr.strip().splitlines()) == 1
        # Half a head, and half a body: dropped, and told where there is somebody to tell.
        back, seconds = asked(port, b"GET /book HTTP/1.1\r\nHost: 127.0.0.1")
        assert (back, seconds < 5) == (b"", True)
        back, seconds = asked(
            port, b"POST /jobs/new HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 99\r\n\r\ntitle="
        )
        assert b" 408 " in back.splitlines()[0]
        assert seconds < 5
        back, _ = asked(port, b"GET /healthz HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n\r\n")
        assert back.endswith(b'{"status":"ok"}')
        with socket.create_connection(("127.0.0.1", other_port)) as hanging:
            hanging.sendall(b"POST /jobs/new HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 99\r\n\r\ntitle=")
            began = time.monotonic()
            second.terminate()
            second.wait(10)
            assert time.monotonic() - began < 5
    finally:
        first.kill()
        second.kill()


@pytest.mark.parametrize(
    ("more", "call", "said"),
    [
        ({"ANVILSONG_PORT": "abc"}, ["serve"], "ANVILSONG_PORT: “abc” cannot be used; type a whole number"),
        ({"ANVILSONG_PORT": "70000"}, ["serve"], "ANVILSONG_PORT"),
        ({}, ["backup", "x.sqlite"], "there is no database there"),
        ({}, ["export", "x.json"], "there is no database there"),
        ({}, ["import", __file__], "there is no database there"),
        ({}, ["restore", __file__], "there is no database there"),
        ({"ANVILSONG_DATA": __file__}, ["serve"], "it is not an SQLite database"),
        ({"ANVILSONG_DATA": "/proc/nowhere/a.sqlite"}, ["demo"], "/proc/nowhere"),
        ({}, ["plan", "/nowhere.json"], "/nowhere.json cannot be used: No such file"),
    ],
)
def test_what_is_wrong_is_one_sentence(tmp_path, more, call, said):
    done = subprocess.run(
        [COMMAND, *call],
        env=environment(tmp_path / "none.sqlite", **more),
        capture_output=True,
        text=True,
        timeout=60,
        cwd=tmp_path,
    )
    assert done.returncode == 2
    assert said in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1
    assert list(tmp_path.iterdir()) == []


def test_small_answers_are_sent_at_once():
    """A socket that is not named TCP keeps Nagle's wait: 40 ms on every answer of a kept connection."""
    with closing(bound(Config(port=free_port()))) as listening:
        assert listening.proto == socket.IPPROTO_TCP
