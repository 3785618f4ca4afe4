"""Cut out and build up: a flaw ground out to sound metal, and the groove filled bead by bead.

The groove has sides at 30° from upright and a round bottom of 3 mm radius R; as a V whose point lies
R·(1/sin 30° − 1) deeper, its section is d²·tan 30° − R²·(cot 30° − π/3) with d the depth of that point. The
beads are as large as 15 % of the arc's heat melts, 18 mm² at most, and fill it with a tenth to spare for
dressing. Under the first the metal is thinner: it counts as the thickness less half of what is still to be
filled.
"""

from __future__ import annotations

import math

from pydantic import BaseModel, ConfigDict

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job, Side
from anvilsong.core.model import Situation, situation
from anvilsong.core.prep.preheat import limit_for
from anvilsong.core.prep.rod import GOOD_HEAT_SHARE, rod_length_mm
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

HALF_ANGLE, BOTTOM_MM = math.radians(30), 3.0
RUN_OUT_MM, OVER = 10.0, 1.10
MOST_DEPTH_SHARE, LEAST_LEFT_MM, MOST_BEADS, LARGEST_BEAD_MM2 = 0.7, 1.0, 200, 18.0
LEAST_LENGTH_MM, MOST_LENGTH_MM, LEAST_DEPTH_MM = 3.0, 2000.0, 0.5


class FillBead(BaseModel):
    """One bead: amps, its section, mm², the rod it takes, mm, and the metal under it, mm."""

    model_config = ConfigDict(frozen=True)

    number: int
    amps: float
    section_mm2: float
    rod_length_mm: float
    local_mm: float


class CutOut(BaseModel):
    """The groove and what fills it. ``through`` where the first bead's melt reaches the back."""

    model_config = ConfigDict(frozen=True)

    length_mm: float
    width_mm: float
    depth_mm: float
    left_mm: float
    section_mm2: float
    rod_mm: float
    beads: list[FillBead]
    through: bool
    says: list[Words]


def groove(depth_mm: float) -> tuple[float, float]:
    """Width at the face, mm, and section, mm², of a groove ground so deep.

    >>> [round(number, 1) for number in groove(4.0)]
    [8.1, 22.1]
    """
    point = depth_mm + BOTTOM_MM * (1 / math.sin(HALF_ANGLE) - 1)
    slope = math.tan(HALF_ANGLE)
    cut = BOTTOM_MM**2 * (1 / slope - (math.pi / 2 - HALF_ANGLE))
    return 2 * point * slope, point**2 * slope - cut


def groove_half_mm(over_bottom_mm: float) -> float:
    """Half the groove's width so far over its bottom, mm: round below, straight above.

    >>> round(2 * groove_half_mm(4.0), 1)
    8.1
    """
    straight_from = BOTTOM_MM * (1 - math.sin(HALF_ANGLE))
    if over_bottom_mm <= straight_from:
        return math.sqrt(max(0.0, BOTTOM_MM**2 - (BOTTOM_MM - over_bottom_mm) ** 2))
    return BOTTOM_MM * math.cos(HALF_ANGLE) + (over_bottom_mm - straight_from) * math.tan(HALF_ANGLE)


