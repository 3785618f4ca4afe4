"""The cleaned border: oxide left at the toes, too thin, too wide."""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core.model import MOST_BORDER_MM, Consequences, LimitWarning, Situation
from anvilsong.core.words import sentence

ABOUT_MM = 0.03  # that a plan, made from rounded steps, may miss an aim by


def border_warnings(at: Situation, seen: Consequences) -> Iterator[LimitWarning]:
    """What the border in mm says, by the least and most that harm nothing, and by the look."""
    border = seen.border_mm
    if seen.cleaned_width_mm < seen.pool_width_mm:
        yield LimitWarning(
            code="oxide_at_toes",
            level="watch",
            setting="ep_share",
            message=sentence(
                "checks.oxide_at_toes",
                cleaned_width_mm=seen.cleaned_width_mm,
                pool_width_mm=seen.pool_width_mm,
            ),
        )
    elif border < at.least_border_mm:
        yield LimitWarning(
            code="thin_border",
            level="watch",
            setting="ep_share",
            message=sentence("checks.thin_border", border=border, least_border_mm=at.least_border_mm),
        )
    elif "appearance" in at.job.purposes and border > at.aim.high_mm + ABOUT_MM:
        yield LimitWarning(
            code="border_for_look",
            level="watch",
            setting="ep_share",
            message=sentence("checks.border_for_look", border=border, high_mm=at.aim.high_mm),
        )
    elif border > MOST_BORDER_MM:
        yield LimitWarning(
            code="wide_border",
            level="watch",
            setting="ep_share",
            message=sentence("checks.wide_border", border=border),
        )
