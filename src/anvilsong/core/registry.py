"""The registry of settings: one entry a setting, used by board, set line, card, JSON, panel and docs alike.

To add a setting, add it to ``Settings`` and give it an entry in ``data/settings.toml``; everything that
lists settings follows.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel

from anvilsong.core.complaints import Model, validated
from anvilsong.core.errors import Unfit
from anvilsong.core.job import Control
from anvilsong.core.settings import Mix, Pulse, Settings
from anvilsong.core.tables import Row, read_table
from anvilsong.core.units import Dimension
from anvilsong.core.words import sentence

Station = Literal["prep", "torch", "tune"]
LaneGroup = Literal["main", "shape", "pulse", "mix", "more"]


class Setting(Row):
    """One setting: ``path`` into Settings, words, dimension (None for a choice), decimals, station, and its
    lane on the board.
    """

    key: str
    path: str
    words: str
    dimension: Dimension | None = None
    decimals: int
    station: Station
    step: float
    low: float
    high: float
    lane: LaneGroup | None = None
    panel: bool = False
    stops: tuple[float, ...] = ()
    help: str

    @property
    def group(self) -> str | None:
        """The group in Settings that may be absent: pulse or mix."""
        head, _, rest = self.path.partition(".")
        return head if rest and head in DEFAULT_GROUPS else None


class SettingTable(Row):
    source: str
    setting: list[Setting]


# What a pulse or mix begins with when it is switched on by one of its values.
DEFAULT_GROUPS: dict[str, BaseModel] = {
    "pulse": Pulse(rate_hz=1.6, peak_share=0.4, base_share=0.35),
    "mix": Mix(ac_share=0.7, cycle_s=0.5, dc_level=0.65),
}
SETTINGS: tuple[Setting, ...] = tuple(read_table("settings", SettingTable).setting)
BY_KEY: dict[str, Setting] = {setting.key: setting for setting in SETTINGS}
BOARD: tuple[Setting, ...] = tuple(setting for setting in SETTINGS if setting.lane)
PANEL: tuple[Setting, ...] = tuple(setting for setting in SETTINGS if setting.panel)


def _known_key(key: str) -> str:
    if key not in BY_KEY:
        raise Unfit(sentence("job.name_setting_registry"))
    return key


SettingKey = Annotated[str, AfterValidator(_known_key)]


def get_value(settings: Settings, key: str) -> Any:
    """The value of a setting by its key; None where its group is none."""
    value: Any = settings
    for part in BY_KEY[key].path.split("."):
        value = None if value is None else getattr(value, part)
    return value


def with_value(settings: Settings, key: str, value: Any, control: Control = "pedal") -> Settings:
    """The settings with one of them changed, checked again.

    Under a pedal the machine's amps are a ceiling: raising them leaves the foot where it is, lowering them
    under the foot
    takes it along, and a foot that wants more lifts them. With a torch switch both are one. A value of a
    pulse or mix
    that is off switches it on with usual values beside it; None switches it off.
    """
    entry = BY_KEY[key]
    if entry.group and value is None:
        return settings.model_copy(update={entry.group: None})
    if entry.group and getattr(settings, entry.group) is None:
        settings = settings.model_copy(update={entry.group: DEFAULT_GROUPS[entry.group]})
    if key == "cup_number":
        value = round(value)
    changed = _replaced(settings, entry.path.split("."), value)
    if key == "amps_run":
        full = value if control != "pedal" else max(value, settings.amps_set)
        changed = changed.model_copy(update={"amps_set": full})
    return validated(Settings, foot_within(changed, control).model_dump())


def foot_within(settings: Settings, control: Control) -> Settings:
    """The foot under the machine's ceiling, and with a torch switch at it."""
    full = settings.amps_set
    run = min(settings.amps_run, full) if control == "pedal" else full
    return settings if run == settings.amps_run else settings.model_copy(update={"amps_run": run})


def _replaced(group: Model, path: list[str], value: Any) -> Model:
    head, *rest = path
    if rest:
        inner: BaseModel = getattr(group, head)
        value = _replaced(inner, rest, value)
    return group.model_copy(update={head: value})
