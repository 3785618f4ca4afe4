"""Saves that carry the revision they started from: what somebody else stored since is merged, and a clash is
shown.
"""

from __future__ import annotations

from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.job import Job, read_job
from anvilsong.core.registry import SETTINGS
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.shown import show
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.store.merge import Clash, merge
from anvilsong.store.models import PlanRow
from anvilsong.store.reading import document

GROUPS = ("pulse", "mix")


def said_version(row: PlanRow) -> Words:
    """A version as it is named to somebody who saved on top of it."""
    return sentence("web.version_by_its_words", revision=row.revision, words=row.words)


def merged_settings(
    base: Settings, mine: Settings, theirs: Settings, system: UnitSystem, by: Words
) -> Settings:
    """My changes on top of theirs.

    Raises
    ------
    BadInput : both changed the same setting; one problem each, with both values
    """
    merged = merge(document(base), document(mine), document(theirs), GROUPS)
    if merged.clashes:
        raise BadInput(*(_said(clash, system, by) for clash in merged.clashes))
    return validated(Settings, merged.document)


def merged_job(base: Job, mine: Job, theirs: Job, by: Words) -> Job:
    """My changes of the job on top of theirs; raises as ``merged_settings`` does."""
    merged = merge(document(base), document(mine), document(theirs), ("bevel", "part"))
    if merged.clashes:
        raise BadInput(
            *(
                Problem(
                    clash.path,
                    f"“{_plain(clash.mine)}”",
                    sentence("web.says_save_again_have", by=by, theirs=_plain(clash.theirs)),
                )
                for clash in merged.clashes
            )
        )
    return read_job(merged.document)


def _said(clash: Clash, system: UnitSystem, by: Words) -> Problem:
    entry = next((entry for entry in SETTINGS if entry.path == clash.path), None)
    words = entry.words if entry else clash.path.replace("_", " ").capitalize()
    shown = [
        show(value, entry.dimension, system, entry.decimals)
        if entry and entry.dimension and isinstance(value, int | float)
        else _plain(value)
        for value in (clash.mine, clash.theirs)
    ]
    return Problem(words, f"your {shown[0]}", sentence("web.says_save_again_have_2", by=by, shown=shown[1]))


def _plain(value: object) -> str:
    if value is None:
        return "nothing"
    if isinstance(value, dict):
        return ", ".join(f"{key.replace('_', ' ')} {_plain(part)}" for key, part in value.items())
    if isinstance(value, list | tuple):
        return ", ".join(map(str, value)) or "nothing"
    return f"{value:g}" if isinstance(value, float) else str(value)
