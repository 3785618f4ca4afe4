"""The command as people run it: its port, a second one beside it, half-sent requests, a polite stop, and one sentence for what is wrong."""

import socket
from contextlib import closing

import pytest

from anvilsong.config import Config
from anvilsong.web.server import bound

PATIENCE_S = 200  # a busy machine is no reason to fail


def asked(port, sent):
    """What comes back for raw bytes until the other side closes."""
    with socket.create_connection(("127.0.0.1", port), timeout=PATIENCE_S) as client:
        client.sendall(sent)
        back = b""
        while piece := client.recv(65536):
            back += piece
    return back


def test_serving_as_people_do(tmp_path, serve, run):
    data = tmp_path / "what? %20.sqlite"
    first = serve(data, ANVILSONG_WHOLE_REQUEST_WITHIN_S="1")
    second = serve(data)
    assert first.address in first.said[-1]
    assert f"Another Anvilsong already serves this file at {first.address}" in second.said[0]
    taken = run("serve", data=data, ANVILSONG_PORT=str(first.port))
    assert taken.returncode == 2
    assert "choose another port" in taken.stderr
    assert len(taken.stderr.strip().splitlines()) == 1
    # Half a head, and half a body: dropped, and told where there is somebody to tell.
    assert asked(first.port, b"GET /book HTTP/1.1\r\nHost: 127.0.0.1") == b""
    half = b"POST /jobs/new HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 99\r\n\r\ntitle="
    told = asked(first.port, half)
    assert b" 408 " in told.splitlines()[0]
    assert b"within 1 s" in told  # not what the server grants by itself
    back = asked(first.port, b"GET /healthz HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n\r\n")
    assert back.endswith(b'{"status":"ok"}')
    hanging = [socket.create_connection(("127.0.0.1", second.port)) for _ in range(10)]
    for each in hanging:
        each.sendall(half)
    assert asked(second.port, b"GET /healthz HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\n\r\n")
    second.process.terminate()
    second.process.wait(PATIENCE_S)
    for each in hanging:
        each.close()
    assert "Traceback" not in second.said_file.read_text()


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
def test_what_is_wrong_is_one_sentence(tmp_path, run, more, call, said):
    done = run(*call, data=tmp_path / "none.sqlite", cwd=tmp_path, **more)
    assert done.returncode == 2
    assert said in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1
    assert list(tmp_path.iterdir()) == []


def test_small_answers_are_sent_at_once(free_port):
    """A socket that is not named TCP keeps Nagle's wait: 40 ms on every answer of a kept connection."""
    with closing(bound(Config(port=free_port))) as listening:
        assert listening.proto == socket.IPPROTO_TCP
