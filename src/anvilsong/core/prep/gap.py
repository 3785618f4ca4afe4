"""Bridging a gap in thin sheet: not one bead but a computed sequence."""

from __future__ import annotations

import math
from typing import Literal

from pydantic import BaseModel, ConfigDict

from anvilsong.core import say
from anvilsong.core.model import Situation
from anvilsong.core.settings import Settings

WIDE_OVER_THICKNESS, BRIDGE_RODS, MOST_LAYERS = 0.5, 2.0, 6
FIRST_SHARE, MORE_PER_LAYER, FREQUENCY_MORE_HZ = 0.60, 0.10, 30.0
BEAD_PER_ROD_SECTION, BRIDGE_MM, LEAST_FILL_MM = 0.9, 10.0, 0.3
SHARE_WINDOW = 0.10


class GapStep(BaseModel):
    """One step: what, where the gap stands after it (mm), filler volume (mm³), amps and their window, wait
    (s).
    """

    model_config = ConfigDict(frozen=True)

    kind: Literal["clean", "tack", "edge", "bridge", "wait", "fill", "level"]
    text: str
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


def needs_bridging(at: Situation) -> bool:
    """Whether the gap is wider than about half the thinner side, in a joint that runs along a gap."""
    return (
        at.weld.follows_a_gap
        and at.job.bevel is None
        and at.job.gap_mm > WIDE_OVER_THICKNESS * at.job.thin_mm
    )


def bridge_gap(at: Situation, settings: Settings) -> list[GapStep]:
    """The sequence that closes the gap.

    Each edge pass lays a bead of 0.9 rod sections on one edge, which narrows the gap by bead/thickness;
    edges are built in
    turn until the gap is two rods wide; short bridges tie it; the rest is filled from the closed end. Amps
    start at 60 % of
    the butt value and rise 10 % a layer. The volumes add up to gap × thickness × length.
    """
    job = at.job
    thickness, length, gap = job.thin_mm, job.weld_length_mm, job.gap_mm
    rod = settings.filler.diameter_mm if settings.filler else 1.6
    rod_section = math.pi * rod**2 / 4
    narrowing = BEAD_PER_ROD_SECTION * rod_section / thickness
    frequency = settings.frequency_hz + FREQUENCY_MORE_HZ

    built = [0.0, 0.0]

    def laid(
        kind: Literal["tack", "edge", "bridge", "fill", "level"],
        text: str,
        volume: float,
        share: float,
        left: float,
    ) -> GapStep:
        amps = settings.amps_run * share
        window = (
            settings.amps_run * (share - SHARE_WINDOW),
            settings.amps_run * min(1.05, share + SHARE_WINDOW),
        )
        hz = 45.0 if kind == "level" else frequency
        return GapStep(
            kind=kind,
            text=text,
            gap_left_mm=left,
            built_mm=(gap / 2, gap / 2) if left <= 0 else (built[0], built[1]),
            volume_mm3=volume,
            rod_mm=rod,
            rod_length_mm=volume / rod_section,
            amps=amps,
            amps_window=window,
            frequency_hz=hz,
        )

    steps = [
        GapStep(
            kind="clean",
            text="Degrease and brush both edges and both faces, inside the gap too.",
            gap_left_mm=gap,
        )
    ]
    tack_volume = 2 * BRIDGE_MM / 2 * gap * thickness
    steps.append(
        laid(
            "tack",
            f"Tack both ends with rod across {say.size(gap)}; hold the part so that the gap cannot open.",
            tack_volume,
            FIRST_SHARE,
            gap,
        )
    )
    # An edge is worth building while the gap is wider than two rods; at least one bead a side, as long as
    # room stays to fill.
    left, layer = gap, 0
    while layer < MOST_LAYERS and (left > BRIDGE_RODS * rod or layer == 0):
        each = min(narrowing, (left - max(LEAST_FILL_MM, 0.25 * gap)) / 2)
        if each <= 0.02:
            break
        share = min(1.0, FIRST_SHARE + MORE_PER_LAYER * layer)
        for side, edge in enumerate(("one edge", "the other edge")):
            left -= each
            built[side] += each
            volume = each * thickness * (length - BRIDGE_MM)
            text = (
                f"Build {edge} with quick short passes, {say.about_mm(15)} to {say.about_mm(20)} at a "
                "time; move on before it melts back."
            )
            steps.append(laid("edge", text, volume, share, left))
        layer += 1
    share = min(1.0, FIRST_SHARE + MORE_PER_LAYER * max(1, layer))
    bridges = max(1, round(length / 150))
    bridge_volume = min(bridges * BRIDGE_MM, 0.3 * (length - BRIDGE_MM)) * left * thickness
    steps.append(
        laid(
            "bridge",
            f"Bridge at the widest place, from one side then the other: {bridges} × {say.mm(BRIDGE_MM, 0)}.",
            bridge_volume,
            share,
            left,
        )
    )
    wait = 30.0 + 15.0 * layer
    steps.append(
        GapStep(
            kind="wait",
            text="Let it cool to hand-warm, never quench. Brush.",
            gap_left_mm=left,
            built_mm=(built[0], built[1]),
            wait_s=wait,
        )
    )
    done = sum(step.volume_mm3 for step in steps)
    share = min(1.0, share + MORE_PER_LAYER)
    fill = gap * thickness * length - done
    steps.append(
        laid(
            "fill",
            (
                "Fill from the closed end in one direction, alternating sides; the thicker rod only if "
                "the pool stays wet."
            ),
            fill,
            share,
            0.0,
        )
    )
    if "appearance" in job.purposes:
        steps.append(laid("level", "Level the face: one pass at 40 to 50 Hz, hardly any rod.", 0.0, 1.0, 0.0))
    return steps
