"""The registry of settings: one entry a setting, used by board, set line, card, JSON, panel and docs alike.

To add a setting, add it to ``Settings`` and give it an entry here; everything that lists settings follows.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from pydantic import BaseModel

from anvilsong.core.job import Model, validated
from anvilsong.core.quantities import Dimension
from anvilsong.core.settings import Settings

Station = Literal["prep", "torch", "tune"]


@dataclass(frozen=True)
class Setting:
    """One setting: ``path`` into Settings, words, dimension, decimals, dial order, station, and the step of a board."""

    key: str
    path: str
    words: str
    dimension: Dimension | None
    decimals: int
    station: Station
    step: float = 1.0
    low: float = 0.0
    high: float = 1.0
    on_board: bool = False
    on_panel: bool = False
    help: str = ""


# In the order a person dials them.
SETTINGS: tuple[Setting, ...] = (
    Setting(
        "amps_set",
        "amps_set",
        "Amps, full pedal",
        "current",
        0,
        "tune",
        1,
        5,
        400,
        on_board=True,
        on_panel=True,
        help="Canonical: the peak of the EN half at full pedal.",
    ),
    Setting("amps_run", "amps_run", "Amps, running", "current", 0, "tune", 1, 5, 400, help="Under the foot while the pool runs at the wanted width."),
    Setting(
        "ep_share",
        "ep_share",
        "Balance",
        "share",
        0,
        "tune",
        0.01,
        0.05,
        0.6,
        on_board=True,
        on_panel=True,
        help="Share of each cycle's time spent electrode positive.",
    ),
    Setting("frequency_hz", "frequency_hz", "Frequency", "frequency", 0, "tune", 5, 20, 250, on_board=True, on_panel=True, help="AC cycles a second."),
    Setting(
        "ep_trim",
        "ep_trim",
        "Positive trim",
        "share",
        0,
        "tune",
        0.05,
        -0.5,
        0.5,
        on_board=True,
        on_panel=True,
        help="How much higher or lower the EP half's amps are than the EN half's.",
    ),
    Setting("shape_en", "shape_en", "Waveform", None, 0, "tune", on_panel=True, help="Shape of the EN half."),
    Setting("shape_ep", "shape_ep", "Waveform, EP half", None, 0, "tune", on_panel=False, help="Shape of the EP half."),
    Setting("start_amps", "start_amps", "Start amps", "current", 0, "tune", 1, 2, 200, on_panel=True, help="Where the arc starts; the pedal's least."),
    Setting("up_slope_s", "up_slope_s", "Up-slope", "time", 1, "tune", 0.1, 0, 10, on_panel=True, help="Time from start amps to full amps."),
    Setting("down_slope_s", "down_slope_s", "Down-slope", "time", 1, "tune", 0.1, 0, 20, on_panel=True, help="Time from full amps to finish amps."),
    Setting("finish_amps", "finish_amps", "Finish amps", "current", 0, "tune", 1, 2, 200, on_panel=True, help="Amps in the crater before the arc goes out."),
    Setting("pre_flow_s", "pre_flow_s", "Pre-flow", "time", 1, "tune", 0.1, 0, 10, on_panel=True, help="Gas before the arc."),
    Setting("post_flow_s", "post_flow_s", "Post-flow", "time", 0, "tune", 1, 0, 60, on_panel=True, help="Gas after the arc."),
    Setting("flow_l_min", "gas.flow_l_min", "Gas flow", "flow", 1, "torch", 0.5, 2, 30, on_board=True, help="Read at the ball's middle while the gas flows."),
    Setting("tungsten_mm", "tungsten.diameter_mm", "Tungsten", "length", 1, "torch", 0.8, 1, 4.8),
    Setting("tungsten_class", "tungsten.class_", "Tungsten class", None, 0, "torch"),
    Setting("cup_number", "cup.number", "Cup", "number", 0, "torch", 1, 4, 16),
    Setting("stick_out_mm", "cup.stick_out_mm", "Stick-out", "length", 1, "torch", 0.5, 1, 30),
    Setting("filler_class", "filler.class_", "Filler", None, 0, "prep"),
    Setting("filler_mm", "filler.diameter_mm", "Rod", "length", 1, "prep", 0.4, 0.8, 4.0),
    Setting("preheat_c", "preheat_c", "Preheat", "temperature", 0, "prep", 10, 20, 200),
    Setting("travel_mm_s", "travel_mm_s", "Travel", "speed", 1, "tune", 0.1, 0.5, 10),
)
BY_KEY: dict[str, Setting] = {setting.key: setting for setting in SETTINGS}
BOARD: tuple[Setting, ...] = tuple(setting for setting in SETTINGS if setting.on_board)
PANEL: tuple[Setting, ...] = tuple(setting for setting in SETTINGS if setting.on_panel)


def get_value(settings: Settings, key: str) -> Any:
    """The value of a setting by its key; None where its group is none."""
    value: Any = settings
    for part in BY_KEY[key].path.split("."):
        value = None if value is None else getattr(value, part)
    return value


def with_value(settings: Settings, key: str, value: Any) -> Settings:
    """The settings with one of them changed, checked again.

    Full-pedal amps carry the running amps with them in the same proportion, since the foot's share stays.
    """
    changed = _replaced(settings, BY_KEY[key].path.split("."), value)
    if key == "amps_set":
        changed = changed.model_copy(update={"amps_run": settings.amps_run * value / settings.amps_set})
    return validated(Settings, changed.model_dump())


def _replaced(group: Model, path: list[str], value: Any) -> Model:
    head, *rest = path
    if rest:
        inner: BaseModel = getattr(group, head)
        value = _replaced(inner, rest, value)
    return group.model_copy(update={head: value})
