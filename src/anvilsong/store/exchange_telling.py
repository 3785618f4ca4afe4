"""What tells versions, readings and trials of two logbooks: which are the same, and which is the newest."""

from __future__ import annotations

import json
from typing import Any, TypeVar

Told = TypeVar("Told", tuple[str, str], tuple[str, str, str])
PLAN_COLUMNS = (
    "revision", "origin", "words", "job_document", "machine_document", "settings", "recipe", "recipe_key",
    "recipe_why", "recipe_at", "from_recipe", "plan", "made_at",
)  # fmt: skip
READING_COLUMNS = ("revision", "document", "verdict", "change", "kind", "typed", "made_at")


def plain(document: str | None) -> str:
    """A document as the same text however it was written; that of a damaged one is that it is none."""
    try:
        return json.dumps(json.loads(document or "null"), sort_keys=True)
    except (ValueError, RecursionError):
        return "null"


def newest(mine: list[Told], theirs: list[Told]) -> Told | None:
    """Which is the newest of both: that of the logbook that went on where the other stood still; where both
    went on, the one made last.
    """
    if not mine or not theirs:
        either = mine or theirs
        return either[-1] if either else None
    own, other = mine[-1], theirs[-1]
    if (own in theirs) != (other in mine):
        return other if own in theirs else own
    return max(own, other)


def of_reading(row: tuple[Any, ...]) -> tuple[str, str]:
    """What tells a reading: when it was typed, and what it says; of the same second the larger text is
    later.
    """
    named = dict(zip(READING_COLUMNS, row, strict=True))
    return named["made_at"], plain(named["document"])


def of_plan(row: tuple[Any, ...]) -> tuple[str, str, str]:
    """What tells a version: when it was made, its job and its settings."""
    named = dict(zip(("id", *PLAN_COLUMNS), row, strict=True))
    return named["made_at"], plain(named["job_document"]), plain(named["settings"])


def of_both(mine: dict[str, Any], theirs: dict[str, Any]) -> dict[str, Any]:
    """A trial that went on in both: the coupons of both at each run, an answer where either has one."""
    for run, other in zip(mine.get("runs", ()), theirs.get("runs", ()), strict=False):
        run["coupons"] = list(dict.fromkeys([*run.get("coupons", ()), *other["coupons"]]))
    for pair, other in zip(mine.get("pairs", ()), theirs.get("pairs", ()), strict=False):
        pair["answer"] = pair.get("answer") if pair.get("answer") is not None else other.get("answer")
    return mine
