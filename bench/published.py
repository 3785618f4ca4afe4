"""Amps of the plan beside the handbooks' bands, on an inverter at about 30 % positive, and on a balanced sine
read as rms: how far each row lies outside its band, and the misses from its middle.
"""

from __future__ import annotations

import sys

import numpy as np

from anvilsong.core.job import read_job
from anvilsong.core.joint import handbook_band_a, published
from anvilsong.core.machine import Machine
from anvilsong.core.machine.scales import amps_on_basis
from anvilsong.core.plan import make_plan

JOINTS = ("butt", "lap", "outside_corner", "tee", "inside_corner")
INVERTER = Machine(name="Inverter", most_a=1000)
SINE = Machine(
    name="Balanced sine",
    most_a=1000,
    shapes=("sine",),
    least_ep_share=0.5,
    most_ep_share=0.5,
    least_frequency_hz=50,
    most_frequency_hz=60,
    can_trim=False,
    can_pulse=False,
    can_mix=False,
)
NEAR = 0.10  # of the band's ends


def main() -> None:
    misses: list[float] = []
    outside = 0
    for row in published().row:
        for position in ("flat", "horizontal", "vertical", "overhead"):
            words = []
            for joint in JOINTS:
                if not row.bands(position):
                    continue
                band = handbook_band_a(row.thickness_mm, joint, position)
                assert band is not None
                job = {
                    "a": {"alloy": "6061", "thickness": row.thickness_mm},
                    "joint": joint,
                    "position": position,
                    # Handbooks print square edges to 6.4 mm, and over it the hottest pass of a bevel.
                    "edge_prep": "square" if row.thickness_mm < 7 else None,
                }
                shown = []
                for machine, basis in ((INVERTER, "peak"), (SINE, "rms")):
                    plan = make_plan(read_job(job), machine)
                    assert plan.settings is not None
                    amps = max(each.amps_run for each in plan.passes)
                    amps *= amps_on_basis(plan.settings.wave(1.0), basis)
                    misses.append(amps / (sum(band) / 2) - 1)
                    outside += not band[0] * (1 - NEAR) <= amps <= band[1] * (1 + NEAR)
                    shown.append(f"{amps:.0f}")
                words.append(f"{joint} {' and '.join(shown)} A of {band[0]:.0f}-{band[1]:.0f}")
            if words:
                print(f"{row.thickness_mm} mm {position}: {', '.join(words)}")
    print(
        f"rows: {len(misses)}; over 10 % outside: {outside} (wanted 0); mean miss from the middle: "
        f"inverters {np.mean(misses[::2]):+.1%}, sines {np.mean(misses[1::2]):+.1%}"
    )
    sys.exit(1 if outside else 0)


if __name__ == "__main__":
    main()
