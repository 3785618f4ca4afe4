"""The gate that every proposal goes through: what a change would break that is whole now."""

from __future__ import annotations

from anvilsong.core import say
from anvilsong.core.checks.outcomes import outcome
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL, Machine, cannot_set
from anvilsong.core.model import LimitWarning
from anvilsong.core.registry import BY_KEY
from anvilsong.core.settings import Settings
from anvilsong.core.torch.kit import Kit
from anvilsong.core.words import sentence

UNSETTABLE = "unsettable"
# The same limit, asked of a later pass.
_SAME = {"pass_short": "machine_short", "pass_duty": "duty", "pass_torch": "torch_rating"}
_WORSE = {"note": 0, "watch": 1, "stop": 2}


def newly_broken(
    job: Job,
    before: Settings,
    after: Settings,
    machine: Machine = IDEAL,
    kit: Kit | None = None,
    c: Coefficients | None = None,
    job_after: Job | None = None,
) -> list[LimitWarning]:
    """Why a change is not proposed: the stops and cautions that it brings, and what the machine cannot be
    set to. Empty for a change that may be proposed.

    A warning is brought where it is not there before, or stands worse after. A caution may stand in place of
    a stop: a change that ends a stop and brings none is not held back by cautions.

    Parameters
    ----------
    job_after : the job where the change is one of the job too, such as a bevel
    """
    unset = [
        LimitWarning(
            code=UNSETTABLE,
            level="stop",
            setting=key,
            message=sentence("checks.cannot_set", name=machine.name, words=say.within(BY_KEY[key].words)),
        )
        for key in cannot_set(before, after, machine)
    ]
    stood: dict[str, int] = {}
    for warning in outcome(job, before, machine, kit, c).warnings:
        stood[_limit(warning)] = max(stood.get(_limit(warning), 0), _WORSE[warning.level])
    now = outcome(job_after or job, after, machine, kit, c).warnings
    brought = [
        warning
        for warning in now
        if _WORSE[warning.level] > max(stood.get(_limit(warning), 0), _WORSE["note"])
    ]
    stops = [*unset, *(warning for warning in brought if warning.level == "stop")]
    stopped = {_limit(warning) for warning in now if warning.level == "stop"}
    ends_a_stop = any(level == _WORSE["stop"] and code not in stopped for code, level in stood.items())
    if ends_a_stop and not stops:
        return []
    return [*unset, *brought]


def _limit(warning: LimitWarning) -> str:
    return _SAME.get(warning.code, warning.code)
