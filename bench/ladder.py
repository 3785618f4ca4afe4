"""Finding settings by coupons: a simulated shop with coefficients of its own, starting from the plan.

Ours takes the one change that is proposed. Beside it, in the same run with the same shops and hands: one
setting changed at random, and everything changed at once towards the aim. Found is what the shop's own
truth says of the settings, not what a lucky coupon looks like.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from itertools import count, islice

import numpy as np

from anvilsong.core.bead import Readings, read
from anvilsong.core.bead.bead_models import Shot, border_at_mm
from anvilsong.core.bead.ladder import next_rung
from anvilsong.core.bead.simulated import run_coupon, some_shop
from anvilsong.core.bead.verdict import WIDTH_TOLERANCE
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.job import Job, read_job
from anvilsong.core.machine import Machine
from anvilsong.core.model import figures, situation
from anvilsong.core.plan import make_plan
from anvilsong.core.registry import with_value
from anvilsong.core.settings import Settings
from anvilsong.demo.machines import MACHINES

RUNS, RUNGS, WANTED = 300, 4, 0.90
SHOPS_APART = 1.5  # shops that are as usual need no ladder
JOBS = [
    {"a": {"alloy": alloy, "thickness": thickness}, "joint": joint, "position": position}
    for alloy, thickness, joint, position in (
        ("6061", 3.2, "butt", "flat"),
        ("5052", 1.6, "lap", "horizontal"),
        ("5083", 5.0, "tee", "flat"),
        ("6082", 2.5, "outside_corner", "flat"),
        ("6061", 4.0, "tee", "vertical"),
        ("A356", 8.0, "build_up", "flat"),
        ("5083", 6.0, "butt", "flat"),
    )
]


@dataclass
class Rung:
    """Where a ladder stands."""

    job: Job
    settings: Settings
    machine: Machine
    rng: np.random.Generator
    run: list[Shot] = field(default_factory=list)


Change = Callable[[Rung, Readings], Settings | None]


def proposed(rung: Rung, readings: Readings) -> Settings | None:
    """The one change; None to stop."""
    rung.run.append(Shot(rung.job, rung.settings, readings))
    _, change = next_rung(rung.run, rung.machine)
    return change.settings if change.kind == "setting" else None if change.kind == "keep" else rung.settings


def at_random(rung: Rung, readings: Readings) -> Settings | None:
    """Any one setting, a tenth up or down, until the coupon looks right."""
    if read(rung.job, rung.settings, readings, rung.machine).is_good:
        return None
    key = str(rung.rng.choice(["amps_run", "ep_share", "travel_mm_s", "frequency_hz"]))
    return moved(rung, {key: float(rung.rng.choice([0.9, 1.1]))})


def all_at_once(rung: Rung, readings: Readings) -> Settings | None:
    """Amps and share together, each in proportion to its own miss."""
    verdict = read(rung.job, rung.settings, readings, rung.machine)
    if verdict.is_good:
        return None
    aim = sum(verdict.aim_mm) / 2
    return moved(
        rung,
        {
            "amps_run": float(np.clip(verdict.wanted_width_mm / verdict.bead_width_mm, 0.8, 1.25)),
            "ep_share": float(np.clip((aim + 0.5) / (verdict.border_mm + 0.5), 0.8, 1.25)),
        },
    )


def moved(rung: Rung, factors: dict[str, float]) -> Settings:
    settings, machine = rung.settings, rung.machine
    for key, factor in factors.items():
        value = getattr(settings, key) * factor
        if key == "amps_run":
            value = float(np.clip(round(value), machine.least_a, settings.amps_set))
        if key == "ep_share":
            value = float(np.clip(round(value, 2), machine.least_ep_share, machine.most_ep_share))
        if key == "frequency_hz":
            value = float(np.clip(round(value), machine.least_frequency_hz, machine.most_frequency_hz))
        settings = with_value(settings, key, value, rung.job.control)
    return settings


def is_found(rung: Rung, c: Coefficients) -> bool:
    """Whether the shop's truth at these settings meets both aims."""
    at, settings = situation(rung.job), rung.settings
    wanted = float(at.aimed_width_mm(settings.travel_mm_s, settings.preheat_c))
    pool = float(figures(at, settings.wave(), settings, c).pool_width_mm)
    border = max(border_at_mm(rung.job, settings, pool, c), 0.0)
    return abs(pool / wanted - 1) <= WIDTH_TOLERANCE and at.aim.low_mm <= border <= at.aim.high_mm


def setups() -> Iterator[tuple[int, Job, Settings, Machine]]:
    """A seed, job, plan and machine for each run; what the plan itself says this machine cannot do is left
    out.
    """
    for seed in count():
        machine = MACHINES[seed % len(MACHINES)]
        job = read_job(JOBS[seed // len(MACHINES) % len(JOBS)])
        plan = make_plan(job, machine)
        if plan.settings is None or plan.consequences is None:
            continue
        aim = situation(job).aim
        short = any(warning.code == "machine_short" for warning in plan.warnings)
        if not short and aim.low_mm <= plan.consequences.border_mm <= aim.high_mm:
            yield seed, job, plan.settings, machine


def rungs_needed(setup: tuple[int, Job, Settings, Machine], change: Change) -> int:
    """Coupons until it was found; one more than are granted when it was not, or when something else was
    kept.
    """
    seed, job, settings, machine = setup
    rng = np.random.default_rng(seed)
    c, rung = some_shop(rng, SHOPS_APART), Rung(job, settings, machine, rng)
    for number in range(1, RUNGS + 1):
        after = change(rung, run_coupon(job, rung.settings, c, rng))
        if after is None:
            return number if is_found(rung, c) else RUNGS + 1
        rung.settings = after
        if number < RUNGS and is_found(rung, c):
            return number + 1
    return RUNGS + 1


def main() -> int:
    found = {}
    for name, change in (("ours", proposed), ("at random", at_random), ("all at once", all_at_once)):
        needed = [rungs_needed(setup, change) for setup in islice(setups(), RUNS)]
        found[name] = sum(each <= RUNGS for each in needed) / RUNS
        spread = ", ".join(f"{n}: {needed.count(n)}" for n in sorted(set(needed)))
        print(f"{name}: found within {RUNGS} rungs in {100 * found[name]:.0f} % ({spread})")
    print(f"ratio to random {found['ours'] / max(found['at random'], 0.01):.2f} (wanted {WANTED:.0%} found)")
    return int(found["ours"] < WANTED)


if __name__ == "__main__":
    sys.exit(main())
