"""Preheat for this job: how far, what it saves, and the heat it takes."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

from anvilsong.core.metal.preheat import THICK_MM, PreheatLimit, burner_kw, burner_minutes, heat_kj, strictest
from anvilsong.core.model import Situation
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

THICK_PURE_MM = 5.0
DEFAULT_WIDTH_MM, DEFAULT_OVER_LENGTH_MM = 150.0, 100.0


class Warming(BaseModel):
    """Preheat of one job. Temperatures °C, heat kJ, mass kg."""

    model_config = ConfigDict(frozen=True)

    limit_c: float
    advised_c: float
    words: Words
    wanted: bool
    why: Words
    amps_cold: float
    amps_warm: float
    mass_kg: float
    heat_kj: float
    burner_kw: float
    minutes: float
    size_known: bool


def limit_for(at: Situation) -> PreheatLimit:
    """The stricter limit of both sides."""
    return strictest(at.job.a.metal, at.job.b.metal, at.job.temper)


def preheat_wanted(at: Situation) -> Words:
    """Why preheat is wanted; empty when it is not."""
    job = at.job
    thickest = max(job.a.thickness_mm, job.b.thickness_mm)
    if at.is_casting:
        return sentence("prep.casting_drives_out_moisture")
    if thickest > THICK_MM:
        return sentence("prep.over_takes_chill_off", thick_mm=THICK_MM)
    if thickest > THICK_PURE_MM and "pure" in (job.a.metal.family, job.b.metal.family):
        return sentence("prep.pure_aluminium_over_carries", thick_pure_mm=THICK_PURE_MM)
    return ""


def warming(at: Situation, settings: Settings) -> Warming:
    """What preheating to the advised temperature does to this job."""
    job, limit = at.job, limit_for(at)
    mass, known = _mass_kg(at)
    cold, warm = (
        at.wanted_pool_heat_w(settings.travel_mm_s, temperature)
        for temperature in (job.part_temperature_c, limit.advised_c)
    )
    # settings.amps_run already counts any preheat that is set.
    planned = at.wanted_pool_heat_w(settings.travel_mm_s, settings.preheat_c)
    kj = heat_kj(mass, max(0.0, limit.advised_c - job.part_temperature_c))
    why = preheat_wanted(at)
    return Warming(
        limit_c=limit.limit_c,
        advised_c=limit.advised_c,
        words=limit.words,
        wanted=bool(why),
        why=why,
        amps_cold=settings.amps_run * cold / planned,
        amps_warm=settings.amps_run * warm / planned,
        mass_kg=mass,
        heat_kj=kj,
        burner_kw=burner_kw(),
        minutes=burner_minutes(kj),
        size_known=known,
    )


def _mass_kg(at: Situation) -> tuple[float, bool]:
    """Mass of the part, kg, and whether its size was given or guessed (150 mm each side of the weld)."""
    job = at.job
    known = job.part is not None and bool(job.part.width_mm) and bool(job.part.length_mm)
    width = job.part.width_mm if known and job.part and job.part.width_mm else 2 * DEFAULT_WIDTH_MM
    length = (
        job.part.length_mm
        if known and job.part and job.part.length_mm
        else job.weld_length_mm + DEFAULT_OVER_LENGTH_MM
    )
    density = at.joint.weighted(job.a.metal.density_g_cm3, job.b.metal.density_g_cm3)
    return width * length * at.mean_thickness_mm * density / 1e6, known
