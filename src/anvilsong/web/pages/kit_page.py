"""Kit: what stands on the shelf, typed a line a thing; and the log of gauge readings."""

from __future__ import annotations

import re
from typing import Any

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.job import validated
from anvilsong.core.quantities import parse
from anvilsong.core.torch.kit import Kit
from anvilsong.store import shop
from anvilsong.store.models import KitRow
from anvilsong.store.reading import digest, readable
from anvilsong.web.frame import render, see_other, units
from anvilsong.web.requests import Fields, RowId, found, own_address, whole

router = APIRouter(include_in_schema=False)

HINTS = {
    "tungstens": "a line a class: WLa 20: 1.6, 2.4, 3.2",
    "cups": "4, 5, 6, 7, 8",
    "lens_cups": "6, 7, 8, 10",
    "rods_mm": "1.6, 2.4, 3.2",
    "fillers": "4043, 5356",
    "torches": "a line a torch: name; water or air; 260 A; 100 %; 8 m of hose",
    "cylinders": "a line a cylinder: name; 50 L; 200 bar; helium 0 %; price 110",
}


def kit_text(kit: Kit) -> dict[str, str]:
    """A kit as its form shows it."""
    by_class: dict[str, list[str]] = {}
    for item in kit.tungstens:
        by_class.setdefault(item.class_, []).append(f"{item.diameter_mm:g}")
    return {
        "name": kit.name,
        "tungstens": "\n".join(f"{name}: {', '.join(sizes)}" for name, sizes in by_class.items()),
        "cups": ", ".join(map(str, kit.cups)),
        "lens_cups": ", ".join(map(str, kit.lens_cups)),
        "rods_mm": ", ".join(f"{rod:g}" for rod in kit.rods_mm),
        "fillers": ", ".join(kit.fillers or ()),
        "torches": "\n".join(
            f"{t.name}; {t.cooling}; {t.rated_a:g} A; {t.rated_duty * 100:g} %; {t.hose_m:g} m"
            for t in kit.torches
        ),
        "cylinders": "\n".join(
            f"{c.name}; {c.volume_l:g} L; {c.full_bar:g} bar; helium {c.helium_share * 100:g} %; price {c.price:g}"
            for c in kit.cylinders
        ),
        "cooler": kit.cooler,
        "chill_blocks": str(kit.chill_blocks),
        "rod_price_kg": f"{kit.rod_price_kg:g}",
        "currency": kit.currency,
    }


def kit_from_text(form: dict[str, str]) -> Kit:
    """The kit that was typed.

    Raises
    ------
    BadInput : for each line that cannot be read, with its field
    """
    problems: list[Problem] = []

    def read(field: str, reader: Any) -> Any:
        try:
            return reader(form.get(field, ""))
        except BadInput as trouble:
            problems.extend(trouble.problems)
        except (ValueError, IndexError, OverflowError):
            problems.append(
                Problem(field, f"“{form.get(field, '')[:40]}”", f"type it as {HINTS.get(field, 'a number')}")
            )
        return None

    def numbers(text: str) -> list[float]:
        return [
            float(part.replace(",", "."))
            for part in re.split(r"[;,\s]+(?![^,;\s]*mm\b)", text.replace("mm", " ").strip())
            if part
        ]

    given = {
        "name": form.get("name", "").strip(),
        "tungstens": read("tungstens", _tungstens),
        "cups": read("cups", lambda text: [int(n) for n in numbers(text)]),
        "lens_cups": read("lens_cups", lambda text: [int(n) for n in numbers(text)]),
        "rods_mm": read("rods_mm", numbers),
        "fillers": [part for part in re.split(r"[;,\s]+", form.get("fillers", "").strip()) if part] or None,
        "torches": read("torches", _torches),
        "cylinders": read("cylinders", _cylinders),
        "cooler": form.get("cooler", "on"),
        "chill_blocks": read("chill_blocks", lambda text: int(text or 0)),
        "rod_price_kg": read("rod_price_kg", lambda text: float((text or "0").replace(",", "."))),
        "currency": form.get("currency", "").strip(),
    }
    if problems:
        raise BadInput(*problems)
    return validated(Kit, given)


def _lines(text: str) -> list[str]:
    return [line.strip() for line in text.splitlines() if line.strip()]


def _tungstens(text: str) -> list[dict[str, Any]]:
    found = []
    for line in _lines(text):
        name, _, sizes = line.partition(":")
        found += [
            {"class": name.strip(), "diameter_mm": round(parse(size.strip(), "length", "tungstens"), 1)}
            for size in sizes.split(",")
            if size.strip()
        ]
    return found


