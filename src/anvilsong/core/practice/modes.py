"""The ways in which a pedal run is practised: who holds what, and what is looked at besides the pool."""

from __future__ import annotations

from typing import Literal, NamedTuple

from anvilsong.core.said import Words
from anvilsong.core.words import sentence

ModeKey = Literal["hold", "hot", "patient", "pulse", "pedal_pulse", "switch"]


class Mode(NamedTuple):
    """One way to practise. ``moves`` is what the learner has in hand: the pedal, or the torch's travel.
    ``over_a_pulse``: the pool is judged by its mean over one pulse, since it breathes with each.
    """

    key: ModeKey
    name: str
    told: Words
    moves: Literal["pedal", "travel"] = "pedal"
    over_a_pulse: bool = False


MODES: dict[ModeKey, Mode] = {
    mode.key: mode
    for mode in (
        Mode("hold", "Even pool", sentence("practice.hold")),
        Mode("hot", "Hot and fast", sentence("practice.hot")),
        Mode("patient", "Patient", sentence("practice.patient")),
        Mode("pulse", "Machine pulse", sentence("practice.pulse"), over_a_pulse=True),
        Mode("pedal_pulse", "Pulse by pedal", sentence("practice.pedal_pulse"), over_a_pulse=True),
        Mode("switch", "Torch switch", sentence("practice.switch"), moves="travel"),
    )
}
