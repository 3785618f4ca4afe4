"""Practice: what is trained here, on the same model as everything else. Metal teaches the rest.

The pedal run is asked by its modules, since it reads the compiled solver.
"""

from anvilsong.core.practice.modes import MODES, Mode, ModeKey

__all__ = ["MODES", "Mode", "ModeKey"]
