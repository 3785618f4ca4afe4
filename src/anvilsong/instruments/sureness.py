"""How sure the border of one side is, from what can be seen without knowing the truth."""

from __future__ import annotations

from dataclasses import dataclass
from math import exp, log

import numpy as np
from scipy.ndimage import gaussian_filter1d

from anvilsong.instruments.edges import Edge, columns_between
from anvilsong.instruments.profiles import Profiles, centred, middle_of, whole
from anvilsong.instruments.sections import Sections
from anvilsong.instruments.strip import Floats

AGREE_MM, BESIDE_MM, SOFT_MM = 0.3, 2.0, 0.25


@dataclass(frozen=True)
class Signs:
    """What speaks for and against the two edges of one side.

    ``doubt`` how much less likely the outer edge's next best place is, nats · ``step``, ``toe_step`` changes
    of the logarithm of brightness · ``toe_clear`` the toe's as a multiple of chance · ``agree``
    share of the windows that find the edges where the whole run does · ``inside``, ``beside`` how much
    brightness changes in the border and in the plate beside it, as a share of the step · ``alike`` how alike
    both sides' steps are.
    """

    doubt: float
    step: float
    toe_step: float
    toe_clear: float
    agree: float
    inside: float
    beside: float
    alike: float


# The logarithm of the odds that a border is within 0.35 mm or 10 %, fitted by `scripts/fit_sureness.py` to
# pictures of both simulated cameras, none of them among those of `bench/measure.py`.
ODDS = {
    "doubt": 0.49,
    "toe_step": 0.63,
    "toe_clear": 0.45,
    "agree": 1.53,
    "inside": 0.28,
    "beside": 0.3,
    "alike": 1.75,
}
BASE = -1.01
# Beyond these an edge is none, whatever else speaks for it.
LEAST_STEP, LEAST_ALIKE, LEAST_AGREE, MOST_INSIDE, MOST_BESIDE = 0.08, 0.45, 0.6, 0.9, 1.0

# Of beads in good and in bad light it is 0.06 at most; of walls 0.10 and more.
MOST_UNSTEADY = 0.08


def terms(signs: Signs) -> dict[str, float]:
    """What the odds are made of."""
    return {
        "doubt": log(max(signs.doubt, 0.0) + 0.2),
        "toe_step": log(signs.toe_step + 0.01),
        "toe_clear": log(signs.toe_clear + 0.5),
        "agree": signs.agree,
        "inside": -min(signs.inside, 2.0),
        "beside": -min(signs.beside, 2.0),
        "alike": signs.alike,
    }


def sureness(signs: Signs) -> float:
    """0 to 1: how likely the side's border is right."""
    if (
        signs.step < LEAST_STEP
        or signs.alike < LEAST_ALIKE
        or signs.agree < LEAST_AGREE
        or signs.inside > MOST_INSIDE
        or signs.beside > MOST_BESIDE
    ):
        return 0.0
    odds = BASE + sum(ODDS[name] * value for name, value in terms(signs).items())
    return 1 / (1 + exp(-odds))


def signs_of(
    profiles: Profiles, sections: Sections, edges: tuple[Edge, Edge, Edge, Edge]
) -> tuple[Signs, Signs]:
    """The signs of the left-hand and of the right-hand border."""
    one = whole(centred(profiles.bright))
    step_mm = float(profiles.u_mm[1] - profiles.u_mm[0])
    smooth = gaussian_filter1d(np.where(np.isnan(one), middle_of(one), one), 0.12 / step_mm)
    steps = edges[0].step, edges[3].step
    largest = max(abs(step) for step in steps)
    alike = min(abs(step) for step in steps) / largest if steps[0] * steps[1] > 0 else 0.0

    def side(outer: int, toe: int, way: int) -> Signs:
        edge, inner = edges[outer], edges[toe]
        inset = min(0.2, 0.25 * abs(edge.at_mm - inner.at_mm))
        core = smooth[columns_between(profiles.u_mm, edge.at_mm - way * inset, inner.at_mm + way * inset)]
        plate = smooth[
            columns_between(profiles.u_mm, edge.at_mm + way * SOFT_MM, edge.at_mm + way * BESIDE_MM)
        ]
        step = max(abs(edge.step), 1e-6)
        return Signs(
            doubt=sections.doubt[outer],
            step=abs(edge.step),
            toe_step=abs(inner.step),
            toe_clear=abs(inner.step) / inner.chance,
            agree=min(_agreeing(edge.by_window_mm, edge.at_mm), _agreeing(inner.by_window_mm, inner.at_mm)),
            inside=float(np.ptp(core)) / step,
            beside=float(np.ptp(plate)) / step,
            alike=alike,
        )

    return side(0, 1, -1), side(3, 2, 1)


def unsteadiness(profiles: Profiles, edges: tuple[Edge, Edge, Edge, Edge]) -> float:
    """How much the bead's brightness against its borders' changes from window to window: one standard
    deviation of its logarithm. A bead is one thing along its run; stones in a wall are not.
    """
    outer_left, toe_left, toe_right, outer_right = (edge.at_mm for edge in edges)
    inset = min(0.3, 0.25 * abs(toe_right - toe_left))
    crest, left, right = (
        np.ma.masked_invalid(profiles.bright[:, columns_between(profiles.u_mm, a, b)]).mean(axis=1)
        for a, b in ((toe_left + inset, toe_right - inset), (outer_left, toe_left), (toe_right, outer_right))
    )
    against = np.ma.filled(crest - (left + right) / 2, np.nan)
    seen = against[~np.isnan(against)]
    return float(np.std(seen)) if seen.size else 0.0


def _agreeing(places: Floats, at_mm: float) -> float:
    """The share of windows that find an edge near where the whole run has it."""
    with np.errstate(invalid="ignore"):
        return float(np.mean(np.abs(places - at_mm) < AGREE_MM))
