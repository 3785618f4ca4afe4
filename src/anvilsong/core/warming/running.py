"""A drawn part welded run after run, with a foot that holds the pool or amps that stay."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from anvilsong.core.errors import BadInput
from anvilsong.core.heat.metal_heat import MetalHeat
from anvilsong.core.heat.plate_run import Block, PlateRun
from anvilsong.core.warming.arc import Arc
from anvilsong.core.warming.cooling import until_touch
from anvilsong.core.warming.drawing import CLAMPED_W_MM2_K, PartDrawing, Run
from anvilsong.core.warming.effort import check_effort
from anvilsong.core.warming.foot import Foot, reference_w
from anvilsong.core.warming.raster import Raster, block_values, rasterised
from anvilsong.core.warming.result import (
    LAST_POOLS,
    MOST_RESTS,
    Film,
    HeatRun,
    MarkTrace,
    RunTrace,
    as_picture,
)
from anvilsong.core.words import sentence

LONGEST_STAND_S = 12.0  # at the start, for a pool
RESTS_OVER, RELIT, COOLS_TO = 1.3, 0.8, 0.25  # of the wanted pool; and of the warmth ahead, in a rest
LONGEST_REST_S = 900.0
AHEAD_OF_POOL = 2.0  # pool widths
NARROW, NEARLY, SLOWEST = 0.75, 0.95, 0.15  # widths, of the wanted one, between which a hand slows down
NOT_THE_END = 0.85
PLACES, PICTURES, MOST_PICTURES = 160, 150, 400
TRACES = ("way_mm", "share", "width_mm", "travel_mm_s", "ahead_c")
MOST_PICTURE_CELLS = 20_000
PAUSE_STEP_S, LONGEST_PAUSE_S = 0.5, 3600.0
C_J_G_K = 0.95  # of the whole, in the lumped estimate

Progress = Callable[[float], None]
"""Told the share that is done; raises to stop."""


def weld(
    part: PartDrawing,
    metal: MetalHeat,
    arc: Arc,
    progress: Progress = lambda share: None,
    holds_width: bool = True,
    rests: bool = False,
) -> tuple[HeatRun, Film]:
    """The part welded as drawn.

    Parameters
    ----------
    arc : the pool to hold; ``most`` and ``least`` bound the foot
    holds_width : a foot on a pedal; without one the heat stays at ``arc.most`` all the way
    rests : whenever the pool has grown too wide, the arc is put out until the metal ahead has lost three
        quarters of its warmth
    progress : called now and then

    Raises
    ------
    BadInput : a part that cannot be computed; and whatever ``progress`` raises, to stop it
    """
    check_effort(part, arc)
    cell = part.cell_mm or arc.usual_cell_mm
    raster = rasterised(part, cell)
    steady_w = reference_w(metal, part.thickness_mm, arc, max(cell, arc.usual_cell_mm))
    progress(0.02)
    shop = _Welding(part, metal, arc, raster, steady_w, progress, holds_width, rests)
    traces = tuple(shop.run(run) for run in part.runs)
    return shop.finished(traces)


def pace(share: float) -> float:
    """Of the planned travel: a hand that follows its pool goes slower where it is narrow."""
    return float(np.interp(share, (NARROW, NEARLY), (SLOWEST, 1.0)))


def _reached_mm(traces: dict[str, list[float]], arc: Arc) -> float | None:
    """How far along the wanted pool runs at the planned travel and stays so for a while; None where it never
    does.

    The last of the way does not count: there the edge holds the heat back.
    """
    way = np.array(traces["way_mm"])
    good = (np.array(traces["width_mm"]) >= 0.97 * arc.width_mm) & (
        np.array(traces["travel_mm_s"]) >= 0.97 * arc.travel_mm_s
    )
    least = max(3, round(2 * arc.width_mm / (way[-1] / len(way)))) if len(way) else 3
    counts = np.convolve(good, np.ones(least), "valid") >= 0.8 * least
    first = int(np.argmax(counts)) if counts.any() else -1
    if first < 0 or way[first] > min(way[-1] - LAST_POOLS * arc.width_mm, NOT_THE_END * way[-1]):
        return None
    return round(float(way[first]), 1)


@dataclass
class _Welding:
    """A part on the bench while it is welded."""

    part: PartDrawing
    metal: MetalHeat
    arc: Arc
    raster: Raster
    steady_w: float
    progress: Progress
    holds_width: bool
    rests: bool = False
    pictures: list[np.ndarray] = field(default_factory=list)
    seconds: list[float] = field(default_factory=list)

    def __post_init__(self) -> None:
        raster = self.raster
        block = None
        if raster.block_mm.any():
            block = Block(raster.block_mm, *block_values(raster), CLAMPED_W_MM2_K)
        self.plate = PlateRun(raster.thickness_mm, raster.cell_mm, self.metal, self.part.start_c, block=block)
        self.is_metal = raster.thickness_mm > 0
        self.welding_s = sum(run.length_mm for run in self.part.runs) / self.arc.travel_mm_s
        self.peaks = [(self.part.start_c, 0.0)] * len(self.part.marks)
        self.every = max(1, int(np.ceil(np.sqrt(raster.thickness_mm.size / MOST_PICTURE_CELLS))))
        self._next_picture_s, self._every_s = 0.0, max(self.welding_s, 1.0) / PICTURES
        self._welded_s = 0.0
        self._show(force=True)

    def run(self, run: Run) -> RunTrace:
        """Wait, stand, go."""
        waited = self._wait(run)
        begins = self.plate.time_s
        foot = Foot(self.arc, self.steady_w, self.arc.most)
        inset = min(self.arc.width_mm / 2, run.length_mm / 4)
        stood = self._stand(run, foot, inset) if self.part.start == "waits" and self.holds_width else 0.0
        rested: list[tuple[float, float]] = []
        traces = self._go(run, foot, rested)
        return RunTrace(
            waited_s=round(waited, 1),
            begins_s=round(begins, 2),
            stood_s=round(stood, 2),
            ends_s=round(self.plate.time_s, 2),
            reached_mm=_reached_mm(traces, self.arc),
            rests=tuple(rested),
            **{name: tuple(np.round(values, 3).tolist()) for name, values in traces.items()},
        )

    def _width(self, run: Run, way_mm: float) -> float:
        place = self.raster.place(*run.at_mm(way_mm))
        return self.plate.pool_width_mm(*place, run.along, 2 * self.arc.width_mm)

    def _stand(self, run: Run, foot: Foot, way_mm: float) -> float:
        """At a place, the foot down, until the pool is there."""
        dt, begun = self.arc.step_s, self.plate.time_s
        place = self.raster.place(*run.at_mm(way_mm))
        while self.plate.time_s - begun < LONGEST_STAND_S:
            self.plate.step(dt, foot.heat_w, place, place, self.arc.sigma_mm)
            self._show()
            if self._width(run, way_mm) >= self.arc.width_mm * (RELIT if self.rests else 1):
                break
        return self.plate.time_s - begun

    def _cool(self, run: Run, foot: Foot, way_mm: float) -> float:
        """The arc put out on the way until the metal ahead has cooled, and lit again there."""
        ahead = run.at_mm(way_mm + AHEAD_OF_POOL * self.arc.width_mm)
        begun, start = self.plate.time_s, self.part.start_c
        cool_c = start + COOLS_TO * (self._at(*ahead) - start)
        while self._at(*ahead) > cool_c and self.plate.time_s - begun < LONGEST_REST_S:
            self._rest(PAUSE_STEP_S)
        rested = self.plate.time_s - begun
        self._stand(run, foot, way_mm)
        return rested

    def _go(self, run: Run, foot: Foot, rested: list[tuple[float, float]]) -> dict[str, list[float]]:
        """Along the run: what was under the foot, how wide and how fast it went, and what lay ahead, by
        place; and the rests on the way.
        """
        dt, wanted = self.arc.step_s, self.arc.width_mm
        follows = self.part.start == "waits"
        if self.holds_width and follows:
            foot.share = min(foot.share, max(1.0, foot.arc.least))
        found: dict[str, list[float]] = {name: [] for name in TRACES}
        way, width, gathered, every = 0.0, wanted if follows else 0.0, [], run.length_mm / PLACES
        while way < run.length_mm - 1e-9:
            travel = self.arc.travel_mm_s * (pace(width / wanted) if follows else 1.0)
            begin, way = way, min(way + travel * dt, run.length_mm)
            here, there = (self.raster.place(*run.at_mm(each)) for each in (begin, way))
            self.plate.step((way - begin) / travel, foot.heat_w, here, there, self.arc.sigma_mm)
            width = self._width(run, way)
            gathered.append((foot.share, travel))
            if self.holds_width:
                foot.press(width, dt)
            if way >= every * (len(found["way_mm"]) + 1) or way >= run.length_mm - 1e-9:
                share, paced = np.mean(gathered, axis=0)
                ahead = run.at_mm(min(way + AHEAD_OF_POOL * wanted, run.length_mm))
                for name, value in zip(TRACES, (way, share, width, paced, self._at(*ahead)), strict=True):
                    found[name].append(float(value))
                gathered.clear()
            self._welded_s += (way - begin) / self.arc.travel_mm_s
            self._show()
            ends_soon = run.length_mm - way < LAST_POOLS * wanted
            if self.rests and width > RESTS_OVER * wanted and not ends_soon and len(rested) < MOST_RESTS:
                rested.append((round(way, 1), round(self._cool(run, foot, way), 1)))
        return found

    def _at(self, x_mm: float, y_mm: float) -> float:
        return self.plate.at_c(*self.raster.place(x_mm, y_mm))

    def _wait(self, run: Run) -> float:
        """The pause that is drawn, and on until the metal along the run is cool enough."""
        begun = self.plate.time_s

        def is_cool() -> bool:
            if run.cools_to_c is None:
                return True
            places = np.linspace(0, run.length_mm, 25)
            return max(self._at(*run.at_mm(float(way))) for way in places) <= run.cools_to_c

        while self.plate.time_s - begun < run.pause_s - 1e-9:
            self._rest(min(PAUSE_STEP_S, run.pause_s - (self.plate.time_s - begun)))
        while not is_cool():
            if self.plate.time_s - begun > LONGEST_PAUSE_S:
                raise BadInput.one(
                    "cools_to_c",
                    f"{run.cools_to_c:g} °C",
                    sentence("warming.within_hour_does_not"),
                )
            self._rest(PAUSE_STEP_S)
        return self.plate.time_s - begun

    def _rest(self, dt_s: float) -> None:
        """Without the arc, in as few steps as the cells allow."""
        steps = int(np.ceil(dt_s / self.plate.longest_step_s))
        for _ in range(steps):
            self.plate.step(dt_s / steps)
        self._show()

    def _show(self, force: bool = False) -> None:
        """A picture now and then, marks, and how far it has come."""
        now = self.plate.time_s
        for n, mark in enumerate(self.part.marks):
            here = self._at(mark.x_mm, mark.y_mm)
            if here > self.peaks[n][0]:
                self.peaks[n] = here, now
        if force or now >= self._next_picture_s:
            self.pictures.append(as_picture(self.plate.temperature_c, self.is_metal, self.every))
            self.seconds.append(round(now, 2))
            if len(self.pictures) > MOST_PICTURES:  # a long pause: every second one is enough
                self.pictures, self.seconds = self.pictures[::2], self.seconds[::2]
                self._every_s *= 2
            self._next_picture_s = now + self._every_s
            self.progress(min(0.97, 0.02 + 0.93 * self._welded_s / max(self.welding_s, 1e-9)))

    def finished(self, runs: tuple[RunTrace, ...]) -> tuple[HeatRun, Film]:
        """How it cools, and the whole as values."""
        plate, ends = self.plate, self.plate.time_s
        temperature = plate.temperature_c[self.is_metal]
        mean, hottest = float(temperature.mean()), float(temperature.max())
        heat, lost = plate.put_in_j, plate.lost_j
        volume = float(self.raster.thickness_mm.sum()) * self.raster.cell_mm**2
        lumped = self.part.start_c + heat / (volume * self.metal.density_g_mm3 * C_J_G_K)
        touch = until_touch(plate, self.is_metal, self._rest, self._holds_j_mm2_k())
        self._show(force=True)
        result = HeatRun(
            reference_w=round(self.steady_w, 1),
            wanted_mm=round(self.arc.width_mm, 3),
            travel_mm_s=self.arc.travel_mm_s,
            cell_mm=self.raster.cell_mm,
            runs=runs,
            marks=tuple(
                MarkTrace(name=mark.name, peak_c=round(peak, 1), peak_s=round(at, 1), most_c=mark.most_c)
                for mark, (peak, at) in zip(self.part.marks, self.peaks, strict=True)
            ),
            ends_s=round(ends, 2),
            end_mean_c=round(mean, 1),
            end_hottest_c=round(hottest, 1),
            touch_s=None if touch is None else round(touch, 0),
            heat_j=round(heat, 1),
            lost_j=round(lost, 1),
            lumped_c=round(lumped, 1),
        )
        film = Film(tuple(self.seconds), np.stack(self.pictures), self.raster.cell_mm * self.every)
        return result, film

    def _holds_j_mm2_k(self) -> float:
        """What metal and block hold over each square millimetre of metal."""
        thick = float(self.raster.thickness_mm[self.is_metal].mean())
        block = float(self.raster.block_mm.sum()) / max(int(self.is_metal.sum()), 1)
        return self.metal.density_g_mm3 * C_J_G_K * thick + block * block_values(self.raster)[0]
