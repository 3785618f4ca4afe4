"""Alloy, filler, thickness and surface, whatever the settings."""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core import say
from anvilsong.core.joint import ROOT_FACE_MM
from anvilsong.core.metal.chemistry import watch_over
from anvilsong.core.model import LimitWarning, Situation
from anvilsong.core.quantities import percent

MOST_SQUARE_MM = 6.4  # that amps alone can melt through, where it is asked for


def metal_warnings(at: Situation) -> Iterator[LimitWarning]:
    """By alloy, filler and its crack range, thickness in mm, and surface."""
    yield from _sides(at)
    yield from _weld_metal(at)
    yield from _thickness(at)
    if at.surface.key == "stored":
        yield LimitWarning(code="surface", level="watch", message=at.surface.note)


def _sides(at: Situation) -> Iterator[LimitWarning]:
    job = at.job
    for side in dict.fromkeys((job.a.alloy, job.b.alloy)):
        metal = (job.a if job.a.alloy == side else job.b).metal
        if metal.stands_in_for:
            yield LimitWarning(
                code="unknown_alloy",
                level="watch",
                message=(
                    f"The alloy is a guess: planned as {metal.name}. Run a coupon on the same metal "
                    "first. If it may be magnesium, stop: file a spot bright, put a drop of vinegar on "
                    "it, and do not weld if it fizzes."
                ),
            )
        if metal.heat_treatable and "strength" in job.purposes:
            yield LimitWarning(
                code="softened_zone",
                level="watch",
                message=(
                    f"{metal.name} is hardened by heat treatment: beside the weld it drops to roughly "
                    "60 % of its strength. Design for it."
                ),
            )


def _weld_metal(at: Situation) -> Iterator[LimitWarning]:
    best = at.filler.best
    if best and best.sensitivity > watch_over():
        safe = best.largest_safe_dilution
        how = (
            f"keep dilution under {percent(safe)}: more rod, a bevel or a gap"
            if safe
            else "take another filler"
        )
        yield LimitWarning(
            code="crack_range",
            level="watch",
            setting="filler_class",
            message=(
                f"Weld metal of {best.filler} at {percent(at.filler.dilution)} dilution stands at "
                f"{best.sensitivity:.2f} of the crack range (watch over {watch_over()}): {how}. "
                "Qualitative."
            ),
            numbers={"sensitivity": best.sensitivity, "dilution": at.filler.dilution},
        )
    for text in at.filler.watches:
        yield LimitWarning(code="filler_watch", level="watch", setting="filler_class", message=text)


def _thickness(at: Situation) -> Iterator[LimitWarning]:
    job = at.job
    if (
        at.weld.takes_bevel
        and at.job.bevel is None
        and at.thickness_mm > MOST_SQUARE_MM
        and job.penetration != "partial"
    ):
        yield LimitWarning(
            code="bevel",
            level="watch",
            message=(
                f"Over {say.about_mm(MOST_SQUARE_MM)} a square edge does not melt through from one "
                f"side: bevel 60 to 90°, root face {say.size(ROOT_FACE_MM)}, or weld from both sides."
            ),
        )
