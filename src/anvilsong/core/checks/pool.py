"""The pool: melting through, root, cold, and a rod that chills it."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.arc.waveform import Numbers
from anvilsong.core.model import (
    OVER_WIDTH_AMBER,
    OVER_WIDTH_RED,
    ROOT_SHORT,
    Consequences,
    LimitWarning,
    Situation,
)
from anvilsong.core.words import sentence

MELT_AMBER = OVER_WIDTH_AMBER / OVER_WIDTH_RED
NEAR_ROOT = 1.2  # of the pool's width
COLD_SHARE, HOT_SHARE = 0.85, 1.15  # of the heat wanted
CHILLS_SHARE = 0.20  # of the heat, into the rod


def pool_warnings(at: Situation, seen: Consequences) -> Iterator[LimitWarning]:
    """By pool and root in mm, heat in W, and what the rod takes of it."""
    amps = "amps_run" if at.job.control == "pedal" else "amps_set"
    yield from _depth(at, seen, amps)
    yield from _heat(seen, amps)


def _depth(at: Situation, seen: Consequences, amps: str) -> Iterator[LimitWarning]:
    top, root = seen.pool_width_mm, seen.root_width_mm
    if seen.melt_through >= 1:
        yield LimitWarning(
            code="melt_through",
            level="stop",
            setting=amps,
            message=sentence("checks.melt_through", top=top, root=root),
            numbers={"melt_through": seen.melt_through},
        )
    elif seen.melt_through >= MELT_AMBER:
        yield LimitWarning(
            code="melt_through_near",
            level="watch",
            setting=amps,
            message=sentence("checks.melt_through_near", top=top, root=root),
            numbers={"melt_through": seen.melt_through},
        )
    if at.wants_root and root <= 0 and is_near_root(at, top):
        yield LimitWarning(
            code="short_root",
            level="watch",
            setting=amps,
            message=sentence("checks.short_root", root_depth_mm=at.root_depth_mm or 0),
        )
    elif at.wants_root and root <= 0:
        yield LimitWarning(
            code="no_root",
            level="stop",
            setting=amps,
            message=sentence("checks.no_root", root_depth_mm=at.root_depth_mm or 0),
        )
    elif at.wants_root and root < ROOT_SHORT * top:
        yield LimitWarning(
            code="short_root",
            level="watch",
            setting=amps,
            message=sentence("checks.short_root_2", root=root, top=top),
        )


def is_near_root(at: Situation, top_mm: Numbers) -> NDArray[np.bool_]:
    """Whether a pool a fifth wider, as a hand a tenth slower makes it, would reach the root."""
    return np.asarray(at.root_mm(NEAR_ROOT * np.asarray(top_mm))) > 0


def _heat(seen: Consequences, amps: str) -> Iterator[LimitWarning]:
    if seen.work_heat_w < COLD_SHARE * seen.heat_wanted_w:
        yield LimitWarning(
            code="cold",
            level="watch",
            setting=amps,
            message=sentence("checks.cold", work_heat_w=seen.work_heat_w, heat_wanted_w=seen.heat_wanted_w),
            numbers={"work_heat_w": seen.work_heat_w, "heat_wanted_w": seen.heat_wanted_w},
        )
    elif seen.work_heat_w > HOT_SHARE * seen.heat_wanted_w and seen.melt_through < MELT_AMBER:
        yield LimitWarning(
            code="hot",
            level="watch",
            setting=amps,
            message=sentence("checks.hot", work_heat_w=seen.work_heat_w, heat_wanted_w=seen.heat_wanted_w),
            numbers={"work_heat_w": seen.work_heat_w, "heat_wanted_w": seen.heat_wanted_w},
        )
    if seen.filler_heat_share > CHILLS_SHARE:
        yield LimitWarning(
            code="chill",
            level="watch",
            setting="filler_mm",
            message=sentence(
                "checks.chill", filler_heat_share=seen.filler_heat_share, chills_share=CHILLS_SHARE
            ),
            numbers={"filler_heat_share": seen.filler_heat_share},
        )
