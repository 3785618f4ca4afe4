"""Every field of every model given every type that JSON has: taken or refused with a sentence, never a fault of the program."""

import json

import pytest
from pydantic import BaseModel

from anvilsong.core.bead import NextChange, Readings, Verdict
from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine
from anvilsong.core.model import Plan
from anvilsong.core.plan import make_plan
from anvilsong.core.settings import Settings
from anvilsong.core.torch.kit import Kit
from anvilsong.core.warming import PRESETS, PartDrawing
from anvilsong.demo.machines import MACHINES
from anvilsong.instruments.bead_values import Edges
from anvilsong.instruments.marks import Marks

TYPES = [
    None,
    True,
    False,
    0,
    -1,
    1.5,
    10**30,
    1e308,
    "",
    "x",
    "7",
    "3 mm",
    "²",
    [],
    ["x"],
    [1, 2],
    [[1, 2], [3, 4]],
    {},
    {"x": 1},
]
TUBE = {
    "a": {"alloy": "6061", "thickness": "3 mm", "outside_diameter_mm": 40},
    "b": {"alloy": "5083", "thickness": 5.0, "outside_diameter_mm": "2 in"},
    "joint": "tube_plate", "purposes": ["strength"], "filler_wanted": "5356", "weld_length_mm": 120, "temper": "T6", "leg_mm": 4,
    "bevel": {"angle_deg": 60, "root_face_mm": 1.6}, "edge_prep": "square", "penetration": "full", "travel_mm_s": 3, "gap_mm": 0.2,
    "part": {"kind": "tube", "width_mm": 80, "length_mm": 200}, "school": {"pulse": "fast"}, "machine": "Curlew 220", "kit": "Bench kit",
}  # fmt: skip


def samples():
    """A full document of each model that is read from outside."""
    job = Job.model_validate(TUBE)
    plan = make_plan(
        Job.model_validate(
            {"a": {"alloy": "6061", "thickness": 3}, "joint": "butt", "school": {"pulse": "dab"}}
        ),
        MACHINES[0],
    )
    settings = plan.settings.model_dump(mode="json", by_alias=True)
    mixed = settings | {"pulse": None, "mix": {"ac_share": 0.6, "cycle_s": 0.5, "dc_level": 0.9}}
    marks = {
        "known": [[10, 10], [400, 12]],
        "known_mm": "50 mm",
        "line": [[30, 200], [200, 210], [400, 205]],
        "reach_mm": 10,
    }
    edges = {
        "along_mm": [1, 2],
        "across_mm": [[-4, -4], [-3, -3], [3, 3], [4, 4]],
        "sureness": [1, 1, 1, 1],
        "by_hand": [True, False, False, False],
    }
    readings = {"bead_width_mm": 6.4, "border_left_mm": 0.8, "border_right_mm": 0.8, "seconds": 27, "length_mm": 100, "bead_height_mm": 1.2,
                "ripple_pitch_mm": 1.1, "border_stray_mm": 0.1, "ball_mm": 2, "judged": {"bright": 2}, "note": "n"}  # fmt: skip
    drawn = PRESETS["box_panel"][1]().model_dump(mode="json")
    return {
        "job": (Job, job.model_dump(mode="json", by_alias=True)),
        "round": (Job, {key: value for key, value in TUBE.items() if key != "weld_length_mm"}),
        "settings": (Settings, settings),
        "mixed": (Settings, mixed),
        "machine": (Machine, MACHINES[0].model_dump(mode="json", by_alias=True)),
        "kit": (Kit, Kit().model_dump(mode="json", by_alias=True)),
        "readings": (Readings, readings),
        "marks": (Marks, marks),
        "edges": (Edges, edges),
        "part": (PartDrawing, drawn),
    }


def places(document, path=()):
    """Every place in a document; of a list its first two."""
    inside = (
        document.items()
        if isinstance(document, dict)
        else enumerate(document[:2])
        if isinstance(document, list)
        else ()
    )
    for key, value in inside:
        yield (*path, key)
        yield from places(value, (*path, key))


def with_at(document, path, value):
    changed = json.loads(json.dumps(document))
    inner = changed
    for key in path[:-1]:
        inner = inner[key]
    inner[path[-1]] = value
    return changed


def ask_everything(value):
    """What a value works out of itself, and all that is in it: none of it may fail once it was taken."""
    if isinstance(value, BaseModel):
        for name in dir(type(value)):
            kind = getattr(type(value), name, None)
            if not name.startswith(("_", "model_")) and (
                isinstance(kind, property) or type(kind).__name__ == "cached_property"
            ):
                getattr(value, name)
        for name in type(value).model_fields:
            ask_everything(getattr(value, name))
    elif isinstance(value, tuple | list):
        for each in value[:3]:
            ask_everything(each)


@pytest.mark.parametrize("name", list(samples()))
@pytest.mark.parametrize("units", ["mm", "inch"])
def test_any_type_in_any_field(name, units):
    model, sound = samples()[name]
    ask_everything(validated(model, sound))
    taken = refused = unsaid = 0
    for path in places(sound):
        for value in TYPES:
            try:
                found = validated(model, with_at(sound, path, value), units)
            except BadInput as trouble:
                refused += all(problem.field and problem.allowed for problem in trouble.problems)
                unsaid += not trouble.problems
            except Exception as error:
                raise AssertionError(
                    f"{name}: {path} = {value!r}: {type(error).__name__}: {error}"
                ) from error
            else:
                taken += 1
                try:
                    ask_everything(found)
                except Exception as error:
                    raise AssertionError(
                        f"{name}, taken: {path} = {value!r}: {type(error).__name__}: {error}"
                    ) from error
    assert taken > 3
    assert refused > 30
    assert unsaid == 0


def test_any_type_instead_of_a_document():
    for model in (
        Job,
        Settings,
        Machine,
        Kit,
        Readings,
        Marks,
        Edges,
        PartDrawing,
        Plan,
        Verdict,
        NextChange,
    ):
        for value in TYPES:
            if isinstance(value, dict):
                continue
            with pytest.raises(BadInput):
                validated(model, value)
