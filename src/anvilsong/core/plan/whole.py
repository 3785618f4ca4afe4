"""A job worked out, with the planner's settings or with those that a person chose."""

from __future__ import annotations

from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL, Machine
from anvilsong.core.model import Plan, equipped
from anvilsong.core.plan.follow import with_settings
from anvilsong.core.plan.planner import make_plan
from anvilsong.core.settings import Settings
from anvilsong.core.torch.kit import Kit


def worked_out(
    job: Job,
    settings: Settings | None = None,
    machine: Machine = IDEAL,
    kit: Kit | None = None,
    c: Coefficients | None = None,
) -> Plan:
    """Everything about a job: with ``settings``, what follows from them and what the planner said that still
    holds.

    Parameters
    ----------
    settings : those that a person chose; the planner's own when left out
    machine, kit, c : as for ``make_plan``

    Returns
    -------
    Plan : with ``settings`` None and ``stop`` warnings when the job is refused
    """
    plan = make_plan(job, machine, kit, c)
    if settings is None or plan.settings is None:
        return plan
    return with_settings(plan, settings, equipped(machine, job, settings, kit))
