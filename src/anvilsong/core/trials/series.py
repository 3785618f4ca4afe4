"""Test series: one setting stepped, or two crossed, all else kept; what each run is expected to give."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import product
from math import ceil, log
from typing import Literal, NamedTuple

from pydantic import Field, model_validator

from anvilsong.core.arc.sound import loudness_db
from anvilsong.core.bead import HandScatter, student_z
from anvilsong.core.checks import outcome
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.errors import BadInput, Unfit
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine, cannot_set, read_panel, show_on_panel
from anvilsong.core.model import with_equal_heat
from anvilsong.core.registry import BY_KEY, get_value, with_value
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.value import Title, Value
from anvilsong.core.words import sentence

SteppedKey = Literal[
    "ep_share", "ep_trim", "frequency_hz", "shape_en", "amps_run", "pulse_rate_hz", "pulse_peak_share",
    "pulse_base_share", "mix_ac_share", "mix_cycle_s", "mix_dc_level", "flow_l_min", "stick_out_mm",
]  # fmt: skip
STEPPED: tuple[SteppedKey, ...] = SteppedKey.__args__  # type: ignore[attr-defined]
LEAST_VALUES, MOST_VALUES, MOST_RUNS, MOST_BEADS, MOST_OF_A_RUN = 2, 6, 18, 3, 50
Kept = Literal["heat", "amps"]
TOLD_Z = 2.2414  # of a normal, either side: one equal pair of forty lies further apart
LACKING = 0.03  # of the heat
SURE_Z = 1.645  # of a difference that shows in nineteen of twenty series


class Axis(Value):
    """A setting and the values it is stepped through, canonical; a waveform by its name."""

    key: SteppedKey
    values: tuple[float | str, ...] = Field(min_length=LEAST_VALUES, max_length=MOST_VALUES)


class Run(Value):
    """One run of a series: the values of its axes, what is set, and the coupons run with it, by number."""

    values: tuple[float | str, ...] = Field(min_length=1, max_length=2)
    settings: Settings
    coupons: tuple[int, ...] = Field((), max_length=MOST_OF_A_RUN)


class Series(Value):
    """A series of runs around the settings of one version of a job."""

    kind: Literal["series"] = "series"
    title: Title
    revision: int = Field(ge=1, le=10**9)
    axes: tuple[Axis, ...] = Field(min_length=1, max_length=2)
    kept: Kept
    beads: int = Field(1, ge=1, le=MOST_BEADS)
    """How many coupons a run wants."""
    base: Settings
    runs: tuple[Run, ...] = Field(min_length=LEAST_VALUES, max_length=MOST_RUNS)

    @model_validator(mode="after")
    def _of_its_axes(self) -> Series:
        if any(len(run.values) != len(self.axes) for run in self.runs):
            raise Unfit(sentence("trials.runs_have_value_each"))
        return self


class Expected(Value):
    """What one run is expected to give, and why it cannot or should not be run."""

    heat_w: float
    amps_run: float
    amps_set: float
    bead_mm: float
    border_mm: float
    tungsten_load: float
    ripple_mm: float
    noise_db: float
    travel_mm_s: float
    stops: tuple[Words, ...]
    """Limits that it breaks and the plan does not."""
    lacks: float = 0.0
    """The share of the heat that the machine has no amps for, where the heat is to stay."""
    cannot: tuple[str, ...]
    """Settings, by key, that this machine cannot be set to."""


class Spread(Value):
    """How far the runs of a series are expected to lie apart, mm, and how many coupons a run it takes to see
    that in nineteen of twenty series; 0 where no number of coupons that one would run does.
    """

    border_mm: float
    bead_mm: float
    beads: int


class Layout(NamedTuple):
    """What a series is to step through, and what it keeps: "heat" moves the amps so that every run puts as
    much heat into the work, "amps" leaves them.
    """

    title: str
    axes: tuple[Axis, ...]
    kept: Kept
    beads: int = 1
    revision: int = 1


def make_series(
    layout: Layout, job: Job, base: Settings, machine: Machine, c: Coefficients | None = None
) -> Series:
    """A series whose runs a machine can be set to, in the steps of its panel; values that are one step there
    stand once.

    Raises
    ------
    BadInput : a value that cannot be used, an axis twice, or too many or too few runs
    """
    title, axes, kept, beads, revision = layout
    if len({axis.key for axis in axes}) != len(axes):
        raise BadInput.one("second", axes[0].key, sentence("trials.choose_two_settings"))
    runs: list[Run] = []
    for values in product(*(axis.values for axis in axes)):
        to = dict(zip((axis.key for axis in axes), values, strict=True))
        settings = set_to(to, kept, job, base, machine, c)
        stands = tuple(_value(settings, axis.key) for axis in axes)
        if all(run.settings != settings for run in runs):
            runs.append(Run(values=stands, settings=settings))
    if not LEAST_VALUES <= len(runs) <= MOST_RUNS:
        raise BadInput.one(
            "values", f"{len(runs)} runs", sentence("trials.so_many_runs", least=LEAST_VALUES, most=MOST_RUNS)
        )
    return Series(
        title=title, revision=revision, axes=tuple(axes), kept=kept, beads=beads, base=base, runs=tuple(runs)
    )


def set_to(
    to: Mapping[SteppedKey, float | str], kept: Kept, job: Job, base: Settings, machine: Machine,
    c: Coefficients | None = None,
) -> Settings:  # fmt: skip
    """The settings of one run: some values, each as near as the panel's steps come, and the amps as kept."""
    settings = base
    for key, value in to.items():
        settings = _stepped(settings, key, value, job, machine)
    if kept == "heat" and "amps_run" not in to:
        settings = _at_equal_heat(base, settings, machine, job, c)
    return settings


