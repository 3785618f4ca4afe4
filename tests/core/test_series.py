"""Test series: what is stepped and kept, what is foreseen, and that what is told is true as often as it says."""

import numpy as np
import pytest

from anvilsong.core.arc.waveform import heat_per_amp_w
from anvilsong.core.bead import HandScatter, Looks
from anvilsong.core.bead.bead_models import border_at_mm
from anvilsong.core.bead.simulated import Hand, run_coupon, some_shop
from anvilsong.core.coefficients import nominal
from anvilsong.core.errors import BadInput
from anvilsong.core.job import read_job
from anvilsong.core.machine import show_on_panel
from anvilsong.core.model import consequences, figures, situation
from anvilsong.core.plan import make_plan
from anvilsong.core.trials import (
    Axis,
    Layout,
    expected,
    make_series,
    pointed_to,
    ready_made,
    seen_apart,
    spread,
    told,
)
from anvilsong.demo.machines import MACHINES

BUTT = read_job({"a": {"alloy": "6061", "thickness": 3.2}, "joint": "butt"})
TEE = read_job({"a": {"alloy": "5083", "thickness": 2}, "joint": "tee"})
MACHINE = MACHINES[2]
BASE = {id(job): make_plan(job, MACHINE).settings for job in (BUTT, TEE)}
KNOWN = HandScatter(repeats=30)


def balances(job=BUTT):
    ready = next(one for one in ready_made(job, BASE[id(job)], MACHINE) if one.key == "balance")
    return make_series(Layout(ready.title, ready.axes, ready.kept), job, BASE[id(job)], MACHINE)


def stepped(key, values, kept="heat", machine=MACHINE, job=BUTT):
    base = make_plan(job, machine).settings
    return make_series(Layout("one", (Axis(key=key, values=values),), kept), job, base, machine)


def test_what_is_kept():
    """Equal heat moves the amps by the heat an ampere makes; equal amps leave them; the rest stays."""
    for series in (balances(), stepped("ep_trim", (0.0, -0.2), machine=MACHINES[0])):
        base = series.base
        for run in series.runs:
            ratio = heat_per_amp_w(base.wave(), nominal()) / heat_per_amp_w(run.settings.wave(), nominal())
            assert run.settings.amps_run == pytest.approx(base.amps_run * ratio, abs=0.06)
            same = run.settings.model_copy(
                update={name: getattr(base, name) for name in ("amps_run", "amps_set", series.axes[0].key)}
            )
            assert same == base
    plain = stepped("ep_share", (0.2, 0.3, 0.4), "amps")
    assert {run.settings.amps_run for run in plain.runs} == {plain.base.amps_run}
    heats = [one.heat_w for one in expected(plain, BUTT, MACHINE)]
    assert heats == sorted(heats, reverse=True)
    # The amps themselves may be stepped, and then nothing follows.
    amps = stepped("amps_run", (100.0, 110.0, 120.0))
    assert [run.settings.amps_run for run in amps.runs] == [100, 110, 120]


def test_two_crossed_and_one_wave_for_both_halves():
    axes = (
        Axis(key="shape_en", values=("square", "sine")),
        Axis(key="pulse_rate_hz", values=(1.0, 2.0, 10.0)),
    )
    job, machine = BUTT, MACHINES[0]
    series = make_series(Layout("crossed", axes, "heat", 2), job, make_plan(job, machine).settings, machine)
    assert len(series.runs) == 6
    assert all(run.settings.shape_en == run.settings.shape_ep for run in series.runs)
    assert {run.settings.pulse.rate_hz for run in series.runs} == {1, 2, 10}
    what = expected(series, job, machine)
    # A sine that pulses wants more amps than this machine has: the heat it lacks is said.
    square, sine = what[:3], what[3:]
    assert [one.heat_w for one in square] == pytest.approx([square[0].heat_w] * 3, rel=0.02)
    assert [one.lacks for one in square] == [0, 0, 0]
    assert [one.lacks for one in sine] == pytest.approx([1 - sine[0].heat_w / square[0].heat_w] * 3, rel=0.02)
    assert {one.amps_set for one in sine} == {machine.most_a}
    for bad in ((axes[0], axes[0]), (Axis(key="ep_share", values=(0.3, 0.3001)),)):
        with pytest.raises(BadInput):
            make_series(Layout("no", bad, "heat"), job, make_plan(job, machine).settings, machine)


@pytest.mark.parametrize("machine", MACHINES, ids=lambda machine: machine.name)
def test_ready_made_ones_can_be_set(machine):
    """On every machine of the workshop: in the panel's own steps, inside its ranges, and foreseen as one by one."""
    for job in (BUTT, TEE):
        base = make_plan(job, machine).settings
        for ready in ready_made(job, base, machine):
            series = make_series(Layout(ready.title, ready.axes, ready.kept), job, base, machine)
            what = expected(series, job, machine)
            for run, one in zip(series.runs, what, strict=True):
                alone = consequences(job, run.settings, machine)
                assert (one.border_mm, one.bead_mm) == (alone.border_mm, alone.pool_width_mm)
                assert one.cannot == ()
                key = ready.axes[0].key
                for line in show_on_panel(run.settings, machine).lines:
                    if line.setting == key and isinstance(line.canonical, float):
                        assert line.canonical == pytest.approx(run.values[0], abs=4e-3)


