"""Limits that settings break or come near, as values, worst first; and what gets no settings at all."""

from __future__ import annotations

from anvilsong.core import say
from anvilsong.core.checks.border import border_warnings
from anvilsong.core.checks.gas import gas_warnings
from anvilsong.core.checks.machine import machine_warnings
from anvilsong.core.checks.metal import metal_warnings
from anvilsong.core.checks.pool import pool_warnings
from anvilsong.core.checks.pulse import pulse_and_mix_warnings
from anvilsong.core.checks.tungsten import tungsten_warnings
from anvilsong.core.checks.warmth import warmth_warnings
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.machine import Machine
from anvilsong.core.metal.preheat import strictest
from anvilsong.core.model import Consequences, LimitWarning, Situation
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence


def refusals(at: Situation) -> list[LimitWarning]:
    """Reasons this job gets no settings at all."""
    found = [
        LimitWarning(code=f"filler_rule_{row.rule}", level="stop", message=_sentence(row.reason))
        for row in at.filler.pair_refused
    ]
    limit = strictest(at.job.a.metal, at.job.b.metal, at.job.temper)
    if at.job.part_temperature_c > limit.limit_c:
        text = sentence(
            "checks.part_may_most_let",
            part_temperature_c=at.job.part_temperature_c,
            limit_c=limit.limit_c,
            words=limit.words,
        )
        found.append(
            LimitWarning(
                code="part_too_hot",
                level="stop",
                setting="part_temperature_c",
                message=text,
                numbers={"part_c": at.job.part_temperature_c, "limit_c": limit.limit_c},
            )
        )
    if at.surface.refused:
        found.append(
            LimitWarning(code="surface_refused", level="stop", message=at.surface.refused, setting="surface")
        )
    return found


def _sentence(text: Words) -> Words:
    return say.joined(say.without_stop(text), ".")


def warnings_for(
    at: Situation, settings: Settings, seen: Consequences, machine: Machine, c: Coefficients | None = None
) -> list[LimitWarning]:
    """Every limit that these settings break or come near, worst first."""
    found = [
        *pool_warnings(at, seen),
        *border_warnings(at, seen),
        *tungsten_warnings(settings, seen),
        *gas_warnings(at.job, settings, seen),
        *machine_warnings(at, settings, seen, machine, c),
        *pulse_and_mix_warnings(at, settings, seen, machine),
        *metal_warnings(at, settings),
        *warmth_warnings(at, settings),
    ]
    return worst_first(found)


def worst_first(warnings: list[LimitWarning]) -> list[LimitWarning]:
    """Stops, then what to watch, then notes; else in their order."""
    order = {"stop": 0, "watch": 1, "note": 2}
    return sorted(warnings, key=lambda warning: order[warning.level])
