"""How much positive half a plan asks for: share and trim that bring the border to its aim, before amps and
tungsten settle.
"""

from __future__ import annotations

from dataclasses import replace

from anvilsong.core.arc.border import border_mm, cleaned_width_mm
from anvilsong.core.arc.frequency import arc_width_factor, width_factor
from anvilsong.core.arc.waveform import Wave, cycle_means, heat_per_amp_w
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.machine import Machine
from anvilsong.core.model import (
    LEAST_EP_SHARE,
    MOST_CAST_EP_SHARE,
    MOST_EP_SHARE,
    STILL_GOOD_BORDER_MM,
    Situation,
)
from anvilsong.core.plan.work import Course

BALANCE_SHIFT = {"lean": -0.06, "middle": 0.0, "cleaning": 0.07}
TRIM_WHEN_TRIMMED, TRIM_STEP, SHARE_STEP = -0.25, 0.05, 0.01
WORTH_IT_MM = 0.1
WIDE_CUP_MM = 100.0  # the cup is chosen later, and wide enough


def school_share(at: Situation, machine: Machine) -> float:
    """EP share by surface, moved by the balance school, within what is advisable and the machine's."""
    low, high = share_limits(at, machine)
    return round(min(max(at.surface.ep_share + BALANCE_SHIFT[at.job.school.balance], low), high), 3)


def share_limits(at: Situation, machine: Machine) -> tuple[float, float]:
    """Advisable shares within the machine's; a machine fixed above them stays where it is."""
    most = MOST_CAST_EP_SHARE if at.is_casting else MOST_EP_SHARE
    low = max(LEAST_EP_SHARE, machine.least_ep_share)
    return low, max(low, min(most, machine.most_ep_share))


def border_at_mm(at: Situation, machine: Machine, wave: Wave, course: Course, c: Coefficients) -> float:
    """Border, mm, that a wave leaves beside the wanted pool at the amps that make it, as far as the machine
    reaches.
    """
    per_amp = heat_per_amp_w(wave, c, at.job.arc_length_mm, at.job.helium_share)
    travel_mm_s = course.travel_mm_s
    amps = min(max(course.heat_w / per_amp, machine.least_a), machine.most_a)
    arc = at.job.arc_length_mm
    narrowed = float(width_factor(wave.frequency_hz, c))
    bead = at.aimed_width_mm(travel_mm_s) * narrowed * arc_width_factor(arc)
    cleaned = cleaned_width_mm(
        cycle_means(replace(wave, amps=amps)).ep,
        wave.ep_trim,
        bead,
        travel_mm_s,
        at.cleaning_factor(course.preheat_c),
        WIDE_CUP_MM,
        c,
        arc,
        narrowed,
    )
    return float(border_mm(cleaned, bead))


def with_border(at: Situation, machine: Machine, wave: Wave, course: Course, c: Coefficients) -> Wave:
    """The wave with as little less trim, then as little more share, as brings the border to the least of its
    aim.

    A border over 2.5 mm, of slow work on thick metal, is brought under it with less share.

    Where even the most advisable share leaves hardly a border, it is not moved: the metal has to be
    cleaned better.
    """

    def border(tried: Wave) -> float:
        return border_at_mm(at, machine, tried, course, c)

    least, (lowest, most) = at.aim.low_mm, share_limits(at, machine)
    tried = wave
    while border(tried) > STILL_GOOD_BORDER_MM and tried.ep_share > lowest + 1e-9:
        tried = replace(tried, ep_share=max(lowest, round(float(tried.ep_share) - SHARE_STEP, 3)))
    if tried is not wave:
        return tried
    while border(tried) < least and tried.ep_trim < 0:
        tried = replace(tried, ep_trim=min(0.0, round(float(tried.ep_trim) + TRIM_STEP, 3)))
    while border(tried) < least and tried.ep_share < most - 1e-9:
        tried = replace(tried, ep_share=min(most, round(float(tried.ep_share) + SHARE_STEP, 3)))
    return tried if border(tried) >= WORTH_IT_MM else replace(tried, ep_share=wave.ep_share)
