"""The one next change after a coupon, through the model, in steps that the panel can really make."""

from __future__ import annotations

from anvilsong.core import say
from anvilsong.core.bead.amps_lever import amps_change
from anvilsong.core.bead.border_lever import border_change
from anvilsong.core.bead.by_sight import change_by_sight
from anvilsong.core.bead.coupon import Looks, Readings
from anvilsong.core.bead.evidence import Case
from anvilsong.core.bead.next import NextChange
from anvilsong.core.bead.one_coupon import fit_one
from anvilsong.core.bead.ran import Ran
from anvilsong.core.bead.verdict import LooksVerdict, Verdict, as_run, read
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL, Machine
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

USUAL_RUN_MM = 100.0


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
    if verdict.measures_are_good:
        return change_by_sight(Case(job, settings, machine, c, readings), verdict)
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


def change_by_looks(
    job: Job,
    settings: Settings,
    looks: Looks,
    verdict: LooksVerdict,
    machine: Machine = IDEAL,
    c: Coefficients | None = None,
) -> NextChange:
    """The same after a coupon that was not measured whole: from what was measured of it, with what is missing
    taken as expected at the planned speed; from what was seen where nothing measured misses.
    """
    if verdict.measures_are_good:
        return change_by_sight(Case(job, settings, machine, c, looks), verdict)
    whole = _filled(settings, looks, verdict)
    judged = read(job, settings, whole, machine, c)
    if verdict.width_miss is None:
        judged = judged.model_copy(update={"width_miss": 0.0})
    if verdict.border_miss is None:
        judged = judged.model_copy(update={"border_miss": 0.0, "border_state": "as_wanted"})
    return next_change(job, settings, whole, judged, machine, c)


def _filled(settings: Settings, looks: Looks, verdict: LooksVerdict) -> Readings:
    """The coupon as it would have been measured whole, had the rest come out as expected."""
    bead = looks.bead_width_mm or verdict.expected_width_mm
    border = verdict.expected_border_mm if looks.border_mm is None else looks.border_mm
    sides = (looks.border_left_mm, looks.border_right_mm)
    left, right = (border if side is None else side for side in sides)
    # A length without its seconds, or seconds without their length, say nothing of the speed.
    travel = looks.travel_mm_s or settings.travel_mm_s
    length = looks.length_mm or USUAL_RUN_MM
    seconds = length / travel
    whole = {"bead_width_mm": bead, "border_left_mm": left, "border_right_mm": right}
    timed = {"length_mm": length, "seconds": seconds}
    return Readings.model_construct(**(dict(looks) | whole | timed))
