"""The prep sheet: ordered steps before the arc, each with why, time, and the caution that belongs to it,
once.
"""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core import say
from anvilsong.core.joint import SQUARE_BUTT_LIMIT_MM
from anvilsong.core.model import Situation, Step, later_passes, needs_bridging
from anvilsong.core.prep.gap import bridge_gap
from anvilsong.core.prep.preheat import limit_for, warming
from anvilsong.core.prep.tacks import tack_plan
from anvilsong.core.settings import Settings

BACKING_UNDER_MM = 1.6
COLD_PART_C, HAND_WARM_C = 10.0, 30.0
BERYLLIUM = ("535", "A357")  # casting alloys melted with a little of it
MINUTES_PER_M = {"degrease": 6.0, "brush": 8.0, "grind": 25.0, "bevel": 40.0}


def prep_steps(at: Situation, settings: Settings) -> Iterator[Step]:
    """Steps of the prep station, in the order to do them."""
    yield from _hot_work()
    yield from _identify(at)
    yield from _clean(at)
    yield from _shape(at)
    yield from _fit(at, settings)
    yield from _warm(at, settings)
    yield from _between_passes(at)
    yield from _casting(at)


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
        text=f"Clear {say.metres(10)} around of what burns, or cover it; an extinguisher within reach.",
        why="Sparks from grinding and hot drops go far.",
        caution="Watch the place for an hour after the last arc.",
    )


def _identify(at: Situation) -> Iterator[Step]:
    if any(side.metal.stands_in_for for side in (at.job.a, at.job.b)):
        yield Step(
            station="prep",
            key="identify",
            text="Find out what the metal is: ask, look for a stamp, try on scrap of the same piece.",
            why=(
                "Extruded shape: most likely 6xxx. Sheet that bends without cracking: 3xxx or 5xxx. "
                "Rough skin and a parting line: cast."
            ),
            caution=(
                "If it may be magnesium, stop: put a drop of vinegar on a filed spot. Fizzing is "
                "magnesium: do not weld. Its swarf burns: class D extinguisher or dry sand, no water."
            ),
            minutes=5,
        )
    beryllium = next((side.metal.name for side in (at.job.a, at.job.b) if side.metal.name in BERYLLIUM), None)
    if beryllium:
        yield Step(
            station="prep",
            key="beryllium",
            text=f"Extraction at the arc and at the grinder: {beryllium} may contain beryllium.",
            why="Some melts of it carry a few hundredths of a per cent.",
            caution=(
                "Beryllium dust and fume harm the lungs for good: no dry grinding without extraction, "
                "follow the maker's data sheet."
            ),
        )
    if is_hollow(at):
        yield Step(
            station="prep",
            key="vent",
            text="Open a vent and make sure that what is hollow is empty, clean and dry.",
            why="Trapped air blows the last bit of the weld open.",
            caution=(
                "Never weld a closed vessel, or one that had fuel in it, before someone qualified has "
                "cleaned and vented it."
            ),
            minutes=5,
        )


def _clean(at: Situation) -> Iterator[Step]:
    yield Step(
        station="prep",
        key="degrease",
        text=(
            "Degrease both sides and the filler rod with acetone or alcohol, inside and out, then let it dry."
        ),
        why="Before brushing: brushing first rubs the grease in.",
        caution=(
            "Never a chlorinated solvent or brake cleaner: heat and ultraviolet turn it into phosgene. "
            "No hydrofluoric brightener without the rules of its own trade: it burns to the bone. "
            "Acetone vapour burns: no can and no rags near the arc."
        ),
        minutes=_minutes("degrease", at) + 3,
    )
    if at.surface.dirty or at.is_casting:
        yield Step(
            station="prep",
            key="grind",
            text=f"Grind or scrape to clean metal, {say.about_mm(25)} back.",
            why="Skin, corrosion and oil come up into the pool.",
            caution="Eyes and extraction; never let aluminium dust and steel sparks meet: the mixture burns.",
            minutes=_minutes("grind", at),
        )
    why = "Breaks the oxide. Weld within a few hours; next day brush again."
    if at.surface.key == "blasted":
        why = "Blast media embed in the metal; brushing brings them out."
    yield Step(
        station="prep",
        key="brush",
        text="Brush with a stainless brush that touches nothing but aluminium.",
        why=why,
        minutes=_minutes("brush", at),
    )
    if at.job.filler_wanted != "none":
        yield Step(
            station="prep",
            key="rod",
            text="Wipe the filler rod, leave it dry, snip the oxidised ball off its end.",
            why="Dirt on the filler rod goes straight into the pool.",
            minutes=1,
        )


