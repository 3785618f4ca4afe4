"""Shielding: flow, draught, stick-out."""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core import say
from anvilsong.core.job import Job
from anvilsong.core.model import Consequences, LimitWarning
from anvilsong.core.settings import Settings
from anvilsong.core.torch.cup import bore_mm, longest_stick_out_mm
from anvilsong.core.torch.gas import LEAST_REYNOLDS, TURBULENT_REYNOLDS, planned_flow_l_min
from anvilsong.core.words import sentence

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
            message=sentence("checks.gas_weak", reynolds=seen.reynolds, least=least),
            numbers=numbers,
        )
    elif seen.reynolds > TURBULENT_REYNOLDS:
        yield LimitWarning(
            code="gas_turbulent",
            level="watch",
            setting="flow_l_min",
            message=sentence(
                "checks.gas_turbulent", reynolds=seen.reynolds, turbulent_reynolds=TURBULENT_REYNOLDS
            ),
            numbers=numbers,
        )
    if job.draught_m_s > NOTHING_SHIELDS_M_S:
        yield LimitWarning(
            code="draught",
            level="stop",
            message=sentence(
                "checks.draught", draught_m_s=job.draught_m_s, nothing_shields_m_s=NOTHING_SHIELDS_M_S
            ),
        )
    elif job.draught_m_s > SCREEN_OVER_M_S:
        yield LimitWarning(
            code="draught",
            level="watch",
            message=sentence("checks.draught_2", draught_m_s=job.draught_m_s),
        )
    longest = longest_stick_out_mm(settings.cup.number, settings.cup.gas_lens)
    if settings.cup.stick_out_mm > longest + 1e-6:
        yield LimitWarning(
            code="stick_out_long",
            level="watch",
            setting="stick_out_mm",
            message=(
                say.joined(
                    "Stick-out ",
                    say.near_mm(settings.cup.stick_out_mm),
                    f": cup {settings.cup.number} covers ",
                    say.near_mm(longest),
                    ".",
                )
            ),
        )
