"""What went out of a bottle between two readings of its gauge: a leak at rest, or the flow while welding."""

from __future__ import annotations

from typing import NamedTuple

from anvilsong.core.said import Words
from anvilsong.core.torch.cylinder import gas_left_l
from anvilsong.core.torch.kit import Cylinder
from anvilsong.core.words import sentence

READ_TO = 0.01  # of the full gauge, either reading
WARMER = 0.02  # six kelvin between two readings: pressure goes by absolute temperature
LEAST_HOURS, OTHER_FLOW = 0.5, 0.15


class Gone(NamedTuple):
    """Litres that went out, and by how much that may be wrong either way, two spreads."""

    litres: float
    error_l: float


def gone_between(cylinder: Cylinder, before_bar: float, now_bar: float) -> Gone:
    """Litres between two readings: V·P/(Z·1.013) at the first less that at the second.

    The error is what a gauge is read to (1 % of its full scale, twice) and what six kelvin do (2 % of the
    pressure), put together as squares.
    """
    gone = gas_left_l(cylinder.volume_l, before_bar, cylinder.helium_share) - gas_left_l(
        cylinder.volume_l, now_bar, cylinder.helium_share
    )
    full = gas_left_l(cylinder.volume_l, cylinder.full_bar, cylinder.helium_share)
    read, warm = 2**0.5 * READ_TO * cylinder.full_bar, WARMER * now_bar
    return Gone(gone, full / cylinder.full_bar * (read**2 + warm**2) ** 0.5)


def at_rest(gone: Gone, hours: float) -> Words:
    """What a bottle lost while nothing was welded: a leak, none that can be seen, or too short to tell."""
    if gone.litres < -gone.error_l:
        return sentence("torch.bottle_rose")
    if hours < LEAST_HOURS:
        return sentence("torch.bottle_too_soon", hours=LEAST_HOURS)
    if gone.litres <= gone.error_l:
        return sentence("torch.bottle_tight", litres_h=gone.error_l / hours)
    return sentence("torch.bottle_leaks", litres_h=gone.litres / hours, litres=gone.litres, hours=hours)


def welded(gone: Gone, gas_s: float, ball_l_min: float) -> Words:
    """The true flow over so many seconds of open gas, against what the ball shows.

    Q = litres / time; told as other than the ball from 15 % and past the error on.
    """
    flow, error = 60 * gone.litres / gas_s, 60 * gone.error_l / gas_s
    if error > 0.5 * ball_l_min:
        return sentence("torch.bottle_too_little", minutes=60 * gone.error_l / (0.2 * ball_l_min) / 60)
    if abs(flow - ball_l_min) <= max(error, OTHER_FLOW * ball_l_min):
        return sentence("torch.bottle_as_ball", flow=flow, error=error)
    if flow > ball_l_min:
        return sentence("torch.bottle_more", flow=flow, error=error, ball=ball_l_min)
    return sentence("torch.bottle_less", flow=flow, error=error, ball=ball_l_min)
