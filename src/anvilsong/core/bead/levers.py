"""Which lever moves a border, and the steps that the panel lets it take."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from anvilsong.core.bead.verdict import Verdict
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine, to_canonical
from anvilsong.core.model import DEEPEST_TRIM, LEAST_EP_SHARE, MOST_EP_SHARE
from anvilsong.core.settings import Settings

MOST_SHARE_STEP = 0.10  # a coupon shows that much plainly; more hides what did it


def panel_step(machine: Machine, key: str) -> float:
    """The step of a control in canonical units; 1 where the panel counts otherwise."""
    control = machine.control(key)
    return control.scale.step if control and control.basis == "peak" else 1.0


def levers(job: Job, settings: Settings, verdict: Verdict, machine: Machine) -> Iterator[str]:
    """Which lever first: a trim that starves the border is undone first; appearance and a far too wide
    border take trim; else the share.
    """
    trims = machine.can_trim and (machine.control("ep_trim") is not None or not machine.controls)
    starved = verdict.border_miss < 0 and settings.ep_trim < 0
    looks = verdict.border_miss > 0 and (
        "appearance" in job.purposes or job.school.amplitude == "trimmed" or verdict.border_miss > 3
    )
    if trims and (starved or looks):
        yield "ep_trim"
        yield "ep_share"
    else:
        yield "ep_share"
        if trims:
            yield "ep_trim"


def lever_steps(key: str, machine: Machine, current: float) -> list[float]:
    """Every value of a lever that the panel can stand at, in canonical units, within what is advisable."""
    if key == "ep_share":
        low, high = (
            max(LEAST_EP_SHARE, machine.least_ep_share, current - MOST_SHARE_STEP),
            min(MOST_EP_SHARE, machine.most_ep_share, current + MOST_SHARE_STEP),
        )
    else:
        low, high = max(DEEPEST_TRIM, machine.least_trim), min(0.0, machine.most_trim)
    control = machine.control(key)
    if control is None:
        values = np.arange(low, high + 1e-9, 0.01 if key == "ep_share" else 0.05).tolist()
    else:
        first, last = control.scale.points[0][0], control.scale.points[-1][0]
        panel = np.arange(first, last + control.scale.step / 2, control.scale.step)
        values = [to_canonical(control.scale, value) for value in panel]
    values = [round(value, 6) for value in values]
    return [value for value in values if low - 1e-9 <= value <= high + 1e-9 and abs(value - current) > 1e-6]
