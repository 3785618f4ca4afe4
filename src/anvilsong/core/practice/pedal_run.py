"""A part welded in real time with somebody's own pedal, step after step, on a grid as Part's.

The torch waits for its pool and then moves as it does there: slower where the pool is narrow. With a torch
switch the amps are the machine's, with its slopes, and travel is in the learner's hand. Steps may be of any
length up to ``LONGEST_STEP_S``: the field that is computed hardly depends on it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from anvilsong.core.coefficients import Coefficients
from anvilsong.core.errors import BadInput
from anvilsong.core.heat.metal_heat import MetalHeat
from anvilsong.core.heat.plate_run import Block, PlateRun
from anvilsong.core.model import FASTEST_DAB_HZ, Situation, near_melting_through
from anvilsong.core.plan import dab_pulse
from anvilsong.core.practice.modes import ModeKey
from anvilsong.core.practice.seen import ENDED, LONGEST_STEP_S, PEDAL_UP, RunState, Seen
from anvilsong.core.settings import Pulse, Settings
from anvilsong.core.warming.arc import Arc
from anvilsong.core.warming.drawing import CLAMPED_W_MM2_K, PartDrawing
from anvilsong.core.warming.foot import reference_w
from anvilsong.core.warming.job_arc import LEAST_SHARE, arc_of, foot_amps, metal_of
from anvilsong.core.warming.raster import block_values, rasterised
from anvilsong.core.warming.result import FootAmps
from anvilsong.core.warming.running import AHEAD_OF_POOL, NEARLY, pace
from anvilsong.core.words import sentence

MOST_S, MOST_WAY_MM = 240.0, 600.0
MANY_CELLS, MOST_PRACTICE_CELLS, FEWEST_CELLS_A_POOL = 16_000, 45_000, 3.5
SWITCHED_ON = 0.5  # of a pedal's travel, over which a torch switch is on
PEDAL_RESERVE = 1.25  # of the amps of a job for a torch switch, at the end of a pedal's travel
FASTEST_TRAVEL = 2.0  # of the planned one, where travel is in the learner's hand
TAIL_POOLS, TAIL_PLACES = 4.0, 48  # how far back the pool's end is looked for, and in how many places


@dataclass(frozen=True)
class PedalTask:
    """All that a run is made of but the learner's hand. ``part`` has one run and a size of cells."""

    part: PartDrawing
    at: Situation
    metal: MetalHeat
    arc: Arc
    amps: FootAmps
    mode: ModeKey
    pulse: Pulse
    """The machine's in its mode; the rhythm to press in, where the pedal pulses."""
    up_slope_s: float
    down_slope_s: float
    finish_share: float
    """Of the steady heat, what the downslope of a torch switch ends with."""

    @property
    def length_mm(self) -> float:
        """How long the seam is."""
        return self.part.runs[0].length_mm

    def pedal_of(self, share: float) -> float:
        """Where the pedal stands for a share of the steady heat, 0 to 1."""
        return min(max((share - self.arc.least) / max(self.arc.most - self.arc.least, 1e-9), 0.0), 1.0)

    @property
    def begins_mm(self) -> float:
        """Where the arc is lit: half a pool from the edge, as Part does it."""
        return min(self.arc.width_mm / 2, self.length_mm / 4)

    @property
    def ends_mm(self) -> float:
        """Where the weld ends, as far from the other edge."""
        return self.length_mm - self.begins_mm


def pedal_task(
    at: Situation, settings: Settings, c: Coefficients, part: PartDrawing, mode: ModeKey = "hold"
) -> PedalTask:
    """The task of a job with its settings on a part, of which the first run is practised.

    Raises
    ------
    BadInput : a part that is too large to be welded in real time, or that cannot be computed
    """
    first, arc = part.runs[0], _arc(at, settings, c, mode)
    if first.length_mm > MOST_WAY_MM:
        raise BadInput.one("part", first.length_mm, sentence("practice.way_too_long", most_mm=MOST_WAY_MM))
    left, bottom, right, top = part.box_mm
    wanted = math.sqrt((right - left) * (top - bottom) / MANY_CELLS)
    coarsest = max(arc.usual_cell_mm, arc.width_mm / FEWEST_CELLS_A_POOL)
    cell = round(min(max(arc.usual_cell_mm, wanted), coarsest), 3)
    if (right - left) * (top - bottom) / cell**2 > MOST_PRACTICE_CELLS:
        raise BadInput.one(
            "part", f"{right - left:.0f} × {top - bottom:.0f} mm", sentence("practice.part_too_large")
        )
    first = first.model_copy(update={"pause_s": 0.0, "cools_to_c": None})
    drawn = part.model_copy(update={"runs": (first,), "start": "waits", "cell_mm": cell})
    rasterised(drawn, cell)
    dabs = dab_pulse(at, settings.travel_mm_s)
    pulse = settings.pulse if settings.pulse and settings.pulse.rate_hz <= FASTEST_DAB_HZ else dabs
    amps = foot_amps(at, settings, c)
    return PedalTask(
        part=drawn,
        at=at,
        metal=metal_of(at),
        arc=arc,
        amps=amps,
        mode=mode,
        pulse=pulse,
        up_slope_s=settings.up_slope_s,
        down_slope_s=settings.down_slope_s,
        finish_share=min(max(amps.share(settings.finish_amps), LEAST_SHARE), arc.most),
    )


