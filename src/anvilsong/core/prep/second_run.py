"""Going over a bead: melted once more to level its face, as a job of its own.

The pool is to reach half a millimetre past both toes at a low frequency, so the heat is that of a pool of
(bead + 1 mm)/width factor, and no filler takes any of it: amps = pool heat/(heat per ampere). At the ends the
metal gives the heat back (`heat.edges`). What it costs is told by EN 1999-1-1: the soft zone beside a TIG
weld in metal up to 6 mm reaches 30 mm, times 1 + (T − 60)/120 where the weld is gone over at T °C instead of
cooler than 60 (7xxx: 1 + 1.5·(T − 60)/120).

References
----------
EN 1999-1-1, 6.1.6.3: extent of the heat-affected zone, and the interpass temperature.
"""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

from anvilsong.core.arc.frequency import arc_width_factor, width_factor
from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.heat.edges import edge_share
from anvilsong.core.machine import Machine, on_panel
from anvilsong.core.model import Consequences, Situation
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

LEVEL_HZ, PAST_TOES_MM = 45.0, 0.5
SOFT_MM, SOFT_UP_TO_MM, COOL_C, WARM_C = 30.0, 6.0, 60.0, 120.0


class GoingOver(BaseModel):
    """Settings of the run, the pool it makes, amps at the ends and how far from them, and what it costs:
    how far the soft zone reaches each side, mm, gone over cool and gone over warm; None where the metal
    does not soften or is thicker than the rule.
    """

    model_config = ConfigDict(frozen=True)

    settings: Settings
    bead_mm: float
    pool_mm: float
    end_amps: float
    end_mm: float
    soft_mm: tuple[float, float] | None
    says: list[Words]


def going_over(
    at: Situation, settings: Settings, seen: Consequences, machine: Machine, c: Coefficients
) -> GoingOver:
    """What melts the face of a bead once more.

    Parameters
    ----------
    settings, seen : those of the bead as it was run, and what they do
    """
    job, bead = at.job, seen.pool_width_mm
    pool = bead + 2 * PAST_TOES_MM
    hz = min(max(LEVEL_HZ, machine.least_frequency_hz), settings.frequency_hz)
    run = settings.model_copy(update={"frequency_hz": hz, "pulse": None, "mix": None})
    shown = float(width_factor(hz, c)) * arc_width_factor(job.arc_length_mm)
    heat = at.wanted_pool_heat_w(settings.travel_mm_s, settings.preheat_c, pool / shown)
    amps = heat / heat_per_amp_w(run.wave(), c, job.arc_length_mm, job.helium_share)
    amps = min(max(amps, machine.least_a), machine.most_a)
    headroom = settings.amps_set / settings.amps_run
    full = min(max(amps * headroom, amps), machine.most_a)
    run = on_panel(run.model_copy(update={"amps_run": amps, "amps_set": full}), machine, job.control)
    share = edge_share(at.plate(settings.travel_mm_s), pool / shown, 0.5 * pool, ahead=True)
    return GoingOver(
        settings=run,
        bead_mm=bead,
        pool_mm=pool,
        end_amps=run.amps_run * share,
        end_mm=pool,
        soft_mm=soft_zone_mm(at),
        says=_says(at, run, hz > LEVEL_HZ),
    )


def soft_zone_mm(at: Situation) -> tuple[float, float] | None:
    """How far the soft zone reaches each side, mm, where the second run meets metal under 60 °C, and where it
    meets 120 °C; None for metal that has no hardness to lose, and over 6 mm.
    """
    job = at.job
    soft_temper = (job.temper or "").strip().upper() in ("O", "F")
    hardened = [side.metal for side in (job.a, job.b) if not side.metal.is_casting]
    thickest = max(job.a.thickness_mm, job.b.thickness_mm)
    if soft_temper or not hardened or thickest > SOFT_UP_TO_MM:
        return None
    steep = 1.5 if any(metal.zn > 1 for metal in hardened) else 1.0
    return SOFT_MM, SOFT_MM * (1 + steep * (WARM_C - COOL_C) / 120)


def _says(at: Situation, run: Settings, is_high: bool) -> list[Words]:
    """How it is done, in order."""
    says: list[Words] = [sentence("prep.over_brush"), sentence("prep.over_cool", cool_c=COOL_C)]
    if is_high:
        says.append(sentence("prep.over_no_low_hz", frequency_hz=run.frequency_hz))
    says.append(sentence("prep.over_run", amps=run.amps_run, frequency_hz=run.frequency_hz))
    rod = run.filler
    if rod is not None:
        says.append(sentence("prep.over_rod", size_mm=rod.diameter_mm, name=rod.class_))
    if at.wants_root:
        says.append(sentence("prep.over_root"))
    return says
