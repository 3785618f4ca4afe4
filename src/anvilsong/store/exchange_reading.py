"""The parts of an export file, read as a stream and checked."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any, BinaryIO, TypeVar

import ijson
from ijson.common import ObjectBuilder
from pydantic import BaseModel, ValidationError

from anvilsong.core.complaints import problems_of
from anvilsong.core.errors import BadInput, CannotRead, Problem
from anvilsong.core.words import sentence
from anvilsong.store.earlier_words import words_now
from anvilsong.store.exchange_format import (
    FORMAT,
    MOST_PRACTISED,
    READ_VERSIONS,
    CalibrationEntry,
    GaugeEntry,
    JobEntry,
    KitEntry,
    MachineEntry,
    MachineTrialEntry,
    PracticeEntry,
    RecipeEntry,
    TrialEntry,
    WelderEntry,
)

Entry = TypeVar("Entry", bound=BaseModel)
LISTS: dict[str, type[BaseModel]] = {
    "machines": MachineEntry,
    "kits": KitEntry,
    "gauge_readings": GaugeEntry,
    "fault_trials": TrialEntry,
    "calibrations": CalibrationEntry,
    "machine_trials": MachineTrialEntry,
    "practice": PracticeEntry,
    "welders": WelderEntry,
    "recipes": RecipeEntry,
    "jobs": JobEntry,
}
MOST_OF_A_LIST = {
    "machines": 500,
    "kits": 500,
    "gauge_readings": 100_000,
    "fault_trials": 100_000,
    "calibrations": 100_000,
    "machine_trials": 10_000,
    "practice": MOST_PRACTISED,
    "welders": 500,
    "recipes": 20_000,
    "jobs": 1_000_000,
}
STREAMED = ("jobs", "photographs")  # read one by one, later
DEEPEST = 40


def check_depth(given: BinaryIO, file: Path) -> None:
    """Read the file once for its form alone: no export lies in itself deeper than this."""
    depth = 0
    for event, _ in ijson.basic_parse(given, use_float=True):
        if event in ("start_map", "start_array"):
            depth += 1
            if depth > DEEPEST:
                raise CannotRead(str(file), sentence("store.lies_itself_deeper_than"))
        elif event in ("end_map", "end_array"):
            depth -= 1
    given.seek(0)


def read_heads(given: BinaryIO, file: Path) -> dict[str, Any]:
    """Everything but the jobs, which come one by one later.

    An export gives its jobs last; as soon as they begin after all else was seen, reading on can stop.
    """
    found: dict[str, Any] = {}
    events = ijson.parse(given, use_float=True)
    kind = next(events, (None, None, None))[1]
    if kind != "start_map":
        raise CannotRead(str(file), sentence("store.does_not_say_format", format=FORMAT))
    key = None
    for prefix, event, value in events:
        if prefix == "" and event == "map_key":
            key = value
            if key == "jobs" and {*LISTS, "format", "version"} - {"jobs"} <= set(found):
                found["jobs"] = True
                break
        elif key in STREAMED:
            found[key] = True
        elif key is not None and prefix == key:
            found[key] = _whole(events, key, event, value)
    if found.get("format") != FORMAT or found.get("version") not in READ_VERSIONS:
        raise CannotRead(
            str(file),
            sentence(
                "store.does_not_say_format_2", format=FORMAT, version=" or ".join(map(str, READ_VERSIONS))
            ),
        )
    missing = [name for name in ("machines", "welders", "jobs") if name not in found]
    if missing:
        raise BadInput.one(missing[0], None, "it must be given")
    for name in set(LISTS) - {"jobs"}:
        if not isinstance(found.get(name, []), list):
            raise BadInput.one(name, found[name], sentence("store.allowed_list_brackets"))
        if len(found.get(name, [])) > MOST_OF_A_LIST[name]:
            raise BadInput.one(
                name,
                len(found[name]),
                sentence("store.there_may_them_most", most_of_a_list=MOST_OF_A_LIST[name]),
            )
    return found


def _whole(events: Iterator[tuple[str, str, Any]], key: str, event: str, value: Any) -> Any:
    """The value that begins with this event, read to its end."""
    if event not in ("start_array", "start_map"):
        return value
    builder = ObjectBuilder()
    builder.event(event, value)
    end = event.replace("start", "end")
    for prefix, inner, given in events:
        builder.event(inner, given)
        if prefix == key and inner == end:
            break
    return builder.value


def as_now(name: str, entry: Any, version: int) -> Any:
    """Version 1 gave machines and kits bare; before version 3 a sentence was text with quantities in it."""
    if version < 3 and name in STREAMED:
        return words_now(entry)
    return {"document": entry} if version == 1 and name in ("machines", "kits") else entry


def checked_entry(model: type[Entry], given: Any, place: str) -> Entry:
    """An entry of the file as a checked value; what is wrong names its place in the file."""
    try:
        return model.model_validate(given)
    except ValidationError as trouble:
        problems = problems_of(trouble.errors(include_url=False))[:5]
        raise BadInput(
            *(
                Problem(
                    f"{place}.{problem.field}" if problem.field != "job" else place,
                    problem.given,
                    problem.allowed,
                )
                for problem in problems
            )
        ) from None
    except RecursionError:
        raise BadInput.one(place, given, sentence("store.lies_itself_too_deep")) from None
