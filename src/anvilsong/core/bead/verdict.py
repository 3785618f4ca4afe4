"""The verdict on a coupon: border and bead against their aims, and against what the model expected."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from anvilsong.core import say
from anvilsong.core.bead.coupon import Readings
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job
from anvilsong.core.machine import IDEAL, Machine, crater_end
from anvilsong.core.model import Situation, consequences, situation
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.value import Value
from anvilsong.core.words import sentence

UNEVEN_OVER, WIDTH_TOLERANCE = 0.30, 0.12
STRAY_OVER, LEAST_STRAYING_MM = 0.15, 0.3  # of the border; a thinner one has no edge to speak of

BorderState = Literal["none", "thin", "as_wanted", "wide"]
STATE_WORDS: dict[BorderState, str] = {
    "none": "no border",
    "thin": "border too thin",
    "as_wanted": "border as wanted",
    "wide": "border too wide",
}


class Verdict(Value):
    """What a coupon says. Lengths mm; misses in units of the tolerance, 1 is the edge of what is wanted."""

    travel_mm_s: float
    border_mm: float
    border_state: BorderState
    aim_mm: tuple[float, float]
    expected_border_mm: float
    border_miss: float
    bead_width_mm: float
    wanted_width_mm: float
    expected_width_mm: float
    width_miss: float
    uneven: bool
    said: list[Words] = Field(max_length=20)
    flaws: list[Words] = Field([], max_length=20)
    """What was seen on the back side and in the crater, with what to do about it."""

    @property
    def headline(self) -> str:
        return STATE_WORDS[self.border_state]

    @property
    def is_good(self) -> bool:
        return (
            self.border_state == "as_wanted"
            and abs(self.width_miss) <= 1
            and not self.uneven
            and not self.flaws
        )


def as_run(settings: Settings, readings: Readings) -> Settings:
    """The settings at the speed that the hand really went."""
    return settings.model_copy(update={"travel_mm_s": readings.travel_mm_s})


def read(
    job: Job, settings: Settings, readings: Readings, machine: Machine = IDEAL, c: Coefficients | None = None
) -> Verdict:
    """Judge a coupon: border per side against its aim, evenness, bead against the pool wanted.

    border_miss = (border − aim)/tolerance,  width_miss = (bead − wanted)/(0.12 × wanted)
    """
    at = situation(job)
    seen = consequences(job, as_run(settings, readings), machine, c)
    border, aim = readings.border_mm, at.aim
    miss = (border - aim.aim_mm) / aim.tolerance_mm
    state: BorderState = (
        "none" if border < 0.1 else "thin" if miss < -1 else "wide" if miss > 1 else "as_wanted"
    )
    # At the plan's own speed: a slow hand is no excuse for a wide bead.
    wanted = at.aimed_width_mm(settings.travel_mm_s, settings.preheat_c)
    width_miss = (readings.bead_width_mm - wanted) / (WIDTH_TOLERANCE * wanted)
    uneven = (
        readings.unevenness > UNEVEN_OVER and max(readings.border_left_mm, readings.border_right_mm) > 0.3
    )
    said: list[Words] = [
        sentence(
            "bead.border_side_wanted_expected",
            border=border,
            low_mm=aim.low_mm,
            high_mm=aim.high_mm,
            border_mm=seen.border_mm,
            travel_mm_s=readings.travel_mm_s,
        )
    ]
    said.append(
        say.joined(
            "Bead ",
            say.mm(readings.bead_width_mm),
            " wide; wanted ",
            say.mm(wanted),
            "; expected ",
            say.mm(seen.pool_width_mm),
            ".",
        )
    )
    if uneven:
        wide_side = "left" if readings.border_left_mm > readings.border_right_mm else "right"
        said.append(
            sentence("bead.left_right_differ_torch", unevenness=readings.unevenness, wide_side=wide_side)
        )
    stray = readings.border_stray_mm
    if stray is not None and border >= LEAST_STRAYING_MM and stray / border > STRAY_OVER:
        said.append(sentence("bead.borders_edge_wanders_speed", stray=stray, share=stray / border))
    if abs(readings.travel_mm_s / settings.travel_mm_s - 1) > 0.2:
        said.append(
            sentence(
                "bead.you_travelled_plan_was",
                travelled=readings.travel_mm_s,
                planned=settings.travel_mm_s,
            )
        )
    return Verdict(
        travel_mm_s=readings.travel_mm_s,
        border_mm=border,
        border_state=state,
        aim_mm=(aim.low_mm, aim.high_mm),
        expected_border_mm=seen.border_mm,
        border_miss=miss,
        bead_width_mm=readings.bead_width_mm,
        wanted_width_mm=wanted,
        expected_width_mm=seen.pool_width_mm,
        width_miss=width_miss,
        uneven=uneven,
        said=said,
        flaws=seen_flaws(at, readings, machine),
    )


def seen_flaws(at: Situation, readings: Readings, machine: Machine = IDEAL) -> list[Words]:
    """Sentences for what the back side and the crater show."""
    found: list[Words] = []
    if at.wants_root and readings.back_side in ("none", "partial"):
        missed = "is not reached" if readings.back_side == "none" else sentence("bead.reached_only_part")
        found.append(sentence("bead.back_side_full_penetration", missed=missed))
    if readings.back_side == "sagging":
        found.append(sentence("bead.back_side_sags_faster"))
    if readings.crater == "cracked":
        found.append(say.joined("The crater cracked: ", crater_end(machine, at.job.control), "."))
    if readings.crater == "hollow":
        found.append(say.joined("The crater is hollow: ", crater_end(machine, at.job.control), "."))
    return found
