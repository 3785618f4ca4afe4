"""Amps of the plan beside the handbooks' bands: the miss of each row from the middle, and how many stay near it."""

from __future__ import annotations

import numpy as np

from anvilsong.core.job import read_job
from anvilsong.core.metal.joints import handbook_band_a, published
from anvilsong.core.plan.planner import make_plan

JOINTS = ("butt", "lap", "outside_corner", "tee", "inside_corner")


def main() -> None:
    misses = []
    for row in published().row:
        for position in ("flat", "horizontal", "vertical", "overhead"):
            words = []
            for joint in JOINTS:
                band = handbook_band_a(row.thickness_mm, joint, position)
                job = {
                    "a": {"alloy": "6061", "thickness": row.thickness_mm},
                    "joint": joint,
                    "position": position,
                }
                settings = make_plan(read_job(job)).settings
                assert band is not None
                assert settings is not None
                miss = settings.amps_run / (sum(band) / 2) - 1
                misses.append(miss)
                words.append(
                    f"{joint} {settings.amps_run:.0f} A of {band[0]:.0f}-{band[1]:.0f} ({miss:+.0%})"
                )
            print(f"{row.thickness_mm} mm {position}: {', '.join(words)}")
    near = np.mean(np.abs(misses) <= 0.12)
    print(f"rows: {len(misses)}; within 12 % of the middle: {near:.0%}; rms miss {np.std(misses):.1%}")


if __name__ == "__main__":
    main()
