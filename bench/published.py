"""Amps of the plan beside the handbooks' bands: the miss of each row from the middle, and how many stay near
it.
"""

from __future__ import annotations

import sys

import numpy as np

from anvilsong.core.job import read_job
from anvilsong.core.joint import handbook_band_a, published
from anvilsong.core.plan import make_plan

JOINTS = ("butt", "lap", "outside_corner", "tee", "inside_corner")


def main() -> None:
    misses = []
    for row in published().row:
        for position in ("flat", "horizontal", "vertical", "overhead"):
            words = []
            for joint in JOINTS:
                if not row.bands(position):
                    continue
                band = handbook_band_a(row.thickness_mm, joint, position)
                job = {
                    "a": {"alloy": "6061", "thickness": row.thickness_mm},
                    "joint": joint,
                    "position": position,
                    # Handbooks print square edges to 6.4 mm, and over it the hottest pass of a bevel.
                    "edge_prep": "square" if row.thickness_mm < 7 else None,
                }
                assert band is not None
                amps = max(each.amps_run for each in make_plan(read_job(job)).passes)
                miss = amps / (sum(band) / 2) - 1
                misses.append(miss)
                words.append(f"{joint} {amps:.0f} A of {band[0]:.0f}-{band[1]:.0f} ({miss:+.0%})")
            if words:
                print(f"{row.thickness_mm} mm {position}: {', '.join(words)}")
    outside = sum(abs(miss) > 0.12 for miss in misses)
    near = np.mean(np.abs(misses) <= 0.12)
    print(
        f"rows: {len(misses)}; within 12 % of the middle: {near:.0%}; rms miss "
        f"{np.sqrt(np.mean(np.square(misses))):.1%}"
    )
    sys.exit(1 if outside > 0.1 * len(misses) else 0)


if __name__ == "__main__":
    main()
