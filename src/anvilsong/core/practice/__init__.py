"""Practice: what is trained here, on the same model as everything else. Metal teaches the rest.

The pedal run is asked by its modules, since it reads the compiled solver.
"""

from anvilsong.core.practice.modes import MODES, Mode, ModeKey
from anvilsong.core.practice.parts import PRACTICE_PARTS
from anvilsong.core.practice.practised import AnswerResult, PedalResult, Practised, Skill, WorstSecond
from anvilsong.core.practice.rhythm import Bead, Beat, RhythmResult, beats_of, judge_taps, laid, rhythm_of

__all__ = [
    "MODES",
    "PRACTICE_PARTS",
    "AnswerResult",
    "Bead",
    "Beat",
    "Mode",
    "ModeKey",
    "PedalResult",
    "Practised",
    "RhythmResult",
    "Skill",
    "WorstSecond",
    "beats_of",
    "judge_taps",
    "laid",
    "rhythm_of",
]
