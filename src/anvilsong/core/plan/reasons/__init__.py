"""Reasons as data: rule, formula with its numbers, source, school, and the one line a lane shows.

Each formula is an expression in the names of its numbers that gives the value, so that it can be checked.
"""

from anvilsong.core.plan.reasons.amps import amps_run, amps_set, preheat, start_and_end, travel
from anvilsong.core.plan.reasons.torch import cup, filler, flow, gas_times, stick_out, tungsten
from anvilsong.core.plan.reasons.wave import ep_share, frequency, pulse, trim, waveform

__all__ = [
    "amps_run",
    "amps_set",
    "cup",
    "ep_share",
    "filler",
    "flow",
    "frequency",
    "gas_times",
    "preheat",
    "pulse",
    "start_and_end",
    "stick_out",
    "travel",
    "trim",
    "tungsten",
    "waveform",
]
