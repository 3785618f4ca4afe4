"""Files written for a person: made beside their place and put there whole; nothing that is not ours is ever
replaced.
"""

from __future__ import annotations

import os
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from anvilsong.core.errors import CannotRead


def remove_beside(path: Path) -> None:
    """Remove a file of our own and what SQLite laid beside it (its name with an ending)."""
    for left in path.parent.iterdir():
        if left.name.startswith(path.name):
            left.unlink(missing_ok=True)


@contextmanager
def written_whole(target: Path, is_ours: Callable[[Path], bool]) -> Iterator[Path]:
    """A path to write to; it takes the target's place when the block ends well, and is gone when it does not.

    Raises
    ------
    CannotRead : the target is a folder, or a file that this program did not write
    """
    if target.is_dir():
        raise CannotRead(str(target), "it is a folder; name a file in it")
    if target.exists() and not is_ours(target):
        raise CannotRead(
            str(target), "another program's file stands there, and it is not replaced; choose another name"
        )
    target.parent.mkdir(parents=True, exist_ok=True)
    aside = target.with_name(f".{target.name}.{uuid.uuid4().hex}.part")
    try:
        yield aside
        with aside.open("rb+") as written:
            os.fsync(written.fileno())
        os.replace(aside, target)
    finally:
        remove_beside(aside)
