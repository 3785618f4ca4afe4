"""A file that is sent while it is still being written beside the server: who asked for it sees it come at
once, however long the whole takes, and the server holds none of it.
"""

from __future__ import annotations

import time
from collections.abc import AsyncIterator, Callable
from pathlib import Path
from typing import Any

import anyio
from anyio.to_thread import run_sync
from fastapi.responses import StreamingResponse
from starlette.background import BackgroundTask

from anvilsong.work import Task, result_of

PIECE = 1 << 18  # bytes read at once
LOOKS_EVERY_S = 0.03


def has_begun(task: Task, path: Path) -> bool:
    """Wait until there is something in the file; False where the work came to its end before that, well or
    not.
    """
    while not task.is_done:
        if path.exists() and path.stat().st_size:
            return True
        time.sleep(LOOKS_EVERY_S)
    return False


def sent_while_written(
    task: Task, path: Path, name: str, media_type: str, whole: Callable[[Any], None]
) -> StreamingResponse:
    """The answer with a file that a task is writing.

    Parameters
    ----------
    path : the file; it is gone when it was sent, or when nobody waits for it any more
    name : what it is saved under
    whole : told what the task gave, once everything was sent

    Raises
    ------
    Whatever the task raises, in the middle of the answer: it breaks off, so that nobody takes half of a file
    for all of it
    """

    async def pieces() -> AsyncIterator[bytes]:
        try:
            async with await anyio.open_file(path, "rb") as file:
                while True:
                    is_last = task.is_done  # asked before reading: what comes later is read in the next round
                    if piece := await file.read(PIECE):
                        yield piece
                    elif is_last:
                        break
                    else:
                        await anyio.sleep(LOOKS_EVERY_S)
            whole(await run_sync(result_of, task))
        finally:
            _given_up(task, path)

    held = {"content-disposition": f'attachment; filename="{name}"'}
    # Where nobody waited even for the first piece, its end never came.
    over = BackgroundTask(_given_up, task, path)
    return StreamingResponse(pieces(), media_type=media_type, headers=held, background=over)


def _given_up(task: Task, path: Path) -> None:
    task.end()
    path.unlink(missing_ok=True)
