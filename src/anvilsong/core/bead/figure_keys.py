"""The figures that a rule about faults may ask for, by name."""

from __future__ import annotations

from typing import Literal

FigureKey = Literal[
    "amps_run", "amps_set", "arc_length_mm", "bead_over_expected", "border_miss", "border_mm",
    "can_trim", "casting", "cleaning_factor", "down_slope_s", "draught_m_s", "duty_used", "ep_amps",
    "ep_share", "ep_trim", "filler_heat_share", "frequency_hz", "gap_mm", "gentle_wave", "hand",
    "has_pedal", "heat_share", "load", "load_set", "long_run", "magnesium_rod", "melt_through",
    "mix_ac", "no_filler", "part_c", "pedal_used", "post_flow_share", "pulse_hz", "pure_tungsten",
    "reynolds", "shield_used", "six_series", "small_tungsten", "start_amps", "stick_out_mm", "thick_mm",
    "thin_mm", "unevenness", "water_cooled", "width_miss",
]  # fmt: skip
