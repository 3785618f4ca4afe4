"""Files of the program's own: only their owner reads them, they are made beside their place and put there
whole, nothing that is not ours is ever replaced, and what killed work left behind is removed.
"""

from __future__ import annotations

import os
import re
import time
import uuid
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from anvilsong.core.errors import BadInput, CannotRead
from anvilsong.core.words import sentence

OWNER_ONLY = 0o600
OLDEST_S = 86_400.0  # no work takes a day: what is older was left behind, whoever has its number now
_OURS = re.compile(
    r"\.(?P<pid>\d+)-[0-9a-f]{12}\.(?:new|part|restore|import|backup|export|came|waiting|coming|sheet|work)\b"
)


def aside(place: Path, ending: str) -> Path:
    """A hidden name beside a place, with the number of the process that works on it; nothing is there yet."""
    return place.with_name(f".{place.name}.{os.getpid()}-{uuid.uuid4().hex[:12]}.{ending}")


def forget_beside(place: Path, ending: str) -> None:
    """Remove what waits beside a place under an ending: the newest alone waits."""
    for left in place.parent.iterdir():
        if _is_aside(place, left.name, ending):
            left.unlink(missing_ok=True)


def found_beside(place: Path, name: str, ending: str) -> Path:
    """What waits beside a place under a name that ``aside`` made.

    Raises
    ------
    BadInput : no such name, or nothing waits there any more
    """
    if not _is_aside(place, name, ending) or not place.with_name(name).exists():
        raise BadInput.one("file", name[:80], sentence("store.choose_file_again"))
    return place.with_name(name)


def _is_aside(place: Path, name: str, ending: str) -> bool:
    return re.fullmatch(rf"\.{re.escape(place.name)}\.\d+-[0-9a-f]{{12}}\.{ending}", name) is not None


def make_private(path: Path) -> Path:
    """An empty file that only its owner may read, to be filled; one that is there becomes private."""
    os.close(os.open(path, os.O_CREAT | os.O_WRONLY, OWNER_ONLY))
    keep_private(path)
    return path


def keep_private(path: Path) -> None:
    """Take a file from all but its owner, where it is ours to take."""
    with suppress(OSError):
        if path.stat().st_mode & 0o077:
            path.chmod(OWNER_ONLY)


def remove_beside(path: Path) -> None:
    """Remove a file of our own and what SQLite laid beside it (its name with an ending)."""
    for left in path.parent.iterdir():
        if left.name.startswith(path.name):
            left.unlink(missing_ok=True)


def sweep(place: Path, is_shared: bool = False) -> None:
    """Remove what work that was killed left beside a place; what is still being worked on stays. In a folder
    that machines share only what is old goes: the numbers of processes mean others there.
    """
    with suppress(OSError):
        for left in list(place.parent.iterdir()):
            found = _OURS.match(left.name, len(place.name) + 1)
            if (
                found
                and left.name.startswith(f".{place.name}.")
                and _is_left(left, None if is_shared else int(found["pid"]))
            ):
                left.unlink(missing_ok=True)


def _is_left(file: Path, pid: int | None) -> bool:
    if time.time() - file.stat().st_mtime > OLDEST_S:
        return True
    if pid is None:
        return False
    try:
        os.kill(pid, 0)
    except ProcessLookupError:
        return True
    except OSError:  # somebody else's process
        return False
    return False


@contextmanager
def own_file(place: Path, ending: str) -> Iterator[Path]:
    """A private file beside a place, gone at the end of the block, whatever happens in it."""
    made = aside(place, ending)
    try:
        yield make_private(made)
    finally:
        remove_beside(made)


@contextmanager
def written_whole(target: Path, is_ours: Callable[[Path], bool]) -> Iterator[Path]:
    """A path to write to; it takes the target's place when the block ends well, and is gone when it does not.

    Raises
    ------
    CannotRead : the target is a folder, or a file that this program did not write
    """
    if target.is_dir():
        raise CannotRead(str(target), sentence("store.folder_name_file"))
    if target.exists() and not is_ours(target):
        raise CannotRead(str(target), sentence("store.another_programs_file_stands"))
    target.parent.mkdir(parents=True, exist_ok=True)
    sweep(target)
    with own_file(target, "part") as part:
        yield part
        with part.open("rb+") as written:
            os.fsync(written.fileno())
        os.replace(part, target)
