"""Shielding: flow, draught, stick-out."""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core import say
from anvilsong.core.job import Job
from anvilsong.core.model import Consequences, LimitWarning
from anvilsong.core.settings import Settings
from anvilsong.core.torch.cup import bore_mm, longest_stick_out_mm
from anvilsong.core.torch.gas import LEAST_REYNOLDS, TURBULENT_REYNOLDS, planned_flow_l_min

SCREEN_OVER_M_S, NOTHING_SHIELDS_M_S = 0.5, 1.0  # air past the joint


def gas_warnings(job: Job, settings: Settings, seen: Consequences) -> Iterator[LimitWarning]:
    """By Reynolds number in the cup, air speed in m/s, and stick-out in mm."""
    least = LEAST_REYNOLDS
    numbers = {"reynolds": seen.reynolds}
    if (
        settings.gas.flow_l_min
        < planned_flow_l_min(least, bore_mm(settings.cup.number), job.helium_share) - 0.05
    ):
        yield LimitWarning(
            code="gas_weak",
            level="watch",
            setting="flow_l_min",
            message=(
                f"Reynolds number {seen.reynolds:.0f} in the cup, under {least:.0f}: draught and "
                "stick-out win. More flow."
            ),
            numbers=numbers,
        )
    elif seen.reynolds > TURBULENT_REYNOLDS:
        yield LimitWarning(
            code="gas_turbulent",
            level="watch",
            setting="flow_l_min",
            message=(
                f"Reynolds number {seen.reynolds:.0f} in the cup, over {TURBULENT_REYNOLDS:.0f}: the "
                "stream turns turbulent and pulls air in. Less flow."
            ),
            numbers=numbers,
        )
    if job.draught_m_s > NOTHING_SHIELDS_M_S:
        yield LimitWarning(
            code="draught",
            level="stop",
            message=(
                f"Air moves at {say.m_s(job.draught_m_s)} at the joint: over "
                f"{say.m_s(NOTHING_SHIELDS_M_S, 0)} no flow shields it. Put up a screen."
            ),
        )
    elif job.draught_m_s > SCREEN_OVER_M_S:
        yield LimitWarning(
            code="draught",
            level="watch",
            message=f"Air moves at {say.m_s(job.draught_m_s)} at the joint: put up a screen.",
        )
    longest = longest_stick_out_mm(settings.cup.number, settings.cup.gas_lens)
    if settings.cup.stick_out_mm > longest + 1e-6:
        yield LimitWarning(
            code="stick_out_long",
            level="watch",
            setting="stick_out_mm",
            message=(
                f"Stick-out {say.near_mm(settings.cup.stick_out_mm)}: cup {settings.cup.number} covers "
                f"{say.near_mm(longest)}."
            ),
        )
