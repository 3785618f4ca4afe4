"""How a weld pulls its part: it closes a corner, draws the seam together, and shortens it.

The angle is what the melt, wider at the face than at the root, draws in as it cools: β = α·Θ·(w − w_root)/t
a pass, in radians; tees on 3 mm come out at about a degree, as welders find. Across the seam free plates draw
in by (α/ρc)·q/(v·t), along it the shrinking strip pulls with 0.335·E·(α/ρc)·q/v on the section that bears it.
Of further passes a quarter of the heat counts, since they warm the same strip. Tacks and clamps keep about
half of each back. Rough figures: half and double are both seen.

References
----------
Okerblom N. O. (1958), The Calculations of Deformations of Welded Metal Structures.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from pydantic import BaseModel, ConfigDict

from anvilsong.core.model import Consequences, Pass, Situation
from anvilsong.core.settings import Settings

EXPANSION_PER_K, MODULUS_MPA, TENDON = 24e-6, 70_000.0, 0.335
FIXED_SHARE, OTHER_SIDE_SHARE, AGAIN_SHARE, USUAL_WIDTH_MM = 0.5, 0.6, 0.25, 200.0


class Pull(BaseModel):
    """What a weld does to the part as it cools: degrees that it closes, mm across the seam, mm a metre along
    it, and the pull along it, kN; free, and tacked or clamped.

    ``back_deg`` is what a weld on the other side takes back; None where there is no other side.
    """

    model_config = ConfigDict(frozen=True)

    closes_deg: float
    across_mm: float
    along_mm_m: float
    force_kn: float
    back_deg: float | None

    @property
    def closes_fixed_deg(self) -> float:
        """The angle with tacks and clamps on until it is cold."""
        return FIXED_SHARE * self.closes_deg

    @property
    def across_fixed_mm(self) -> float:
        """Across the seam with tacks and clamps on."""
        return FIXED_SHARE * self.across_mm


def pulled(at: Situation, settings: Settings, seen: Consequences, passes: Sequence[Pass]) -> Pull:
    """How far a weld pulls, all its passes together.

    Parameters
    ----------
    seen : what the first pass does; later ones have no root and their own pools
    """
    thick = at.mean_thickness_mm
    rise = float(at.contour_k(settings.preheat_c))
    root = min(seen.root_width_mm, seen.pool_width_mm)
    first = seen.pool_width_mm - root
    later = [each.pool_width_mm for each in passes[1:] if each.kind in ("fill", "cap")]
    angle = EXPANSION_PER_K * rise * (first + sum(later)) / thick
    per_amp = seen.work_heat_w / settings.amps_run
    heats = [per_amp * each.amps_run / settings.travel_mm_s for each in passes]
    heat_j_mm = (1 - AGAIN_SHARE) * max(heats) + AGAIN_SHARE * sum(heats)
    per_joule = EXPANSION_PER_K * at.diffusivity_mm2_s / at.conductivity_w_mm_k  # α/(ρc), mm³/J
    known = at.job.part
    wide = (known.width_mm if known and known.width_mm else USUAL_WIDTH_MM) * thick
    force = TENDON * MODULUS_MPA * per_joule * heat_j_mm
    two_sided = at.joint.kind == "fillet" and not at.joint.tube
    return Pull(
        closes_deg=math.degrees(angle),
        across_mm=per_joule * heat_j_mm / thick,
        along_mm_m=1000 * force / (MODULUS_MPA * wide),
        force_kn=force / 1000,
        back_deg=OTHER_SIDE_SHARE * math.degrees(angle) if two_sided else None,
    )
