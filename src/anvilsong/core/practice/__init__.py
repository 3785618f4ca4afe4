"""Practice: what is trained here, on the same model as everything else. Metal teaches the rest.

The pedal run is asked by its modules, since it reads the compiled solver.
"""

from anvilsong.core.practice.modes import MODES, Mode, ModeKey
from anvilsong.core.practice.parts import PRACTICE_PARTS
from anvilsong.core.practice.practised import AnswerResult, PedalResult, Practised, Skill, WorstSecond

__all__ = [
    "MODES",
    "PRACTICE_PARTS",
    "AnswerResult",
    "Mode",
    "ModeKey",
    "PedalResult",
    "Practised",
    "Skill",
    "WorstSecond",
]
