"""Alloy, filler, thickness and surface, whatever the settings."""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core import say
from anvilsong.core.joint import ROOT_FACE_MM
from anvilsong.core.metal.chemistry import watch_over
from anvilsong.core.metal.fillers import pair_rules
from anvilsong.core.model import LimitWarning, Situation
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

CAN_STOCK_MM = 0.3
MOST_SQUARE_MM = 6.4  # that amps alone can melt through, where it is asked for


def metal_warnings(at: Situation, settings: Settings) -> Iterator[LimitWarning]:
    """By alloy, the rod that is set and its crack range, thickness in mm, and surface."""
    yield from _sides(at)
    yield from _rod(at, settings)
    yield from _weld_metal(at, settings)
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
                message=sentence("checks.unknown_alloy", name=metal.name),
            )
        if metal.heat_treatable and "strength" in job.purposes:
            yield LimitWarning(
                code="softened_zone",
                level="watch",
                message=sentence("checks.softened_zone", name=metal.name),
            )


def _rod(at: Situation, settings: Settings) -> Iterator[LimitWarning]:
    """The hard rules, asked of the rod that is set and not of the one that was planned."""
    if settings.filler is None:
        for refusal in pair_rules(at.job.a.metal, at.job.b.metal, (), "none"):
            if refusal.filler == "none":
                yield LimitWarning(
                    code="no_rod",
                    level="stop",
                    setting="filler_class",
                    message=say.joined(refusal.reason, "."),
                )
        return
    for refusal in at.filler.refused:
        if refusal.filler == settings.filler.class_:
            yield LimitWarning(
                code="rod_refused",
                level="stop",
                setting="filler_class",
                message=say.joined(f"{settings.filler.class_} is set: ", refusal.reason, "."),
                numbers={"rule": refusal.rule},
            )


def _weld_metal(at: Situation, settings: Settings) -> Iterator[LimitWarning]:
    set_to = settings.filler.class_ if settings.filler else None
    best = next((row for row in at.filler.ranked if row.filler == set_to), at.filler.best)
    if best and best.sensitivity > watch_over():
        safe = best.largest_safe_dilution
        how = sentence("checks.dilution_must_stay_under", safe=safe) if safe else "take another filler"
        yield LimitWarning(
            code="crack_range",
            level="watch",
            setting="filler_class",
            message=sentence(
                "checks.crack_range",
                filler=best.filler,
                dilution=at.filler.dilution,
                sensitivity=best.sensitivity,
                watch_over=watch_over(),
                how=how,
            ),
            numbers={"sensitivity": best.sensitivity, "dilution": at.filler.dilution},
        )
    for text in at.filler.watches:
        yield LimitWarning(code="filler_watch", level="watch", setting="filler_class", message=text)


def _thickness(at: Situation) -> Iterator[LimitWarning]:
    job = at.job
    if job.thin_mm < CAN_STOCK_MM:
        yield LimitWarning(
            code="can_stock",
            level="note",
            message=sentence("checks.can_stock", can_stock_mm=CAN_STOCK_MM),
        )
    if (
        at.weld.takes_bevel
        and at.job.bevel is None
        and at.thickness_mm > MOST_SQUARE_MM
        and job.penetration != "partial"
    ):
        yield LimitWarning(
            code="bevel",
            level="watch",
            message=sentence("checks.bevel", most_square_mm=MOST_SQUARE_MM, root_face_mm=ROOT_FACE_MM),
        )
