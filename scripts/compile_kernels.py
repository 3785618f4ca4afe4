"""Compiles what is compiled at the first use, once after the set-up, so that the first part and the first
trace of a shop do not wait for it: a small part is welded, and a few rows of a trace are read.
"""

from __future__ import annotations

import numpy as np

from anvilsong.core.coefficients import nominal
from anvilsong.core.job import read_job
from anvilsong.core.model import situation
from anvilsong.core.plan import make_plan
from anvilsong.core.warming import PRESETS
from anvilsong.core.warming.whole import weld_part
from anvilsong.instruments.trace import open_recording


def main() -> None:
    """Weld and read; what comes of it does not matter."""
    job = read_job({"a": {"alloy": "6061", "thickness": 3}, "joint": "butt", "weld_length_mm": 30})
    plan = make_plan(job)
    assert plan.settings is not None
    drawn = PRESETS["strip"][1]().model_copy(update={"cell_mm": 2.0})
    weld_part(situation(job), plan.settings, nominal(), drawn, and_others=False)
    seconds = np.arange(2000) / 20000
    amps = 100 * np.sign(np.sin(2 * np.pi * 100 * seconds))
    rows = "\n".join(f"{t:.6f},{a:.1f}" for t, a in zip(seconds, amps, strict=True))
    open_recording(f"s,A\n{rows}\n".encode(), 1.0, None)


if __name__ == "__main__":
    main()
