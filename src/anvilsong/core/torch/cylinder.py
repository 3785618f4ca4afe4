"""Cylinders: how much gas is left, and how far it goes."""

from __future__ import annotations

import math
from dataclasses import dataclass

from anvilsong.core.torch.kit import Cylinder, Torch

ATMOSPHERE_BAR = 1.01325
ARGON_Z_AT_200_BAR, HELIUM_Z_AT_200_BAR = 0.93, 1.09
TORCH_VOLUME_L, AIR_CHANGES = 0.05, 5.0
MOISTURE_S = {"night": 10.0, "break": 3.0}


def gas_left_l(volume_l: float, gauge_bar: float, helium_share: float = 0.0) -> float:
    """Gas at the atmosphere's pressure, L: V·P/(Z·1.013), with the compressibility Z near room temperature.

    Z runs from 1 to 0.93 for argon and 1.09 for helium at 200 bar, by the share of each in between.

    >>> round(gas_left_l(50, 200) / 1000, 1)
    10.6
    """
    full = ARGON_Z_AT_200_BAR * (1 - helium_share) + HELIUM_Z_AT_200_BAR * helium_share
    z = 1 + (full - 1) * gauge_bar / 200
    return volume_l * gauge_bar / (z * ATMOSPHERE_BAR)


def hose_volume_l(length_m: float, bore_mm: float) -> float:
    """Gas in a hose, L: 8 m of 4 mm bore holds about 0.1 L."""
    return math.pi * (bore_mm / 1000) ** 2 / 4 * length_m * 1000


def purge_s(torch: Torch | None, flow_l_min: float, after: str) -> float:
    """Purge after a stop, s: five changes of hose and torch, and what moisture needs (10 s after a night, 3
    s after a break).
    """
    length, bore = (torch.hose_m, torch.hose_bore_mm) if torch else (4.0, 4.0)
    return AIR_CHANGES * (hose_volume_l(length, bore) + TORCH_VOLUME_L) / flow_l_min * 60 + MOISTURE_S[after]


def gas_used_l(arc_s: float, starts: int, pre_s: float, post_s: float, flow_l_min: float) -> float:
    """Gas of a job, L: (arc time + starts × (pre + post)) × flow."""
    return (arc_s + starts * (pre_s + post_s)) * flow_l_min / 60


@dataclass(frozen=True)
class GasAccount:
    """What a job uses and what a cylinder still gives."""

    left_l: float
    used_l: float
    minutes_left: float
    jobs_left: int
    share_of_filling: float
    cost: float

    @property
    def lasts(self) -> bool:
        return self.jobs_left >= 1


def gas_account(cylinder: Cylinder, gauge_bar: float, used_l: float, flow_l_min: float) -> GasAccount:
    """Minutes of flow, jobs, and cost of one job from a cylinder at this gauge reading."""
    left, whole = (
        gas_left_l(cylinder.volume_l, bar, cylinder.helium_share) for bar in (gauge_bar, cylinder.full_bar)
    )
    share = used_l / whole
    return GasAccount(
        left,
        used_l,
        left / flow_l_min,
        int(left / used_l + 1e-9) if used_l > 0 else 0,
        share,
        share * cylinder.price,
    )
