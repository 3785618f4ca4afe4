"""Cooling and duty of the torch."""

from __future__ import annotations

from collections.abc import Sequence

from anvilsong.core import say
from anvilsong.core.said import Words
from anvilsong.core.torch.kit import Torch
from anvilsong.core.words import sentence

COOLER_ON_OVER, LEAST_DUTY, MOST_OF_RATING = 0.5, 0.10, 1.5


def allowed_torch_a(torch: Torch, duty: float) -> float:
    """Current a torch bears at a duty, A rms: rated × √(rated duty/duty); I²·duty is constant over ten
    minutes.

    At least 10 % duty is counted, so that a short run does not allow anything, and never more than 1.5 ×
    the rating.
    """
    return float(
        min(MOST_OF_RATING, (torch.rated_duty / min(max(duty, LEAST_DUTY), 1.0)) ** 0.5) * torch.rated_a
    )


def choose_torch(torches: Sequence[Torch], rms_a: float, duty: float) -> Torch | None:
    """The lightest torch that bears the current at the duty; the strongest when none does; None when there
    is no torch.
    """
    if not torches:
        return None

    def bears(torch: Torch) -> float:
        # Runs follow one another, so a short run allows no more than the rating itself.
        return min(torch.rated_a, allowed_torch_a(torch, duty))

    bearing = [torch for torch in torches if bears(torch) >= rms_a]
    return min(bearing, key=bears) if bearing else max(torches, key=bears)


def cooler_words(torch: Torch, cooler: str, rms_a: float) -> Words:
    """What to do about the cooler before the first arc; empty for an air-cooled torch."""
    if torch.cooling == "air":
        return ""
    if cooler == "none":
        return sentence("torch.water_cooled_kit_has", name=torch.name)
    see = sentence("torch.see_coolant_come_back")
    if rms_a > COOLER_ON_OVER * torch.rated_a:
        return sentence("torch.cooler_not_auto_over", rms_a=rms_a, rated_a=torch.rated_a, see=see)
    return (
        say.joined("Cooler on. ", see)
        if cooler == "on"
        else sentence("torch.cooler_auto_does_but", rms_a=rms_a, see=see)
    )
