"""Preheat: how far each metal may be warmed, and the heat it takes."""

from __future__ import annotations

from anvilsong.core.metal.alloys import SPECIFIC_HEAT_J_KG_K, Alloy
from anvilsong.core.said import Words
from anvilsong.core.tables import Row, read_table

DRY_ONLY_OVER_MG = 3.0

# Over this a plate takes preheat, unless it is warm already.
THICK_MM, WARM_ENOUGH_C = 6.0, 60.0


class PreheatLimit(Row):
    key: str
    limit_c: float
    advised_c: float
    words: Words


class PreheatTable(Row):
    source: str
    burner_kw: float
    burner_share_into_part: float
    limit: list[PreheatLimit]


def _table() -> PreheatTable:
    return read_table("preheat", PreheatTable)


def preheat_limit(alloy: Alloy, temper: str | None = None) -> PreheatLimit:
    """How far an alloy in this temper may be preheated. No temper said: the hardened one is assumed where
    there is one.
    """
    limits = {row.key: row for row in _table().limit}
    annealed = (temper or "").strip().upper() in ("O", "F")
    if alloy.mg > DRY_ONLY_OVER_MG:
        return limits["dry_only"]
    if alloy.is_casting:
        return limits["casting" if annealed else "casting_t6"]
    if alloy.heat_treatable and not annealed:
        return limits["hardened"]
    if alloy.family.startswith("al_mg") and not alloy.heat_treatable:
        return limits["al_mg"]
    return limits["soft"]


def strictest(a: Alloy, b: Alloy, temper: str | None = None) -> PreheatLimit:
    """The lower of both sides' limits."""
    return min((preheat_limit(alloy, temper) for alloy in (a, b)), key=lambda limit: limit.limit_c)


def heat_kj(mass_kg: float, rise_k: float) -> float:
    """Heat that warms the part: m·c·ΔT, kJ, c = 1000 J/(kg·K), losses apart."""
    return mass_kg * SPECIFIC_HEAT_J_KG_K * rise_k / 1000


def burner_minutes(kj: float, power_kw: float | None = None) -> float:
    """Minutes with a burner of this power, of which about a third goes into the part."""
    table = _table()
    return kj / ((power_kw or table.burner_kw) * table.burner_share_into_part) / 60


def burner_kw() -> float:
    """A burner for a mass, kW: what warms it in a reasonable time."""
    return _table().burner_kw
