"""Keep the work's heat when shape, share, trim or pulse change: which amps do the same."""

from __future__ import annotations

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.core.settings import Settings


def equal_heat_ratio(before: Settings, after: Settings, c: Coefficients | None = None) -> float:
    """What to multiply the amps of ``after`` by so that its heat is that of ``before`` at the same amps:
    h(before)/h(after).
    """
    c = c or nominal()
    return heat_per_amp_w(before.wave(), c) / heat_per_amp_w(after.wave(), c)


def with_equal_heat(before: Settings, after: Settings, c: Coefficients | None = None) -> Settings:
    """``after`` with both amps moved so that the work gets the heat that ``before`` gave it."""
    ratio = equal_heat_ratio(before, after, c)
    return after.model_copy(update={"amps_run": before.amps_run * ratio, "amps_set": before.amps_set * ratio})
