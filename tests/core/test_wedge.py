"""A gap that opens: slices that add up, each its own gap, amps that melt its filler; and the set-up of the bench."""

from itertools import pairwise

import pytest

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.coefficients import nominal
from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.model import situation
from anvilsong.core.plan import make_plan
from anvilsong.core.prep import bench_steps, wedge
from anvilsong.core.said import in_units as text
from anvilsong.core.torch.kit import Kit
from anvilsong.demo.machines import MACHINES

JOB = read_job(
    {"a": {"alloy": "5052", "thickness": 2}, "joint": "butt", "weld_length_mm": 300, "edge_prep": "square"}
)
AT, SETTINGS = situation(JOB), make_plan(JOB, MACHINES[0]).settings


def test_the_slices_are_the_whole_gap():
    slices = wedge(AT, SETTINGS, 0.2, 3.2)
    assert len(slices) == 6
    assert (slices[0].from_mm, slices[-1].to_mm) == (0, 300)
    for one, other in pairwise(slices):
        assert one.to_mm == pytest.approx(other.from_mm)
        assert one.gap_mm[1] == pytest.approx(other.gap_mm[0])
        assert other.amps > one.amps
    # What fills the wedge beside a closed joint is its area times the thickness.
    closed = AT.whole.total_mm2 * 300
    assert sum(one.volume_mm3 for one in slices) - closed == pytest.approx(
        (0.2 + 3.2) / 2 * 300 * 2, rel=0.02
    )
    # From half the thickness on, and only from there, it is bridged.
    for one in slices:
        assert one.is_bridged == (sum(one.gap_mm) / 2 > 1.0)
        if one.is_bridged:
            assert sum(step.volume_mm3 for step in one.steps) == pytest.approx(
                sum(one.gap_mm) / 2 * 2 * 50, rel=1e-6
            )
    assert slices[-1].is_rod_heavy


def test_the_amps_make_the_pool_and_melt_the_rod():
    for one in wedge(AT, SETTINGS, 0.0, 0.9):
        job = JOB.model_copy(update={"gap_mm": sum(one.gap_mm) / 2})
        heat = float(AT.wanted_pool_heat_w(SETTINGS.travel_mm_s, None))
        rod = float(situation(job).filler_heat_w(SETTINGS.travel_mm_s, nominal()))
        assert one.amps * heat_per_amp_w(SETTINGS.wave(), nominal()) == pytest.approx(heat + rod)
        assert one.heat_share == pytest.approx(rod / (heat + rod))
    even = wedge(AT, SETTINGS, 0.5, 0.5)
    assert len(even) == 1


def test_what_is_no_wedge_is_refused():
    for narrow, wide in ((2, 1), (-1, 1), (0, 21)):
        with pytest.raises(BadInput):
            wedge(AT, SETTINGS, narrow, wide)
    tee = situation(read_job({"a": {"alloy": "5052", "thickness": 2}, "joint": "build_up"}))
    with pytest.raises(BadInput):
        wedge(tee, SETTINGS, 0, 2)


def test_the_bench_is_what_machine_and_torch_are():
    def keys(machine, settings=SETTINGS, job=JOB, **kit):
        return [step.key for step in bench_steps(situation(job), settings, machine, Kit(**kit))]

    wet, dry = (
        MACHINES[0].model_copy(update={"water_cooled": True}),
        MACHINES[0].model_copy(update={"water_cooled": False}),
    )
    assert {"coolant", "torch_warm"} <= set(keys(wet))
    assert not {"coolant", "cooler_auto", "torch_warm"} & set(keys(dry))
    assert "cooler_auto" in keys(wet, cooler="auto")
    switch = read_job(JOB.model_dump(by_alias=True) | {"control": "switch_2"})
    assert "remote" in keys(dry)
    assert "remote" not in keys(dry, job=switch)
    order = keys(wet)
    assert (
        order.index("chain")
        < order.index("regulator")
        < order.index("flow")
        < order.index("collet")
        < order.index("purge")
    )
    assert len(set(order)) == len(order)
    lens = SETTINGS.model_copy(
        update={"cup": SETTINGS.cup.model_copy(update={"gas_lens": True, "stick_out_mm": 16.0})}
    )
    body = SETTINGS.model_copy(
        update={"cup": SETTINGS.cup.model_copy(update={"gas_lens": False, "stick_out_mm": 5.0})}
    )
    said = {
        name: " ".join(text(step.text) for step in bench_steps(AT, one, dry, Kit()))
        for name, one in {"lens": lens, "body": body}.items()
    }
    assert "Gas lens of" in said["lens"]
    assert "Long back cap" in said["lens"]
    assert "Plain collet body" in said["body"]
    assert "Stubby or long" in said["body"]
    sizes = {
        f"Collet of {size} mm" in text(step.text)
        for size in (1.6, 2.4)
        for step in bench_steps(AT, SETTINGS, dry, Kit())
    }
    assert True in sizes
