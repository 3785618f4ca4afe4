"""The one next change after a coupon, through the model, in steps that the panel can really make."""

from __future__ import annotations

from anvilsong.core import say
from anvilsong.core.bead.amps_lever import amps_change
from anvilsong.core.bead.border_lever import border_change
from anvilsong.core.bead.coupon import Readings
from anvilsong.core.bead.next import NextChange
from anvilsong.core.bead.one_coupon import fit_one
from anvilsong.core.bead.ran import Ran
from anvilsong.core.bead.verdict import Verdict, as_run
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL, Machine
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence


def next_change(
    job: Job,
    settings: Settings,
    readings: Readings,
    verdict: Verdict,
    machine: Machine = IDEAL,
    c: Coefficients | None = None,
) -> NextChange:
    """Propose one change from the biggest miss.

    The model is first moved to agree with this coupon; its answers then start from what was measured.
    Appearance prefers the trim, cleaning the share; never past the tungsten's limit.
    """
    c = fit_one(job, as_run(settings, readings), readings, c)
    ran = Ran(job, settings, readings, verdict, machine, c)
    if verdict.is_good:
        return NextChange(
            kind="keep",
            said="Stay with these settings.",
            why=sentence("bead.border_bead_are_wanted"),
            settings=settings,
        )
    if verdict.flaws and abs(verdict.border_miss) <= 1 and abs(verdict.width_miss) <= 1:
        return NextChange(
            kind="hand",
            settings=settings,
            said=say.joined("Leave the settings. ", verdict.flaws[0]),
            why=sentence("bead.border_bead_are_wanted_2"),
        )
    if verdict.uneven and abs(verdict.border_miss) <= 1.5:
        return NextChange(
            kind="hand",
            settings=settings,
            said=sentence("bead.leave_settings_point_torch"),
            why=sentence("bead.two_borders_differ_more"),
            otherwise=sentence("bead.if_stays_look_draught"),
        )
    if abs(verdict.width_miss) > 1 and abs(verdict.width_miss) > abs(verdict.border_miss):
        return amps_change(ran)
    return border_change(ran)
