"""The daily copy of the logbook, made while the pages are served."""

from __future__ import annotations

import logging
import threading
from pathlib import Path

from anvilsong.store.copies import copy_now

log = logging.getLogger("anvilsong")
FIRST_AFTER_S, AGAIN_AFTER_S = 120.0, 1800.0


class Copying:
    """Looks every half hour whether a copy is due; one that fails is told in the log and tried again."""

    def __init__(self, data: Path) -> None:
        self._data, self._ended = data, threading.Event()
        threading.Thread(target=self._go_on, name="daily copy", daemon=True).start()

    def end(self) -> None:
        """Look no more."""
        self._ended.set()

    def _go_on(self) -> None:
        wait_s = FIRST_AFTER_S
        while not self._ended.wait(wait_s):
            wait_s = AGAIN_AFTER_S
            try:
                copy_now(self._data)
            except Exception as error:  # full, busy or damaged: the pages say so where it matters
                log.warning("The daily copy of the logbook could not be made: %s", error)
