"""The board as a value: lanes, what fights, solving the rest, reading what was typed in a lane."""

from anvilsong.core.board.fights import ties
from anvilsong.core.board.lane_input import read_lane
from anvilsong.core.board.lanes import Lane, board
from anvilsong.core.board.map import LIMIT_WORDS, SettingsMap, settings_map, working_reach
from anvilsong.core.board.map_axes import AXES, AxisKey, MapAxis, axes_of, axis_value, with_axis
from anvilsong.core.board.solving import resolve

__all__ = [
    "AXES",
    "LIMIT_WORDS",
    "AxisKey",
    "Lane",
    "MapAxis",
    "SettingsMap",
    "axes_of",
    "axis_value",
    "board",
    "read_lane",
    "resolve",
    "settings_map",
    "ties",
    "with_axis",
    "working_reach",
]
