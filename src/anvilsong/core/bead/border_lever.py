"""A border too wide or too thin: the step of share or trim that brings it nearest to its aim."""

from __future__ import annotations

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.bead.levers import lever_steps, levers
from anvilsong.core.bead.next import NextChange
from anvilsong.core.bead.ran import Ran, changed
from anvilsong.core.bead.travel_lever import speed_for_border
from anvilsong.core.bead.verdict import Verdict
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job
from anvilsong.core.model import LimitWarning
from anvilsong.core.registry import get_value, with_value
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

CLEARLY_BETTER = 0.5  # of the tolerance


def border_change(ran: Ran) -> NextChange:
    """The one lever that brings the border to its aim, in steps that the panel can really make."""
    verdict = ran.verdict
    aim = (verdict.aim_mm[0] + verdict.aim_mm[1]) / 2
    wider = aim > verdict.border_mm
    tolerance = (verdict.aim_mm[1] - verdict.aim_mm[0]) / 2
    best: tuple[float, str, Settings] | None = None
    held: LimitWarning | None = None
    for lever in levers(ran.job, ran.settings, verdict, ran.machine):
        found, broken = _best_step(ran, lever, aim, wider)
        held = held or broken
        # The preferred lever stands unless the other one does plainly better.
        if found is not None and (best is None or found[0] < best[0] - CLEARLY_BETTER * tolerance):
            best = found
    if best is None:
        # A thin border wants a brush before it wants a slower hand.
        faster = None if wider else speed_for_border(ran, aim)
        return faster or _no_lever(ran.settings, verdict, held)
    _, lever, after = best
    why = sentence(
        "bead.border_wanted_cleaning", border_mm=verdict.border_mm, aim=aim, more="more" if wider else "less"
    )
    return changed(ran, after, lever, why)


def _best_step(
    ran: Ran, lever: str, aim: float, wider: bool
) -> tuple[tuple[float, str, Settings] | None, LimitWarning | None]:
    """The step of one lever that comes nearest to the aim and breaks nothing; None when there is none, with
    what stands in the way.
    """
    steps: list[tuple[float, Settings]] = []
    now = get_value(ran.settings, lever)
    for value in lever_steps(lever, ran.machine, now):
        if (value > now) == wider:
            tried = held_pool(ran.job, with_value(ran.settings, lever, value), ran.settings, ran.c)
            seen = ran.would(tried)
            steps.append((abs((seen.cleaned_width_mm - seen.pool_width_mm) / 2 - aim), tried))
    steps.sort(key=lambda step: step[0])
    found, held = ran.first_whole(tried for _, tried in steps)
    miss = next((miss for miss, tried in steps if tried is found), 0.0)
    return (None if found is None else (miss, lever, found)), held


def held_pool(job: Job, changed: Settings, before: Settings, c: Coefficients) -> Settings:
    """With a pedal the foot holds the pool: it moves so that the heat stays, as far as its ceiling."""
    if job.control != "pedal":
        return changed
    ratio = heat_per_amp_w(before.wave(), c) / heat_per_amp_w(changed.wave(), c)
    return changed.model_copy(update={"amps_run": min(round(before.amps_run * ratio, 1), changed.amps_set)})


def _no_lever(settings: Settings, verdict: Verdict, held: LimitWarning | None) -> NextChange:
    by_tungsten = held is None or (held.setting or "").startswith("tungsten")
    if held is not None and not by_tungsten:
        more = "More" if verdict.border_miss < 0 else "Less"
        return NextChange(
            kind="prep" if verdict.border_miss < 0 else "hand",
            settings=settings,
            said=sentence("bead.leave_settings_degrease_brush")
            if verdict.border_miss < 0
            else sentence("bead.leave_settings_shorten_arc"),
            why=sentence("bead.cleaning_settings_would_break", more=more, message=held.message),
        )
    if verdict.border_miss < 0:
        return NextChange(
            kind="prep",
            settings=settings,
            said=sentence("bead.leave_settings_degrease_brush_2"),
            why=sentence("bead.tungsten_bears_no_more"),
            otherwise=sentence("bead.travel_slower_check_which"),
        )
    return NextChange(
        kind="hand",
        settings=settings,
        said=sentence("bead.leave_settings_travel_faster"),
        why=sentence("bead.ac_balance_ep_amplitude"),
    )