def _arc(at: Situation, settings: Settings, c: Coefficients, mode: ModeKey) -> Arc:
    """The job's arc. Practised with a pedal, a job for a torch switch gets one that reaches from a low arc to
    a quarter over its amps; practised with a switch, a job for a pedal is welded at its welding amps.
    """
    arc, has_pedal = arc_of(at, settings, c), at.job.control == "pedal"
    if mode != "switch" and not has_pedal:
        return replace(arc, least=LEAST_SHARE, most=arc.most * PEDAL_RESERVE)
    if mode == "switch" and has_pedal:
        most = min(max(foot_amps(at, settings, c).share(settings.amps_run), arc.least), arc.most)
        return replace(arc, most=most)
    return arc


class PedalRun:
    """A run while it is welded; ``step`` takes it on, ``seen`` holds every step so far."""

    def __init__(self, task: PedalTask) -> None:
        self.task = task
        part, run = task.part, task.part.runs[0]
        cell = part.cell_mm or task.arc.usual_cell_mm
        self._raster = raster = rasterised(part, cell)
        block = None
        if raster.block_mm.any():
            block = Block(raster.block_mm, *block_values(raster), CLAMPED_W_MM2_K)
        self._plate = PlateRun(raster.thickness_mm, cell, task.metal, part.start_c, block=block)
        steady_cell = max(cell, task.arc.usual_cell_mm)
        self._steady_w = reference_w(task.metal, part.thickness_mm, task.arc, steady_cell)
        self._run, self._has_pool = run, False
        self._lit_s = self._off_s = self._was_share = 0.0
        self._way_mm, self._along = task.begins_mm, run.along
        self._far_mm: list[float] = np.linspace(0, TAIL_POOLS * task.arc.width_mm, TAIL_PLACES).tolist()
        self.seen: list[Seen] = [
            Seen(0.0, task.begins_mm, 0.0, 0.0, 0.0, part.start_c, 0.0, 0.0, 0.0, 0.0, "ready")
        ]

    @property
    def last(self) -> Seen:
        """How it stands."""
        return self.seen[-1]

    @property
    def has_ended(self) -> bool:
        """Whether there is nothing more to weld."""
        return self.last.state in ENDED

    def step(self, dt_s: float, pedal: float, travel: float = 1.0) -> Seen:
        """Go on by so many seconds.

        Parameters
        ----------
        dt_s : over 0, at most ``LONGEST_STEP_S``
        pedal : of its travel, 0 to 1; up, the arc is out. With a torch switch: over 0.5 is switched on
        travel : of the planned one, 0 to ``FASTEST_TRAVEL``; counts with a torch switch alone
        """
        if self.has_ended:
            return self.last
        task, arc, before = self.task, self.task.arc, self.last
        pedal, dt_s = min(max(pedal, 0.0), 1.0), min(max(dt_s, 1e-4), LONGEST_STEP_S)
        share = self._share(pedal, dt_s)
        by_hand = task.mode == "switch"
        planned = arc.travel_mm_s * (
            min(max(travel, 0.0), FASTEST_TRAVEL) if by_hand else pace(before.width_mm / arc.width_mm)
        )
        moves = share > 0 and (by_hand or self._has_pool)
        way = min(self._way_mm + (planned * dt_s if moves else 0.0), task.ends_mm)
        here, there = (self._raster.place(*self._run.at_mm(each)) for each in (self._way_mm, way))
        self._plate.step(dt_s, max(share, 0.0) * self._steady_w, here, there, arc.sigma_mm)
        self._way_mm = way
        width = self._plate.pool_width_mm(*there, self._along, 3 * arc.width_mm)
        if width >= NEARLY * arc.width_mm:
            self._has_pool = True
        elif width <= 0:
            self._has_pool = False
        found = self._found(before.time_s + dt_s, width, share, planned if moves else 0.0, pedal)
        self.seen.append(found)
        return found

    def _share(self, pedal: float, dt_s: float) -> float:
        """Of the steady heat, what flows now; 0 with the arc out."""
        arc, task = self.task.arc, self.task
        if task.mode == "switch":
            return self._switched(pedal > SWITCHED_ON, dt_s)
        if pedal <= PEDAL_UP:
            self._lit_s = 0.0
            return 0.0
        self._lit_s += dt_s
        share = arc.least + (arc.most - arc.least) * pedal
        if task.mode != "pulse":
            return share
        peak, base = task.pulse.peak_share, task.pulse.base_share
        at_peak = (self._lit_s * task.pulse.rate_hz) % 1 < peak
        return share * (1.0 if at_peak else base) / (peak + base * (1 - peak))

    def _switched(self, is_on: bool, dt_s: float) -> float:
        """What a torch switch gives: its upslope from the start amps, its downslope to the finish amps."""
        arc, task = self.task.arc, self.task
        if is_on:
            self._lit_s, self._off_s = self._lit_s + dt_s, 0.0
            up = min(1.0, self._lit_s / task.up_slope_s) if task.up_slope_s > 0 else 1.0
            self._was_share = arc.least + (arc.most - arc.least) * up
            return self._was_share
        self._lit_s, self._off_s = 0.0, self._off_s + dt_s
        if self._was_share <= 0 or self._off_s >= task.down_slope_s:
            self._was_share = 0.0
            return 0.0
        end = min(task.finish_share, self._was_share)
        return self._was_share + (end - self._was_share) * self._off_s / task.down_slope_s

    def _found(self, time_s: float, width: float, share: float, travel: float, pedal: float) -> Seen:
        run, arc, plate = self._run, self.task.arc, self._plate
        ahead = run.at_mm(min(self._way_mm + AHEAD_OF_POOL * arc.width_mm, run.length_mm))
        behind, before = self._reach_mm(-1), self._reach_mm(1)
        through = float(near_melting_through(self.task.at, max(width, 1e-6), self._thickness_mm()))
        state: RunState = "moves" if travel > 0 else "waits"
        if self._way_mm >= self.task.ends_mm - 1e-9:
            state = "done"
        elif through >= 1:
            state = "burnt"
        elif time_s >= MOST_S:
            state = "late"
        elif share <= 0:
            state = "ready" if self.last.state == "ready" else "out"
        ahead_c = plate.at_c(*self._raster.place(*ahead))
        amps = self.task.amps.amps(share) if share > 0 else 0.0
        return Seen(time_s, self._way_mm, width, behind, before, ahead_c, through, amps, travel, pedal, state)

    def _reach_mm(self, sign: int) -> float:
        """How far the pool reaches along the way from the arc, against it or with it, mm."""
        far, field = self._far_mm, self._plate.temperature_c
        x, y = self._raster.place(*self._run.at_mm(self._way_mm))
        dx, dy = self._along
        cell, contour_c = self._raster.cell_mm, self.task.metal.contour_c
        rows, columns = field.shape
        for away in far:
            i = math.floor((y + sign * dy * away) / cell)
            j = math.floor((x + sign * dx * away) / cell)
            if not (0 <= i < rows and 0 <= j < columns) or field[i, j] < contour_c:
                return away
        return far[-1]

    def _thickness_mm(self) -> float:
        """The thinnest metal under the pool's middle."""
        x, y = self._raster.place(*self._run.at_mm(self._way_mm))
        dx, dy = self._along
        cell, thick = self._raster.cell_mm, self._raster.thickness_mm
        found = []
        for aside in (-0.3, 0.0, 0.3):
            across = aside * self.task.arc.width_mm
            i, j = int((y + across * dx) / cell), int((x - across * dy) / cell)
            i, j = min(max(i, 0), thick.shape[0] - 1), min(max(j, 0), thick.shape[1] - 1)
            if thick[i, j] > 0:
                found.append(float(thick[i, j]))
        return min(found, default=self.task.part.thickness_mm)