def _torches(text: str) -> list[dict[str, Any]]:
    found = []
    for line in _lines(text):
        name, cooling, amps, duty, hose = (part.strip() for part in line.split(";"))
        found.append({
            "name": name,
            "cooling": cooling,
            "rated_a": parse(amps, "current", "torches"),
            "rated_duty": parse(duty, "share", "torches"),
            "hose_m": parse(hose.removesuffix("of hose").strip(), "length", "torches") / (1000 if hose.rstrip().endswith("m") else 1),
        })  # fmt: skip
    return found


def _cylinders(text: str) -> list[dict[str, Any]]:
    found = []
    for line in _lines(text):
        parts = [part.strip() for part in line.split(";")]
        helium = parts[3].removeprefix("helium").strip() if len(parts) > 3 else "0 %"
        price = parts[4].removeprefix("price").strip() if len(parts) > 4 else "0"
        found.append({
            "name": parts[0],
            "volume_l": parse(parts[1], "volume", "cylinders"),
            "full_bar": parse(parts[2], "pressure", "cylinders"),
            "helium_share": parse(helium, "share", "cylinders"),
            "price": float(price.replace(",", ".")),
        })  # fmt: skip
    return found


def _page(
    request: Request, session: Session, form: dict[str, str], trouble: BadInput | None = None
) -> HTMLResponse:
    problems = {problem.field.split(".")[0]: problem for problem in trouble.problems} if trouble else {}
    rows = shop.rows(session, KitRow)
    stock = [(row, kit) for row in rows if (kit := readable(Kit, row.document))]
    logs = {
        cylinder.name: shop.gauge_log(session, cylinder.name)
        for _, kit in stock
        for cylinder in kit.cylinders
    }
    # After a clash the form carries what stands there now: saving it again is then meant.
    here = session.get(KitRow, whole(form.get("kit_id"))) if whole(form.get("kit_id")) else None
    form = form | {"seen": digest(here.document) if here else ""}
    return render(
        request,
        "kit.html",
        422 if trouble else 200,
        form=form,
        problems=problems,
        trouble=trouble,
        kits=stock,
        hints=HINTS,
        logs=logs,
        here="shop",
    )


@router.get("/shop/kit", response_class=HTMLResponse)
def show_first_kit(request: Request) -> Response:
    """The first kit of the shop, or the form for one."""
    with request.app.state.sessions() as session:
        rows = shop.rows(session, KitRow)
    return see_other(f"/shop/kits/{rows[0].id}" if rows else "/shop/kits/new")


@router.get("/shop/kits/new", response_class=HTMLResponse)
def new_kit(request: Request) -> HTMLResponse:
    with request.app.state.sessions() as session:
        return _page(request, session, kit_text(Kit()) | {"name": "" if shop.kits(session) else "Bench kit"})


@router.get("/shop/kits/{kit_id}", response_class=HTMLResponse)
def show_kit(request: Request, kit_id: RowId) -> HTMLResponse:
    with request.app.state.sessions() as session:
        row = found(session.get(KitRow, kit_id))
        kit = readable(Kit, row.document) or Kit(name=row.name)
        return _page(request, session, kit_text(kit) | {"kit_id": str(row.id)})


@router.post("/shop/kits")
def save_kit(request: Request, form: Fields) -> Response:
    make = request.app.state.sessions
    try:
        with make.begin() as session:
            kit = kit_from_text(form)
            row = found(session.get(KitRow, whole(form["kit_id"]))) if whole(form.get("kit_id")) else None
            kept = shop.save_kit(session, kit, row, form.get("seen") or None).id
    except BadInput as trouble:
        with make() as session:
            return _page(request, session, form, trouble)
    return see_other(f"/shop/kits/{kept}")


@router.post("/shop/gauge")
def record_gauge(request: Request, form: Fields) -> Response:
    with request.app.state.sessions.begin() as session:
        kit = shop.find_kit(session, form.get("kit") or None)
        cylinder = next((item for item in kit.cylinders if item.name == form.get("cylinder")), None)
        if cylinder is None:
            raise BadInput.one("cylinder", form.get("cylinder", ""), "take one of the kit's cylinders")
        shop.read_gauge(
            session,
            cylinder,
            parse(form.get("bar", ""), "pressure", "bar", units(request)),
            form.get("note", ""),
        )
    return see_other(own_address(form.get("back", ""), "/shop/kit"))
