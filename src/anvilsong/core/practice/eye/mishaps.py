"""The hidden causes: what each does to a run, which causes of the table it stands for, and what mends it."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Literal, NamedTuple

from anvilsong.core.errors import BadInput
from anvilsong.core.model import with_equal_heat
from anvilsong.core.practice.eye.coupon_run import CouponRun
from anvilsong.core.said import Words
from anvilsong.core.settings import Pulse
from anvilsong.core.words import sentence

MendKey = Literal[
    "less_ep", "more_ep", "fewer_amps", "more_amps", "slower", "faster", "shorter_arc", "clean", "wipe",
    "cool", "right_flow", "shelter", "end_slower", "gas_longer", "even_dabs", "slower_pulse", "feed_rod",
]  # fmt: skip
MENDS: dict[MendKey, Words] = {
    "less_ep": "Less EP",
    "more_ep": "More EP",
    "fewer_amps": "Fewer amps",
    "more_amps": "More amps",
    "slower": "Travel slower",
    "faster": "Travel faster",
    "shorter_arc": "A shorter arc",
    "clean": "Brush it bright",
    "wipe": sentence("practice.mend_wipe"),
    "cool": "Let the part cool",
    "right_flow": "The planned gas flow",
    "shelter": "Shelter the joint",
    "end_slower": sentence("practice.mend_end"),
    "gas_longer": "Longer post-flow",
    "even_dabs": "Dab evenly",
    "slower_pulse": "A slower pulse",
    "feed_rod": "Feed filler rod",
}
EP_STEP, AMPS_STEP, HAND_STEP, ARC_STEP_MM = 0.08, 0.12, 1.25, 1.0
LEAST_ARC_MM, FRESH_C = 1.5, 25.0
LEAST_EP, MOST_EP = 0.1, 0.5
FAST_PULSE = Pulse(rate_hz=5.0, peak_share=0.5, base_share=0.4)

Happen = Callable[[CouponRun, float], CouponRun]


class Mishap(NamedTuple):
    """A hidden cause: what it does at a strength from 0.3 to 8, the causes of the table it stands for as
    (sign, cause), the change that mends it, and what else may show beside its own signs.
    """

    happen: Happen
    causes: tuple[tuple[str, str], ...]
    mend: MendKey
    also: tuple[str, ...] = ()


def _share(run: CouponRun, share: float) -> CouponRun:
    """Another EP share, with the pool as wide as before: the hand follows the pool."""
    moved = run.settings.model_copy(update={"ep_share": share})
    return replace(run, settings=with_equal_heat(run.settings, moved, run.bench.c))


def _pulsed(run: CouponRun, _strength: float) -> CouponRun:
    if run.settings.mix is not None or not run.bench.machine.sets("pulse_rate_hz"):
        raise BadInput.one("item", "pulse", sentence("practice.not_on_this_job"))
    moved = run.settings.model_copy(update={"pulse": FAST_PULSE})
    pulsed = replace(run, settings=with_equal_heat(run.settings, moved, run.bench.c))
    # At the peak's amps the gas has to stay longer, and does: that is not what went wrong.
    longer = math.ceil(run.settings.post_flow_s * pulsed.settings.amps_run / run.settings.amps_run)
    return pulsed.with_set(post_flow_s=longer)


def _amps(run: CouponRun, times: float) -> CouponRun:
    amps = run.settings.amps_run * times
    return run.with_set(amps_run=amps, amps_set=max(amps, run.settings.amps_set))


def _too_much(run: CouponRun, strength: float) -> CouponRun:
    """More EP by its share, and by its amplitude where the machine has one."""
    if run.bench.machine.can_trim:
        run = run.with_set(ep_trim=min(run.settings.ep_trim + 0.1 * strength, 0.4))
    return _share(run, min(run.settings.ep_share + 0.1 * strength, MOST_EP))


def _oxide(run: CouponRun, strength: float) -> CouponRun:
    if run.job.surface not in ("brushed", "machined", "blasted", "anodised_ground"):
        raise BadInput.one("item", run.job.surface, sentence("practice.not_on_this_job"))
    return run.with_job(surface="stored" if strength < 2 else "anodised")


def _flow(run: CouponRun, strength: float) -> CouponRun:
    gas = run.settings.gas
    return run.with_set(gas=gas.model_copy(update={"flow_l_min": gas.flow_l_min * (1.5 + 0.2 * strength)}))


def _cut_short(run: CouponRun, _strength: float) -> CouponRun:
    by_hand = run.job.control == "pedal"
    run = run if by_hand else run.with_set(down_slope_s=min(0.2, run.settings.down_slope_s))
    return replace(run, end_s=0.3)


def _gas_short(run: CouponRun, strength: float) -> CouponRun:
    return run.with_set(post_flow_s=round(run.settings.post_flow_s * max(0.2, 0.7 - 0.2 * strength)))


def _no_rod(run: CouponRun, _strength: float) -> CouponRun:
    six = any(side.metal.name.startswith("6") for side in (run.job.a, run.job.b))
    if not six or run.settings.filler is None:
        raise BadInput.one("item", "no_rod", sentence("practice.not_on_this_job"))
    return run.with_set(filler=None)


MISHAPS: dict[str, Mishap] = {
    "ep_high": Mishap(
        _too_much,
        (("border_wide", "share_high"),),
        "less_ep",
    ),
    "ep_low": Mishap(
        lambda run, s: _share(run, max(run.settings.ep_share - 0.1 * s, LEAST_EP)),
        (("border_thin", "share_low"),),
        "more_ep",
    ),
    "oxide": Mishap(_oxide, (("border_thin", "oxide"),), "clean"),
    "slow": Mishap(
        lambda run, s: replace(run, hand=1 / (1 + 0.2 * s)),
        (("bead_wide", "too_slow"), ("border_wide", "slow")),
        "faster",
        ("border_thin",),
    ),
    "fast": Mishap(
        lambda run, s: replace(run, hand=1 + 0.25 * s),
        (("bead_high", "too_fast"), ("border_thin", "fast")),
        "slower",
    ),
    "hot": Mishap(
        lambda run, s: _amps(run, 1 + 0.1 * s), (("bead_wide", "too_hot"),), "fewer_amps", ("border_thin",)
    ),
    "cold": Mishap(
        lambda run, s: _amps(run, 1 / (1 + 0.12 * s)),
        (("bead_high", "too_cold"),),
        "more_amps",
        ("border_wide",),
    ),
    "long_arc": Mishap(
        lambda run, s: run.with_job(arc_length_mm=min(4 + 0.5 * s, 8.0)),
        (("soot", "long_arc"), ("border_wide", "long_arc")),
        "shorter_arc",
        ("bead_wide",),
    ),
    "dirt": Mishap(
        lambda run, s: replace(run, specks=round(15 + 12 * s)), (("black_specks", "dirt"),), "wipe"
    ),
    "flow": Mishap(_flow, (("soot", "flow_wrong"),), "right_flow"),
    "draught": Mishap(
        lambda run, s: run.with_job(draught_m_s=0.4 + 0.3 * s), (("soot", "draught"),), "shelter"
    ),
    "cut_short": Mishap(_cut_short, (("crater", "cut_short"),), "end_slower"),
    "gas_short": Mishap(_gas_short, (("end_grey", "post_flow"),), "gas_longer"),
    "hands": Mishap(
        lambda run, s: replace(run, unevenness=min(0.25 + 0.1 * s, 0.5)),
        (("ripples_uneven", "hands"),),
        "even_dabs",
    ),
    "pulse_fast": Mishap(_pulsed, (("ripples_uneven", "pulse_fast"),), "slower_pulse"),
    "no_rod": Mishap(_no_rod, (("crack_along", "wrong_filler"),), "feed_rod"),
}


def mended(run: CouponRun, planned: CouponRun, mend: MendKey) -> CouponRun:
    """The next run with one thing changed: back to the plan where the run had left it on that side, else one
    usual step.
    """
    was, plan, settings = run.settings, planned.settings, run.settings
    match mend:
        case "less_ep":
            if settings.ep_share <= plan.ep_share + 0.02:
                return _share(run, max(was.ep_share - EP_STEP, LEAST_EP))
            return _share(run.with_set(ep_trim=plan.ep_trim), plan.ep_share)
        case "more_ep":
            share = plan.ep_share if settings.ep_share < plan.ep_share - 0.02 else was.ep_share + EP_STEP
            return _share(run, min(share, MOST_EP))
        case "fewer_amps":
            return _amps(run, 1 / (1 + AMPS_STEP) if not _is_hot(run, planned) else _back(run, planned))
        case "more_amps":
            return _amps(run, 1 + AMPS_STEP if not _is_cold(run, planned) else _back(run, planned))
        case "slower":
            return replace(run, hand=1.0 if run.hand > 1.05 else run.hand / HAND_STEP)
        case "faster":
            return replace(run, hand=1.0 if run.hand < 0.95 else run.hand * HAND_STEP)
        case "shorter_arc":
            arc = min(run.job.arc_length_mm - ARC_STEP_MM, planned.job.arc_length_mm)
            return run.with_job(arc_length_mm=max(arc, LEAST_ARC_MM))
        case "clean":
            return run.with_job(surface=planned.job.surface)
        case "wipe":
            return replace(run, specks=planned.specks)
        case "cool":
            cool = min(run.job.part_temperature_c, max(planned.job.part_temperature_c, FRESH_C))
            return run.with_job(part_temperature_c=cool)
        case "right_flow":
            return run.with_set(gas=plan.gas)
        case "shelter":
            return run.with_job(draught_m_s=0.0)
        case "end_slower":
            return replace(
                run.with_set(down_slope_s=max(was.down_slope_s, plan.down_slope_s)), end_s=planned.end_s
            )
        case "gas_longer":
            return run.with_set(post_flow_s=max(was.post_flow_s + 3, plan.post_flow_s))
        case "even_dabs":
            return replace(run, unevenness=planned.unevenness)
        case "slower_pulse":
            moved = was.model_copy(update={"pulse": plan.pulse})
            return replace(run, settings=with_equal_heat(was, moved, run.bench.c))
        case "feed_rod":
            return run.with_set(filler=plan.filler)


def _back(run: CouponRun, planned: CouponRun) -> float:
    return planned.settings.amps_run / run.settings.amps_run


def _is_hot(run: CouponRun, planned: CouponRun) -> bool:
    return run.settings.amps_run > 1.03 * planned.settings.amps_run


def _is_cold(run: CouponRun, planned: CouponRun) -> bool:
    return run.settings.amps_run < 0.97 * planned.settings.amps_run
