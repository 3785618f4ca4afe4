"""What the places of a control can mean at all, for who writes a panel down."""

from __future__ import annotations

from anvilsong.core.machine.model import Control
from anvilsong.core.registry import BY_KEY

# What a wave, an arc and a clock can have, whatever a panel shows; others begin at nothing.
MEANS = {
    "ep_share": (0.01, 0.99, "an AC balance lies between 1 and 99 % EP"),
    "ep_trim": (-0.9, 1.0, "an EP amplitude lies between 10 and 200 % of EN"),
    "frequency_hz": (10.0, 1000.0, "an AC frequency lies between 10 and 1000 Hz"),
    "pulse_rate_hz": (0.1, 500.0, "a pulse comes 0.1 to 500 times a second"),
    "pulse_peak_share": (0.02, 0.98, "a pulse is at its peak for 2 to 98 % of the time"),
}


def impossible(control: Control) -> str:
    """Why no machine has such a scale; empty where it can be. What is stored is not asked again."""
    if BY_KEY[control.setting].dimension is None or control.basis in ("ep_amps", "share_of_set", "amps"):
        return ""
    meanings = [meaning for _, meaning in control.scale.points]
    low, high, said = MEANS.get(control.setting, (0.0, 10_000.0, "it is no less than nothing"))
    return "" if low - 1e-6 <= min(meanings) and max(meanings) <= high + 1e-6 else said
