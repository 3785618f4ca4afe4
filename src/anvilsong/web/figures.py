"""Figures beside the wave, and the difference of two settings in words."""

from __future__ import annotations

from anvilsong.core import say
from anvilsong.core.arc.sound import loudness_db, noise_words
from anvilsong.core.checks import Outcome
from anvilsong.core.machine import SHAPE_WORDS
from anvilsong.core.model import Consequences, consequences
from anvilsong.core.registry import BY_KEY, SETTINGS, get_value
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.shown import percent, show
from anvilsong.core.words import sentence
from anvilsong.store.remembered import WORKED


def wave_figures(settings: Settings, seen: Consequences) -> list[tuple[str, Words]]:
    """What matters of the wave at the amps under the foot: words and value."""
    db = loudness_db(settings.wave(settings.amps_run))
    return [
        ("Heat into the work", show(seen.work_heat_w, "heat")),
        ("Tungsten", percent(seen.tungsten_load)),
        ("Cleaning charge", say.per_mm(seen.ep_mean_a / settings.travel_mm_s, "C")),
        (
            "Mean",
            f"{seen.en_mean_a + seen.ep_mean_a:.0f} A ({seen.en_mean_a:.0f} EN + {seen.ep_mean_a:.0f} EP)",
        ),
        ("RMS", sentence("web.while_welding_with_pedal", rms_a=seen.rms_a, rms_set_a=seen.rms_set_a)),
        ("Shorter half", f"{seen.shortest_half_ms:.2f} ms"),
        ("Ripple", say.mm(seen.ripple_mm)),
        ("Noise", say.joined(f"{db:.0f} dB or so, ", noise_words(db))),
    ]


def setting_words(settings: Settings, key: str) -> Words:
    """A setting's value as it stands in a sentence."""
    entry, value = BY_KEY[key], get_value(settings, key)
    if value is None:
        return "off"
    if entry.dimension is None:
        return SHAPE_WORDS[value].lower() if value in SHAPE_WORDS else str(value)
    return say.setting(value, entry.dimension, entry.decimals)


def difference_words(ghost: Settings, now: Outcome) -> list[Words]:
    """What is different from the compared settings, and what that does."""
    found = list[Words]()
    for entry in SETTINGS:
        if get_value(ghost, entry.key) == get_value(now.settings, entry.key):
            continue
        before, after = setting_words(ghost, entry.key), setting_words(now.settings, entry.key)
        if before != after:
            found.append(say.joined(f"{entry.words}: ", after, " instead of ", before, "."))
    # They stay the same while a lane is dragged.
    was = WORKED.of(consequences, now.at.job_as_asked, ghost, now.machine, now.c)
    seen = now.consequences
    heat = seen.work_heat_w / was.work_heat_w - 1
    effects: list[Words] = [
        "heat as before" if abs(heat) < 0.005 else f"heat {'+' if heat >= 0 else '−'}{abs(heat) * 100:.0f} %",
        f"tungsten {percent(was.tungsten_load)} → {percent(seen.tungsten_load)}",
    ]
    effects += [
        say.joined("border ", say.mm(was.border_mm), " → ", say.mm(seen.border_mm)),
        say.joined("pool ", say.mm(was.pool_width_mm), " → ", say.mm(seen.pool_width_mm)),
    ]
    if not found:
        return ["Nothing is different."]
    return [*found, say.joined("So: ", say.joined(*effects, by=", "), ".")]
