"""The gate that every proposal goes through: what a change would break that is whole now."""

from __future__ import annotations

from anvilsong.core.checks.outcomes import outcome
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL, Machine
from anvilsong.core.model import LimitWarning
from anvilsong.core.settings import Settings
from anvilsong.core.torch.kit import Kit

_WORSE = {"note": 0, "watch": 1, "stop": 2}


def newly_broken(
    job: Job,
    before: Settings,
    after: Settings,
    machine: Machine = IDEAL,
    kit: Kit | None = None,
    c: Coefficients | None = None,
) -> list[LimitWarning]:
    """The stops and cautions that a change of settings brings: those that are not there before it, or stand
    worse after it. A change that brings any is not proposed.
    """
    stood: dict[str, int] = {}
    for warning in outcome(job, before, machine, kit, c).warnings:
        stood[warning.code] = max(stood.get(warning.code, 0), _WORSE[warning.level])
    return [
        warning
        for warning in outcome(job, after, machine, kit, c).warnings
        if _WORSE[warning.level] > max(stood.get(warning.code, 0), _WORSE["note"])
    ]
