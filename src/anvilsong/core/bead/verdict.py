"""The verdict on a coupon: border and bead against their aims, and against what the model expected."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from anvilsong.core import say
from anvilsong.core.bead.coupon import Looks, Readings
from anvilsong.core.bead.fault_signs import find_sign, signs_on
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

OVERALL_WORDS: dict[str | None, str] = {
    "keep": "as wanted",
    "nearly": "nearly as wanted",
    "no": "not as wanted",
    None: "nothing wrong seen",
}


class LooksVerdict(Value):
    """What a coupon says, as far as it was measured. Lengths mm; misses in units of the tolerance, 1 is the
    edge of what is wanted; None where the figure was not measured.
    """

    border_mm: float | None
    border_state: BorderState | None
    aim_mm: tuple[float, float]
    expected_border_mm: float
    border_miss: float | None
    bead_width_mm: float | None
    wanted_width_mm: float
    expected_width_mm: float
    width_miss: float | None
    uneven: bool
    said: list[Words] = Field(max_length=20)
    flaws: list[Words] = Field([], max_length=20)
    """What was seen on the back side and in the crater, with what to do about it."""
    signs: list[str] = Field([], max_length=40)
    """Keys of the signs of faults (`fault_signs`) that were seen."""
    overall: Literal["keep", "nearly", "no"] | None = None

    @property
    def headline(self) -> str:
        """The verdict in a few words."""
        if self.border_state is not None:
            return STATE_WORDS[self.border_state]
        if self.signs:
            return find_sign(self.signs[0]).words
        return OVERALL_WORDS[self.overall]

    @property
    def measures_are_good(self) -> bool:
        """Whether nothing that was measured misses its aim, and back side and crater are sound."""
        return (
            self.border_state in (None, "as_wanted")
            and abs(self.width_miss or 0.0) <= 1
            and not self.uneven
            and not self.flaws
        )

    @property
    def is_good(self) -> bool:
        """Whether there is nothing to change: by ruler, by sight, and by the welder's own word."""
        return self.measures_are_good and not self.signs and self.overall in (None, "keep")


class Verdict(LooksVerdict):
    """What a coupon says that was measured whole."""

    travel_mm_s: float
    border_mm: float
    border_state: BorderState
    border_miss: float
    bead_width_mm: float
    width_miss: float


def as_run(settings: Settings, looks: Looks) -> Settings:
    """The settings at the speed that the hand really went; at the planned one where the run was not timed."""
    if looks.travel_mm_s is None:
        return settings
    return settings.model_copy(update={"travel_mm_s": looks.travel_mm_s})


def read(
    job: Job, settings: Settings, readings: Readings, machine: Machine = IDEAL, c: Coefficients | None = None
) -> Verdict:
    """Judge a coupon that was measured whole, as `read_looks` does."""
    judged = read_looks(job, settings, readings, machine, c)
    return Verdict.model_construct(**dict(judged), travel_mm_s=readings.travel_mm_s)


def read_looks(
    job: Job, settings: Settings, looks: Looks, machine: Machine = IDEAL, c: Coefficients | None = None
) -> LooksVerdict:
    """Judge a coupon: border per side against its aim, evenness, bead against the pool wanted, and what was
    seen; of what was not measured nothing is said.

    border_miss = (border − aim)/tolerance,  width_miss = (bead − wanted)/(0.12 × wanted)
    """
    at = situation(job)
    expected = consequences(job, as_run(settings, looks), machine, c)
    # At the plan's own speed: a slow hand is no excuse for a wide bead.
    wanted = at.aimed_width_mm(settings.travel_mm_s, settings.preheat_c)
    border, bead = looks.border_mm, looks.bead_width_mm
    miss = None if border is None else (border - at.aim.aim_mm) / at.aim.tolerance_mm
    widest = max(looks.border_left_mm or 0.0, looks.border_right_mm or 0.0)
    uneven = (looks.unevenness or 0.0) > UNEVEN_OVER and widest > 0.3
    said = [
        *_of_the_border(at, looks, expected.border_mm, as_run(settings, looks).travel_mm_s),
        *_of_the_bead(looks, wanted, expected.pool_width_mm),
        *_of_the_hand(settings, looks, uneven),
    ]
    return LooksVerdict(
        border_mm=border,
        border_state=None if border is None or miss is None else _state(border, miss),
        aim_mm=(at.aim.low_mm, at.aim.high_mm),
        expected_border_mm=expected.border_mm,
        border_miss=miss,
        bead_width_mm=bead,
        wanted_width_mm=wanted,
        expected_width_mm=expected.pool_width_mm,
        width_miss=None if bead is None else (bead - wanted) / (WIDTH_TOLERANCE * wanted),
        uneven=uneven,
        said=said,
        flaws=seen_flaws(at, looks, machine),
        signs=signs_on(looks),
        overall=looks.overall,
    )


def _state(border: float, miss: float) -> BorderState:
    return "none" if border < 0.1 else "thin" if miss < -1 else "wide" if miss > 1 else "as_wanted"


def _of_the_border(at: Situation, looks: Looks, expected_mm: float, travel_mm_s: float) -> list[Words]:
    if looks.border_mm is None:
        return []
    return [
        sentence(
            "bead.border_side_wanted_expected",
            border=looks.border_mm,
            low_mm=at.aim.low_mm,
            high_mm=at.aim.high_mm,
            border_mm=expected_mm,
            travel_mm_s=travel_mm_s,
        )
    ]


def _of_the_bead(looks: Looks, wanted_mm: float, expected_mm: float) -> list[Words]:
    if looks.bead_width_mm is None:
        return []
    measured, wanted, expected = map(say.mm, (looks.bead_width_mm, wanted_mm, expected_mm))
    return [say.joined("Bead ", measured, " wide; wanted ", wanted, "; expected ", expected, ".")]


def _of_the_hand(settings: Settings, looks: Looks, uneven: bool) -> list[Words]:
    """What the borders and the clock say of torch and travel."""
    said: list[Words] = []
    if uneven and looks.unevenness is not None:
        wide_side = "left" if (looks.border_left_mm or 0) > (looks.border_right_mm or 0) else "right"
        said.append(
            sentence("bead.left_right_differ_torch", unevenness=looks.unevenness, wide_side=wide_side)
        )
    stray, border = looks.border_stray_mm, looks.border_mm or 0.0
    if stray is not None and border >= LEAST_STRAYING_MM and stray / border > STRAY_OVER:
        said.append(sentence("bead.borders_edge_wanders_speed", stray=stray, share=stray / border))
    travelled = looks.travel_mm_s
    if travelled is not None and abs(travelled / settings.travel_mm_s - 1) > 0.2:
        said.append(
            sentence("bead.you_travelled_plan_was", travelled=travelled, planned=settings.travel_mm_s)
        )
    return said


def seen_flaws(at: Situation, looks: Looks, machine: Machine = IDEAL) -> list[Words]:
    """Sentences for what the back side and the crater show."""
    found: list[Words] = []
    if at.wants_root and looks.back_side in ("none", "partial"):
        missed = "is not reached" if looks.back_side == "none" else sentence("bead.reached_only_part")
        found.append(sentence("bead.back_side_full_penetration", missed=missed))
    if looks.back_side == "sagging":
        found.append(sentence("bead.back_side_sags_faster"))
    if looks.crater == "cracked":
        found.append(say.joined("The crater cracked: ", crater_end(machine, at.job.control), "."))
    if looks.crater == "hollow":
        found.append(say.joined("The crater is hollow: ", crater_end(machine, at.job.control), "."))
    return found
