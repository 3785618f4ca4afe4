"""Heavy work beside the server: limits hold, what is given up ends, others go on, and nothing outlives the server."""

import os
import signal
import subprocess
import sys
import time

import pytest

from anvilsong.core.errors import BadInput, CannotRead
from anvilsong.work import Ended, NoRoom, Room, Stopped, close, result_of, submit, tasks

BESIDE = """
import os, sys, time
from anvilsong.work import PICTURES, submit, result_of
if __name__ == "__main__":
    print(result_of(submit(PICTURES, os.getpid)), flush=True)
    submit(PICTURES, time.sleep, 600)
    sys.stdin.read()
"""


@pytest.fixture
def room():
    """A room of a few seconds and little memory, closed afterwards."""
    yield Room("Tests", seconds=400, megabytes=400, most=3)
    close()


def begun(task):
    until = time.monotonic() + 400
    while not task.has_begun:
        assert time.monotonic() < until
        time.sleep(0.01)
    return task


def test_what_takes_too_long_is_ended_and_the_next_goes_on():
    short = Room("Short", seconds=0.3, megabytes=400, most=3)
    endless = submit(short, time.sleep, 600)
    after = submit(short, str, 7)
    with pytest.raises(Ended, match=r"longer than 0.3 s"):
        result_of(endless)
    assert result_of(after) == "7"
    close()


def test_memory_is_limited_and_a_crash_is_a_sentence(room):
    with pytest.raises(Ended, match="more than 400 MB"):
        result_of(submit(room, bytearray, 10**9))
    with pytest.raises(Ended, match="memory"):
        result_of(submit(room, os.abort))
    assert len(result_of(submit(room, bytearray, 10**7))) == 10**7


def test_given_up_it_ends_in_the_middle_and_gives_its_place_away(room):
    """A queue that is full refuses the same kind of work alone; what is ended makes room at once."""
    held = [submit(room, time.sleep, 600) for _ in range(3)]
    with pytest.raises(NoRoom, match="Tests of others are in work just now"):
        submit(room, str, 7)
    other = Room("Others", seconds=400, megabytes=400, most=1)
    assert result_of(submit(other, str, 8)) == "8"
    begun(held[0])
    held[1].end()
    with pytest.raises(Stopped):
        result_of(held[1])
    last = submit(room, str, 7)
    held[2].stop()  # it has not begun, so it never does
    held[0].end()
    with pytest.raises(Stopped):
        result_of(held[0])
    assert result_of(last) == "7"


def test_the_newest_of_a_page_takes_the_place_of_what_it_asked_before(room):
    running = begun(submit(room, time.sleep, 1.0, page="a"))
    other = submit(room, str, 1, page="b")
    dragged = [submit(room, str, number, page="a") for number in range(20)]
    assert result_of(dragged[-1]) == "19"
    for older in dragged[:-1]:
        with pytest.raises(Stopped):
            result_of(older)
    assert result_of(running) is None  # what was being worked on came to its end
    assert result_of(other) == "1"


def test_refusals_come_through_whole(room):
    with pytest.raises(BadInput) as refused:
        result_of(submit(room, tasks.read_outlines, b"nothing", "x.dxf"))
    assert [problem.field for problem in refused.value.problems] == ["outline"]
    with pytest.raises(CannotRead) as unread:
        result_of(submit(room, tasks.import_book, *two_missing()))
    assert unread.value.what.endswith("gone.json")


def two_missing():
    from pathlib import Path
    from tempfile import mkdtemp

    from anvilsong.store.database import open_database

    folder = Path(mkdtemp())
    open_database(folder / "book.sqlite").dispose()
    return folder / "book.sqlite", folder / "gone.json"


def test_when_the_server_is_killed_its_work_ends_too(tmp_path):
    script = tmp_path / "beside.py"
    script.write_text(BESIDE)
    server = subprocess.Popen(
        [sys.executable, script], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    worker = int(server.stdout.readline())
    os.kill(worker, 0)
    server.send_signal(signal.SIGKILL)
    server.wait()
    until = time.monotonic() + 400
    while is_alive(worker):
        assert time.monotonic() < until, "still there"
        time.sleep(0.1)


def is_alive(pid):
    try:
        with open(f"/proc/{pid}/stat", encoding="utf-8") as stat:
            return stat.read().rpartition(")")[2].split()[0] != "Z"
    except OSError:
        return False
