"""Filler: hard rules first, then a ranking of what remains by what the weld must be."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from typing import Literal

from anvilsong.core.errors import BadInput
from anvilsong.core.metal.alloys import Alloy, Family
from anvilsong.core.metal.bare import without_rod
from anvilsong.core.metal.chemistry import crack_sensitivity, largest_safe_dilution, mix, watch_over
from anvilsong.core.metal.selector import named_for, watch_for
from anvilsong.core.said import Words
from anvilsong.core.tables import Row, read_table
from anvilsong.core.value import Value
from anvilsong.core.words import sentence

HIGH_MG_FOR_SILICON, HIGH_MG_WARM = 2.8, 3.0
USUAL_BONUS, USUAL_STEP, USUAL_BONUS_ASKED, CRACK_COST, UNASKED_WEIGHT = 4.0, 2.0, 1.5, 3.0, 0.25
PURPOSE_WORDS: dict[str, str] = {
    "ease": "easy to run",
    "strength": "strength",
    "ductility": "ductility",
    "corrosion": "corrosion",
    "warm_service": "warm service",
    "colour": "colour after anodising",
    "appearance": "appearance",
    "tight": "tightness",
}


class FillerClass(Row):
    """A filler class: nominal composition (weight per cent), melting range (°C), density, ratings 0..4."""

    name: str
    si: float = 0.0
    mg: float = 0.0
    cu: float = 0.0
    mn: float = 0.0
    zn: float = 0.0
    cr: float = 0.0
    ti: float = 0.0
    solidus_c: float
    liquidus_c: float
    density_g_cm3: float
    good_for: str
    ratings: dict[str, int]
    most_base_mg: float = 100.0
    """Weight per cent of magnesium in the base metal up to which the charts name this class."""

    @property
    def is_silicon(self) -> bool:
        return self.name.startswith("4")


class FillerTable(Row):
    source: str
    filler: list[FillerClass]
    takes: dict[Family, list[str]]


class Refusal(Value):
    """A filler, or the whole pair, turned down: by which hard rule and why. Rule 0: the pair does not take
    it.
    """

    filler: str
    rule: int
    reason: Words


class Ranked(Value):
    """A filler that passes the hard rules, with the parts of its score."""

    filler: str
    score: float
    parts: dict[str, float]
    sensitivity: float
    largest_safe_dilution: float | None
    good_for: str


@dataclass(frozen=True)
class FillerChoice:
    """All that was decided about the filler of a pair."""

    ranked: tuple[Ranked, ...]
    refused: tuple[Refusal, ...]
    pair_refused: tuple[Refusal, ...]
    watches: tuple[Words, ...]
    dilution: float

    @property
    def best(self) -> Ranked | None:
        return self.ranked[0] if self.ranked and not self.pair_refused else None


def _table() -> FillerTable:
    return read_table("fillers", FillerTable)


def fillers() -> list[FillerClass]:
    """Every filler class, in the table's order."""
    return _table().filler


@cache
def find_filler(name: str, field: str = "filler_wanted") -> FillerClass:
    """The filler class of that name, with or without ER or its alloy letters."""
    bare = name.strip().upper().removeprefix("ER").removeprefix("R").strip()
    for filler in fillers():
        if filler.name == bare:
            return filler
    raise BadInput.one(field, name, "known fillers are " + ", ".join(f.name for f in fillers()) + ", or none")


def _takes(a: Alloy, b: Alloy, filler: FillerClass) -> Alloy | None:
    """The side that does not take this class; None when both do, or the pair is known to."""
    if _pair_takes(a, b, filler):
        return None
    takes = _table().takes
    return next(
        (
            alloy
            for alloy in dict.fromkeys((a, b))
            if filler.name not in takes.get(alloy.family, []) or alloy.mg > filler.most_base_mg
        ),
        None,
    )


def _pair_takes(a: Alloy, b: Alloy, filler: FillerClass) -> bool:
    """Whether the guide names this class for the pair, whatever either side alone takes."""
    return filler.name in (named_for(a, b) or [])


def greys(alloy: Alloy) -> bool:
    """Whether an alloy itself goes grey when it is anodised: castings full of silicon do."""
    return alloy.family in ("cast_si", "cast_si_cu")


def hard_rules(a: Alloy, b: Alloy, filler: FillerClass, purposes: Iterable[str]) -> list[Refusal]:
    """Every hard rule that this filler breaks between these two alloys; empty when none."""
    broken: list[Refusal] = []
    magnesium = max(a.mg, b.mg)
    if filler.is_silicon and magnesium > HIGH_MG_FOR_SILICON and not _pair_takes(a, b, filler):
        rich = a if a.mg >= b.mg else b
        text = sentence(
            "metal.has_magnesium_over_about",
            name=rich.name,
            mg=rich.mg,
            high_mg_for_silicon=HIGH_MG_FOR_SILICON,
        )
        broken.append(Refusal(filler=filler.name, rule=2, reason=text))
    if named_for(a, b) == []:
        text = sentence("metal.published_guide_names_no", a=a.name, b=b.name)
        broken.append(Refusal(filler=filler.name, rule=0, reason=text))
    if "warm_service" in purposes and filler.mg > HIGH_MG_WARM:
        text = sentence(
            "metal.has_magnesium_over_open",
            name=filler.name,
            mg=filler.mg,
            high_mg_warm=HIGH_MG_WARM,
            warm_c=65,
        )
        broken.append(Refusal(filler=filler.name, rule=3, reason=text))
    if "colour" in purposes and filler.is_silicon and not (greys(a) or greys(b)):
        broken.append(Refusal(filler=filler.name, rule=4, reason=f"{filler.name} goes grey when anodised"))
    against = None if broken else _takes(a, b, filler)
    if against is not None:
        text = sentence(
            "metal.does_not_take_which", alloy=against.name, filler=filler.name, good_for=filler.good_for
        )
        broken.append(Refusal(filler=filler.name, rule=0, reason=text))
    return broken


