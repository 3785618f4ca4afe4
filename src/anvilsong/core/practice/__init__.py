"""Practice: what is trained here, on the same model as everything else. Metal teaches the rest.

The pedal run is asked by its modules, since it reads the compiled solver.
"""

from anvilsong.core.practice.modes import MODES, Mode, ModeKey
from anvilsong.core.practice.practised import AnswerResult, PedalResult, Practised, Skill

__all__ = ["MODES", "AnswerResult", "Mode", "ModeKey", "PedalResult", "Practised", "Skill"]
