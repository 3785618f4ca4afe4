"""The kit as its form shows it, in chips and rows, and the kit that a form says.

A chip is a field of its own: ``tungsten WLa 20 2.4``, ``cup 7``, ``lens 8``, ``rod 2.4``, ``filler 4043``.
A row of torches or
cylinders is numbered: ``torch0_name``, ``torch0_rated_a`` …; a row without a name is no row, a row ticked
as gone is left out.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.metal.fillers import fillers
from anvilsong.core.quantities import parse
from anvilsong.core.shown import figure
from anvilsong.core.torch.cup import CUP_NUMBERS, LENS_CUP_NUMBERS
from anvilsong.core.torch.kit import Kit
from anvilsong.core.torch.tungsten import tungsten_classes, tungsten_sizes
from anvilsong.core.units import Dimension, UnitSystem
from anvilsong.core.words import sentence
from anvilsong.web.requests import whole

ROD_SIZES_MM = (0.8, 1.0, 1.2, 1.6, 2.0, 2.4, 3.2, 4.0, 4.8)
SPARE_ROWS, MOST_ROWS = 2, 24
L_PER_CUBIC_FOOT = 28.3168
# What the core calls a field of a row, and what the form calls it.
TORCH_FIELDS = {"cooling": "cooling", "rated_a": "rated_a", "rated_duty": "rated_duty", "hose_m": "hose"}
CYLINDER_FIELDS = {"full_bar": "full", "helium_share": "helium", "price": "price"}
_FORM_NAMES = TORCH_FIELDS | CYLINDER_FIELDS | {"volume_l": "volume"}


def choices(kit: Kit | None = None) -> dict[str, Any]:
    """What there is to tick, with whatever unusual things the kit has."""
    mine = kit or Kit()
    rods = sorted({*ROD_SIZES_MM, *mine.rods_mm})
    names = [filler.name for filler in fillers()]
    return {
        "classes": tungsten_classes(),
        "sizes": [size.diameter_mm for size in tungsten_sizes()],
        "cups": sorted({*CUP_NUMBERS, *mine.cups}),
        "lens_cups": sorted({*LENS_CUP_NUMBERS, *mine.lens_cups}),
        "rods": rods,
        "fillers": [*names, *(name for name in mine.fillers or () if name not in names)],
    }


def form_of_kit(kit: Kit, system: UnitSystem = "mm") -> dict[str, str]:
    """A kit as its form shows it, in the reader's units."""
    ticked = [
        *(f"tungsten {item.class_} {item.diameter_mm:g}" for item in kit.tungstens),
        *(f"cup {number}" for number in kit.cups),
        *(f"lens {number}" for number in kit.lens_cups),
        *(f"rod {size:g}" for size in kit.rods_mm),
        *(f"filler {name}" for name in kit.fillers or ()),
    ]
    form = dict.fromkeys(ticked, "1") | {
        "name": kit.name,
        "cooler": kit.cooler,
        "chill_blocks": str(kit.chill_blocks),
        "rod_price_kg": _price(kit.rod_price_kg, system),
        "currency": kit.currency,
    }
    for n, torch in enumerate(kit.torches):
        form |= {
            f"torch{n}_name": torch.name,
            f"torch{n}_cooling": torch.cooling,
            f"torch{n}_rated_a": f"{torch.rated_a:g}",
            f"torch{n}_rated_duty": f"{torch.rated_duty * 100:g}",
            f"torch{n}_hose": f"{torch.hose_m:g}" if system == "mm" else f"{torch.hose_m / 0.3048:.4g}",
        }
    for n, bottle in enumerate(kit.cylinders):
        gas_cf = bottle.volume_l * bottle.full_bar / L_PER_CUBIC_FOOT
        form |= {
            f"cylinder{n}_name": bottle.name,
            f"cylinder{n}_volume": f"{bottle.volume_l:g}" if system == "mm" else f"{gas_cf:.0f}",
            f"cylinder{n}_full": figure(bottle.full_bar, "pressure", system),
            f"cylinder{n}_helium": f"{bottle.helium_share * 100:g}",
            f"cylinder{n}_price": f"{bottle.price:g}",
        }
    return form


