"""What the hand does where a machine has no control for how a run begins and ends."""

from __future__ import annotations

from anvilsong.core.job import Control
from anvilsong.core.machine.model import Machine
from anvilsong.core.registry import PANEL, get_value
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

CRATER_BY_HAND = sentence("machine.stop_moving_feed_filler")
START_BY_HAND = sentence("machine.strike_thicker_side_run")
CRATER_BY_FOOT = sentence("machine.come_off_pedal_slowly")


def not_on_panel(settings: Settings, machine: Machine) -> list[str]:
    """Settings, by key, of a pulse or mix that is on and that this panel does not show: what the machine
    makes of them by itself decides the heat. None on a machine without a panel, which shows everything.
    """
    if not machine.controls:
        return []
    return [
        entry.key
        for entry in PANEL
        if entry.group and get_value(settings, entry.key) is not None and machine.control(entry.key) is None
    ]


def by_hand(settings: Settings, machine: Machine, control: Control) -> list[Words]:
    """Sentences for what this machine cannot be set to do at the ends of a run; empty where it has all, and
    of slopes where the foot makes them.
    """
    found = list[Words]()
    if control != "pedal" and not (machine.sets("up_slope_s") or machine.sets("start_amps")):
        found.append(sentence("machine.comes_full_amps", start_by_hand=START_BY_HAND))
    if control != "pedal" and not machine.sets("down_slope_s"):
        found.append(sentence("machine.has_no_downslope_end", crater_by_hand=CRATER_BY_HAND))
    if not machine.sets("pre_flow_s"):
        found.append(sentence("machine.times_no_gas_before", pre_flow_s=settings.pre_flow_s))
    if not machine.sets("post_flow_s"):
        found.append(sentence("machine.times_no_gas_after", post_flow_s=settings.post_flow_s))
    return found


def crater_end(machine: Machine, control: Control) -> Words:
    """How a crater is filled with what there is: the foot, a down-slope, or the hand."""
    if control == "pedal":
        return CRATER_BY_FOOT
    if machine.sets("down_slope_s"):
        return sentence("machine.set_more_downslope_feed")
    return CRATER_BY_HAND