def test_what_must_be_shown():
    what = expected(balances(), BUTT, MACHINE)
    apart = spread(what, KNOWN)
    borders = [one.border_mm for one in what]
    assert apart.border_mm == pytest.approx(max(borders) - min(borders))
    assert apart.beads == 1
    # A hand that scatters twice as far takes four times as many, and then more than one would run.
    rough = spread(what, HandScatter(width=0.2, border=2.0, repeats=30))
    assert rough.beads in (0, 2, 3)
    assert spread(what, HandScatter(width=0.5, border=8.0, repeats=30)).beads == 0
    near = expected(stepped("ep_share", (0.3, 0.32)), BUTT, MACHINE)
    assert spread(near, KNOWN).beads == 0


def test_two_hundred_series_with_a_hidden_curve():
    """Shops as they lie apart: what differs is told in 95 of 100, equal runs are called different in 5 at most."""
    rng, series = np.random.default_rng(5), balances()
    what = expected(series, BUTT, MACHINE)
    beads = spread(what, KNOWN).beads
    found, wrong = 0, 0
    for _ in range(200):
        shop = some_shop(rng)
        runs = [[run_coupon(BUTT, run.settings, shop, rng) for _ in range(beads)] for run in series.runs]
        found += told("border", runs, what, KNOWN).differs
        equal = [[run_coupon(BUTT, series.base, shop, rng) for _ in range(beads)] for _ in series.runs]
        verdict = told("border", equal, what, KNOWN)
        wrong += verdict.differs
        assert verdict.differs or not verdict.pairs
    assert found >= 190
    assert wrong <= 14  # 5 % of 200, and what chance adds in nineteen of twenty such tests


def test_the_balance_series_finds_the_border_in_one_sheet():
    rng, hits = np.random.default_rng(8), 0
    for number in range(60):
        job = (BUTT, TEE)[number % 2]
        series, shop = balances(job), some_shop(rng)
        runs = [[run_coupon(job, run.settings, shop, rng)] for run in series.runs]
        pointed = pointed_to(series, runs, job, MACHINE)
        assert min(r.values[0] for r in series.runs) <= pointed.value <= max(r.values[0] for r in series.runs)
        bead = float(figures(situation(job), pointed.settings.wave(), pointed.settings, shop).pool_width_mm)
        aim = situation(job).aim
        hits += aim.low_mm <= max(border_at_mm(job, pointed.settings, bead, shop), 0) <= aim.high_mm
    assert hits >= 54
    assert pointed_to(series, [[], [Looks(overall="keep")], []], job, MACHINE) is None


def test_a_series_of_amps_points_by_the_bead():
    """Where the heat is stepped the bead decides: a shop that runs cold is pointed to more amps than it was planned."""
    base = BASE[id(BUTT)]
    steps = tuple(round(base.amps_run * share) for share in (0.9, 1.0, 1.1, 1.2))
    series = stepped("amps_run", tuple(map(float, steps)))
    cold = nominal().model_copy(update={"heat_factor": 0.85 * nominal().heat_factor})
    rng = np.random.default_rng(3)
    runs = [[run_coupon(BUTT, run.settings, cold, rng, Hand(0.2)) for _ in range(2)] for run in series.runs]
    pointed = pointed_to(series, runs, BUTT, MACHINE)
    assert pointed.settings.amps_run > 1.05 * base.amps_run
    bead = float(figures(situation(BUTT), pointed.settings.wave(), pointed.settings, cold).pool_width_mm)
    assert bead == pytest.approx(situation(BUTT).aimed_width_mm(base.travel_mm_s), rel=0.12)


def test_what_is_told_of_exact_coupons():
    """Coupons on the model's own curve follow it once; twice as steep twice; a run without one is none."""
    series = balances()
    what = expected(series, BUTT, MACHINE)

    def looks(borders):
        return [
            [Looks(border_left_mm=border, border_right_mm=border, bead_width_mm=one.bead_mm)]
            if border is not None
            else []
            for border, one in zip(borders, what, strict=True)
        ]

    as_expected = told("border", looks([one.border_mm for one in what]), what, KNOWN)
    assert as_expected.follows == pytest.approx(1.0)
    middle = what[1].border_mm
    steep = told(
        "border", looks([max(0, middle + 2 * (one.border_mm - middle)) for one in what]), what, KNOWN
    )
    assert steep.follows == pytest.approx(2.0, rel=0.05)
    assert (0, 2) in steep.pairs
    lacking = told("border", looks([what[0].border_mm, None, what[2].border_mm]), what, KNOWN)
    assert lacking.means[1] is None
    assert told("border", looks([1.0, None, None]), what, KNOWN).follows is None
    # Four coupons a run know the mean twice as well.
    four = told("border", [run * 4 for run in looks([1.0, 1.0, 1.0])], what, KNOWN)
    one = told("border", looks([1.0, 1.0, 1.0]), what, KNOWN)
    assert [e / f for e, f in zip(one.errors, four.errors, strict=True)] == pytest.approx([2, 2, 2])
    assert not one.differs
    judged = [[Looks(judged={"bright": place, "specks": 1})] for place in (0, 1, 3)]
    assert seen_apart(judged) == {"bright": ((0, 2), (1, 2))}
