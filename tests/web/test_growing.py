"""An export of a large logbook is sent while it is still being written beside the server."""

import asyncio
from concurrent.futures import Future

import pytest
from sqlalchemy import text

from anvilsong.web.growing import sent_while_written
from anvilsong.web.pages import care_page

HTML = {"accept": "text/html"}


@pytest.fixture
def large(monkeypatch):
    """Every logbook counts as a large one."""
    monkeypatch.setattr(care_page, "MOST_LOOKED_THROUGH", 0)


def test_a_large_logbook_comes_at_once_and_is_the_same(client, large, monkeypatch, data_file):
    at_once = client.get("/book/export.json", headers=HTML)
    monkeypatch.undo()
    whole = client.get("/book/export.json", headers=HTML)
    assert at_once.json() | {"made_at": ""} == whole.json() | {"made_at": ""}
    assert "content-length" not in at_once.headers
    assert whole.headers["content-disposition"] == at_once.headers["content-disposition"]
    assert not [file for file in data_file.parent.iterdir() if file.name.endswith(".export")]


def test_what_is_damaged_stands_at_its_end_and_on_the_page_it_came_from(client, large, make_session):
    assert "not complete" not in client.get("/book/care", headers=HTML).text
    with make_session.begin() as session:
        session.execute(text("UPDATE machines SET document = '{}' WHERE name = 'Dunlin 180'"))
    export = client.get("/book/export.json", headers=HTML).json()
    assert export["left_out"] == ["machine “Dunlin 180”"]
    assert "machine “Dunlin 180”" in client.get("/book/care", headers=HTML).text
    with make_session.begin() as session:
        session.execute(text("DELETE FROM machines WHERE name = 'Dunlin 180'"))
    assert "left_out" not in client.get("/book/export.json", headers=HTML).json()
    assert "not complete" not in client.get("/book/care", headers=HTML).text


class Writing:
    """Work beside the server that writes a file."""

    def __init__(self):
        self.future, self.was_ended = Future(), False

    @property
    def is_done(self):
        return self.future.done()

    def result(self):
        return self.future.result()

    def end(self):
        self.was_ended = True


@pytest.mark.parametrize("fails", [False, True])
def test_pieces_come_as_they_are_written_and_a_failure_breaks_off(tmp_path, fails):
    path, task, told = tmp_path / "made", Writing(), []
    path.write_bytes(b"one ")
    answer = sent_while_written(task, path, "all.json", "application/json", told.append)

    async def read():
        pieces = aiter(answer.body_iterator)
        assert await anext(pieces) == b"one "
        waiting = asyncio.ensure_future(anext(pieces))
        await asyncio.sleep(0.05)
        assert not waiting.done()
        with path.open("ab") as file:
            file.write(b"two")
        if fails:
            task.future.set_exception(MemoryError())
        else:
            task.future.set_result("written")
        assert await waiting == b"two"
        with pytest.raises(MemoryError if fails else StopAsyncIteration):
            await anext(pieces)

    asyncio.run(read())
    assert told == ([] if fails else ["written"])
    assert task.was_ended
    assert not path.exists()
