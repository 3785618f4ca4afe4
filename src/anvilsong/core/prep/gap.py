"""Bridging a gap in thin sheet: not one bead but a computed sequence."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import BaseModel, ConfigDict

from anvilsong.core.model import Situation
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

FIRST_SHARE, MORE_PER_LAYER, FREQUENCY_MORE_HZ = 0.60, 0.10, 30.0
BEAD_PER_ROD_SECTION, BRIDGE_MM, LEAST_FILL_MM = 0.9, 10.0, 0.3
SHARE_WINDOW, MOST_SHARE, LEVEL_HZ = 0.10, 1.05, 45.0
BRIDGE_RODS, MOST_LAYERS = 2.0, 6
LEAST_BEAD_MM, A_BRIDGE_EVERY_MM = 0.02, 150.0
WAIT_S, WAIT_PER_LAYER_S = 30.0, 15.0


class GapStep(BaseModel):
    """One step: what, where the gap stands after it (mm), filler volume (mm³), amps and their window, wait
    (s).
    """

    model_config = ConfigDict(frozen=True)

    kind: Literal["clean", "tack", "edge", "bridge", "wait", "fill", "level"]
    text: Words
    gap_left_mm: float
    built_mm: tuple[float, float] = (0.0, 0.0)
    """How far each edge has grown into the gap."""
    volume_mm3: float = 0.0
    rod_mm: float | None = None
    rod_length_mm: float = 0.0
    amps: float | None = None
    amps_window: tuple[float, float] | None = None
    frequency_hz: float | None = None
    wait_s: float = 0.0


def bridge_gap(at: Situation, settings: Settings) -> list[GapStep]:
    """The sequence that closes the gap.

    Each edge pass lays a bead of 0.9 rod sections on one edge, which narrows the gap by bead/thickness;
    edges are built in turn until the gap is two rods wide; short bridges tie it; the rest is filled from the
    closed end. Amps start at 60 % of the butt value and rise 10 % a layer. The volumes add up to gap ×
    thickness × length.
    """
    gap = _Gap(at, settings)
    gap.clean()
    gap.tack()
    gap.build_edges()
    gap.bridge()
    gap.wait()
    gap.fill()
    if "appearance" in at.job.purposes:
        gap.lay("level", sentence("prep.level_face_one_pass"), 0.0, 1.0)
    return gap.steps


class _Gap:
    """A gap that closes step by step."""

    def __init__(self, at: Situation, settings: Settings) -> None:
        self.settings, self.job = settings, at.job
        self.thickness, self.length, self.gap = at.job.thin_mm, at.job.weld_length_mm, at.job.gap_mm
        self.rod = settings.filler.diameter_mm if settings.filler else 1.6
        self.rod_section = math.pi * self.rod**2 / 4
        self.left, self.layers = self.gap, 0
        self.built = [0.0, 0.0]
        self.steps: list[GapStep] = []

    @property
    def share(self) -> float:
        """Of the butt's amps, in the layer that comes next."""
        return min(1.0, FIRST_SHARE + MORE_PER_LAYER * self.layers)

    def lay(
        self,
        kind: Literal["tack", "edge", "bridge", "fill", "level"],
        text: Words,
        volume: float,
        share: float,
    ) -> None:
        """A step with the arc on."""
        run = self.settings.amps_run
        closed = self.left <= 0
        self.steps.append(
            GapStep(
                kind=kind,
                text=text,
                gap_left_mm=self.left,
                built_mm=(self.gap / 2, self.gap / 2) if closed else (self.built[0], self.built[1]),
                volume_mm3=volume,
                rod_mm=self.rod,
                rod_length_mm=volume / self.rod_section,
                amps=run * share,
                amps_window=(run * (share - SHARE_WINDOW), run * min(MOST_SHARE, share + SHARE_WINDOW)),
                frequency_hz=LEVEL_HZ if kind == "level" else self.settings.frequency_hz + FREQUENCY_MORE_HZ,
            )
        )

    def clean(self) -> None:
        text = sentence("prep.degrease_brush_both_edges")
        self.steps.append(GapStep(kind="clean", text=text, gap_left_mm=self.gap))

    def tack(self) -> None:
        """Half a bridge at either end."""
        text = sentence("prep.tack_both_ends_with", gap=self.gap)
        self.lay("tack", text, BRIDGE_MM * self.gap * self.thickness, FIRST_SHARE)

    def build_edges(self) -> None:
        """While the gap is wider than two rods; at least one bead a side, as long as room stays to fill."""
        narrowing = BEAD_PER_ROD_SECTION * self.rod_section / self.thickness
        least = max(LEAST_FILL_MM, 0.25 * self.gap)
        while self.layers < MOST_LAYERS and (self.left > BRIDGE_RODS * self.rod or self.layers == 0):
            each = min(narrowing, (self.left - least) / 2)
            if each <= LEAST_BEAD_MM:
                break
            for side, edge in enumerate(("one edge", "the other edge")):
                self.left -= each
                self.built[side] += each
                text = sentence("prep.build_with_quick_short", edge=edge, from_mm=15, to_mm=20)
                self.lay("edge", text, each * self.thickness * (self.length - BRIDGE_MM), self.share)
            self.layers += 1

    def bridge(self) -> None:
        bridges = max(1, round(self.length / A_BRIDGE_EVERY_MM))
        tied_mm = min(bridges * BRIDGE_MM, 0.3 * (self.length - BRIDGE_MM))
        share = max(self.share, FIRST_SHARE + MORE_PER_LAYER)
        text = sentence("prep.bridge_widest_place_from", bridges=bridges, bridge_mm=BRIDGE_MM)
        self.lay("bridge", text, tied_mm * self.left * self.thickness, share)

    def wait(self) -> None:
        self.steps.append(
            GapStep(
                kind="wait",
                text=sentence("prep.let_cool_until_hand"),
                gap_left_mm=self.left,
                built_mm=(self.built[0], self.built[1]),
                wait_s=WAIT_S + WAIT_PER_LAYER_S * self.layers,
            )
        )

    def fill(self) -> None:
        """What is not laid yet."""
        rest = self.gap * self.thickness * self.length - sum(step.volume_mm3 for step in self.steps)
        share = min(1.0, max(self.share, FIRST_SHARE + MORE_PER_LAYER) + MORE_PER_LAYER)
        self.left = 0.0
        text = sentence("prep.fill_from_closed_end")
        self.lay("fill", text, rest, share)
