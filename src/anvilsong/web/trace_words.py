"""What a page says of a trace: its figures with their ranges, and what flows beside what was set."""

from __future__ import annotations

from typing import Any

from anvilsong.core import say
from anvilsong.core.flow import Beside, Counted, Found, TraceReading
from anvilsong.core.machine import BASIS_WORDS, SHAPE_WORDS, Machine, arc_energy_kj_mm, shown_text
from anvilsong.core.registry import BY_KEY
from anvilsong.core.said import Words
from anvilsong.core.trials import SoundTest, TraceTest, amps_basis
from anvilsong.core.words import sentence
from anvilsong.web.scale_text import counting

POINTS = ("ep_share", "pulse_peak_share", "pulse_base_share", "mix_ac_share", "mix_dc_level")

UNITS = {"current": " A", "frequency": " Hz", "balance": " % EP", "share": " %", "amplitude": " %"}
OTHERWISE = ("ep_amps", "share_of_set", "amps", "peak_s", "base_s", "per_second")


def figures_of(reading: TraceReading) -> list[tuple[Words, Words, Words]]:
    """Each figure that was told: what it is, its value, and the range it lies in."""
    unit = " A" if reading.is_scaled else ""
    rows: list[tuple[Words, Words, Words]] = []

    def add(words: Words, found: Found | None, factor: float, decimals: int, unit: str) -> None:
        if found is not None:
            value, low, high = (
                f"{number * factor:.{decimals}f}" for number in (found.value, found.low, found.high)
            )
            rows.append((words, f"{value}{unit}", sentence("web.trace_from_to", low=low, high=high)))

    amps_decimals = 1 if reading.is_scaled and (reading.en_a is None or reading.en_a.value > 1) else 4
    add("AC frequency", reading.frequency_hz, 1, 1, " Hz")
    add("AC balance", reading.ep_share, 100, 1, " % EP")
    add(sentence("web.trace_en_peak"), reading.en_a, 1, amps_decimals, unit)
    add(sentence("web.trace_ep_peak"), reading.ep_a, 1, amps_decimals, unit)
    if reading.pulse is not None:
        add("Pulses per second", reading.pulse.rate_hz, 1, 2, " Hz")
        add("Peak time", reading.pulse.peak_share, 100, 0, " %")
        add("Background amps", reading.pulse.base_share, 100, 0, " %")
    if reading.mix is not None:
        add("AC of the time", reading.mix.ac_share, 100, 0, " %")
        add("Cycle", reading.mix.cycle_s, 1, 2, " s")
        add("DC level", reading.mix.dc_level, 100, 0, " %")
    for words, shape in (("Shape, EP", reading.shape_ep), ("Shape, EN", reading.shape_en)):
        if shape is not None:
            rows.append((words, SHAPE_WORDS[shape], ""))
    for words, amps in (("Mean", reading.mean_a), ("RMS", reading.rms_a)):
        if amps is not None:
            rows.append((words, f"{amps:.{amps_decimals}f}{unit}", sentence("web.trace_whole_arc")))
    for words, slope in (("Upslope", reading.rise), ("Downslope", reading.fall)):
        if slope is not None:
            ends = sentence("web.trace_slope_end", amps=f"{slope.amps:.{amps_decimals}f}{unit}")
            rows.append((words, f"{slope.seconds:.2f} s", ends))
    if reading.dc_a is not None:
        text = f"{reading.dc_a:.{amps_decimals}f}{unit}".replace("-", "−")
        rows.append(("DC part", text, sentence("web.trace_dc")))
    if reading.power_w is not None and reading.volts is not None:
        rows.append(("Arc power", f"{reading.power_w:.0f} W", f"{reading.volts:.1f} V"))
    if reading.arc_mm is not None:
        low, high = (say.mm(each) for each in (reading.arc_mm.low, reading.arc_mm.high))
        rows.append(("Arc length", say.mm(reading.arc_mm.value), say.joined(low, " to ", high)))
    return rows


