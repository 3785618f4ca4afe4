"""The rows of a series' sheet as they were typed, with the figures of pictures where nothing was."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace

from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.trials import Series
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.store import attachments
from anvilsong.store.bench_trials import RanRow
from anvilsong.web import measuring
from anvilsong.web.forms import field_of
from anvilsong.web.pages.coupon_page import as_typed, looks_from_form, typed_words
from anvilsong.web.requests import whole

COUPON: dict[UnitSystem, str] = {"mm": "100 mm", "inch": "4 in"}
MOST_OF_A_RUN = 9


def ran_rows(
    session: Session, job_id: int, series: Series, form: Mapping[str, str], system: UnitSystem
) -> list[RanRow]:
    """Every row that says something.

    Raises
    ------
    BadInput : rows that cannot be read, every field named; or none that says anything
    """
    problems, rows, taken = list[Problem](), list[RanRow](), set[int]()
    for place, start, typed in _said(series, form):
        picture = whole(typed.pop("photograph", ""))
        if picture in taken:
            problems.append(Problem(f"{start}photograph", str(picture), sentence("web.picture_once")))
            continue
        taken |= {picture} if picture else set()
        read = _of_picture(session, job_id, picture, system)
        typed = {"length_mm": COUPON[system]} | read | {name: text for name, text in typed.items() if text}
        try:
            looks = looks_from_form(typed, system)
        except BadInput as trouble:
            problems += [replace(one, field=f"{start}{field_of(one)}") for one in trouble.problems]
        else:
            rows.append(RanRow(place, looks, typed_words(typed, system), picture))
    if problems:
        raise BadInput(*problems)
    if not rows:
        raise BadInput.one("r1_1_bead_width_mm", "nothing", sentence("web.type_least_one_row"))
    return rows


def _said(series: Series, form: Mapping[str, str]) -> Iterator[tuple[int, str, dict[str, str]]]:
    """The rows in which something stands: the place of the run, how its fields begin, and what was typed."""
    for place in range(len(series.runs)):
        for number in range(1, MOST_OF_A_RUN + 1):
            start = f"r{place + 1}_{number}_"
            typed = {
                name.removeprefix(start): text.strip()
                for name, text in form.items()
                if name.startswith(start)
            }
            if any(text for name, text in typed.items() if name != "length_mm"):
                yield place, start, typed


def _of_picture(session: Session, job_id: int, picture: int | None, system: UnitSystem) -> dict[str, str]:
    """The figures of a photograph that no coupon has yet, as a person would type them."""
    row = attachments.find_attachment(session, job_id, picture) if picture else None
    if row is None or row.coupon_id is not None or row.part_run_id is not None:
        return {}
    return {name: as_typed(value, "length", system) for name, value in measuring.typed_from(row).items()}
