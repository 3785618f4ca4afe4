"""The cleaned border: oxide left at the toes, too thin, too wide."""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core import say
from anvilsong.core.model import MOST_BORDER_MM, Consequences, LimitWarning, Situation

ABOUT_MM = 0.03  # that a plan, made from rounded steps, may miss an aim by


def border_warnings(at: Situation, seen: Consequences) -> Iterator[LimitWarning]:
    """What the border in mm says, by the least and most that harm nothing, and by the look."""
    border = seen.border_mm
    if seen.cleaned_width_mm < seen.pool_width_mm:
        yield LimitWarning(
            code="oxide_at_toes",
            level="watch",
            setting="ep_share",
            message=(
                f"Only {say.mm(seen.cleaned_width_mm)} is cleaned and the bead is "
                f"{say.mm(seen.pool_width_mm)} wide: oxide stays at the toes. Clean better first, then "
                "more EP."
            ),
        )
    elif border < at.least_border_mm:
        yield LimitWarning(
            code="thin_border",
            level="watch",
            setting="ep_share",
            message=(
                f"Border {say.mm(border)} a side: under {say.mm(at.least_border_mm)} specks and dull toes "
                "are likely."
            ),
        )
    elif "appearance" in at.job.purposes and border > at.aim.high_mm + ABOUT_MM:
        yield LimitWarning(
            code="border_for_look",
            level="watch",
            setting="ep_share",
            message=(
                f"Border {say.mm(border)} a side; {say.mm(at.aim.high_mm)} at most is wanted for the "
                "look: lower the EP amplitude, take less EP, or travel faster."
            ),
        )
    elif border > MOST_BORDER_MM:
        yield LimitWarning(
            code="wide_border",
            level="watch",
            setting="ep_share",
            message=f"Border {say.mm(border)} a side: wasted heat and a hot tungsten.",
        )
