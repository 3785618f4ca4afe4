"""Why this share, trim, frequency, waveform and pulse."""

from __future__ import annotations

from anvilsong.core import say
from anvilsong.core.arc.frequency import Band
from anvilsong.core.arc.waveform import Shape
from anvilsong.core.formula import Formula
from anvilsong.core.machine import Machine
from anvilsong.core.model import FASTEST_DAB_HZ, Reason, Situation
from anvilsong.core.plan.cleaning import BALANCE_SHIFT
from anvilsong.core.plan.pulse import SLOWEST_DAB_HZ, ripple_wanted_mm
from anvilsong.core.plan.reasons.source import WORKSHOP
from anvilsong.core.quantities import percent
from anvilsong.core.settings import Pulse

# To the nearest 5 Hz, by ceil(x/5 − 1/2).
FREQUENCY = Formula(
    "min(max(5 * ceil((band_low_hz + band_high_hz) / 2 * school_factor / 5 - 0.5), least_hz), most_hz)"
)


def frequency(band: Band, school: str, factor: float, machine: Machine) -> Reason:
    """The frequency and why: the metal's band, the way of working, the machine."""
    numbers = {
        "band_low_hz": band.low_hz,
        "band_high_hz": band.high_hz,
        "school_factor": factor,
        "least_hz": machine.least_frequency_hz,
        "most_hz": machine.most_frequency_hz,
    }
    return Reason(
        setting="frequency_hz",
        rule=band.words,
        formula=FREQUENCY.text,
        numbers=numbers,
        source="Workshop bands for inverter AC",
        school=f"frequency: {school}",
        value=float(FREQUENCY(**numbers)),
        said=f"{band.words.split(':')[0].split(',')[0]}: {band.low_hz:.0f} to {band.high_hz:.0f} Hz"
        + ("." if factor == 1 else f", × {factor:g} for {school}."),
    )


def waveform(shape: Shape, wanted: Shape, machine: str) -> Reason:
    """Why this shape: the school's, or what the machine has."""
    said = (
        f"As your way of working says: {wanted}."
        if shape == wanted
        else f"{machine} has no {wanted} wave; {shape} is what it has."
    )
    return Reason(
        setting="shape_en",
        rule=(
            "Waveform by your way of working, within what the machine has; amps are converted so that the "
            "heat stays"
        ),
        source="Means of the unit shapes",
        school=f"waveform: {wanted}",
        value=shape,
        said=said,
    )


def trim(value: float, asked: bool, can: bool, school: str) -> Reason:
    """Why the positive half is trimmed, or not."""
    if asked and not can:
        said = "A lower EP amplitude is wanted; this machine cannot set it."
    elif asked and value == 0:
        said = "Left at 100 %: with less the border would be too thin on this metal."
    elif asked:
        said = "Lowered for a narrow, straight border and a sharp tungsten."
    else:
        said = "Both halves equal."
    return Reason(
        setting="ep_trim",
        rule="EP amplitude lowered for appearance or by your way of working, 20 to 30 %",
        source=WORKSHOP,
        school=f"amplitude: {school}",
        value=value,
        said=said,
    )


def ep_share(value: float, first: float, at: Situation, limits: tuple[float, float], lowered: bool) -> Reason:
    """``lowered`` says that tungsten or look brought the share down, and not the border alone."""
    school = at.job.school.balance
    shift = BALANCE_SHIFT[school]
    numbers = {
        "surface_share": at.surface.ep_share,
        "school_shift": shift,
        "least": limits[0],
        "border_share": value if value > first else 0.0,
        "allowed": value if value < first else max(limits[1], value),
    }
    said = f"{at.surface.words}: {percent(at.surface.ep_share)} EP to start."
    if value < first:
        for_what = (
            "a border narrow enough for the look"
            if "appearance" in at.job.purposes
            else "what the tungsten bears"
            if lowered
            else "enough for the border at this speed"
        )
        said = f"{percent(first)} is usual for this surface; {percent(value)} is {for_what}."
    elif value > first:
        said = (
            f"{percent(first)} is usual for this surface; {percent(value)} cleans "
            f"{say.mm(at.aim.low_mm)} beside this bead."
        )
    return Reason(
        setting="ep_share",
        rule=(
            "EP by surface, moved by your way of working, enough for the border, under what tungsten or "
            "look allow"
        ),
        formula="min(max(surface_share + school_shift, least, border_share), allowed)",
        numbers=numbers,
        source="Surface table; workshop practice",
        school=f"balance: {school}",
        value=value,
        said=said,
    )


def pulse(value: Pulse, at: Situation, travel_mm_s: float, frequency_hz: float) -> list[Reason]:
    """Why this pulse: rate, share at peak, base."""
    dab = at.job.school.pulse == "dab"
    numbers = {
        "travel_mm_s": travel_mm_s,
        "ripple_mm": ripple_wanted_mm(at),
        "frequency_hz": frequency_hz,
        "on": value.peak_share,
        "base": value.base_share,
    }
    rule = (
        f"One dab a pulse: travel over ripple pitch, {SLOWEST_DAB_HZ:g} to {FASTEST_DAB_HZ:g} a second"
        if dab
        else "As fast as two AC cycles in the shorter phase allow"
    )
    said = (
        f"A ripple each {say.mm(travel_mm_s / value.rate_hz)}."
        if dab
        else f"{frequency_hz:.0f} Hz AC allows {value.rate_hz:.0f} a second."
    )
    mean = value.peak_share + value.base_share * (1 - value.peak_share)
    asked = at.job.school.pulse
    # Can stock is pulsed whatever the school, since a steady arc would not hold.
    school = "" if asked == "none" else f"pulse: {asked}"
    return [
        Reason(
            setting="pulse_rate_hz",
            rule=rule,
            numbers=numbers,
            source=WORKSHOP,
            school=school,
            value=value.rate_hz,
            said=said,
        ),
        Reason(
            setting="pulse_peak_share",
            rule="35 to 50 % at peak for dabbing, 30 % on foil, a third on can stock",
            source=WORKSHOP,
            school=school,
            value=value.peak_share,
            said="Time enough for one dab." if dab else "The pool freezes in between.",
        ),
        Reason(
            setting="pulse_base_share",
            rule="25 to 40 % of the peak, at least what the machine gives; the mean heat stays",
            numbers={"mean_factor": mean},
            source=WORKSHOP,
            school=school,
            value=value.base_share,
            said=f"Mean {mean * 100:.0f} % of the peak: the amps are raised for it.",
        ),
    ]