def cut_out(at: Situation, settings: Settings, flaw_mm: float, depth_mm: float, c: Coefficients) -> CutOut:
    """The groove that takes out a flaw, and the beads that fill it.

    Parameters
    ----------
    flaw_mm : how long the flaw is that can be seen; the groove runs 10 mm past both its ends
    depth_mm : how deep the groove has to go for sound metal

    Raises
    ------
    BadInput : a flaw or a depth that is none of this metal; past 0.7 of it the part is opened right through
    """
    thick = at.job.thin_mm
    if not LEAST_LENGTH_MM <= flaw_mm <= MOST_LENGTH_MM:
        raise BadInput.one(
            "flaw",
            f"{flaw_mm:g} mm",
            sentence("prep.flaw_is_so_long", least_mm=LEAST_LENGTH_MM, most_mm=MOST_LENGTH_MM),
        )
    most = min(MOST_DEPTH_SHARE * thick, thick - LEAST_LEFT_MM)
    if not LEAST_DEPTH_MM <= depth_mm <= most:
        allowed = sentence("prep.open_it_through", least_mm=LEAST_DEPTH_MM, most_mm=max(most, 0.0))
        raise BadInput.one("depth", f"{depth_mm:g} mm", allowed)
    width, section = groove(depth_mm)
    length = flaw_mm + 2 * RUN_OUT_MM
    rod = settings.filler.diameter_mm if settings.filler else 0.0
    beads = _beads(at, settings, (section * OVER, length, depth_mm, rod), c)
    left = thick - depth_mm
    through = _melts_through(at, settings, beads[0].local_mm, left)
    return CutOut(
        length_mm=length,
        width_mm=width,
        depth_mm=depth_mm,
        left_mm=left,
        section_mm2=section,
        rod_mm=rod,
        beads=beads,
        through=through,
        says=_says(at, through),
    )


def _beads(
    at: Situation, settings: Settings, wanted: tuple[float, float, float, float], c: Coefficients
) -> list[FillBead]:
    """Beads until the groove is full, each as large as its own heat melts."""
    section, length, depth, rod = wanted
    per_amp = heat_per_amp_w(settings.wave(), c, at.job.arc_length_mm, at.job.helium_share)
    found, filled = list[FillBead](), 0.0
    while filled < section - 1e-6 and len(found) < MOST_BEADS:
        local = at.job.thin_mm - 0.5 * depth * (1 - filled / section)
        here = situation(_build_up(at.job, local))
        pool = float(here.wanted_pool_heat_w(settings.travel_mm_s, settings.preheat_c))
        # The rod takes its share of what the arc gives in all.
        heat = pool / (1 - GOOD_HEAT_SHARE) if rod else pool
        most = GOOD_HEAT_SHARE * heat / (c.filler_j_per_mm3 * settings.travel_mm_s)
        size = min(most, LARGEST_BEAD_MM2, section - filled) if rod else section - filled
        found.append(
            FillBead(
                number=len(found) + 1,
                amps=(pool + size * settings.travel_mm_s * c.filler_j_per_mm3) / per_amp,
                section_mm2=size,
                rod_length_mm=rod_length_mm(size, length, rod) if rod else 0.0,
                local_mm=local,
            )
        )
        filled += size
    return found


def _build_up(job: Job, thickness_mm: float) -> Job:
    """A bead on metal of a local thickness."""
    side = Side(alloy=job.a.alloy, thickness=f"{thickness_mm:.4f} mm")
    update = {"joint": "build_up", "a": side, "b": side, "bevel": None, "gap_mm": 0.0, "leg_mm": None}
    return job.model_copy(update=update)


def _melts_through(at: Situation, settings: Settings, local_mm: float, left_mm: float) -> bool:
    """Whether a pool as wide as the first bead's has a root at the groove's back."""
    here = situation(_build_up(at.job, local_mm))
    face = float(here.aimed_width_mm(settings.travel_mm_s, settings.preheat_c))
    return float(here.heat_model.root_mm(face, left_mm)) > 0


def _says(at: Situation, through: bool) -> list[Words]:
    """How it is done, in order."""
    limit = limit_for(at)
    says = [
        sentence("prep.cut_find", run_out_mm=RUN_OUT_MM),
        sentence("prep.cut_grind", bottom_mm=BOTTOM_MM),
        sentence("prep.cut_clean"),
        sentence("prep.cut_warm", limit_c=limit.limit_c, why=limit.words),
    ]
    if through:
        says.append(sentence("prep.cut_back"))
    return [*says, sentence("prep.cut_fill"), sentence("prep.cut_dress")]
