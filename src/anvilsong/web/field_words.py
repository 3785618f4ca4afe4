"""The words of the pages for the fields that a sentence names, so that nobody reads a name of the program's
inside.
"""

from __future__ import annotations

import re
from dataclasses import replace
from typing import cast

from anvilsong.core import say
from anvilsong.core.board import AXES, AxisKey
from anvilsong.core.errors import Problem
from anvilsong.core.registry import BY_KEY
from anvilsong.core.said import in_units
from anvilsong.core.words import sentence

WORDS: dict[str, str] = {
    "title": "Name of the job",
    "a.alloy": "Alloy of side a",
    "a.thickness": "Thickness of side a",
    "a.outside_diameter_mm": "Outside diameter of tube a",
    "b.alloy": "Alloy of side b",
    "b.thickness": "Thickness of side b",
    "b.outside_diameter_mm": "Outside diameter of tube b",
    "gap_mm": "Gap",
    "weld_length_mm": "Length of weld",
    "leg_mm": "Leg of the fillet",
    "part_temperature_c": "Part temperature",
    "travel_mm_s": "Travel speed",
    "arc_length_mm": "Arc length",
    "helium_share": "Helium in the argon",
    "draught_m_s": "Draught",
    "bevel.angle_deg": "Bevel",
    "bevel.root_face_mm": "Root face",
    "bevel_root_face_mm": "Root face",
    "edge_prep": "Edge",
    "filler_wanted": "Filler",
    "joint": "Joint",
    "part.width_mm": "Part, width",
    "part.length_mm": "Part, length",
    "machine": "Machine",
    "kit": "Kit",
    "welder": "Welder",
    "temper": "Temper",
    "bead_width_mm": "Bead width",
    "border_left_mm": "Border, left",
    "border_right_mm": "Border, right",
    "length_mm": "Length of the run",
    "seconds": "Seconds it took",
    "bead_height_mm": "Bead height",
    "ripple_pitch_mm": "Ripple spacing",
    "border_stray_mm": in_units(sentence("web.how_far_border_s")),
    "ball_mm": "Ball at the tip",
    "tip": "Tungsten’s tip",
    "note": "Note",
    "name": "Name",
    "seen": "What you opened",
    "tungstens": "Tungstens",
    "cups": "Plain cups",
    "lens_cups": "Cups for a lens",
    "rods_mm": "Filler rods",
    "fillers": "Fillers in stock",
    "torches": "Torches",
    "cylinders": "Cylinders",
    "chill_blocks": "Chill blocks",
    "rod_price_kg": "Filler rod, price a kg",
    "currency": "Your money",
    "most_a": "Most amps",
    "least_a": "Least amps",
    "duty.share": "Duty",
    "duty.amps": "Duty, amps",
    "least_frequency_hz": "Least frequency",
    "most_frequency_hz": "Most frequency",
    "least_ep_share": "Least AC balance",
    "most_ep_share": "Most AC balance",
    "least_half_ms": "Shortest half",
    "memory_slots": "Memory slots",
    "most_pulse_hz": "Fastest pulse",
    "torch_amps": "Its torch",
    "torch_duty": "Torch duty",
    "amps_low": in_units(sentence("web.amps_turned_all_way")),
    "amps_high": in_units(sentence("web.amps_turned_all_way_2")),
    "amps_low_means": in_units(sentence("web.fewest_amps_gives")),
    "amps_high_means": in_units(sentence("web.most_amps_gives")),
    "balance_most": "At its cleaning end",
    "balance_least": "At its other end",
    "balance_most_means": in_units(sentence("web.what_cleaning_end_means")),
    "balance_least_means": in_units(sentence("web.what_other_end_means")),
    "trim_low": "EP half, lowest",
    "trim_high": "EP half, highest",
    "points": "Places",
    "bar": "Gauge",
    "cylinder": "Cylinder",
    "paste": "What they wrote",
    "outline": "Drawing",
    "outline_wide": in_units(sentence("web.how_wide_drawing")),
}


_ROW_WORDS = {
    "name": "name",
    "cooling": "cooling",
    "rated_a": "rated amps",
    "rated_duty": "duty",
    "hose": "hose",
    "volume": "volume",
    "full": "gauge when full",
    "helium": "helium",
    "price": "price",
}


_RUNG_WORDS = {"changed": "what was changed", "to": in_units(sentence("web.what_was_set"))}


def in_words(field: str) -> str:
    """A field as its page calls it: the whole name, or the name of the list it stands in, or as it is."""
    row = re.fullmatch(r"(torch|cylinder)(\d+)_(\w+)", field)
    if row:
        return f"{row[1].capitalize()} {int(row[2]) + 1}, {_ROW_WORDS.get(row[3], row[3])}"
    rung = re.fullmatch(r"r(\d+)_(\w+)", field)
    if rung:
        return f"Row {rung[1]}, {_RUNG_WORDS.get(rung[2]) or say.within(in_words(rung[2]))}"
    end = re.fullmatch(r"(\w+)_(low|high)", field)
    if end and end[1] in BY_KEY:
        return f"{BY_KEY[end[1]].words}, {end[2]}est"
    if field.startswith("value_") and (axis := AXES.get(cast(AxisKey, field.removeprefix("value_")))):
        return axis.words  # a point of the map
    word = WORDS.get(field) or WORDS.get(field.split(".")[0])
    if not word and field in BY_KEY:
        word = BY_KEY[field].words
    if word or field[:1].isupper():  # words already
        return word or field
    return field.replace("_", " ").capitalize()


def named(problem: Problem) -> Problem:
    """One complaint under the name of the page."""
    return replace(problem, field=in_words(problem.field))
