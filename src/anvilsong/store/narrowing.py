"""What the logbook is narrowed by: columns of a job that its newest version and its newest coupon give."""

from __future__ import annotations

from contextlib import suppress
from typing import Any, Literal

from anvilsong.core.errors import BadInput
from anvilsong.core.job import BARE_SHEET_MM
from anvilsong.core.quantities import parse
from anvilsong.store.columns import Document

FOUND_BY = ("machine", "joint", "alloy_a", "alloy_b", "thickness_a_mm", "thickness_b_mm", "state")
JobState = Literal["planned", "in_work", "as_wanted", "refused"]


def columns_of(job: Document, has_settings: bool, kind: str | None) -> dict[str, Any]:
    """The columns of a job by their names.

    Parameters
    ----------
    job : the job of its newest version, as it is stored; what is damaged gives nothing
    has_settings : whether that version has settings; a refused one has none
    kind : what the newest reading of the newest coupon asked for next; None without a coupon
    """
    sides = [side if isinstance(side := job.get(letter), dict) else {} for letter in "ab"]
    state: JobState = (
        "refused"
        if not has_settings
        else "planned"
        if kind is None
        else "as_wanted"
        if kind == "keep"
        else "in_work"
    )
    return {
        "machine": _text(job.get("machine"), 60),
        "joint": _text(job.get("joint"), 40),
        "alloy_a": _text(sides[0].get("alloy"), 40).lower(),
        "alloy_b": _text(sides[1].get("alloy"), 40).lower(),
        "thickness_a_mm": _thickness_mm(sides[0].get("thickness")),
        "thickness_b_mm": _thickness_mm(sides[1].get("thickness")),
        "state": state,
    }


def _text(value: Any, most: int) -> str:
    """A name that can be stored, whatever stands there."""
    return str(value or "")[:most].encode(errors="replace").decode()


def _thickness_mm(typed: Any) -> float | None:
    """A thickness as it was typed, in mm; None where it is none."""
    with suppress(BadInput):
        return float(parse(str(typed), "length", "thickness", within=BARE_SHEET_MM))
    return None
