"""A gap that opens along the seam: slices from the closed end, each welded or bridged for its own gap.

A slice is as long as the gap opens by half a millimetre, at least 20 mm. Its gap is the mean of its ends. Its
filler is its own gap × thickness × length beside the joint's section, and the amps give the pool its heat and
melt that filler: amps = (pool heat + filler heat)/(heat per ampere). From half the thickness on a slice is
bridged, as a gap of its own width is (`gap.bridge_gap`).
"""

from __future__ import annotations

import math

from pydantic import BaseModel, ConfigDict

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.errors import BadInput
from anvilsong.core.model import Situation, needs_bridging, situation
from anvilsong.core.prep.gap import GapStep, bridge_gap
from anvilsong.core.prep.rod import GOOD_HEAT_SHARE, rod_length_mm
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

OPENS_BY_MM, LEAST_SLICE_MM, MOST_SLICES, MOST_GAP_MM = 0.5, 20.0, 20, 20.0


class Slice(BaseModel):
    """A piece of the seam: from, to and gap at both ends, mm; amps, the rod it takes, mm, the share of the
    heat that the rod takes, and the steps where it is bridged.
    """

    model_config = ConfigDict(frozen=True)

    from_mm: float
    to_mm: float
    gap_mm: tuple[float, float]
    amps: float
    volume_mm3: float
    rod_mm: float
    rod_length_mm: float
    heat_share: float
    steps: list[GapStep]

    @property
    def is_bridged(self) -> bool:
        """Whether it is too wide for one bead."""
        return bool(self.steps)

    @property
    def is_rod_heavy(self) -> bool:
        """Whether its filler takes more heat than a pool gives up well: feed slower, or a thinner rod."""
        return self.heat_share > GOOD_HEAT_SHARE


def wedge(
    at: Situation, settings: Settings, narrow_mm: float, wide_mm: float, c: Coefficients | None = None
) -> list[Slice]:
    """The slices of a gap from its closed end on.

    Parameters
    ----------
    narrow_mm, wide_mm : the gap at the closed and at the open end, mm

    Raises
    ------
    BadInput : the joint follows no gap, or the ends are not 0 to 20 mm with the wider one last
    """
    if not at.weld.follows_a_gap:
        raise BadInput.one("joint", at.joint.words, sentence("prep.no_gap_along_joint"))
    if not 0 <= narrow_mm <= wide_mm <= MOST_GAP_MM:
        raise BadInput.one(
            "wide_mm",
            f"{narrow_mm:g} to {wide_mm:g}",
            sentence("prep.gap_opens_from_to", most_mm=MOST_GAP_MM),
        )
    length = at.job.weld_length_mm
    count = math.ceil((wide_mm - narrow_mm) / OPENS_BY_MM - 1e-9)
    count = max(1, min(count, MOST_SLICES, int(length / LEAST_SLICE_MM)))
    gaps, c = (narrow_mm, wide_mm), c or nominal()
    return [_slice(at, settings, place / count, (place + 1) / count, gaps, c) for place in range(count)]


def _slice(
    at: Situation, settings: Settings, since: float, until: float, gaps: tuple[float, float], c: Coefficients
) -> Slice:
    """A slice between two shares of the length."""
    length, (narrow, wide) = at.job.weld_length_mm, gaps
    begin, end = length * since, length * until
    ends = (narrow + (wide - narrow) * since, narrow + (wide - narrow) * until)
    mean = sum(ends) / 2
    # A piece of a longer seam: its own gap, and the length that its steps count by.
    job = at.job.model_copy(update={"gap_mm": mean, "weld_length_mm": max(end - begin, LEAST_SLICE_MM)})
    here = situation(job)
    pool = float(here.wanted_pool_heat_w(settings.travel_mm_s, settings.preheat_c))
    section = here.whole.total_mm2
    rod_heat = float(here.filler_heat_w(settings.travel_mm_s, c)) if settings.filler else 0.0
    per_amp = heat_per_amp_w(settings.wave(), c, job.arc_length_mm, job.helium_share)
    amps = (pool + rod_heat) / per_amp
    run = settings.model_copy(update={"amps_run": round(amps, 1), "amps_set": max(amps, settings.amps_set)})
    steps = _without_tacks(bridge_gap(here, run)) if needs_bridging(here) else []
    rod = settings.filler.diameter_mm if settings.filler else 0.0
    volume = section * (end - begin)
    return Slice(
        from_mm=begin,
        to_mm=end,
        gap_mm=ends,
        amps=amps,
        volume_mm3=volume,
        rod_mm=rod,
        rod_length_mm=rod_length_mm(section, end - begin, rod) if rod else 0.0,
        heat_share=rod_heat / (pool + rod_heat),
        steps=steps,
    )


def _without_tacks(steps: list[GapStep]) -> list[GapStep]:
    """The steps of a slice: the seam is cleaned and tacked once, and what its tacks would hold is filled."""
    tacked = sum(step.volume_mm3 for step in steps if step.kind == "tack")
    length = sum(step.rod_length_mm for step in steps if step.kind == "tack")
    return [
        step.model_copy(
            update={"volume_mm3": step.volume_mm3 + tacked, "rod_length_mm": step.rod_length_mm + length}
        )
        if step.kind == "fill"
        else step
        for step in steps
        if step.kind not in ("clean", "tack")
    ]
