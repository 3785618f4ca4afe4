"""The set-up of the bench before the first arc, bottle to torch, in order, from what machine and kit are."""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core.machine import Machine
from anvilsong.core.model import Situation, Step
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.torch.kit import Kit
from anvilsong.core.words import sentence

STATION = "bench"
LONG_CAP_OVER_MM = 12.0  # of stick-out: a stubby cap's tungsten is too short to set far
LEAST_PURGE_S = 10.0


def bench_steps(at: Situation, settings: Settings, machine: Machine, kit: Kit) -> list[Step]:
    """Every step of the set-up, with its key for ticking."""
    steps = [*_gas(settings), *_leads(at), *_torch(settings), *_cooling(machine, kit)]
    purge = sentence("prep.bench_purge", pre_flow_s=max(LEAST_PURGE_S, settings.pre_flow_s))
    return [*steps, _step("purge", purge, sentence("prep.bench_purge_why"))]


def _step(key: str, text: Words, why: Words, caution: Words = "") -> Step:
    return Step(station=STATION, key=key, text=text, why=why, caution=caution)


def _gas(settings: Settings) -> Iterator[Step]:
    yield _step(
        "chain",
        sentence("prep.bench_chain"),
        sentence("prep.bench_chain_why"),
        sentence("prep.bench_chain_caution"),
    )
    yield _step(
        "crack",
        sentence("prep.bench_crack"),
        sentence("prep.bench_crack_why"),
        sentence("prep.bench_crack_caution"),
    )
    yield _step("regulator", sentence("prep.bench_regulator"), sentence("prep.bench_regulator_why"))
    yield _step("leak", sentence("prep.bench_leak"), sentence("prep.bench_leak_why"))
    flow = sentence("prep.bench_flow", flow_l_min=settings.gas.flow_l_min)
    yield _step("flow", flow, sentence("prep.bench_flow_why"))


def _leads(at: Situation) -> Iterator[Step]:
    yield _step("sockets", sentence("prep.bench_sockets"), sentence("prep.bench_sockets_why"))
    yield _step("clamp", sentence("prep.bench_clamp"), sentence("prep.bench_clamp_why"))
    if at.job.control == "pedal":
        yield _step("remote", sentence("prep.bench_remote"), sentence("prep.bench_remote_why"))


def _torch(settings: Settings) -> Iterator[Step]:
    """What goes together: collet, lens or body, cup and cap of one tungsten."""
    tungsten, cup = settings.tungsten, settings.cup
    if tungsten is not None:
        size, number = tungsten.diameter_mm, cup.number
        collet = sentence("prep.bench_collet", size_mm=size)
        yield _step("collet", collet, sentence("prep.bench_collet_why"))
        if cup.gas_lens:
            lens = sentence("prep.bench_lens", size_mm=size, cup=number)
            yield _step("lens", lens, sentence("prep.bench_lens_why"))
        else:
            body = sentence("prep.bench_body", size_mm=size, cup=number)
            yield _step("body", body, sentence("prep.bench_body_why"))
    if cup.stick_out_mm <= LONG_CAP_OVER_MM:
        yield _step("cap", sentence("prep.bench_cap"), sentence("prep.bench_cap_why"))
    else:
        yield _step("cap", sentence("prep.bench_long_cap"), sentence("prep.bench_long_cap_why"))
    out = sentence("prep.bench_stick_out", stick_out_mm=cup.stick_out_mm)
    yield _step("stick_out", out, sentence("prep.bench_stick_out_why"))


def _cooling(machine: Machine, kit: Kit) -> Iterator[Step]:
    if not machine.water_cooled:
        return
    yield _step(
        "coolant",
        sentence("prep.bench_coolant"),
        sentence("prep.bench_coolant_why"),
        sentence("prep.bench_coolant_caution"),
    )
    if kit.cooler == "auto":
        yield _step("cooler_auto", sentence("prep.bench_cooler_auto"), sentence("prep.bench_cooler_auto_why"))
    yield _step("torch_warm", sentence("prep.bench_torch_warm"), sentence("prep.bench_torch_warm_why"))
