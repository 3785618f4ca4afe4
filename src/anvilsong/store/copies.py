"""Daily copies of the logbook, beside it: one a day on which something changed, checked after writing; those
of the last week stay, and the newest of each of six months.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from anvilsong.store.backup import backup_to, look_into
from anvilsong.store.models import now

DAYS, MONTHS = 7, 6
FOLDER = "copies"


@dataclass(frozen=True)
class Copy:
    """A copy: the day it is of, its file, and its size in bytes."""

    day: date
    path: Path
    size: int


def copies_of(data: Path) -> list[Copy]:
    """The daily copies of a logbook, the newest first; files of other names are none of ours."""
    folder = data.parent / FOLDER
    ours = re.compile(rf"{re.escape(data.stem)}-(\d{{4}}-\d{{2}}-\d{{2}}){re.escape(data.suffix)}")
    found = []
    for path in folder.iterdir() if folder.is_dir() else ():
        named = ours.fullmatch(path.name)
        try:
            if named:
                found.append(Copy(date.fromisoformat(named[1]), path, path.stat().st_size))
        except (ValueError, OSError):  # no day of the calendar, or gone meanwhile
            continue
    return sorted(found, key=lambda copy: copy.day, reverse=True)


def copy_path(data: Path, day: date) -> Path:
    """Where the copy of a day lies."""
    return data.parent / FOLDER / f"{data.stem}-{day.isoformat()}{data.suffix}"


def copy_now(data: Path, today: date | None = None) -> Path | None:
    """Today's copy, where the logbook changed since the last one and today has none; what is older than the
    rule says goes.

    Raises
    ------
    AnvilsongError : it could not be written, or what was written is damaged: then it does not stay, and every
    copy from before does
    """
    day = today or now().date()
    before = copies_of(data)
    if before and (before[0].day >= day or not _changed_since(data, before[0].path)):
        return None
    target = backup_to(data, copy_path(data, day))
    try:
        look_into(data, target)
    except BaseException:
        target.unlink(missing_ok=True)
        raise
    made = copies_of(data)
    stay = kept(copy.day for copy in made)
    for copy in made:
        if copy.day not in stay:
            copy.path.unlink(missing_ok=True)
    return target


def kept(days: Iterable[date]) -> set[date]:
    """Of the days that have a copy those that stay: the newest seven, and the newest of each of the last six
    months.

    >>> sorted(kept(date(2026, 3, day) for day in range(1, 12)))[0].isoformat()
    '2026-03-05'
    """
    newest_first = sorted(set(days), reverse=True)
    months: dict[tuple[int, int], date] = {}
    for day in newest_first:
        months.setdefault((day.year, day.month), day)
    return {*newest_first[:DAYS], *list(months.values())[:MONTHS]}


def _changed_since(data: Path, copy: Path) -> bool:
    """Whether the logbook or its log was written after a copy was."""
    when = copy.stat().st_mtime
    beside = (data, data.with_name(f"{data.name}-wal"))
    return any(file.exists() and file.stat().st_mtime > when for file in beside)
