"""Every gauge by its standard, and every bound of what can be typed, written out: none moves unnoticed.

Run as a script, this file writes bounds.json anew; read the difference before it is kept.
"""

import json
import math
from pathlib import Path

import pytest

from anvilsong.core.bead import Readings
from anvilsong.core.gauges import gauge_mm, swg_mm
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine
from anvilsong.core.quantities import parse
from anvilsong.core.settings import Settings
from anvilsong.core.shown import show
from anvilsong.core.torch.kit import Kit
from anvilsong.core.units import SHOWN
from anvilsong.core.warming import PartDrawing, PartResult
from anvilsong.store.exchange_format import (
    GaugeEntry,
    JobEntry,
    KitEntry,
    MachineEntry,
    PhotographEntry,
    TrialEntry,
    WelderEntry,
)

FILE = Path(__file__).with_name("bounds.json")
MODELS = {model.__name__: model for model in (Job, Settings, Readings, Kit, Machine, PartDrawing, PartResult)}
ENTRIES = {
    model.__name__: model
    for model in (MachineEntry, KitEntry, WelderEntry, GaugeEntry, TrialEntry, PhotographEntry, JobEntry)
}
BOUNDS = ("minimum", "maximum", "exclusiveMinimum", "exclusiveMaximum", "minLength", "maxLength", "minItems", "maxItems", "pattern", "unit", "default")  # fmt: skip


def bounds_of(schema, path=""):
    """Every bound of a schema by its path."""
    if isinstance(schema, dict):
        for key, value in schema.items():
            if key in BOUNDS and not isinstance(value, dict | list):
                yield f"{path}/{key}", value
            else:
                yield from bounds_of(value, f"{path}/{key}")
    elif isinstance(schema, list):
        for place, value in enumerate(schema):
            yield from bounds_of(value, f"{path}/{place}")


def own(schema):
    """An entry's schema without the core's documents in it, which stand for themselves."""
    entries = {key: each for key, each in schema.get("$defs", {}).items() if key.endswith("Entry")}
    return {"properties": schema["properties"], "$defs": entries}


def every_bound():
    core = {name: dict(bounds_of(model.model_json_schema())) for name, model in MODELS.items()}
    return core | {name: dict(bounds_of(own(model.model_json_schema()))) for name, model in ENTRIES.items()}


@pytest.mark.parametrize("name", [*MODELS, *ENTRIES])
def test_no_bound_moves_unnoticed(name):
    assert every_bound()[name] == json.loads(FILE.read_text(encoding="utf-8"))[name]


def test_temperatures():
    for typed, inside in (
        ("0 C", 0),
        ("32 F", 0),
        ("212F", 100),
        ("-40 F", -40),
        ("273.15 K", 0),
        ("300 K", 26.85),
    ):
        assert parse(typed, "temperature", "it") == pytest.approx(inside, abs=1e-9)


def test_what_is_shown_after_a_number():
    said = {name: tuple(show(2, name, system) for system in ("mm", "inch")) for name in SHOWN}
    assert said == {
        "length": ("2.0 mm", "0.079 in"), "flow": ("2.0 L/min", "4 CFH"), "temperature": ("2 °C", "36 °F"),
        "balance": ("200 % EP", "200 % EP"), "amplitude": ("300 %", "300 %"),
        "speed": ("2.0 mm/s", "4.7 in/min"), "wind": ("2.0 m/s", "4.5 mph"), "time": ("2.0 s", "2.0 s"),
        "current": ("2 A", "2 A"), "frequency": ("2 Hz", "2 Hz"), "share": ("200 %", "200 %"),
        "heat": ("2 W", "2 W"), "angle": ("2°", "2°"), "pressure": ("2 bar", "29 psi"), "mass": ("2 g", "0.1 oz"),
        "volume": ("2 L", "0.1 ft3"), "hose": ("2.0 m", "6.6 ft"), "number": ("2", "2"),
    }  # fmt: skip


def test_gauges_by_their_standards():
    for number in range(41):  # ASTM B258: thirty-nine equal steps from 0.46 in at 0000 to 0.005 in at 36
        steps = math.log(0.46 / 0.005) / 39
        assert gauge_mm(number) == pytest.approx(25.4 * 0.46 * math.exp(-steps * (number + 3)), rel=1e-9)
    thou = [324, 300, 276, 252, 232, 212, 192, 176, 160, 144, 128, 116, 104, 92, 80, 72, 64, 56, 48, 40, 36, 32, 28, 24, 22, 20, 18, 16.4, 14.8, 13.6, 12.4]  # BS 3737  # fmt: skip
    assert [swg_mm(number) / 0.0254 for number in range(31)] == pytest.approx(thou)
    assert swg_mm(31) is None


if __name__ == "__main__":
    FILE.write_text(json.dumps(every_bound(), indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
