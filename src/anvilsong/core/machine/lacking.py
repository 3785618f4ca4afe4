"""What the hand does where a machine has no control for how a run begins and ends."""

from __future__ import annotations

from anvilsong.core.job import Control
from anvilsong.core.machine.model import Machine
from anvilsong.core.settings import Settings

CRATER_BY_HAND = (
    "stop moving, feed filler rod into the crater, let the arc go out and strike again on it two or three "
    "times, each time shorter, until it stands full"
)
START_BY_HAND = "strike on the thicker side or on a run-on tab, and go to the joint as soon as it melts"
CRATER_BY_FOOT = "come off the pedal slowly, and feed filler rod into the crater"


def by_hand(settings: Settings, machine: Machine, control: Control) -> list[str]:
    """Sentences for what this machine cannot be set to do at the ends of a run; empty where it has all, and
    of slopes where the foot makes them.
    """
    found = []
    if control != "pedal" and not (machine.sets("up_slope_s") or machine.sets("start_amps")):
        found.append(f"It comes on at full amps: {START_BY_HAND}.")
    if control != "pedal" and not machine.sets("down_slope_s"):
        found.append(f"It has no downslope. At the end {CRATER_BY_HAND}.")
    if not machine.sets("pre_flow_s"):
        found.append(f"It times no gas before the arc: let it flow for {settings.pre_flow_s:.1f} s.")
    if not machine.sets("post_flow_s"):
        found.append(
            "It times no gas after the arc: leave the cup over the end and the gas on for "
            f"{settings.post_flow_s:.0f} s."
        )
    return found


def crater_end(machine: Machine, control: Control) -> str:
    """How a crater is filled with what there is: the foot, a down-slope, or the hand."""
    if control == "pedal":
        return CRATER_BY_FOOT
    if machine.sets("down_slope_s"):
        return "set more downslope, and feed filler rod into the crater while it falls"
    return CRATER_BY_HAND