def _price(per_kg: float, system: UnitSystem) -> str:
    return f"{per_kg:g}" if system == "mm" else f"{per_kg * 0.453592:.4g}"


def rows_of(form: dict[str, str], kind: str) -> list[int]:
    """The rows of a kind that the form has, and empty ones to fill."""
    filled = [n for n in range(MOST_ROWS) if form.get(f"{kind}{n}_name", "").strip()]
    last = max(filled, default=-1)
    return [*filled, *range(last + 1, min(last + 1 + SPARE_ROWS, MOST_ROWS))]


def kit_from_form(form: dict[str, str], system: UnitSystem = "mm", was: Kit | None = None) -> Kit:
    """The kit that the form says.

    Parameters
    ----------
    form : the fields, as typed
    system : the units that bare numbers are in
    was : the kit the form was made from: what stands as it was shown keeps its exact value

    Raises
    ------
    BadInput : one problem a field, under the field's name in the form
    """
    reading = _Reading(form, system, was)
    torches = [reading.torch(n) for n in reading.rows("torch")]
    cylinders = [reading.cylinder(n) for n in reading.rows("cylinder")]
    price = reading.number("rod_price_kg", "number", 0.0)
    given = {
        "name": form.get("name", "").strip(),
        "tungstens": reading.tungstens(),
        "cups": reading.ticked("cup", int),
        "lens_cups": reading.ticked("lens", int),
        "rods_mm": sorted(reading.ticked("rod", float)),
        "fillers": reading.ticked("filler", str) or None,
        "torches": torches,
        "cylinders": cylinders,
        "cooler": form.get("cooler", "on"),
        "chill_blocks": reading.count("chill_blocks"),
        "rod_price_kg": reading.exact("rod_price_kg", price if system == "mm" else price / 0.453592),
        "currency": form.get("currency", "").strip(),
    }
    if reading.problems:
        raise BadInput(*reading.problems)
    try:
        return validated(Kit, given, system)
    except BadInput as trouble:
        raise BadInput(*map(reading.in_form, trouble.problems)) from trouble


