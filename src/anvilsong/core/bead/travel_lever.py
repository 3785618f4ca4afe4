"""The hand's speed as a lever, where the machine has no more amps or its controls reach no further."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from anvilsong.core import say
from anvilsong.core.arc.border import border_mm
from anvilsong.core.bead.next import NextChange
from anvilsong.core.bead.ran import Ran, changed
from anvilsong.core.model import figures, situation
from anvilsong.core.prep import FASTEST_HAND_MM_S, SLOWEST_HAND_MM_S
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

STEP_MM_S = 0.1
SLOWER, FASTER = 0.6, 1.4  # of the planned speed; more is another job for the hand
WORTH_MM, WORTH_SHARE = 0.1, 0.02  # a change that gains less is no change


def speed_for_width(ran: Ran, why: Words, why_none: Words) -> NextChange:
    """With the amps as they are, since the machine or a limit ends, the speed that brings the bead to its
    width. ``why_none`` is said where no speed does.
    """
    at, settings = situation(ran.job), ran.settings
    speeds = _speeds(settings)
    gone = speeds * ran.hand
    seen = figures(at, settings.wave(), settings, ran.c, travel_mm_s=gone)
    miss = np.abs(
        np.asarray(seen.pool_width_mm) / np.asarray(at.aimed_width_mm(gone, settings.preheat_c)) - 1
    )
    planned = int(np.argmin(np.abs(speeds - settings.travel_mm_s)))
    is_wide = ran.verdict.width_miss > 0
    better = [int(place) for place in np.argsort(miss) if miss[place] <= miss[planned] - WORTH_SHARE]
    after, _ = ran.first_whole(
        settings.model_copy(update={"travel_mm_s": float(speeds[place])}) for place in better
    )
    if after is None:
        said = sentence("bead.machine_goes_no_lower") if is_wide else sentence("bead.machine_has_no_more")
        return NextChange(
            kind="prep", settings=settings, said=say.joined("Leave the settings. ", said), why=why_none
        )
    return changed(ran, after, "travel_mm_s", why)


def speed_for_border(ran: Ran, aim_mm: float) -> NextChange | None:
    """With foot or machine holding the pool, the faster hand that brings a wide border to its aim; None when
    none is worth it.

    What the coupon's border lies beside its own prediction, after all that the model could be moved, it is
    taken to lie at every speed: a change is worth what it changes.
    """
    at, settings = situation(ran.job), ran.settings
    speeds = _speeds(settings)
    heats = np.asarray(at.wanted_pool_heat_w(speeds, settings.preheat_c))
    heats = heats / float(at.wanted_pool_heat_w(settings.travel_mm_s, settings.preheat_c))
    pedal = ran.job.control == "pedal"
    amps = np.round(settings.amps_run * heats)
    can = (amps <= (settings.amps_set if pedal else ran.machine.most_a)) & (speeds > settings.travel_mm_s)
    if not can.any():
        return None
    seen = figures(at, replace(settings.wave(), amps=amps), settings, ran.c, travel_mm_s=speeds * ran.hand)
    border = border_mm(seen.cleaned_width_mm, seen.pool_width_mm)
    beside = ran.verdict.border_mm - ran.would(settings).border_mm
    miss = np.where(can, np.abs(np.asarray(border) + beside - aim_mm), np.inf)
    worth = abs(ran.verdict.border_mm - aim_mm) - WORTH_MM
    after, _ = ran.first_whole(
        _at_speed(settings, float(speeds[place]), float(amps[place]), pedal)
        for place in np.argsort(miss)
        if miss[place] <= worth
    )
    if after is None:
        return None
    why = sentence("bead.ac_balance_ep_amplitude_2", border_mm=ran.verdict.border_mm)
    return changed(ran, after, "travel_mm_s", why)


def _at_speed(settings: Settings, travel_mm_s: float, amps: float, pedal: bool) -> Settings:
    moved = {"travel_mm_s": travel_mm_s, "amps_run": amps} | ({} if pedal else {"amps_set": amps})
    return settings.model_copy(update=moved)


def _speeds(settings: Settings) -> np.ndarray[tuple[int], np.dtype[np.float64]]:
    """What a hand can go, in tenths of a mm/s, around what was planned."""
    low = max(SLOWER * settings.travel_mm_s, SLOWEST_HAND_MM_S)
    high = max(min(FASTER * settings.travel_mm_s, FASTEST_HAND_MM_S), low)
    return np.arange(np.ceil(low / STEP_MM_S), np.floor(high / STEP_MM_S) + 1) * STEP_MM_S
