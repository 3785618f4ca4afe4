"""The heavy work itself, as functions of plain values: read when first asked, in the process that does it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from anvilsong.core.coefficients import Coefficients
    from anvilsong.core.flow import SoundReading, TracePicture, TraceReading
    from anvilsong.core.job import Job
    from anvilsong.core.settings import Settings
    from anvilsong.core.warming import PartDrawing, PartResult
    from anvilsong.instruments import Camera, Coupon, Picture
    from anvilsong.instruments.bead_values import BeadOnPicture, Edges
    from anvilsong.instruments.marks import Marks
    from anvilsong.instruments.outlines import Drawing
    from anvilsong.store.exchange_taking import Imported
    from anvilsong.store.export_jobs import Written
    from anvilsong.store.places import Place
    from anvilsong.store.sheets.columns import Kind
    from anvilsong.store.sheets.files import Form, Sheet


def open_picture(data: bytes) -> Picture:
    """A picture as it is kept."""
    from anvilsong.instruments import open_picture

    return open_picture(data)


def photograph_coupon(coupon: Coupon, camera: Camera, seed: int) -> bytes:
    """What a simulated camera sees of a simulated coupon, as JPEG."""
    from anvilsong.instruments import jpeg_of, photograph

    return jpeg_of(photograph(coupon, camera, seed).pixels)


def measure(content: bytes, marks: Marks, edges: Edges | None) -> BeadOnPicture:
    """What is on a kept picture, between these edges or those that are found."""
    from anvilsong.instruments import by_hand, pixels_of, read_bead

    pixels = pixels_of(content)
    return read_bead(pixels, marks) if edges is None else by_hand(pixels, marks, edges)


def read_outlines(data: bytes, name: str, wide_mm: float | None = None) -> Drawing:
    """The closed lines of a drawing."""
    from anvilsong.instruments import read_outlines

    return read_outlines(data, name, wide_mm)


def read_current(
    data: bytes, amps_per_unit: float | None, rate_hz: float | None, zero: float | None
) -> tuple[TraceReading, TracePicture]:
    """What flows in a trace, and what a page draws of it. ``zero``: what the file's own numbers are where no
    current flows.
    """
    from anvilsong.instruments.trace import drawn_trace, open_recording

    recording = open_recording(data, amps_per_unit, rate_hz)
    return drawn_trace(recording, None if zero is None else zero * recording.amps_per_number)


def read_recording(data: bytes) -> SoundReading:
    """What is heard of an arc in a sound file."""
    from anvilsong.instruments.sound import open_sound, read_sound

    return read_sound(open_sound(data))


def weld(
    job: Job, settings: Settings, c: Coefficients, drawing: PartDrawing, and_others: bool
) -> tuple[PartResult, bytes] | None:
    """A part welded with a job's settings, and its film, packed; None where somebody stopped it."""
    from anvilsong.core.model import situation
    from anvilsong.core.warming.whole import weld_part
    from anvilsong.store.heat_runs import packed
    from anvilsong.work.inside import StoppedInside, progress

    try:
        result, film = weld_part(situation(job), settings, c, drawing, progress, and_others)
    except StoppedInside:
        return None
    return result, packed(film)


def export_book(place: Place, target: Path) -> Written:
    """Everything in the book at ``place`` as JSON in a file."""
    from anvilsong.store.database import sessions
    from anvilsong.store.databases import make_engine
    from anvilsong.store.export import export_to

    engine = make_engine(place)
    try:
        with sessions(engine)() as session:
            return export_to(session, target)
    finally:
        engine.dispose()


def export_growing(place: Path, target: Path) -> Written:
    """The same into a file that somebody reads while it grows."""
    from anvilsong.store.database import sessions
    from anvilsong.store.databases import make_engine
    from anvilsong.store.export import write_book
    from anvilsong.store.files import make_private

    engine = make_engine(place)
    try:
        with sessions(engine)() as session, make_private(target).open("w", encoding="utf-8") as out:
            return write_book(session, out)
    finally:
        engine.dispose()


def import_book(place: Place, file: Path, only_look: bool = False, as_seen: str | None = None) -> Imported:
    """An export into the book at ``place``, or what would come of it."""
    from anvilsong.store.database import sessions
    from anvilsong.store.databases import make_engine
    from anvilsong.store.exchange import import_from

    engine = make_engine(place)
    try:
        return import_from(sessions(engine), file, only_look, as_seen)
    finally:
        engine.dispose()


def write_sheet(place: Place, kind: Kind, form: Form, target: Path) -> int:
    """A table of the book at ``place`` in a file; how many rows it has."""
    from anvilsong.store.database import existing_database, sessions
    from anvilsong.store.sheets import write_sheet

    engine = existing_database(place)
    try:
        with sessions(engine)() as session:
            return write_sheet(session, kind, form, target)
    finally:
        engine.dispose()


def read_sheet(path: Path) -> Sheet:
    """A table that somebody sent."""
    from anvilsong.store.sheets import read_sheet

    return read_sheet(path)
