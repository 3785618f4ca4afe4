"""Alloys by either of their names, with the numbers that heat and chemistry need."""

from __future__ import annotations

import math
import re
from functools import cache
from typing import Literal

from pydantic import Field

from anvilsong.core.errors import BadInput
from anvilsong.core.said import Words
from anvilsong.core.tables import Row, read_table

Family = Literal[
    "pure",
    "al_mn",
    "al_mg_low",
    "al_mg_mid",
    "al_mg_high",
    "al_mg_si",
    "al_zn_mg",
    "al_cu",
    "al_cu_mg",
    "al_zn_mg_cu",
    "cast_si",
    "cast_si_cu",
    "cast_mg",
]

FAMILY_WORDS: dict[Family, str] = {
    "pure": "pure",
    "al_mn": "Al-Mn",
    "al_mg_low": "Al-Mg, low",
    "al_mg_mid": "Al-Mg, middle",
    "al_mg_high": "Al-Mg, high",
    "al_mg_si": "Al-Mg-Si",
    "al_zn_mg": "Al-Zn-Mg",
    "al_cu": "Al-Cu",
    "al_cu_mg": "Al-Cu-Mg",
    "al_zn_mg_cu": "Al-Zn-Mg-Cu",
    "cast_si": "cast Al-Si",
    "cast_si_cu": "cast Al-Si-Cu",
    "cast_mg": "cast Al-Mg",
}
HEAT_TREATABLE: frozenset[Family] = frozenset({"al_mg_si", "al_zn_mg", "al_cu", "al_cu_mg", "al_zn_mg_cu"})
SPECIFIC_HEAT_J_KG_K = 1000.0


class Alloy(Row):
    """A base metal: nominal composition (weight per cent), melting range (°C), conductivity, density."""

    name: str
    en: str
    en_near: bool = False
    also: tuple[str, ...] = ()
    """Other names that people use: chemical ones of EN 573-2, and material numbers of DIN 17007."""
    family: Family
    form: Literal["sheet", "extrusion", "casting"]
    si: float = 0.0
    cu: float = 0.0
    mn: float = 0.0
    mg: float = 0.0
    zn: float = 0.0
    cr: float = 0.0
    zr: float = 0.0
    solidus_c: float
    liquidus_c: float
    k25_w_mk: float = Field(gt=0)
    density_g_cm3: float = Field(gt=0)
    note: Words = ""
    refused: str | None = None
    stands_in_for: str | None = None

    @property
    def contour_c(self) -> float:
        """Middle of the melting range, °C: the contour that bounds the pool."""
        return (self.solidus_c + self.liquidus_c) / 2

    @property
    def hot_conductivity_w_mk(self) -> float:
        """Conductivity near the pool, W/(m·K): k = 1.2·√(167·k25), close to the hot values of EN 1999-1-2."""
        return 1.2 * math.sqrt(167 * self.k25_w_mk)

    @property
    def heat_treatable(self) -> bool:
        return self.family in HEAT_TREATABLE

    @property
    def is_casting(self) -> bool:
        return self.form == "casting"

    @property
    def shown_name(self) -> str:
        """The name a page shows: what the user said, with the stand-in named."""
        return f"{self.stands_in_for} (as {self.name})" if self.stands_in_for else self.name


class Unknown(Row):
    name: str
    stand_in: str


class AlloyTable(Row):
    source: str
    alloy: list[Alloy]
    unknown: list[Unknown]


_TEMPER = re.compile(r"(?<=[0-9A])\s*-\s*(T\d+|H\d+|O|F)$", re.IGNORECASE)


def alloys() -> list[Alloy]:
    """Every alloy of the table, in its order."""
    return read_table("alloys", AlloyTable).alloy


def unknown_names() -> list[str]:
    """The names for metal nobody has identified."""
    return [row.name for row in read_table("alloys", AlloyTable).unknown]


def _plain(name: str) -> str:
    bare = re.sub(r"[\s_]", "", _TEMPER.sub("", name.strip())).upper().replace(",", ".")
    return re.sub(r"^(EN)?-?(AW|AC|AA)?-?", "", bare)


@cache
def _by_name() -> dict[str, Alloy]:
    table = read_table("alloys", AlloyTable)
    # The American name wins where an EN number near it is the same word.
    found = {_plain(name): alloy for alloy in table.alloy for name in (*alloy.also, alloy.en)} | {
        _plain(alloy.name): alloy for alloy in table.alloy
    }
    # Founders leave the letter of the purer casting out.
    found.setdefault("356", found["A356"])
    for row in table.unknown:
        stand_in = found[_plain(row.stand_in)]
        found[_plain(row.name)] = stand_in.model_copy(update={"stands_in_for": row.name})
    return found


@cache
def find_alloy(name: str, field: str = "alloy") -> Alloy:
    """The alloy of that name: American, EN, chemical or material number, with or without prefix and temper,
    or an unknown's stand-in.

    >>> find_alloy("EN AW-6082-T6").name, find_alloy("unknown casting").name
    ('6082', 'A356')
    >>> find_alloy("AlMg4,5Mn").name, find_alloy("3.3535").name
    ('5083', '5754')
    """
    found = _by_name().get(_plain(name))
    if found is None:
        known = ", ".join([alloy.name for alloy in alloys()] + unknown_names())
        raise BadInput.one(field, name, f"known alloys are {known}")
    return found
