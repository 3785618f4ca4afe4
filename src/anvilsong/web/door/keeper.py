"""The lock as it is now: a passphrase may be set while pages are served."""

from __future__ import annotations

from pathlib import Path

from anvilsong.core.errors import CannotRead
from anvilsong.web.door.passphrase import Lock, lock_file, lock_of
from anvilsong.web.door.visits import Visits


class Keeper:
    """Reads the lock of a logbook again whenever its file was replaced."""

    def __init__(self, data: Path) -> None:
        self._data = data
        self._seen: tuple[int, int] | None = None
        self._lock: Lock | None = None
        self._visits: Visits | None = None

    def lock(self) -> Lock | None:
        """The lock; None where no passphrase is set or its file is damaged, so that nobody can come in."""
        try:
            state = lock_file(self._data).stat()
        except OSError:
            self._seen, self._lock, self._visits = None, None, None
            return None
        seen = (state.st_mtime_ns, state.st_ino)
        if seen != self._seen:
            try:
                self._lock = lock_of(self._data)
            except CannotRead:
                self._lock = None
            self._visits = Visits(self._lock.secret, self._data) if self._lock else None
            self._seen = seen
        return self._lock

    def visits(self) -> Visits | None:
        """Who signs visits by this lock."""
        return self._visits if self.lock() else None
