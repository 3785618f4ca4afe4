"""The board as a value: lanes, what fights, solving the rest, reading what was typed in a lane."""

from anvilsong.core.board.fights import ties
from anvilsong.core.board.lane_input import read_lane
from anvilsong.core.board.lanes import Lane, board
from anvilsong.core.board.solving import resolve

__all__ = ["Lane", "board", "read_lane", "resolve", "ties"]