def _value(settings: Settings, key: str) -> float | str:
    value = get_value(settings, key)
    return value if isinstance(value, str) else float(value)


def _stepped(settings: Settings, key: SteppedKey, value: float | str, job: Job, machine: Machine) -> Settings:
    """The settings with one value, as near to it as the panel's steps come."""
    after = with_value(settings, key, value, job.control)
    if key == "shape_en":
        return with_value(after, "shape_ep", value, job.control)
    control = machine.control(key)
    if control is None or BY_KEY[key].dimension is None:
        return after
    shown = next((line.value for line in show_on_panel(after, machine).lines if line.setting == key), None)
    if shown is None:
        return after
    read = read_panel({key: shown}, machine, after, job.control)
    return with_value(after, key, get_value(read, key), job.control)


def _at_equal_heat(
    base: Settings, after: Settings, machine: Machine, job: Job, c: Coefficients | None
) -> Settings:
    """With the amps that put as much heat into the work, as far as the machine goes."""
    moved = with_equal_heat(base, after, c)
    full = min(moved.amps_set, machine.most_a)
    run = min(moved.amps_run, full)
    return after.model_copy(
        update={"amps_set": round(full, 1), "amps_run": round(run if job.control == "pedal" else full, 1)}
    )


def expected(
    series: Series, job: Job, machine: Machine, c: Coefficients | None = None
) -> tuple[Expected, ...]:
    """What each run is expected to give, in the order of the series."""
    before = {warning.code for warning in outcome(job, series.base, machine, c=c).warnings}
    wanted = outcome(job, series.base, machine, c=c).consequences.work_heat_w
    found = []
    for run in series.runs:
        seen = outcome(job, run.settings, machine, c=c)
        figures = seen.consequences
        stops = [each.message for each in seen.warnings if each.level == "stop" and each.code not in before]
        found.append(
            Expected(
                heat_w=figures.work_heat_w,
                amps_run=run.settings.amps_run,
                amps_set=run.settings.amps_set,
                bead_mm=figures.pool_width_mm,
                border_mm=figures.border_mm,
                tungsten_load=figures.tungsten_load,
                ripple_mm=figures.ripple_mm,
                travel_mm_s=run.settings.travel_mm_s,
                noise_db=loudness_db(run.settings.wave(run.settings.amps_run)),
                stops=tuple(stops),
                lacks=_lacking(series, run, figures.work_heat_w / wanted),
                cannot=tuple(cannot_set(series.base, run.settings, machine)),
            )
        )
    return tuple(found)


def _lacking(series: Series, run: Run, of_wanted: float) -> float:
    """What a run at equal heat falls short by, where that is more than a step of the panel."""
    stepped_amps = any(axis.key == "amps_run" for axis in series.axes)
    lacks = series.kept == "heat" and not stepped_amps and of_wanted < 1 - LACKING
    return 1 - of_wanted if lacks else 0.0


def spread(what: Sequence[Expected], hand: HandScatter) -> Spread:
    """What a series must show, before it is run: the widest difference of border and bead, and the coupons a
    run that tell it from the hand.

    n = ⌈2·((t + 1.645)·σ/Δ)²⌉ with t of the hand's scatter σ, for the figure that tells more.
    """
    borders, beads = [each.border_mm for each in what], [each.bead_mm for each in what]
    apart_border, apart_bead = max(borders) - min(borders), max(beads) - min(beads)
    sd = [hand.own_border_sd_mm(border) for border in borders]
    scatters = [
        apart_border / (sum(sd) / len(sd)),
        log(max(beads) / min(beads)) / hand.width if min(beads) > 0 else 0.0,
    ]
    told_over = student_z(hand.freedoms, TOLD_Z)
    needed = [
        ceil(2 * ((told_over + SURE_Z) / each) ** 2) if each > 0 else MOST_BEADS + 1 for each in scatters
    ]
    fewest = min(needed)
    return Spread(border_mm=apart_border, bead_mm=apart_bead, beads=fewest if fewest <= MOST_BEADS else 0)
