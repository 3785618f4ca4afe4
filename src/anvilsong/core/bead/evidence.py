"""The figures that speak for or against a cause, from what was set, what it does, and what came out."""

from __future__ import annotations

from dataclasses import dataclass, replace

from anvilsong.core import say
from anvilsong.core.bead.coupon import Looks
from anvilsong.core.bead.figure_keys import FigureKey
from anvilsong.core.bead.verdict import LooksVerdict, as_run, read_looks
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL, Machine
from anvilsong.core.model import consequences, situation
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.shown import percent
from anvilsong.core.torch.gas import post_flow_s
from anvilsong.core.torch.tungsten import bears, find_size
from anvilsong.core.words import sentence

USUAL_SHARE = 0.3
# How a figure is named in a sentence; of the ones that are so or not so, what is said of either.
WORDS: dict[FigureKey, Words] = {
    "amps_run": "welding amps",
    "amps_set": "machine amps",
    "arc_length_mm": "arc length",
    "bead_over_expected": sentence("bead.bead_against_what_was"),
    "border_miss": "border against its aim",
    "border_mm": "border",
    "cleaning_factor": sentence("bead.how_easily_surface_clears"),
    "down_slope_s": "downslope",
    "draught_m_s": "draught",
    "duty_used": "duty used",
    "ep_amps": "EP amps",
    "ep_share": "EP",
    "ep_trim": "EP amplitude",
    "filler_heat_share": sentence("bead.heat_filler_rod_takes"),
    "frequency_hz": "frequency",
    "gap_mm": "gap",
    "hand": sentence("bead.travel_speed_against_plan"),
    "heat_share": sentence("bead.heat_against_what_pool"),
    "load": "tungsten load",
    "load_set": sentence("bead.tungsten_load_with_pedal"),
    "long_run": "seconds of the run",
    "melt_through": sentence("bead.how_near_melting_through"),
    "mix_ac": "AC in the mix",
    "part_c": "part",
    "pedal_used": "pedal used",
    "post_flow_share": sentence("bead.gas_after_against_what"),
    "pulse_hz": "pulse",
    "reynolds": sentence("bead.reynolds_number_gas"),
    "shield_used": sentence("bead.stick_out_against_what"),
    "start_amps": "start amps",
    "stick_out_mm": "stick-out",
    "thick_mm": "thicker side",
    "thin_mm": "thinner side",
    "unevenness": sentence("bead.difference_two_borders"),
    "width_miss": "bead against its aim",
}
SO: dict[FigureKey, tuple[Words, Words]] = {
    "can_trim": (sentence("bead.machine_cannot_set_ep"), sentence("bead.machine_can_set_ep")),
    "casting": ("it is no casting", "it is a casting"),
    "gentle_wave": ("the waveform is square", "the waveform is gentle"),
    "has_pedal": ("there is no pedal", "there is a pedal"),
    "magnesium_rod": (sentence("bead.filler_rod_has_little"), sentence("bead.filler_rod_has_much")),
    "no_filler": ("filler rod is fed", sentence("bead.no_filler_rod_fed")),
    "pure_tungsten": (sentence("bead.tungsten_not_pure"), "the tungsten is pure"),
    "small_tungsten": (sentence("bead.tungsten_usual_size"), sentence("bead.bigger_tungsten_usual_these")),
    "six_series": (sentence("bead.no_xxx_alloy"), "it is a 6xxx alloy"),
    "water_cooled": (sentence("bead.torch_cooled_air"), sentence("bead.torch_cooled_water")),
}
_SHARES = {
    "bead_over_expected",
    "duty_used",
    "ep_share",
    "filler_heat_share",
    "hand",
    "heat_share",
    "load",
    "load_set",
    "melt_through",
    "mix_ac",
    "pedal_used",
    "post_flow_share",
    "shield_used",
    "unevenness",
}


@dataclass(frozen=True)
class Case:
    """A bead in question: what was welded with what, and the coupon that a sign was seen on, where there is
    one.
    """

    job: Job
    settings: Settings
    machine: Machine = IDEAL
    c: Coefficients | None = None
    readings: Looks | None = None


