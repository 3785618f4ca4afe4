"""What the places of a control can mean at all, for who writes a panel down."""

from __future__ import annotations

from anvilsong.core.machine.model import Control
from anvilsong.core.registry import BY_KEY
from anvilsong.core.said import Words
from anvilsong.core.words import sentence

# What a wave, an arc and a clock can have, whatever a panel shows; others begin at nothing.
MEANS = {
    "ep_share": (0.01, 0.99, sentence("machine.ac_balance_lies_between")),
    "ep_trim": (-0.9, 1.0, sentence("machine.ep_amplitude_lies_between")),
    "frequency_hz": (10.0, 1000.0, sentence("machine.ac_frequency_lies_between")),
    "pulse_rate_hz": (0.1, 500.0, sentence("machine.pulse_comes_times_second")),
    "pulse_peak_share": (0.02, 0.98, sentence("machine.pulse_peak_time")),
}


COUNTED_OTHERWISE = ("ep_amps", "share_of_set", "amps", "peak_s", "base_s", "per_second")


def impossible(control: Control) -> Words:
    """Why no machine has such a scale; empty where it can be. What is stored is not asked again."""
    if BY_KEY[control.setting].dimension is None or control.basis in COUNTED_OTHERWISE:
        return ""
    meanings = [meaning for _, meaning in control.scale.points]
    low, high, said = MEANS.get(control.setting, (0.0, 10_000.0, sentence("machine.no_less_than_nothing")))
    return "" if low - 1e-6 <= min(meanings) and max(meanings) <= high + 1e-6 else said