def rows_beside(test: TraceTest | SoundTest, rows: list[Beside], machine: Machine) -> list[dict[str, Any]]:
    """What flows beside what was set, row by row, with what the panel showed."""
    return [
        {
            "setting": row.setting,
            "words": BY_KEY[row.setting].words,
            "panel": _panel_words(test, row.setting, machine),
            "was_set": _canonical(row.setting, row.was_set),
            "flows": _canonical(row.setting, row.flows),
            "differs": row.differs,
            "apart": apart_words(row),
        }
        for row in rows
    ]


def _panel_words(test: TraceTest | SoundTest, setting: str, machine: Machine) -> str:
    control = machine.control(setting)
    if control is None or setting not in test.panel:
        return ""
    unit = f" {control.scale.unit}" if control.scale.unit else ""
    return f"{control.label}: {shown_text(control.scale, test.panel[setting])}{unit}"


def _canonical(setting: str, value: float | str | None) -> Words:
    entry = BY_KEY[setting]
    if value is None:
        return "off"
    if isinstance(value, str):
        return SHAPE_WORDS[value]  # type: ignore[index]
    return say.setting(value, entry.dimension or "number", entry.decimals)


def apart_words(row: Beside) -> Words:
    """How far what flows is from what was set."""
    if not row.differs:
        return sentence("web.trace_as_set")
    if row.was_set is None or row.flows is None or isinstance(row.flows, str):
        return sentence("web.trace_other")
    size = abs(row.apart) * 100
    if row.setting in POINTS:
        return (
            sentence("web.trace_points_more", size=size)
            if row.apart > 0
            else sentence("web.trace_points_less", size=size)
        )
    return sentence("web.trace_more", size=size) if row.apart > 0 else sentence("web.trace_less", size=size)


def energy_words(reading: TraceReading, travel_mm_s: float) -> Words:
    """Arc energy by the measured power, u·i over travel speed, beside what codes reckon from amps alone."""
    measured = (reading.power_w or 0.0) / 1000 / travel_mm_s
    reckoned = arc_energy_kj_mm(reading.rms_a or 0.0, travel_mm_s)
    return say.joined(
        sentence("web.trace_energy_measured"),
        say.per_mm(measured, "kJ", 3),
        sentence("web.trace_energy_reckoned"),
        say.per_mm(reckoned, "kJ", 3),
        ".",
    )


def counted_words(counted: Counted, machine: Machine) -> dict[str, Any]:
    """How the panel counts its amps: what was found, and what stands in the machine now."""
    best, now = counted.ways[0], amps_basis(machine) or "peak"
    return {
        "told": counted.told,
        "words": BASIS_WORDS[best.basis],
        "now": BASIS_WORDS[now],
        "is_now": now == best.basis,
        "factor": (best.factor - 1) * 100,
        "alike": [BASIS_WORDS[basis] for basis in counted.alike],
    }


def place_words(setting: str, value: float, machine: Machine) -> str:
    """What a place of a control means, in the figure that its scale is typed in."""
    control = machine.control(setting)
    if control is None:
        return f"{value:.4g}"
    dimension = BY_KEY[setting].dimension
    unit = UNITS.get("" if dimension is None else dimension, "") if control.basis not in OTHERWISE else ""
    return f"{counting(setting, control.basis).figure(value):.1f}{unit}"


def remark_of(test: TraceTest, rows: list[Beside], machine: Machine) -> Words:
    """One line for the machine's note: what its panel showed, and what flowed otherwise."""
    parts = [
        say.joined(
            BY_KEY[row.setting].words.lower(),
            " ",
            _canonical(row.setting, row.flows),
            ", ",
            apart_words(row),
            f" ({panel})" if (panel := _panel_words(test, row.setting, machine)) else "",
        )
        for row in rows
        if row.differs
    ]
    return say.joined(*parts, by="; ")
