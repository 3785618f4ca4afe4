"""What is sent to a worker and back, as JSON: each task says what it takes and gives, and nothing else is
read.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from functools import cache
from pathlib import Path
from typing import Any

from pydantic import ConfigDict, TypeAdapter

from anvilsong.core.errors import AnvilsongError, BadInput, CannotRead, Problem
from anvilsong.core.said import Words
from anvilsong.work.limits import Ended

_AS_JSON = ConfigDict(
    ser_json_bytes="base64",
    val_json_bytes="base64",
    ser_json_inf_nan="constants",
    arbitrary_types_allowed=True,
)


class Local(Enum):
    """What is not sent as a value."""

    LOGBOOK = "logbook"
    """The place of the logbook: the worker has its own."""
    SENT = "sent"
    """A file that is sent to the worker."""
    MADE = "made"
    """A file that the worker makes and sends back."""


@dataclass(frozen=True)
class Sending:
    """What a task takes, in its order, and what it gives."""

    takes: tuple[Any, ...]
    gives: Any


@cache
def sendings() -> dict[str, Sending]:
    """Every task that a worker does, by its function's name in `work.tasks`."""
    from anvilsong.core.coefficients import Coefficients
    from anvilsong.core.flow import SoundReading, TracePicture, TraceReading
    from anvilsong.core.job import Job
    from anvilsong.core.settings import Settings
    from anvilsong.core.warming import PartDrawing, PartResult
    from anvilsong.instruments import Camera, Coupon, Picture
    from anvilsong.instruments.bead_values import BeadOnPicture, Edges
    from anvilsong.instruments.marks import Marks
    from anvilsong.store.exchange_taking import Imported
    from anvilsong.store.export_jobs import Written
    from anvilsong.store.sheets.columns import Kind
    from anvilsong.store.sheets.files import Form, Sheet

    drawing = tuple[list[tuple[list[list[float]], bool]], list[Words]]
    return {
        "open_picture": Sending((bytes,), Picture),
        "photograph_coupon": Sending((Coupon, Camera, int), bytes),
        "measure": Sending((bytes, Marks, Edges | None), BeadOnPicture),
        "read_outlines": Sending((bytes, str, float | None), drawing),
        "read_current": Sending(
            (bytes, float | None, float | None, float | None), tuple[TraceReading, TracePicture]
        ),
        "read_recording": Sending((bytes,), SoundReading),
        "weld": Sending((Job, Settings, Coefficients, PartDrawing, bool), tuple[PartResult, bytes] | None),
        "export_book": Sending((Local.LOGBOOK, Local.MADE), Written),
        "import_book": Sending((Local.LOGBOOK, Local.SENT, bool, str | None), Imported),
        "write_sheet": Sending((Local.LOGBOOK, Kind, Form, Local.MADE), int),
        "read_sheet": Sending((Local.SENT,), Sheet),
    }


@cache
def _adapter(*kinds: Any) -> TypeAdapter[tuple[Any, ...]]:
    """Reads and writes values of some kinds as a list."""
    listed: Any = tuple.__class_getitem__(kinds)
    return TypeAdapter(listed, config=_AS_JSON)


def _taken(name: str, count: int) -> TypeAdapter[Any]:
    """The values of the first so many things that a task takes."""
    return _adapter(*(kind for kind in sendings()[name].takes[:count] if not isinstance(kind, Local)))


def given_json(name: str, given: tuple[Any, ...]) -> str:
    """What a task was given, but for files and the place of the logbook."""
    takes = sendings()[name].takes
    values = tuple(value for kind, value in zip(takes, given, strict=False) if not isinstance(kind, Local))
    return _taken(name, len(given)).dump_json(values, by_alias=True).decode()


def read_given(name: str, count: int, text: str, local: dict[Local, Any]) -> list[Any]:
    """What a task is given where it is done: values from their JSON, and what is there in their places."""
    values = iter(_taken(name, count).validate_json(text))
    takes = sendings()[name].takes[:count]
    return [local[kind] if isinstance(kind, Local) else next(values) for kind in takes]


def files_of(name: str, given: tuple[Any, ...]) -> dict[Local, Path]:
    """The files among what a task was given."""
    takes = sendings()[name].takes
    pairs = zip(takes, given, strict=False)
    return {kind: value for kind, value in pairs if kind in (Local.SENT, Local.MADE)}


def found_json(name: str, found: Any) -> str:
    """What a task gave."""
    if name == "read_outlines":
        found = ([(each.corners.tolist(), each.is_hole) for each in found.outlines], found.said)
    return _adapter(sendings()[name].gives).dump_json((found,), by_alias=True).decode()


def read_found(name: str, text: str) -> Any:
    """What a task gave, from its JSON."""
    (found,) = _adapter(sendings()[name].gives).validate_json(text)
    if name != "read_outlines":
        return found
    import numpy as np

    from anvilsong.instruments.outlines import Drawing, Outline

    outlines, said = found
    return Drawing([Outline(np.array(corners, float), is_hole) for corners, is_hole in outlines], said)


_REFUSAL = (str, list[tuple[str, Words]])


def refusal_json(refused: AnvilsongError) -> str:
    """What a task refused, so that it is raised where it was asked for as it was raised there."""
    if isinstance(refused, BadInput):
        kind, said = "input", [(f"{each.field}\n{each.given}", each.allowed) for each in refused.problems]
    elif isinstance(refused, CannotRead):
        kind, said = "read", [("", refused.what), ("", refused.why)]
    else:
        kind, said = "ended" if isinstance(refused, Ended) else "", [("", refused.words)]
    return _adapter(*_REFUSAL).dump_json((kind, said)).decode()


def read_refusal(text: str) -> AnvilsongError:
    """What a task refused, from its JSON."""
    kind, said = _adapter(*_REFUSAL).validate_json(text)
    if kind == "input":
        named = ((*name.partition("\n"), words) for name, words in said)
        return BadInput(*(Problem(field, given, words) for field, _, given, words in named))
    if kind == "read":
        return CannotRead(said[0][1], said[1][1])
    return (Ended if kind == "ended" else AnvilsongError)(said[0][1])
