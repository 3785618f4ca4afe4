"""Every proposal put to the test that the planner's own settings stand: random jobs, machines and states, and
whoever proposes a change.

Counted are stops and cautions that a proposal brings, what the machine cannot be set to, limits of the metal
that it passes, points inside windows that draw what they must not, and passes over the machine without a
word. Exit 1 when any is not 0.
"""

from __future__ import annotations

import random
import sys
from collections import Counter
from collections.abc import Iterator

import numpy as np

from anvilsong.core.bead import Case, Readings, likely_causes, next_rung, signs
from anvilsong.core.bead.bead_models import Shot
from anvilsong.core.bead.ladder import believed
from anvilsong.core.board import resolve
from anvilsong.core.checks import newly_broken, outcome
from anvilsong.core.coefficients import nominal
from anvilsong.core.job import Job, read_job
from anvilsong.core.machine import IDEAL, Machine, cannot_set
from anvilsong.core.metal.preheat import strictest
from anvilsong.core.plan import make_plan, may_be_offered
from anvilsong.core.plan.ways import settings_of
from anvilsong.core.prep.short import as_planned, changes_for, need_a
from anvilsong.core.registry import get_value, with_value
from anvilsong.core.settings import Settings
from anvilsong.demo.machines import MACHINES

STATES = int(sys.argv[1]) if len(sys.argv) > 1 else 5000
ALLOYS = ["1050A", "3003", "5052", "5083", "5754", "6061", "6082", "7005", "A356"]
JOINTS = ["butt", "lap", "tee", "outside_corner", "inside_corner", "edge", "build_up", "tube_plate"]
MOVED = ["amps_run", "amps_set", "ep_share", "frequency_hz", "travel_mm_s", "post_flow_s", "ep_trim"]
WINDOWED = [*MOVED[:4], "ep_trim", "flow_l_min", "post_flow_s", "pre_flow_s"]


def some_job(rng: random.Random) -> Job:
    """A job as they come, of any metal, sheet, joint, position and hand."""
    given = {
        "a": {"alloy": rng.choice(ALLOYS), "thickness": round(float(np.exp(rng.uniform(-0.5, 2.5))), 1)},
        "joint": rng.choice(JOINTS),
        "position": rng.choice(["flat", "flat", "horizontal", "vertical", "overhead"]),
        "surface": rng.choice(["brushed", "brushed", "mill", "machined"]),
        "purposes": rng.choice([[], ["appearance"], ["strength"]]),
        "control": rng.choice(["pedal", "switch_2", "switch_4"]),
    }
    return read_job(given)


def some_state(rng: random.Random, settings: Settings, machine: Machine, job: Job) -> Settings:
    """A plan's settings with one or two of them moved by up to a third, within the machine."""
    for key in rng.sample(MOVED, rng.choice([0, 1, 1, 2])):
        if key == "ep_trim":
            value = rng.uniform(-0.35, 0.0) if machine.can_trim else 0.0
        else:
            value = get_value(settings, key) * rng.uniform(0.7, 1.35)
        moved = with_value(settings, key, round(value, 2), job.control)
        if not cannot_set(settings, moved, machine):
            settings = moved
    return settings


def some_coupon(rng: random.Random, job: Job, settings: Settings, machine: Machine) -> Readings:
    """What a hand might have laid with them."""
    seen = outcome(job, settings, machine).consequences
    border = max(0.0, seen.border_mm * rng.uniform(0.4, 1.8))
    return Readings(
        bead_width_mm=max(1.0, seen.pool_width_mm * rng.uniform(0.8, 1.25)),
        border_left_mm=border,
        border_right_mm=border,
        length_mm=100,
        seconds=100 / (settings.travel_mm_s * rng.uniform(0.9, 1.1)),
    )


