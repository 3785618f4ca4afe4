"""What a trigger makes of amps over time: pedal, 2-step, 4-step, a second level, and spots.

A course is straight lines between corners (s, A), with the presses that make it. A torch switch is pressed
and let go; between corners the machine keeps to its slopes.

* 2-step: press starts gas, then start amps and upslope; letting go starts downslope and post-flow.
* 4-step: press and hold start amps, let go for the upslope; press for the downslope and hold finish amps, let
  go for the post-flow.
* 4-step with a second level: as 4-step; a tap under half a second changes between both levels.
* Spot: each press burns so many seconds; held, it burns again after a pause.

"""

from __future__ import annotations

from itertools import pairwise
from typing import NamedTuple

from anvilsong.core.job import Control
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings

TAP_S = 0.3
HOLD_S = 1.0  # that a hand holds start or finish amps under 4-step
SPOTS_SHOWN = 3


class Press(NamedTuple):
    """The switch or the pedal held down, from when to when, s."""

    begin_s: float
    end_s: float
    words: str


class Stretch(NamedTuple):
    """A stretch of the course: from, to, s, and what the machine does in it."""

    begin_s: float
    end_s: float
    words: str


class Course(NamedTuple):
    """Amps over time as corners, the presses that make them, and what happens in between. Gas flows from 0 to
    the end.
    """

    corners: tuple[tuple[float, float], ...]
    presses: tuple[Press, ...]
    stretches: tuple[Stretch, ...]

    @property
    def end_s(self) -> float:
        """When the gas stops."""
        return self.stretches[-1].end_s

    def amps_at(self, time_s: float) -> float:
        """Amps at a time; between two corners along their straight line, 0 outside."""
        for (begin, low), (end, high) in pairwise(self.corners):
            if begin <= time_s < end:
                return low + (high - low) * (time_s - begin) / (end - begin)
        return 0.0


class Levels(NamedTuple):
    """The second level of a 4-step: its amps, and after how many seconds of welding to change to it."""

    amps: float
    after_s: float
    why: Words


class SpotTimes(NamedTuple):
    """A spot's amps and seconds, the pause before the next, and the width it is to melt, mm; whether it melts
    it, and its place cools, within what one would wait for.
    """

    amps: float
    spot_s: float
    pause_s: float
    width_mm: float
    melts: bool = True
    cools: bool = True


class _Writer:
    """Corners, presses and stretches put down one after another."""

    def __init__(self, pre_flow_s: float) -> None:
        self.now = pre_flow_s
        self.corners: list[tuple[float, float]] = []
        self.presses: list[Press] = []
        self.stretches = [Stretch(0.0, pre_flow_s, "pre-flow")]

    def on(self, amps: float) -> None:
        """The arc lights at these amps."""
        self.corners += [(self.now, 0.0), (self.now, amps)]

    def to(self, amps: float, seconds: float, words: str) -> None:
        """Amps reached after so many seconds, along a straight line."""
        begin, self.now = self.now, self.now + seconds
        self.corners.append((self.now, amps))
        if seconds > 0:
            self.stretches.append(Stretch(begin, self.now, words))

    def off(self) -> None:
        """The arc goes out."""
        self.corners.append((self.now, 0.0))

    def rest(self, seconds: float, words: str) -> None:
        """Without current."""
        begin, self.now = self.now, self.now + seconds
        self.stretches.append(Stretch(begin, self.now, words))

    def done(self, post_flow_s: float) -> Course:
        """The course with its post-flow."""
        self.rest(post_flow_s, "post-flow")
        return Course(tuple(self.corners), tuple(self.presses), tuple(self.stretches))


def course_of(
    control: Control, settings: Settings, weld_s: float, level: Levels | None = None,
    spot: SpotTimes | None = None,
) -> Course:  # fmt: skip
    """The amps of one run under a control.

    Parameters
    ----------
    weld_s : seconds at full amps between the slopes; a pedal's run as a whole
    level : of a 4-step with a second level
    spot : of spots
    """
    match control:
        case "pedal":
            return _by_pedal(settings, weld_s)
        case "switch_2":
            return _two_step(settings, weld_s)
        case "spot":
            return _spots(settings, spot or SpotTimes(settings.amps_set, 1.0, 1.0, 0.0))
    return _four_step(settings, weld_s, level if control == "switch_4_two_levels" else None)


def _by_pedal(settings: Settings, weld_s: float) -> Course:
    """The foot as it is usually led: on, to the pool's amps, off again at the end."""
    writer = _Writer(settings.pre_flow_s)
    begin = writer.now
    writer.on(settings.start_amps)
    rise = min(1.5, 0.2 * weld_s)
    writer.to(settings.amps_set, rise, "pedal down")
    writer.to(settings.amps_run, rise, "pool forms, pedal back")
    writer.to(settings.amps_run, max(weld_s - 3 * rise, 0.1), "welding")
    writer.to(settings.finish_amps, rise, "pedal off, crater filled")
    writer.off()
    writer.presses.append(Press(begin - settings.pre_flow_s, writer.now, "pedal"))
    return writer.done(settings.post_flow_s)


def _two_step(settings: Settings, weld_s: float) -> Course:
    writer = _Writer(settings.pre_flow_s)
    writer.on(settings.start_amps)
    writer.to(settings.amps_set, settings.up_slope_s, "upslope")
    writer.to(settings.amps_set, weld_s, "welding, pressed")
    writer.presses.append(Press(0.0, writer.now, "pressed"))
    writer.to(settings.finish_amps, settings.down_slope_s, "downslope")
    writer.off()
    return writer.done(settings.post_flow_s)


def _four_step(settings: Settings, weld_s: float, level: Levels | None) -> Course:
    writer = _Writer(settings.pre_flow_s)
    writer.on(settings.start_amps)
    writer.to(settings.start_amps, HOLD_S, "start amps, pressed")
    writer.presses.append(Press(0.0, writer.now, "pressed"))
    writer.to(settings.amps_set, settings.up_slope_s, "upslope, let go")
    first = weld_s if level is None else min(level.after_s, weld_s)
    writer.to(settings.amps_set, first, "welding, let go")
    if level is not None and first < weld_s:
        writer.presses.append(Press(writer.now, writer.now + TAP_S, "tap"))
        writer.to(settings.amps_set, TAP_S, "tap")
        writer.to(level.amps, 0.0, "second level")
        writer.to(level.amps, weld_s - first, "second level, let go")
    begin = writer.now
    writer.to(settings.finish_amps, settings.down_slope_s, "downslope, pressed")
    writer.to(settings.finish_amps, HOLD_S, "finish amps, pressed")
    writer.presses.append(Press(begin, writer.now, "pressed"))
    writer.off()
    return writer.done(settings.post_flow_s)


def _spots(settings: Settings, spot: SpotTimes) -> Course:
    writer = _Writer(settings.pre_flow_s)
    for number in range(SPOTS_SHOWN):
        writer.on(spot.amps)
        writer.to(spot.amps, spot.spot_s, f"spot {number + 1}")
        writer.off()
        if number < SPOTS_SHOWN - 1:
            writer.rest(spot.pause_s, "pause, pressed")
    writer.presses.append(Press(0.0, writer.now, "pressed"))
    return writer.done(settings.post_flow_s)