def figures_for(case: Case) -> dict[FigureKey, float]:
    """Every figure that a rule may ask for; those that only a coupon gives are missing without one."""
    job, settings, machine, c, readings = case.job, case.settings, case.machine, case.c, case.readings
    at = situation(job)
    ran = settings if readings is None else as_run(settings, readings)
    seen = consequences(job, ran, machine, c)
    tungsten, filler = settings.tungsten, settings.filler
    least = find_size(tungsten.diameter_mm).post_flow_least_s if tungsten else 0.0
    wave = settings.wave()
    # Against what the pool wants at the planned speed: a slow hand is a cause of its own.
    planned = seen if readings is None else consequences(job, settings, machine, c)
    figures: dict[FigureKey, float] = {
        "amps_run": settings.amps_run,
        "amps_set": settings.amps_set,
        "arc_length_mm": job.arc_length_mm,
        "can_trim": float(machine.can_trim),
        "casting": float(job.a.metal.is_casting or job.b.metal.is_casting),
        "cleaning_factor": at.surface.cleaning_factor,
        "draught_m_s": job.draught_m_s,
        "duty_used": seen.duty_used,
        "ep_amps": float(wave.ep_amps),
        "ep_share": settings.ep_share,
        "ep_trim": settings.ep_trim,
        "filler_heat_share": seen.filler_heat_share,
        "frequency_hz": settings.frequency_hz,
        "gap_mm": job.gap_mm,
        "gentle_wave": float(settings.shape_en not in ("square",)),
        "has_pedal": float(job.control == "pedal"),
        "heat_share": planned.work_heat_w / max(planned.heat_wanted_w, 1e-9),
        "load": seen.tungsten_load,
        "load_set": seen.tungsten_load_set,
        "long_run": seen.arc_time_s,
        "magnesium_rod": float(filler is not None and filler.class_.startswith("5")),
        "melt_through": seen.melt_through,
        "mix_ac": settings.mix.ac_share if settings.mix else 1.0,
        "no_filler": float(filler is None),
        "part_c": max(job.part_temperature_c, settings.preheat_c or job.part_temperature_c),
        "pedal_used": seen.pedal_used,
        "post_flow_share": settings.post_flow_s / post_flow_s(settings.amps_run, least, seen.shield_used),
        "pulse_hz": settings.pulse.rate_hz if settings.pulse else 0.0,
        "pure_tungsten": float(tungsten is not None and tungsten.class_ == "W"),
        "reynolds": seen.reynolds,
        "shield_used": seen.shield_used,
        "small_tungsten": float(tungsten is not None and _is_small(settings)),
        "six_series": float(any(side.metal.name.startswith("6") for side in (job.a, job.b))),
        "start_amps": settings.start_amps,
        "stick_out_mm": settings.cup.stick_out_mm,
        "thick_mm": max(job.a.thickness_mm, job.b.thickness_mm),
        "thin_mm": job.thin_mm,
        "water_cooled": float(machine.water_cooled),
    }
    if job.control != "pedal":  # under one the foot is the slope
        figures["down_slope_s"] = settings.down_slope_s
    if readings is not None:
        figures |= _of_the_coupon(read_looks(job, settings, readings, machine, c), settings, readings)
    return figures


def _is_small(settings: Settings) -> bool:
    """Whether a bigger tungsten is usual for these amps, at no more than the usual share."""
    tungsten = settings.tungsten
    if tungsten is None:
        return False
    share = min(settings.ep_share, USUAL_SHARE)
    run, full = (replace(settings.wave(amps), ep_share=share) for amps in (None, settings.amps_set))
    return not bears(run, full, tungsten.diameter_mm, "WLa 20", tungsten.tip)


MEASURED: frozenset[FigureKey] = frozenset({"border_miss", "width_miss"})
"""Figures that a ruler gave, in tolerances: what they clearly speak against was not on that coupon."""
CLEARLY = 0.5  # of a tolerance


def _of_the_coupon(verdict: LooksVerdict, settings: Settings, looks: Looks) -> dict[FigureKey, float]:
    """What a coupon's own measures give, as far as they were taken."""
    found: dict[FigureKey, float] = {}
    if looks.travel_mm_s is not None:
        found["hand"] = looks.travel_mm_s / settings.travel_mm_s
    if verdict.border_mm is not None and verdict.border_miss is not None:
        found |= {"border_mm": verdict.border_mm, "border_miss": verdict.border_miss}
    if verdict.bead_width_mm is not None and verdict.width_miss is not None:
        found["width_miss"] = verdict.width_miss
        found["bead_over_expected"] = verdict.bead_width_mm / max(verdict.expected_width_mm, 0.1)
    if looks.unevenness is not None:
        found["unevenness"] = looks.unevenness
    return found


def figure_said(key: FigureKey, value: float) -> Words:
    """A figure with its value, as a clause."""
    if key in SO:
        return SO[key][value > 0.5]
    if key == "ep_trim":
        said: Words = say.setting(value, "amplitude")
    elif key in _SHARES:
        said = percent(value)
    elif key.endswith("_mm"):
        said = say.mm(value)
    elif key == "part_c":
        said = say.celsius(value)
    elif key == "draught_m_s":
        said = say.m_s(value)
    elif key in ("border_miss", "width_miss"):
        said = f"{value:+.1f} tolerances".replace("-", "−")
    else:
        unit = {"frequency_hz": " Hz", "pulse_hz": " Hz", "down_slope_s": " s", "long_run": " s"}
        amps = " A" if "amps" in key else ""
        said = f"{value:.3g}{unit.get(key, amps)}"
    return say.joined(WORDS[key], " ", said)
