"""Where numbers come from, when no table says it."""

from __future__ import annotations

WORKSHOP = "Workshop practice"