def _shape(at: Situation) -> Iterator[Step]:
    job = at.job
    if not at.weld.takes_bevel or job.bevel is None:
        return
    angle, land = job.bevel.angle_deg, job.bevel.root_face_mm
    why = (
        f"Over {say.about_mm(SQUARE_BUTT_LIMIT_MM)} a square edge does not melt through from one side; "
        "the settings are for this root."
    )
    if not at.bevel_planned:
        why = "As the job says."
    yield Step(
        station="prep",
        key="bevel",
        text=f"Bevel to {angle:.0f}° included, root face {say.near_mm(land)}; deburr.",
        why=why,
        minutes=_minutes("bevel", at),
    )


def _fit(at: Situation, settings: Settings) -> Iterator[Step]:
    job = at.job
    if job.thin_mm <= BACKING_UNDER_MM and at.weld.follows_a_gap:
        yield Step(
            station="prep",
            key="backing",
            text="Clamp a chill bar behind the joint, and blocks at holes and ends.",
            why="Thin metal and ends melt back.",
            minutes=5,
        )
    if needs_bridging(at):
        steps = bridge_gap(at, settings)
        seconds = sum(step.wait_s for step in steps)
        text = (
            f"Bridge the {say.size(job.gap_mm)} gap as a sequence of {len(steps)} steps (below), not as "
            "one bead."
        )
        yield Step(
            station="prep",
            key="gap",
            text=text,
            why="A gap over half the thickness swallows a plain bead.",
            minutes=5 + seconds / 60,
        )
        return
    if not at.weld.takes_tacks:
        return
    tacks = tack_plan(job.weld_length_mm, job.thin_mm)
    rod = f" with {settings.filler.class_}" if settings.filler else ""
    hard = any(side.metal.heat_treatable for side in (job.a, job.b))
    why = "Opposite ends first, so that the gap stays." + (
        " A tack without filler cracks in this alloy." if hard else ""
    )
    yield Step(
        station="prep",
        key="tack",
        text=(
            f"Fit up, {f'gap {say.size(job.gap_mm)}' if job.gap_mm else 'no gap'}, and tack{rod}: "
            f"{tacks.count} tacks, {say.mm(tacks.spacing_mm, 0)} apart, ends first, then the middles."
        ),
        why=why,
        minutes=2 + 0.5 * tacks.count,
    )


def _warm(at: Situation, settings: Settings) -> Iterator[Step]:
    if settings.preheat_c is None and at.job.part_temperature_c < COLD_PART_C:
        yield Step(
            station="prep",
            key="cold_part",
            text=(
                f"The part is at {say.celsius(at.job.part_temperature_c)}: warm it evenly to hand-warm, "
                f"about {say.celsius(HAND_WARM_C)}, and wipe it dry."
            ),
            why="Frost and dew sit on cold metal; the water in them becomes pores.",
            minutes=10,
        )
    heat = warming(at, settings)
    if settings.preheat_c is None and not heat.wanted:
        return
    must = settings.preheat_c is not None
    text = (
        f"Preheat to {say.celsius(heat.advised_c)}"
        if must
        else f"Preheat to {say.celsius(heat.advised_c)} if amps run short"
    )
    yield Step(
        station="prep",
        key="preheat",
        text=f"{text}, checked with a temperature stick; never over {say.celsius(heat.limit_c)}.",
        why=(
            f"{heat.why} {heat.words[0].upper()}{heat.words[1:]}. About {heat.heat_kj:.0f} kJ, and "
            f"{heat.amps_cold - heat.amps_warm:.0f} A less."
        ),
        caution="Hot aluminium looks cold: mark it HOT, use pliers.",
        minutes=heat.minutes,
    )


def _between_passes(at: Situation) -> Iterator[Step]:
    passes = len(later_passes(at))
    limit = limit_for(at)
    if passes:
        yield Step(
            station="prep",
            key="interpass",
            text=f"Between passes let it cool under {say.celsius(limit.limit_c)}; a temperature stick tells.",
            why="Each pass adds its heat to the one before; the same amps then melt more.",
            after_arc=True,
        )


def _casting(at: Situation) -> Iterator[Step]:
    if not at.is_casting:
        return
    yield Step(
        station="prep",
        key="dirt_pass",
        text=(
            "Run a short first pass with little filler rod: it brings the dirt up. Stop, grind or brush it "
            "off, and go again until the pool stays clean."
        ),
        why=(
            f"Castings are full of oil and gas; two or three rounds are usual. Runs of {say.about_mm(20)} to "
            f"{say.about_mm(30)}."
        ),
        minutes=10,
    )
    yield Step(
        station="prep",
        key="cool",
        text="Let it cool slowly under a dry blanket.",
        after_arc=True,
        why="Cold air on one side cracks it.",
        caution="Never quench a casting or a structural part: steam, and cracks.",
        minutes=30,
    )
