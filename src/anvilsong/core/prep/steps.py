"""The prep sheet: ordered steps before the arc, each with why, time, and the caution that belongs to it,
once.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

from anvilsong.core import say
from anvilsong.core.joint import SQUARE_BUTT_LIMIT_MM
from anvilsong.core.model import Situation, Step, later_passes, needs_bridging
from anvilsong.core.prep.gap import bridge_gap
from anvilsong.core.prep.preheat import limit_for, warming
from anvilsong.core.prep.tacks import tack_plan
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence

BACKING_UNDER_MM = 1.6
COLD_PART_C, HAND_WARM_C, OIL_COMES_C = 10.0, 30.0, 80.0
STEP_BACK_MM, FOIL_MM = 5.0, 0.3
BERYLLIUM = ("535", "A357")  # casting alloys melted with a little of it
MINUTES_PER_M = {"degrease": 6.0, "brush": 8.0, "grind": 25.0, "bevel": 40.0}


def prep_steps(at: Situation, settings: Settings) -> Iterator[Step]:
    """Steps of the prep station, in the order to do them."""
    yield from _hot_work()
    yield from _identify(at)
    yield from _clean(at, settings)
    yield from _shape(at)
    yield from _fit(at, settings)
    yield from _warm(at, settings)
    yield from _between_passes(at)
    yield from _casting(at)


def strip_back_mm(at: Situation, settings: Settings) -> float:
    """How far from the joint a film comes off, mm, each side: half the cleaned width wanted, w/2 + the
    border's most, and 5 mm more, to the next 5 mm.
    """
    half = float(at.aimed_width_mm(settings.travel_mm_s, settings.preheat_c)) / 2 + at.aim.high_mm
    return STEP_BACK_MM * math.ceil((half + STEP_BACK_MM) / STEP_BACK_MM)


def _minutes(key: str, at: Situation) -> float:
    """Time for both sides of the weld, at least a minute."""
    return max(1.0, MINUTES_PER_M[key] * at.job.weld_length_mm / 1000)


def is_hollow(at: Situation) -> bool:
    """Whether the part is likely to hold air: tubes, castings, and what must be tight."""
    job = at.job
    tube = at.joint.tube or any(side.outside_diameter_mm for side in (job.a, job.b))
    return bool(tube or at.is_casting or "tight" in job.purposes)


def _hot_work() -> Iterator[Step]:
    yield Step(
        station="prep",
        key="hot_work",
        text=sentence("prep.hot_work", distance_m=10),
        why=sentence("prep.hot_work_why"),
        caution=sentence("prep.hot_work_caution"),
    )


def _identify(at: Situation) -> Iterator[Step]:
    if any(side.metal.stands_in_for for side in (at.job.a, at.job.b)):
        yield Step(
            station="prep",
            key="identify",
            text=sentence("prep.identify"),
            why=sentence("prep.identify_why"),
            caution=sentence("prep.identify_caution"),
            minutes=5,
        )
    beryllium = next((side.metal.name for side in (at.job.a, at.job.b) if side.metal.name in BERYLLIUM), None)
    if beryllium:
        yield Step(
            station="prep",
            key="beryllium",
            text=sentence("prep.beryllium", beryllium=beryllium),
            why=sentence("prep.beryllium_why"),
            caution=sentence("prep.beryllium_caution"),
        )
    if is_hollow(at):
        yield Step(
            station="prep",
            key="vent",
            text=sentence("prep.vent"),
            why=sentence("prep.vent_why"),
            caution=sentence("prep.vent_caution"),
            minutes=5,
        )


def _clean(at: Situation, settings: Settings) -> Iterator[Step]:
    yield Step(
        station="prep",
        key="degrease",
        text=sentence("prep.degrease"),
        why=sentence("prep.degrease_why"),
        caution=sentence("prep.degrease_caution"),
        minutes=_minutes("degrease", at) + 3,
    )
    if at.surface.dirty or at.is_casting:
        yield Step(
            station="prep",
            key="grind",
            text=sentence("prep.grind", back_mm=25),
            why=sentence("prep.grind_why"),
            caution=sentence("prep.grind_caution"),
            minutes=_minutes("grind", at),
        )
    if at.surface.stripped:
        yield Step(
            station="prep",
            key="strip",
            text=sentence("prep.strip", back_mm=strip_back_mm(at, settings)),
            why=sentence("prep.strip_why", note=at.surface.note),
            caution=sentence("prep.strip_caution"),
            minutes=_minutes("grind", at),
        )
    if at.is_casting:
        yield Step(
            station="prep",
            key="oil",
            text=sentence("prep.oil", warm_c=min(OIL_COMES_C, limit_for(at).limit_c)),
            why=sentence("prep.oil_why"),
            caution=sentence("prep.oil_caution"),
            minutes=20,
        )
    why = sentence("prep.breaks_oxide_weld_within")
    if at.surface.key == "blasted":
        why = sentence("prep.blast_media_embed_metal")
    yield Step(
        station="prep",
        key="brush",
        text=sentence("prep.brush"),
        why=why,
        minutes=_minutes("brush", at),
    )
    if at.job.filler_wanted != "none":
        yield Step(
            station="prep",
            key="rod",
            text=sentence("prep.rod"),
            why=sentence("prep.rod_why"),
            minutes=1,
        )


def _shape(at: Situation) -> Iterator[Step]:
    job = at.job
    if not at.weld.takes_bevel or job.bevel is None:
        return
    angle, land = job.bevel.angle_deg, job.bevel.root_face_mm
    why: Words = sentence("prep.over_square_edge_does", square_butt_limit_mm=SQUARE_BUTT_LIMIT_MM)
    if not at.bevel_planned:
        why = "As the job says."
    yield Step(
        station="prep",
        key="bevel",
        text=sentence("prep.bevel", angle=angle, land=land),
        why=why,
        minutes=_minutes("bevel", at),
    )


def _fit(at: Situation, settings: Settings) -> Iterator[Step]:
    job = at.job
    if job.thin_mm <= BACKING_UNDER_MM and at.weld.follows_a_gap:
        yield Step(
            station="prep",
            key="backing",
            text=sentence("prep.backing"),
            why=sentence("prep.backing_why"),
            minutes=5,
        )
    if job.thin_mm <= FOIL_MM and settings.filler is not None:
        yield Step(
            station="prep",
            key="foil",
            text=sentence("prep.foil", pre_flow_s=settings.pre_flow_s),
            why=sentence("prep.foil_why"),
            minutes=2,
        )
    if needs_bridging(at):
        steps = bridge_gap(at, settings)
        seconds = sum(step.wait_s for step in steps)
        text = sentence("prep.bridge_gap_sequence_steps", gap_mm=job.gap_mm, steps=len(steps))
        yield Step(
            station="prep",
            key="gap",
            text=text,
            why=sentence("prep.gap_why"),
            minutes=5 + seconds / 60,
        )
        return
    if not at.weld.takes_tacks:
        return
    tacks = tack_plan(job.weld_length_mm, job.thin_mm)
    rod = f" with {settings.filler.class_}" if settings.filler else ""
    hard = any(side.metal.heat_treatable for side in (job.a, job.b))
    why = sentence("prep.opposite_ends_first_gap") + (
        sentence("prep.tack_without_filler_cracks") if hard else ""
    )
    yield Step(
        station="prep",
        key="tack",
        text=sentence(
            "prep.tack",
            no_gap=say.joined("gap ", say.size(job.gap_mm)) if job.gap_mm else "no gap",
            rod=rod,
            count=tacks.count,
            spacing_mm=tacks.spacing_mm,
        ),
        why=why,
        minutes=2 + 0.5 * tacks.count,
    )


def _warm(at: Situation, settings: Settings) -> Iterator[Step]:
    if settings.preheat_c is None and at.job.part_temperature_c < COLD_PART_C:
        yield Step(
            station="prep",
            key="cold_part",
            text=sentence(
                "prep.cold_part", part_temperature_c=at.job.part_temperature_c, hand_warm_c=HAND_WARM_C
            ),
            why=sentence("prep.cold_part_why"),
            minutes=10,
        )
    heat = warming(at, settings)
    if settings.preheat_c is None and not heat.wanted:
        return
    must = settings.preheat_c is not None
    text = (
        say.joined("Preheat to ", say.celsius(heat.advised_c))
        if must
        else sentence("prep.preheat_if_amps_run", advised_c=heat.advised_c)
    )
    yield Step(
        station="prep",
        key="preheat",
        text=sentence("prep.preheat", text=text, limit_c=heat.limit_c),
        why=(
            say.joined(
                heat.why,
                " ",
                say.capital(heat.words),
                f". About {heat.heat_kj:.0f} kJ, and {heat.amps_cold - heat.amps_warm:.0f} A less.",
            )
        ),
        caution=sentence("prep.preheat_caution"),
        minutes=heat.minutes,
    )


def _between_passes(at: Situation) -> Iterator[Step]:
    passes = len(later_passes(at))
    limit = limit_for(at)
    if passes:
        yield Step(
            station="prep",
            key="interpass",
            text=sentence("prep.interpass", limit_c=limit.limit_c),
            why=sentence("prep.interpass_why"),
            after_arc=True,
        )


def _casting(at: Situation) -> Iterator[Step]:
    if not at.is_casting:
        return
    yield Step(
        station="prep",
        key="dirt_pass",
        text=sentence("prep.dirt_pass"),
        why=sentence("prep.dirt_pass_why", from_mm=20, to_mm=30),
        minutes=10,
    )
    yield Step(
        station="prep",
        key="cool",
        text=sentence("prep.cool"),
        after_arc=True,
        why=sentence("prep.cool_why"),
        caution=sentence("prep.cool_caution"),
        minutes=30,
    )
