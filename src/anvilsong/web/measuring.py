"""Photographs between the pages, the readers and the store: taken in, measured, said in words."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from sqlalchemy.orm import Session

from anvilsong.core import say
from anvilsong.core.errors import BadInput
from anvilsong.core.said import Words
from anvilsong.core.shown import percent, show
from anvilsong.core.units import UnitSystem
from anvilsong.core.words import sentence
from anvilsong.instruments.bead_values import BeadOnPicture, Edges
from anvilsong.instruments.marks import Marks
from anvilsong.store import attachments
from anvilsong.store.columns import Document
from anvilsong.store.models import AttachmentRow
from anvilsong.store.reading import readable
from anvilsong.web.heavy import done_now
from anvilsong.web.job_view import JobView
from anvilsong.work import PICTURES, Ended, tasks

# The readers bring scientific libraries along, which only these pages need: they are read when first asked.
if TYPE_CHECKING:
    from anvilsong.instruments import Picture

FIGURES = {
    "bead_width": ("Bead width", "bead_width_mm"),
    "border_left": ("Border, left", "border_left_mm"),
    "border_right": ("Border, right", "border_right_mm"),
    "ripple_pitch": ("Ripple spacing", "ripple_pitch_mm"),
}
GIVES = ("bead_width_mm", "border_left_mm", "border_right_mm")
USUAL_REACH_MM = 12.0
USUAL_KNOWN_MM: dict[UnitSystem, float] = {"mm": 50.0, "inch": 50.8}
USUAL_KNOWN: dict[UnitSystem, str] = {"mm": "50 mm", "inch": "2 in"}


def taken_in(data: bytes) -> Picture:
    """A picture from a form, as it is kept.

    Raises
    ------
    BadInput : it is none that is kept
    HTTPException : 503, others wait to be read
    """
    try:
        picture: Picture = done_now(PICTURES, tasks.open_picture, data)
    except Ended as ended:
        raise BadInput.one(
            "photograph", "this picture", sentence("web.one_can_opened", ended=ended)
        ) from None
    return picture


def measured(content: bytes, marks: Marks, edges: Edges | None, page: str) -> BeadOnPicture:
    """What is on a kept picture, between these edges or those that are found. ``page``: what the same page
    asked before, and nobody has begun, gives way.

    Raises
    ------
    HTTPException : 503, others wait to be read; 409, the page asked again meanwhile
    """
    bead: BeadOnPicture = done_now(PICTURES, tasks.measure, content, marks, edges, page=page)
    return bead


def bead_of(row: AttachmentRow) -> BeadOnPicture | None:
    """What was measured on a photograph; None before."""
    found = row.document.get("bead")
    return readable(BeadOnPicture, found) if isinstance(found, dict) else None


def size_of(row: AttachmentRow) -> tuple[int, int]:
    """Width and height of a picture, px; a usual size where what is stored of it is damaged."""
    width, height = (row.document.get(name) for name in ("width_px", "height_px"))
    return (width, height) if isinstance(width, int) and isinstance(height, int) else (1200, 900)


def marked(row: AttachmentRow) -> Marks | None:
    """The marks that a picture begins with, where it was measured before for another bead."""
    found = row.document.get("marks")
    return readable(Marks, found) if isinstance(found, dict) else None


def marks_beside(row: AttachmentRow) -> Document | None:
    """The marks of a measured picture with the line moved over by what it reached, to where the next bead
    may lie; within the picture.
    """
    bead = bead_of(row)
    if bead is None:
        return None
    marks, (_, height) = bead.marks, size_of(row)
    over = 2 * marks.reach_mm * marks.px_per_mm
    middle = sum(y for _, y in marks.line) / len(marks.line)
    down = over if middle + over < 0.95 * height else -over
    line = [(x, min(max(y + down, 0.0), float(height))) for x, y in marks.line]
    moved = readable(Marks, marks.model_dump(mode="json") | {"line": line})
    return None if moved is None else moved.model_dump(mode="json")


def known_text(found: BeadOnPicture | Marks | None, system: UnitSystem) -> str:
    """The known length for its field, to all its places: it is read back from there."""
    if found is None:
        return USUAL_KNOWN[system]
    known = (found.marks if isinstance(found, BeadOnPicture) else found).known_mm
    return f"{known / 25.4:.6g} in" if system == "inch" else f"{known:.6g} mm"


def first_marks(row: AttachmentRow, view: JobView, system: UnitSystem) -> Document:
    """Where the marks lie on a picture that nobody has marked: along its middle, to be dragged."""
    if (before := marked(row)) is not None:
        return before.model_dump(mode="json")
    width, height = size_of(row)
    seen = view.plan.consequences
    reach = USUAL_REACH_MM if seen is None else seen.pool_width_mm / 2 + 2.5 * seen.border_mm + 2
    return {
        "known": [[0.25 * width, 0.8 * height], [0.75 * width, 0.8 * height]],
        "known_mm": USUAL_KNOWN_MM[system],
        "line": [[0.15 * width, 0.5 * height], [0.85 * width, 0.5 * height]],
        "reach_mm": round(min(max(reach, 4.0), 40.0), 1),
    }


def seen_on(bead: BeadOnPicture, system: UnitSystem) -> list[dict[str, Any]]:
    """Each figure in words: what it is, how it spreads, how sure it is."""
    return [_said(key, words, getattr(bead, key), system) for key, (words, _) in FIGURES.items()]


def _said(key: str, words: str, measure: Any, system: UnitSystem) -> dict[str, Any]:
    if measure.value_mm is None:
        return {"key": key, "words": words, "value": "cannot tell", "note": measure.why, "told": False}
    spread = show(measure.spread_mm, "length", system, 2 if system == "mm" else 3)
    notes: list[Words] = [f"± {spread} along the run"]
    if measure.straightness_mm is not None and measure.value_mm > 0:
        share = measure.straightness_mm / measure.value_mm
        notes.append(
            say.joined(
                f"edge wanders {percent(share)}", sentence("web.more_than_speed_arc") if share > 0.15 else ""
            )
        )
    return {
        "key": key,
        "words": words,
        "value": show(measure.value_mm, "length", system),
        "note": say.in_units(say.joined(*notes, by="; "), system),
        "told": True,
    }


def told_edges(bead: BeadOnPicture) -> list[bool]:
    """Which of the four edges count."""
    left, middle, right = (
        measure.value_mm is not None for measure in (bead.border_left, bead.bead_width, bead.border_right)
    )
    return [left, left or middle, right or middle, right]


def places_along(bead: BeadOnPicture) -> list[list[float]]:
    """The line at the edges' places: pixel x, y and how many pixels a millimetre to its right is in x, y."""
    from anvilsong.instruments import beside_line

    return beside_line(bead.marks, bead.edges.along_mm)


def waiting(session: Session, job_id: int) -> list[AttachmentRow]:
    """Photographs of a job that no coupon has yet, oldest first."""
    return attachments.waiting(session, job_id)


def choices(session: Session, job_id: int, system: UnitSystem) -> list[tuple[int, Words]]:
    """Photographs of a job that are measured and that no coupon has, by number, with what they give."""
    found = list[tuple[int, Words]]()
    for row in waiting(session, job_id):
        given = typed_from(row)
        if given:
            shown = [show(given[name], "length", system) for name in GIVES if name in given]
            found.append((row.id, say.joined(f"{row.id}: ", ", ".join(shown))))
    return found


def typed_from(row: AttachmentRow) -> dict[str, float]:
    """What a photograph gives for the coupon's form, mm; what it could not tell is not in it."""
    bead = bead_of(row)
    if bead is None:
        return {}
    values = {field: getattr(bead, key).value_mm for key, (_, field) in FIGURES.items()}
    strays = [
        side.straightness_mm
        for side in (bead.border_left, bead.border_right)
        if side.value_mm is not None and side.straightness_mm is not None
    ]
    values["border_stray_mm"] = max(strays, default=None)
    return {field: round(value, 2) for field, value in values.items() if value is not None}
