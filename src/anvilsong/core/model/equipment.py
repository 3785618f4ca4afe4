"""The machine as a job uses it: with the torch of the kit on its hose."""

from __future__ import annotations

from typing import NamedTuple

from anvilsong.core.arc.waveform import cycle_means
from anvilsong.core.coefficients import Coefficients
from anvilsong.core.heat.pedal import DUTY_CYCLE_S
from anvilsong.core.job import Job
from anvilsong.core.machine import Machine, with_torch
from anvilsong.core.settings import Settings
from anvilsong.core.torch.cooling import choose_torch
from anvilsong.core.torch.kit import Kit, Torch


class Bench(NamedTuple):
    """What a job is welded with: the machine, the kit on its shelf, and the coefficients of that pair."""

    machine: Machine
    kit: Kit | None
    c: Coefficients


def run_duty(job: Job, settings: Settings) -> float:
    """Share of the ten minutes of a duty cycle that one run takes, at most all of them."""
    return min(1.0, job.weld_length_mm / settings.travel_mm_s / DUTY_CYCLE_S)


def torch_for(job: Job, settings: Settings, kit: Kit) -> Torch | None:
    """The kit's torch for these settings: the lightest that bears the running current at the run's duty."""
    return choose_torch(kit.torches, float(cycle_means(settings.wave()).rms), run_duty(job, settings))


def equipped(machine: Machine, job: Job, settings: Settings, kit: Kit | None) -> Machine:
    """The machine with the torch that the kit has for these settings; with its own when there is none."""
    return machine if kit is None else with_torch(machine, torch_for(job, settings, kit))
