"""The bars beside the board: how much of a limit is used."""

from __future__ import annotations

from typing import Literal

from anvilsong.core import say
from anvilsong.core.checks.border import ABOUT_MM
from anvilsong.core.checks.pool import MELT_AMBER, is_near_root
from anvilsong.core.heat.pedal import DUTY_CYCLE_S, NO_RESERVE, allowed_duty
from anvilsong.core.machine import Machine
from anvilsong.core.model import (
    MOST_BORDER_MM,
    ROOT_SHORT,
    STILL_GOOD_BORDER_MM,
    Consequences,
    Margin,
    Situation,
)
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.shown import percent
from anvilsong.core.torch.tungsten import (
    LOAD_AT_RUN,
    STATE_NAMES,
    load_state,
)

Used = Literal["good", "near", "over"]
WIDE_OVER_AIM, TUNGSTEN_AMBER = 1.2, 0.9


def margins(at: Situation, settings: Settings, seen: Consequences, machine: Machine) -> list[Margin]:
    """The bars beside the board: melt-through, cleaning, tungsten, machine."""
    return [
        _through_margin(at, seen),
        _cleaning_margin(at, seen),
        _tungsten_margin(settings, seen),
        _machine_margin(settings, seen, machine),
    ]


def _state(used: float, near: float) -> Used:
    return "over" if used > 1 else "near" if used >= near else "good"


def _margin(key: str, words: str, used: float, near: float, said: Words) -> Margin:
    return Margin(key=key, words=words, used=used, state=_state(used, near), said=said)


def _through_margin(at: Situation, seen: Consequences) -> Margin:
    if at.wants_root and seen.root_width_mm < ROOT_SHORT * seen.pool_width_mm:
        missed = seen.root_width_mm <= 0 and not is_near_root(at, seen.pool_width_mm)
        said = "root not reached" if missed else "root is short"
        return Margin(
            key="melt_through",
            words="Through",
            used=seen.melt_through,
            state="over" if missed else "near",
            said=said,
        )
    said = {"good": "safe", "near": "near sagging", "over": "melts through"}[
        _state(seen.melt_through, MELT_AMBER)
    ]
    return _margin("melt_through", "Through", seen.melt_through, MELT_AMBER, said)


def _thin_state(of_least: float) -> Used:
    """A border under its aim harms nothing until specks come."""
    if of_least >= 1:
        return "good"
    return "over" if of_least < 0.5 else "near"


def _cleaning_margin(at: Situation, seen: Consequences) -> Margin:
    """Used: the border against the widest wanted; too little counts as over as well, in its own words."""
    border, aim = seen.border_mm, at.aim
    used = border / aim.high_mm
    if border < aim.low_mm - ABOUT_MM:
        return Margin(
            key="cleaning",
            words="Border",
            used=used,
            state=_thin_state(border / at.least_border_mm),
            said=say.mm(border) + (", thin" if border < at.least_border_mm else ", a little thin"),
        )
    if border > aim.high_mm + ABOUT_MM:
        # A little over the aim harms nothing but the look, where that is asked for.
        wide = (
            border > max(WIDE_OVER_AIM * aim.high_mm, STILL_GOOD_BORDER_MM) or "appearance" in at.job.purposes
        )
        return Margin(
            key="cleaning",
            words="Border",
            used=used,
            state="over" if border > MOST_BORDER_MM else "near" if wide else "good",
            said=say.mm(border) + (", wide" if wide else ", a little wide"),
        )
    return Margin(
        key="cleaning", words="Border", used=used, state="good", said=say.mm(border) + ", as wanted"
    )


def _tungsten_margin(settings: Settings, seen: Consequences) -> Margin:
    used = max(seen.tungsten_load, seen.tungsten_load_set * LOAD_AT_RUN)
    said = f"{percent(seen.tungsten_load)}, {STATE_NAMES[load_state(used)]}" if settings.tungsten else "none"
    return _margin("tungsten", "Tungsten", used, TUNGSTEN_AMBER, said)


def _machine_margin(settings: Settings, seen: Consequences, machine: Machine) -> Margin:
    """What the run takes of the machine, with the foot where the pool is: a full press is for moments."""
    allowed = float(allowed_duty(settings.amps_run, machine.duty.amps, machine.duty.share))
    reach = settings.amps_run / machine.most_a
    # A machine that may weld all the time has no duty to use up.
    duty = 0.0 if allowed >= 1 else min(1.0, seen.arc_time_s / DUTY_CYCLE_S) / allowed
    said = f"{percent(duty)} of its duty" if duty > reach else f"{percent(reach)} of its amps"
    # With a torch switch nothing has to be in hand.
    near = 1.0 if settings.amps_set == settings.amps_run and reach >= duty else NO_RESERVE
    return _margin("machine", "Machine", max(reach, duty), near, said)
