"""What a page says of the sound of an arc."""

from __future__ import annotations

from collections.abc import Sequence

from anvilsong.core.flow import Dabs, Found, Otherwise, SoundReading
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.web.practice_words import EVEN_SHARE

OFF_TEMPO_HEARD = 0.1


def heard_figures(reading: SoundReading) -> list[tuple[Words, Words, Words]]:
    """Each figure that was told: what it is, its value, and the range it lies in."""
    rows: list[tuple[Words, Words, Words]] = []

    def add(words: Words, found: Found | None, factor: float, decimals: int, unit: str) -> None:
        if found is not None:
            low, high = (f"{number * factor:.{decimals}f}" for number in (found.low, found.high))
            value = f"{found.value * factor:.{decimals}f}{unit}"
            rows.append((words, value, sentence("web.trace_from_to", low=low, high=high)))

    add("AC frequency", reading.frequency_hz, 1, 1, " Hz")
    add("AC balance", reading.ep_share, 100, 0, " % EP")
    if reading.pulse is not None:
        add("Pulses per second", reading.pulse.rate_hz, 1, 2, " Hz")
        add("Peak time", reading.pulse.peak_share, 100, 0, " %")
    if reading.dabs is not None:
        add("Dabs a second", reading.dabs.per_s, 1, 2, "")
        is_even = reading.dabs.spread <= EVEN_SHARE
        even = sentence("web.rhythm_even") if is_even else sentence("web.rhythm_uneven")
        rows.append(("Their rhythm", f"± {reading.dabs.spread * 100:.0f} %", even))
    if reading.frequency_hz is not None:
        lights = sum(event.kind == "lit" for event in reading.events)
        rows.append(
            (
                "Arc heard",
                f"{reading.arc_s:.1f} s",
                sentence("web.sound_lights", lights=lights) if lights > 1 else "",
            )
        )
    return rows


def dabs_against(heard: Dabs, wanted_per_s: float, travel_mm_s: float) -> list[Words]:
    """The dabs that were heard against those wanted, with the ripples they lay at the planned speed."""
    per_s = heard.per_s.value
    ripple, planned = travel_mm_s / per_s, travel_mm_s / wanted_per_s
    if abs(per_s / wanted_per_s - 1) <= max(OFF_TEMPO_HEARD, heard.per_s.half_range / per_s):
        return [sentence("web.dabs_as_planned", per_s=per_s, ripple=ripple)]
    if per_s < wanted_per_s:
        return [sentence("web.dabs_slow", per_s=per_s, wanted=wanted_per_s, ripple=ripple, planned=planned)]
    return [sentence("web.dabs_fast", per_s=per_s, wanted=wanted_per_s, ripple=ripple, planned=planned)]


def otherwise_words(found: Sequence[Otherwise] | None) -> list[Words]:
    """What sounds otherwise than usual, a sentence each; None: too few recordings to compare with."""
    if found is None:
        return [sentence("web.sound_few_before")]
    if not found:
        return [sentence("web.sound_as_usual")]
    words: list[Words] = [
        sentence("web.sound_louder", hz=each.band_hz, db=each.louder_db)
        if each.louder_db > 0
        else sentence("web.sound_quieter", hz=each.band_hz, db=-each.louder_db)
        for each in found
    ]
    return [*words, sentence("web.sound_look")]
