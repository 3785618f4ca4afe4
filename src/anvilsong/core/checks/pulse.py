"""Pulse, mix and noise of the wave."""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core import say
from anvilsong.core.arc.sampling import ac_cycles_in_shorter_phase
from anvilsong.core.arc.sound import LOUD_DB, loudness_db, noise_words
from anvilsong.core.machine import Machine, not_on_panel
from anvilsong.core.model import BOTH_THIN_MM, Consequences, LimitWarning, Situation
from anvilsong.core.registry import BY_KEY
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

COOLER_UNDER = 0.9  # of the heat that the joint wants


def pulse_and_mix_warnings(
    at: Situation, settings: Settings, seen: Consequences, machine: Machine
) -> Iterator[LimitWarning]:
    """By AC cycles in a pulse's phase, base amps, heat, what the machine has, and noise in dB."""
    if settings.pulse is not None:
        cycles = float(ac_cycles_in_shorter_phase(settings.wave()))
        if cycles < 2:
            yield LimitWarning(
                code="pulse_beats",
                level="watch",
                setting="pulse_rate_hz",
                message=sentence("checks.pulse_beats", cycles=cycles),
                numbers={"cycles": cycles},
            )
        if settings.pulse.base_share * settings.amps_run < machine.least_a:
            yield LimitWarning(
                code="pulse_base_low",
                level="watch",
                setting="pulse_base_share",
                message=sentence(
                    "checks.pulse_base_low",
                    base_share=settings.pulse.base_share * settings.amps_run,
                    least_a=machine.least_a,
                ),
            )
        yield from _cooler(settings, seen)
        if not machine.can_pulse:
            yield LimitWarning(
                code="no_pulse",
                level="stop",
                setting="pulse_rate_hz",
                message=f"{machine.name} has no pulse.",
            )
    if settings.mix is not None:
        yield from mixed_on_thin(at, settings)
        if not machine.can_mix:
            yield LimitWarning(
                code="no_mix",
                level="stop",
                setting="mix_ac_share",
                message=sentence("checks.no_mix", name=machine.name),
            )
    lacking = not_on_panel(settings, machine)
    has = machine.can_pulse if settings.pulse is not None else machine.can_mix
    if lacking and has:
        named = say.listed([say.within(BY_KEY[key].words) for key in lacking])
        yield LimitWarning(
            code="panel_lacks",
            level="watch",
            setting=lacking[0],
            message=sentence("checks.panel_lacks", name=machine.name, lacking=named),
        )
    db = loudness_db(settings.wave(), at.job.arc_length_mm)
    if db > LOUD_DB:
        yield LimitWarning(
            code="noise",
            level="note",
            setting="shape_en",
            message=say.joined("The arc is ", noise_words(db), "."),
            numbers={"db": db},
        )


def _cooler(settings: Settings, seen: Consequences) -> Iterator[LimitWarning]:
    """A pulse whose peak was left where the steady amps stood puts less heat in: how to have it back, or how
    slowly to go without.
    """
    if settings.pulse is None or seen.work_heat_w >= COOLER_UNDER * seen.heat_wanted_w:
        return
    of_wanted = seen.work_heat_w / seen.heat_wanted_w
    yield LimitWarning(
        code="pulse_cooler",
        level="note",
        setting="amps_run",
        message=sentence("checks.pulse_cooler", of_wanted=of_wanted, peak=settings.amps_run / of_wanted),
        numbers={"of_wanted": of_wanted},
    )


def mixed_on_thin(at: Situation, settings: Settings) -> Iterator[LimitWarning]:
    """Mixed AC and DC where both sides are thin, mm."""
    if settings.mix is not None and max(at.job.a.thickness_mm, at.job.b.thickness_mm) < BOTH_THIN_MM:
        yield LimitWarning(
            code="mix_on_thin",
            level="watch",
            setting="mix_ac_share",
            message=sentence("checks.mix_on_thin"),
        )
