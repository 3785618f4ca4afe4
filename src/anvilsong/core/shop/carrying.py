"""The nearest proved recipe for a new job, and what its settings are there.

How far two jobs lie apart is a sum of what changes most for a welder: metal, joint, thickness, machine,
surface, position, gas. For the same job the recipe's own settings hold. For another one, what carries over
is not the recipe's figures but what its coupons moved them by: the amps by their ratio to what the model
plans for the recipe's own job at its own speed, the share and the trim by their difference, frequency and
travel by their ratios; and waveform, pulse and mix where somebody chose other ones than the plan, since the
amps belong to them. The model's own plan for the new job takes that on.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import lru_cache
from math import log
from typing import Any, NamedTuple

import numpy as np

from anvilsong.core.checks import newly_broken
from anvilsong.core.job import Job
from anvilsong.core.joint import find_joint
from anvilsong.core.machine import on_panel, within_machine
from anvilsong.core.model import Bench, situation
from anvilsong.core.monotone import Array
from anvilsong.core.plan import Decision, decide
from anvilsong.core.settings import Settings

FURTHEST = 3.0  # past it two jobs have nothing to tell one another
OTHER_ALLOY, OTHER_FAMILY, OTHER_KIND, OTHER_JOINT = 0.15, 0.9, 1.2, 0.3
OTHER_GAS, OTHER_SIZE, OTHER_DETAILS, OTHER_WAY = 0.4, 0.2, 0.1, 0.1
SAME_GAS, SAME_C = 0.05, 10.0  # of helium, and of the part before the arc
NOT_PROVED = 1.0  # how much further off a recipe counts that coupons have not borne out
DETAILS = ("gap_mm", "bevel", "edge_prep", "leg_mm", "corner", "penetration", "arc_length_mm")
WAYS = ("school", "purposes", "filler_wanted", "travel_mm_s")
OTHER_MACHINE, OTHER_KIT, OTHER_SURFACE, OTHER_POSITION, OTHER_CONTROL = 0.6, 0.2, 0.5, 0.3, 0.1
PER_LN_THICKNESS = 1.5
DIFFERENCES = (
    "metal", "joint", "thickness", "machine", "kit", "surface",
    "position", "control", "gas", "size", "details", "way",
)  # fmt: skip
SHARE_ENDS, TRIM_ENDS, HZ_ENDS, MOST_RATIO = (0.05, 0.75), (-0.9, 1.0), (10.0, 1000.0), 1.6


class Kept(NamedTuple):
    """A recipe: its name, job and settings, the bench that it was run on, and whether it is proved."""

    key: int
    name: str
    job: Job
    settings: Settings
    bench: Bench
    is_proved: bool


class Carried(NamedTuple):
    """A recipe brought to a job: how far apart they lie, what differs, the settings there, the settings that
    the model alone would plan, and whether they bring no stop that is not in those.
    """

    recipe: Kept
    distance: float
    differs: tuple[str, ...]
    settings: Settings
    planned: Settings
    is_whole: bool


class Traits(NamedTuple):
    """What two jobs are told apart by."""

    metals: frozenset[str]
    families: frozenset[str]
    joint: str
    kind: str
    ln_thickness: float
    machine: str | None
    kit: str | None
    surface: str
    position: str
    control: str
    helium_share: float
    part_size: str
    part_temperature_c: float
    details: str
    ways: str


NUMBERS = frozenset({"ln_thickness", "helium_share", "part_temperature_c"})


def traits(job: Job) -> Traits:
    """The traits of a job."""
    sides = (job.a, job.b)
    return Traits(
        metals=frozenset(side.metal.name for side in sides),
        families=frozenset(side.metal.family for side in sides),
        joint=job.joint,
        kind=find_joint(job.joint).kind,
        ln_thickness=log(situation(job).mean_thickness_mm),
        machine=job.machine,
        kit=job.kit,
        surface=job.surface,
        position=job.position,
        control=job.control,
        helium_share=job.helium_share,
        part_size=job.part_size,
        part_temperature_c=job.part_temperature_c,
        details=job.model_dump_json(include=set(DETAILS)),
        ways=job.model_dump_json(include=set(WAYS)),
    )


class ManyTraits:
    """The traits of many jobs, column by column, so that all of them are compared at once."""

    def __init__(self, rows: Sequence[Traits]) -> None:
        columns = zip(*rows, strict=True) if rows else ((),) * len(Traits._fields)
        self._columns: list[Any] = [
            np.array(column, dtype=float) if name in NUMBERS else _Names(column)
            for name, column in zip(Traits._fields, columns, strict=True)
        ]

    def far(self, job: Traits) -> Array:
        """How much each difference from a job counts; shape (differences, jobs), as ``DIFFERENCES``."""
        there: Any = Traits(*self._columns)
        metal = np.where(there.families != job.families, OTHER_FAMILY, OTHER_ALLOY)
        joint = np.where(there.kind != job.kind, OTHER_KIND, OTHER_JOINT * (there.joint != job.joint))
        warmer = np.abs(there.part_temperature_c - job.part_temperature_c) > SAME_C
        far = [
            metal * (there.metals != job.metals),
            joint,
            PER_LN_THICKNESS * np.abs(there.ln_thickness - job.ln_thickness),
            OTHER_MACHINE * (there.machine != job.machine),
            OTHER_KIT * (there.kit != job.kit),
            OTHER_SURFACE * (there.surface != job.surface),
            OTHER_POSITION * (there.position != job.position),
            OTHER_CONTROL * (there.control != job.control),
            OTHER_GAS * (np.abs(there.helium_share - job.helium_share) > SAME_GAS),
            OTHER_SIZE * ((there.part_size != job.part_size) | warmer),
            OTHER_DETAILS * (there.details != job.details),
            OTHER_WAY * (there.ways != job.ways),
        ]
        return np.array(far, dtype=float)

    def distances(self, job: Traits) -> Array:
        """How far each lies from a job; shape (jobs,)."""
        return np.asarray(self.far(job).sum(axis=0))


class _Names:
    """One trait of many jobs that is no number: a number in the place of each name, so that asking which of
    them are other than one compares numbers.
    """

    def __init__(self, names: Sequence[Any]) -> None:
        self._numbers: dict[Any, int] = {}
        self._column = np.array([self._numbers.setdefault(one, len(self._numbers)) for one in names], int)

    def __ne__(self, name: Any) -> Any:
        return self._column != self._numbers.get(name, -1)


def apart(job: Traits, other: Traits) -> tuple[float, tuple[str, ...]]:
    """How far two jobs lie apart, and what differs, the most telling first."""
    far = ManyTraits([other]).far(job)[:, 0].tolist()
    named = [each for each in zip(far, DIFFERENCES, strict=True) if each[0] > 1e-9]
    return sum(far), tuple(name for _, name in sorted(named, key=lambda each: -each[0]))


def nearest(job: Job, bench: Bench, recipes: Sequence[Kept], most: int = 3) -> list[Carried]:
    """The recipes nearest to a job, each brought to it, one that is not proved as if it lay further off;
    those too far are left out.
    """
    ranked, here = [], traits(job)
    for recipe in recipes:
        distance, differs = apart(here, traits(recipe.job))
        if distance <= FURTHEST:
            ranked.append((distance + NOT_PROVED * (not recipe.is_proved), distance, differs, recipe))
    ranked.sort(key=lambda one: one[0])
    found = []
    for _, distance, differs, recipe in ranked[:most]:
        carried = carry_over(job, bench, recipe)
        if carried is not None:
            settings, planned, whole = carried
            found.append(Carried(recipe, distance, differs, settings, planned, whole))
    return found


def carry_over(job: Job, bench: Bench, recipe: Kept) -> tuple[Settings, Settings, bool] | None:
    """The recipe's settings at a job, the model's own there, and whether they bring no stop; None where
    either job is refused.
    """
    kept = recipe.settings
    own_job = recipe.job.model_copy(update={"travel_mm_s": kept.travel_mm_s})
    own, usual = _decided(own_job, recipe.bench), _decided(recipe.job, recipe.bench)
    here = _decided(job, bench)
    if own is None or usual is None or here is None:
        return None
    travel = here.settings.travel_mm_s
    if job.travel_mm_s is None:
        travel = round(travel * _ratio(kept.travel_mm_s, usual.settings.travel_mm_s), 2)
    planned = _decided(job.model_copy(update={"travel_mm_s": travel}), bench)
    if planned is None:
        return None
    machine = bench.machine
    same = not apart(traits(job), traits(recipe.job))[1]
    moved = kept if same else _moved(kept, own.settings, planned.settings)
    full = min(max(moved.amps_set, machine.least_a), machine.most_a)
    run = min(max(moved.amps_run, machine.least_a), full)
    moved = moved.model_copy(update={"amps_set": full, "amps_run": run})
    settings = on_panel(within_machine(moved, machine), machine, job.control)
    is_other = settings != here.settings
    broken = newly_broken(job, here.settings, settings, *bench) if is_other else []
    stops = any(warning.level == "stop" for warning in broken)
    return settings, here.settings, not stops and keeps_heat(moved, settings)


@lru_cache(maxsize=64)
def _decided(job: Job, bench: Bench) -> Decision | None:
    """``decide``, kept: a recipe is brought to one job after another."""
    return decide(job, *bench)


def keeps_heat(wanted: Settings, taken: Settings) -> bool:
    """Whether a machine leaves settings the pulse and the mix that their amps were found with: without a
    pulse its peak would be the heat of the whole weld.
    """
    return (wanted.pulse is None) == (taken.pulse is None) and (wanted.mix is None) == (taken.mix is None)


def _moved(kept: Settings, was: Settings, base: Settings) -> Settings:
    """A plan moved by what coupons moved the recipe against its own plan."""
    amps = _ratio(kept.amps_run, was.amps_run)
    hertz = base.frequency_hz * _ratio(kept.frequency_hz, was.frequency_hz)
    share, trim = (
        getattr(base, name) + getattr(kept, name) - getattr(was, name) for name in ("ep_share", "ep_trim")
    )
    chosen = {
        name: getattr(kept, name)
        for name in ("shape_en", "shape_ep", "pulse", "mix")
        if getattr(kept, name) != getattr(was, name)
    }
    if chosen.get("pulse") is not None or chosen.get("mix") is not None:
        chosen = {"pulse": None, "mix": None} | chosen
    return base.model_copy(
        update=chosen
        | {
            "amps_run": base.amps_run * amps,
            "amps_set": base.amps_set * amps,
            "ep_share": min(max(share, SHARE_ENDS[0]), SHARE_ENDS[1]),
            "ep_trim": min(max(trim, TRIM_ENDS[0]), TRIM_ENDS[1]),
            "frequency_hz": min(max(hertz, HZ_ENDS[0]), HZ_ENDS[1]),
        }
    )


def _ratio(kept: float, planned: float) -> float:
    """What coupons moved a figure by, within reason."""
    return min(max(kept / planned, 1 / MOST_RATIO), MOST_RATIO)
