"""A proposed change, or none."""

from __future__ import annotations

from typing import Literal

from anvilsong.core.registry import SettingKey
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.value import Value


class NextChange(Value):
    """One change, or none. ``settings`` is the next rung; ``effects`` are after minus before in the
    consequences.
    """

    kind: Literal["keep", "again", "setting", "hand", "prep"]
    setting: SettingKey | None = None
    said: Words
    why: Words
    on_panel: str = ""
    settings: Settings
    effects: dict[str, float] = {}
    expected_border_mm: float | None = None
    expected_width_mm: float | None = None
    otherwise: Words = ""
