"""Pedal runs that are being welded, each over a socket of its own, stepped in threads."""

from __future__ import annotations

from anvilsong.web.live.messages import Hand, Hearing
from anvilsong.web.live.runs import LiveRun, LiveRuns, NoPlace
from anvilsong.web.live.welding import weld_over

__all__ = ["Hand", "Hearing", "LiveRun", "LiveRuns", "NoPlace", "weld_over"]
