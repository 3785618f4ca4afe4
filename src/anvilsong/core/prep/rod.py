"""Filler: how much rod a job takes, and how to feed it."""

from __future__ import annotations

import math
from collections.abc import Sequence

from pydantic import BaseModel, ConfigDict

from anvilsong.core.coefficients import Coefficients
from anvilsong.core.metal.fillers import find_filler
from anvilsong.core.model import Consequences, Pass, Situation, needs_bridging
from anvilsong.core.settings import Settings

STUB_LOSS, ROD_LENGTH_MM, GOOD_HEAT_SHARE = 0.10, 1000.0, 0.15


class RodTake(BaseModel):
    """Rods of one thickness: how long in all, mm, and how many of a metre."""

    model_config = ConfigDict(frozen=True)

    diameter_mm: float
    length_mm: float
    rods: int


class RodUse(BaseModel):
    """Rod for the whole weld, and its rhythm. Lengths mm, mass g, times s.

    ``take`` holds what each pass takes, by thickness; feed and dab are the first pass's.
    """

    model_config = ConfigDict(frozen=True)

    section_mm2: float
    volume_mm3: float
    take: list[RodTake]
    mass_g: float
    ripple_mm: float
    dabs_per_s: float
    dab_mm: float
    feed_mm_s: float
    most_feed_mm_s: float
    heat_share: float


def rod_length_mm(section_mm2: float, weld_length_mm: float, rod_mm: float) -> float:
    """Rod that fills a weld: section × length / rod section / (1 − stub loss 0.1)."""
    return section_mm2 * weld_length_mm / (math.pi * rod_mm**2 / 4) / (1 - STUB_LOSS)


def rods_by_size(run: Sequence[Pass], weld_length_mm: float) -> list[RodTake]:
    """What the passes take, each of its own rod, thinnest first."""
    lengths: dict[float, float] = {}
    for each in run:
        if each.rod_mm and each.section_mm2 > 0:
            more = rod_length_mm(each.section_mm2, weld_length_mm, each.rod_mm)
            lengths[each.rod_mm] = lengths.get(each.rod_mm, 0.0) + more
    return [
        RodTake(diameter_mm=size, length_mm=length, rods=math.ceil(length / ROD_LENGTH_MM - 1e-9))
        for size, length in sorted(lengths.items())
    ]


def rod_use(
    at: Situation, settings: Settings, seen: Consequences, c: Coefficients, run: Sequence[Pass]
) -> RodUse | None:
    """Rod for the job; None when it is welded without.

    Parameters
    ----------
    run : the passes, each with its section and rod

    Feed: the section of one pass × travel / rod section. The most is what 15 % of the arc's heat melts:
    0.15·q/(2.85·rod section).
    One dab a ripple.
    """
    filler = settings.filler
    if filler is None or at.whole.total_mm2 == 0:
        return None
    job = at.job
    # The steps that bridge a gap fill it flush.
    section = job.gap_mm * job.thin_mm if needs_bridging(at) else at.whole.total_mm2
    rod_section = math.pi * filler.diameter_mm**2 / 4
    volume = section * job.weld_length_mm
    ripple = seen.ripple_mm
    return RodUse(
        section_mm2=section,
        volume_mm3=volume,
        take=rods_by_size(run, job.weld_length_mm),
        mass_g=volume * find_filler(filler.class_).density_g_cm3 / 1000,
        ripple_mm=ripple,
        dabs_per_s=settings.travel_mm_s / ripple,
        dab_mm=at.section_mm2 * ripple / rod_section,
        feed_mm_s=at.section_mm2 * settings.travel_mm_s / rod_section,
        most_feed_mm_s=GOOD_HEAT_SHARE * seen.work_heat_w / (c.filler_j_per_mm3 * rod_section),
        heat_share=seen.filler_heat_share,
    )