class _Reading:
    """One reading of a form, which gathers what cannot be read."""

    def __init__(self, form: dict[str, str], system: UnitSystem, was: Kit | None) -> None:
        self.form, self.system = form, system
        self.problems: list[Problem] = []
        self.shown = form_of_kit(was, system) if was else {}
        self.was = _exact_values(was) if was else {}
        self.taken: dict[str, list[int]] = {}

    def rows(self, kind: str) -> list[int]:
        found = [
            n for n in rows_of(self.form, kind)
            if self.form.get(f"{kind}{n}_name", "").strip() and not self.form.get(f"{kind}{n}_gone")
        ]  # fmt: skip
        for n in range(MOST_ROWS):
            nameless = not self.form.get(f"{kind}{n}_name", "").strip()
            first = "rated_a" if kind == "torch" else "volume"
            if nameless and self.form.get(f"{kind}{n}_{first}", "").strip():
                self.problems.append(
                    Problem(f"{kind}{n}_name", "nothing", sentence("web.give_name_empty_row"))
                )
        self.taken[kind] = found
        return found

    def ticked(self, kind: str, make: Callable[[str], Any]) -> list[Any]:
        found = []
        for name in self.form:
            if name.startswith(kind + " "):
                try:
                    found.append(make(name.removeprefix(kind + " ")))
                except ValueError:
                    self.problems.append(
                        Problem(kind, f"“{name[:40]}”", sentence("web.tick_one_sizes_shown"))
                    )
        return found

    def tungstens(self) -> list[dict[str, Any]]:
        found = []
        for words in self.ticked("tungsten", str):
            name, _, size = words.rpartition(" ")
            try:
                found.append({"class": name, "diameter_mm": float(size)})
            except ValueError:
                self.problems.append(
                    Problem("tungstens", f"“{words[:40]}”", sentence("web.tick_one_sizes_shown"))
                )
        return found

    def number(self, field: str, dimension: Dimension, empty: float | None = None) -> float:
        text = self.form.get(field, "").strip()
        if not text and empty is not None:
            return empty
        try:
            return self.exact(field, parse(text, dimension, field, self.system))
        except BadInput as trouble:
            self.problems.extend(trouble.problems)
            return 1.0

    def exact(self, field: str, otherwise: float) -> float:
        """What stands as it was shown is what it was, without the rounding of the figures."""
        same = field in self.was and self.form.get(field) == self.shown.get(field)
        return self.was[field] if same else otherwise

    def count(self, field: str) -> int:
        text = self.form.get(field, "").strip()
        number = whole(text or "0")
        if number is None:
            self.problems.append(Problem(field, f"“{text[:40]}”", sentence("web.type_whole_number_such")))
        return number or 0

    def row(self, kind: str, n: int, names: dict[str, str]) -> dict[str, Any]:
        """A row as typed, its empty fields left out; what stands as it was shown is the value it was."""
        given: dict[str, Any] = {"name": self.form[f"{kind}{n}_name"].strip()}
        for name, short in names.items():
            field = f"{kind}{n}_{short}"
            if field in self.was and self.form.get(field) == self.shown.get(field):
                given[name] = self.was[field]
            elif typed := self.form.get(field, "").strip():
                given[name] = typed
        return given

    def torch(self, n: int) -> dict[str, Any]:
        return self.row("torch", n, TORCH_FIELDS)

    def cylinder(self, n: int) -> dict[str, Any]:
        full = self.number(f"cylinder{n}_full", "pressure", 200.0)
        return self.row("cylinder", n, CYLINDER_FIELDS) | {
            "volume_l": self._volume(f"cylinder{n}_volume", full)
        }

    def _volume(self, field: str, full_bar: float) -> float:
        """The water volume, L. Cubic feet name the gas a full cylinder gives, as cylinders are sold where
        feet are used.
        """
        text = self.form.get(field, "").strip()
        bare = text.replace(".", "", 1).replace(",", "", 1).isdecimal()
        feet = (bare and self.system == "inch") or "f" in text.lower()
        try:
            volume = parse(f"{text} cf" if bare and feet else text, "volume", field, self.system)
        except BadInput as trouble:
            self.problems.extend(trouble.problems)
            return 1.0
        return self.exact(field, volume / full_bar if feet else volume)

    def in_form(self, problem: Problem) -> Problem:
        """A problem of the kit under the name its field has in the form."""
        place = problem.field.split(".")
        kind = {"torches": "torch", "cylinders": "cylinder"}.get(place[0])
        if kind is None or len(place) < 3 or not place[1].isdecimal():
            return problem
        row = self.taken[kind][int(place[1])]
        return Problem(f"{kind}{row}_{_FORM_NAMES.get(place[2], place[2])}", problem.given, problem.allowed)


def _exact_values(kit: Kit) -> dict[str, float]:
    values = {"rod_price_kg": kit.rod_price_kg}
    for n, torch in enumerate(kit.torches):
        values |= {
            f"torch{n}_rated_a": torch.rated_a,
            f"torch{n}_rated_duty": torch.rated_duty,
            f"torch{n}_hose": torch.hose_m,
        }
    for n, bottle in enumerate(kit.cylinders):
        values |= {
            f"cylinder{n}_volume": bottle.volume_l,
            f"cylinder{n}_full": bottle.full_bar,
            f"cylinder{n}_helium": bottle.helium_share,
            f"cylinder{n}_price": bottle.price,
        }
    return values
