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
from anvilsong.core.said import Words
from anvilsong.core.settings import Pulse
from anvilsong.core.shown import percent
from anvilsong.core.words import sentence

# To the nearest 5 Hz, by ceil(x/5 − 1/2).
FREQUENCY = Formula(
    "min(max(5 * ceil((band_low_hz + band_high_hz) / 2 * school_factor / 5 - 0.5), least_hz), most_hz)"
)

EP_SHARE = Formula("min(max(surface_share + school_shift, least, border_share), allowed)")


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
        source=sentence("plan.frequency_hz_source"),
        school=f"frequency: {school}",
        value=float(FREQUENCY(**numbers)),
        said=f"{band.words.split(':')[0].split(',')[0]}: {band.low_hz:.0f} to {band.high_hz:.0f} Hz"
        + ("." if factor == 1 else f", × {factor:g} for {school}."),
    )


def waveform(shape: Shape, wanted: Shape, machine: str) -> Reason:
    """Why this shape: the school's, or what the machine has."""
    said = (
        sentence("plan.your_way_working_says", wanted=wanted)
        if shape == wanted
        else sentence("plan.has_no_wave_what", machine=machine, wanted=wanted, shape=shape)
    )
    return Reason(
        setting="shape_en",
        rule=sentence("plan.shape_en_rule"),
        source=sentence("plan.shape_en_source"),
        school=f"waveform: {wanted}",
        value=shape,
        said=said,
    )


def trim(value: float, asked: bool, can: bool, school: str) -> Reason:
    """Why the positive half is trimmed, or not."""
    if asked and not can:
        said: Words = sentence("plan.lower_ep_amplitude_wanted")
    elif asked and value == 0:
        said = sentence("plan.left_with_less_border")
    elif asked:
        said = sentence("plan.lowered_narrow_straight_border")
    else:
        said = "Both halves equal."
    return Reason(
        setting="ep_trim",
        rule=sentence("plan.ep_trim_rule"),
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
    said: Words = f"{at.surface.words}: {percent(at.surface.ep_share)} EP to start."
    if value < first:
        for_what = (
            sentence("plan.border_narrow_enough_look")
            if "appearance" in at.job.purposes
            else "what the tungsten bears"
            if lowered
            else sentence("plan.enough_border_speed")
        )
        said = sentence("plan.usual_surface", usual=first, planned=value, for_what=for_what)
    elif value > first:
        said = sentence("plan.usual_surface_cleans_beside", usual=first, planned=value, low_mm=at.aim.low_mm)
    return Reason(
        setting="ep_share",
        rule=sentence("plan.ep_share_rule"),
        formula=EP_SHARE.text,
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
        sentence("plan.one_dab_pulse_travel", slowest_dab_hz=SLOWEST_DAB_HZ, fastest_dab_hz=FASTEST_DAB_HZ)
        if dab
        else sentence("plan.fast_two_ac_cycles")
    )
    said = (
        say.joined("A ripple each ", say.mm(travel_mm_s / value.rate_hz), ".")
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
            rule=sentence("plan.pulse_peak_share_rule"),
            source=WORKSHOP,
            school=school,
            value=value.peak_share,
            said=sentence("plan.pulse_peak_share_said") if dab else sentence("plan.pulse_peak_share_said_2"),
        ),
        Reason(
            setting="pulse_base_share",
            rule=sentence("plan.pulse_base_share_rule"),
            numbers={"mean_factor": mean},
            source=WORKSHOP,
            school=school,
            value=value.base_share,
            said=sentence("plan.pulse_base_share_said", mean=mean * 100),
        ),
    ]