def proposals(
    rng: random.Random, job: Job, settings: Settings, machine: Machine
) -> Iterator[tuple[str, Settings, Settings, object, Job]]:
    """Who proposes, the settings before and after, the coefficients it is judged by, and the job after."""
    readings = some_coupon(rng, job, settings, machine)
    case = Case(job, settings, machine, None, readings)
    for found in likely_causes([rng.choice(signs()).key, rng.choice(signs()).key], case):
        if found.change is not None:
            yield "fault finder", settings, found.change.settings, None, job
    shot = Shot(job, settings, readings)
    _, change = next_rung([shot], machine)
    if change.kind == "setting":
        yield "next rung", settings, change.settings, believed_c(shot), job
    locked = rng.sample(MOVED, rng.choice([0, 1, 2]))
    solved = resolve(job, settings, locked, machine)
    if not solved.kept_back:
        yield "solving", settings, solved.settings, None, job
    start = as_planned(job, machine, settings.ep_share)
    if need_a(start, nominal()) > 1.01 * machine.most_a:
        may = may_be_offered(job, settings, machine, nominal())
        before, _ = settings_of(start, job, settings, machine, nominal())
        for way in changes_for(job, machine, start.travel_mm_s):
            case_of = way.made(start)
            if may(case_of):
                after, way_job = settings_of(case_of, job, settings, machine, nominal())
                yield "ways to reach", before, after, None, way_job


def believed_c(shot: Shot) -> object:
    """The model as the next rung believes it: moved to agree with what was measured."""
    from anvilsong.core.bead.one_coupon import fit_one
    from anvilsong.core.bead.verdict import as_run

    readings = believed([shot]).readings
    return fit_one(shot.job, as_run(shot.settings, readings), readings)


def main() -> int:
    rng, counts, bad = random.Random(23), Counter(), Counter()
    made = 0
    while made < STATES:
        job, machine = some_job(rng), rng.choice([IDEAL, *MACHINES])
        plan = make_plan(job, machine)
        if plan.settings is None:
            continue
        made += 1
        settings = some_state(rng, plan.settings, machine, job)
        limit = strictest(job.a.metal, job.b.metal, job.temper).limit_c
        for who, before, after, c, way_job in proposals(rng, job, settings, machine):
            counts[who] += 1
            broken = newly_broken(job, before, after, machine, c=c, job_after=way_job)
            bad["stops brought"] += any(each.level == "stop" for each in broken)
            bad["cautions brought"] += any(each.level == "watch" for each in broken)
            bad["unsettable"] += bool(cannot_set(before, after, machine))
            warm = after.preheat_c or 0.0
            bad["over a metal's limit"] += warm > limit + 1e-6 and after.preheat_c != before.preheat_c
        if made % 2 == 0:
            for key, band in [("best", plan.best), ("sound", plan.windows)]:
                inside(rng, plan, machine, key, band, counts, bad)
        most = max((each.amps_run for each in plan.passes), default=0.0)
        told = {warning.code for warning in plan.warnings}
        counts["passes"] += 1
        bad["passes over the machine untold"] += most > 1.01 * machine.most_a and not told & {
            "machine_short",
            "pass_short",
        }
    for who, number in sorted(counts.items()):
        print(f"{who}: {number}")
    for what in (
        "stops brought", "cautions brought", "unsettable", "over a metal's limit", "best that stops or warns",
        "sound that stops", "passes over the machine untold",
    ):  # fmt: skip
        print(f"{what}: {bad[what]} (wanted 0)")
    for what in sorted(what for what in bad if what.startswith("  ")):
        print(f"{what}: {bad[what]}")
    return 1 if sum(bad.values()) else 0


def inside(rng, plan, machine, which, bands, counts, bad) -> None:
    """A point inside a window: a sound one draws no stop, a best one no stop and no watch, but the plan's."""
    key = rng.choice(WINDOWED)
    band = bands.get(key)
    if band is None:
        return
    value = rng.uniform(*band)
    after = with_value(plan.settings, key, value, plan.job.control)
    codes = {(w.code, w.level) for w in outcome(plan.job, plan.settings, machine).warnings}
    now = {(w.code, w.level) for w in outcome(plan.job, after, machine).warnings} - codes
    counts[f"points in {which}"] += 1
    stops = [code for code, level in now if level == "stop"]
    watches = [code for code, level in now if level == "watch"]
    if which == "best" and (stops or watches):
        bad["best that stops or warns"] += 1
        bad[f"  best {key}: {', '.join(stops + watches)}"] += 1
    if which == "sound" and stops:
        bad["sound that stops"] += 1
        bad[f"  sound {key}: {', '.join(stops)}"] += 1


if __name__ == "__main__":
    sys.exit(main())