def pair_rules(a: Alloy, b: Alloy, purposes: Iterable[str], filler_wanted: str | None) -> list[Refusal]:
    """Rules that refuse the pair itself, or welding it without filler."""
    refused = [
        Refusal(filler="any", rule=1, reason=alloy.refused)
        for alloy in dict.fromkeys((a, b))
        if alloy.refused
    ]
    if "warm_service" in purposes:
        for alloy in dict.fromkeys((a, b)):
            if alloy.mg > HIGH_MG_WARM:
                text = sentence("metal.itself_has_magnesium_open", name=alloy.name, mg=alloy.mg, warm_c=65)
                refused.append(Refusal(filler="any", rule=3, reason=text))
    if filler_wanted == "none":
        for alloy in dict.fromkeys((a, b)):
            if alloy.heat_treatable and not alloy.refused:
                text = sentence("metal.cracks_while_cools_when", name=alloy.name)
                refused.append(Refusal(filler="none", rule=5, reason=text))
    return refused


def choose_filler(
    a: Alloy, b: Alloy, purposes: Iterable[str] = (), dilution: float = 0.5, wanted: str | None = None
) -> FillerChoice:
    """Rank the fillers for a pair of alloys.

    score = Σ rating of each purpose asked (or 0.25 × the sum of all ratings when none is)
            + 4 for the pair's usual first choice, 2 for its second (1.5 for either when a purpose is
            asked) − 3 × (sensitivity − 0.6) when over the crack line

    Parameters
    ----------
    purposes : what the weld must be
    dilution : share of the weld metal that was base metal, 0..1
    wanted : a filler the user insists on; it goes first if no hard rule forbids it, or raises the rule's
    refusal

    Notes
    -----
    Symmetrical in ``a`` and ``b``: the weld metal counts half of each.
    """
    asked = tuple(dict.fromkeys(purposes))
    pair_refused = pair_rules(a, b, asked, wanted)
    base = mix(a, b, 0.5)
    usual = named_for(a, b)
    ranked: list[Ranked] = []
    refused: list[Refusal] = []
    for filler in fillers():
        broken = hard_rules(a, b, filler, asked)
        if broken:
            refused.extend(broken)
            continue
        sensitivity = crack_sensitivity(mix(base, filler, dilution))
        parts = _score_parts(filler, asked, usual, sensitivity)
        ranked.append(
            Ranked(
                filler=filler.name,
                score=round(sum(parts.values()), 3),
                parts=parts,
                sensitivity=round(sensitivity, 3),
                largest_safe_dilution=largest_safe_dilution(base, filler),
                good_for=filler.good_for,
            )
        )
    ranked.sort(key=lambda row: (-row.score, row.filler))
    watch = watch_for(a, b)
    watches: list[Words] = [watch] if watch and ranked else []
    watches += without_rod(a, b) if wanted == "none" and not pair_refused else []
    if "colour" in asked and (grey := next((alloy for alloy in (a, b) if greys(alloy)), None)):
        watches.append(sentence("metal.itself_goes_grey_when", name=grey.name))
    if not ranked and not pair_refused:
        silicon = next((row for row in refused if row.rule == 2), None)
        why = (
            sentence("metal.other_side_takes_nothing", reason=silicon.reason)
            if silicon
            else "no filler suits both"
        )
        pair_refused.append(
            Refusal(
                filler="any",
                rule=silicon.rule if silicon else 0,
                reason=sentence("metal.advised_against_bolt_bond", a=a.name, b=b.name, why=why),
            )
        )
    if wanted and wanted != "none":
        ranked, pair_refused = _put_first(find_filler(wanted).name, ranked, refused, pair_refused)
    return FillerChoice(tuple(ranked), tuple(refused), tuple(pair_refused), tuple(watches), dilution)


def _score_parts(
    filler: FillerClass, asked: tuple[str, ...], usual: list[str] | None, sensitivity: float
) -> dict[str, float]:
    parts = (
        {purpose: float(filler.ratings[purpose]) for purpose in asked}
        if asked
        else {"all round": round(UNASKED_WEIGHT * sum(filler.ratings.values()), 3)}
    )
    if usual and filler.name in usual:
        parts["usual for this pair"] = (
            USUAL_BONUS_ASKED if asked else max(USUAL_BONUS - USUAL_STEP * usual.index(filler.name), 0.0)
        )
    if sensitivity > watch_over():
        parts["crack range"] = round(-CRACK_COST * (sensitivity - watch_over()), 3)
    return parts


def _put_first(
    name: str, ranked: list[Ranked], refused: list[Refusal], pair_refused: list[Refusal]
) -> tuple[list[Ranked], list[Refusal]]:
    against = [row for row in refused if row.filler == name]
    if against:
        return ranked, pair_refused + against
    first: Literal[0] | int = next((place for place, row in enumerate(ranked) if row.filler == name), 0)
    return [ranked[first], *ranked[:first], *ranked[first + 1 :]] if ranked else ranked, pair_refused
