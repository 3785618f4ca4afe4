"""What a shop keeps: when a recipe is proved, which one is nearest to a job, what carries over, and accounts of runs."""

import math
from datetime import datetime

import pytest

from anvilsong.core.coefficients import nominal
from anvilsong.core.job import read_job
from anvilsong.core.model import Bench
from anvilsong.core.plan import decide
from anvilsong.core.said import in_units
from anvilsong.core.settings import Pulse
from anvilsong.core.shop import Evidence, Kept, PartRun, account, apart, nearest, proof_of, traits, week_of
from anvilsong.demo.machines import CURLEW, HERON

BENCH = Bench(HERON, None, nominal())
BUTT = {"a": {"alloy": "6061", "thickness": 3}, "joint": "butt", "machine": "Heron 320"}


@pytest.mark.parametrize(
    ("evidence", "state", "words"),
    [
        (Evidence(), "as_planned", "No coupon"),
        (Evidence(good=1, days=3), "needs_coupon", "a second"),
        (
            Evidence(good=1, days=3, runs=1),
            "proved",
            "1 coupon as wanted, 1 run on parts, the last coupon 3 days ago",
        ),
        (Evidence(good=2, days=0.2), "proved", "2 coupons as wanted, the last coupon today"),
        (Evidence(good=2, days=180), "proved", "180 days ago"),
        (Evidence(good=2, days=181), "needs_coupon", "181 days old"),
        (Evidence(good=5, poor=1, days=2, newest_is_poor=True), "needs_coupon", "not as wanted"),
        (Evidence(good=2, poor=3, days=2), "proved", "2 coupons"),
        (Evidence(poor=1, newest_is_poor=True), "needs_coupon", "not as wanted"),
    ],
)
def test_when_a_recipe_is_proved(evidence, state, words):
    proof = proof_of(evidence)
    assert proof.state == state
    assert words in in_units(proof.why)


def test_how_far_jobs_lie_apart():
    job = read_job(BUTT)
    assert apart(traits(job), traits(job)) == (0, ())
    ways = {
        "thickness": {"a": {"alloy": "6061", "thickness": 4}},
        "joint": {"joint": "tee"},
        "metal": {"a": {"alloy": "5083", "thickness": 3}},
        "machine": {"machine": "Curlew 220"},
        "surface": {"surface": "mill"},
        "position": {"position": "overhead"},
        "control": {"control": "switch_4"},
        "gas": {"helium_share": 0.25},
        "size": {"part_size": "hand"},
        "details": {"gap_mm": 1},
        "way": {"purposes": ["appearance"]},
    }
    found = {key: apart(traits(job), traits(read_job(BUTT | change))) for key, change in ways.items()}
    for key, (distance, differs) in found.items():
        assert distance > 0
        assert key in differs
    assert found["thickness"][0] == pytest.approx(1.5 * math.log(4 / 3))
    near, far = (
        apart(traits(job), traits(read_job(BUTT | {"a": {"alloy": name, "thickness": 3}})))[0]
        for name in ("6082", "A356")
    )
    assert near < found["metal"][0] == far
    twice = apart(traits(job), traits(read_job(BUTT | ways["joint"] | ways["surface"])))
    assert twice[1] == ("joint", "surface")
    assert twice[0] == pytest.approx(found["joint"][0] + found["surface"][0])


def kept(key=1, name="Kept", proved=True, amps=1.0, share=0.0, **change):
    job = read_job(BUTT | change)
    settings = decide(job, *BENCH).settings
    moved = {"amps_run": settings.amps_run * amps, "amps_set": settings.amps_set * amps}
    settings = settings.model_copy(update=moved | {"ep_share": settings.ep_share + share})
    return Kept(key, name, job, settings, BENCH, proved)


def test_what_coupons_moved_a_recipe_by_is_what_carries_over():
    """Eight per cent more amps and five points more share on 3 mm are that on 4 mm of another joint too."""
    other = read_job(BUTT | {"a": {"alloy": "6061", "thickness": 4}, "joint": "tee"})
    plan = decide(other, *BENCH).settings
    (plain,) = nearest(other, BENCH, [kept()])
    assert plain.settings.amps_run == pytest.approx(plan.amps_run, rel=0.02)
    assert plain.settings.ep_share == pytest.approx(plan.ep_share, abs=0.011)
    assert plain.planned == plan
    (moved,) = nearest(other, BENCH, [kept(amps=1.08, share=0.05)])
    assert moved.settings.amps_run / plain.settings.amps_run == pytest.approx(1.08, abs=0.02)
    assert moved.settings.ep_share - plain.settings.ep_share == pytest.approx(0.05, abs=0.011)
    assert moved.is_whole
    assert moved.settings.travel_mm_s == plan.travel_mm_s
    # A hand that goes slower than usual goes slower here too, with the amps that such a hand wants.
    slow = kept()
    slow = slow._replace(
        settings=slow.settings.model_copy(update={"travel_mm_s": 0.8 * slow.settings.travel_mm_s})
    )
    (found,) = nearest(other, BENCH, [slow])
    assert found.settings.travel_mm_s == pytest.approx(0.8 * plan.travel_mm_s, abs=0.02)


def test_the_nearest_and_the_proved_first_and_within_the_machine():
    job = read_job(BUTT | {"machine": "Curlew 220"})
    bench = Bench(CURLEW, None, nominal())
    far, near, unproved = kept(1, "far", joint="tee"), kept(2, "near"), kept(3, "unproved", proved=False)
    found = nearest(job, bench, [far, unproved, near])
    assert [one.recipe.name for one in found] == ["near", "unproved", "far"]
    close = kept(4, "close", position="overhead")  # proved, and not so far off as a coupon is worth
    assert [one.recipe.name for one in nearest(job, bench, [unproved, close])] == ["close", "unproved"]
    assert (
        nearest(job, bench, [kept(a={"alloy": "A356", "thickness": 25}, surface="cast", position="overhead")])
        == []
    )
    (hot,) = nearest(job, bench, [kept(amps=5)])
    assert hot.settings.amps_run <= hot.settings.amps_set <= CURLEW.most_a
    assert not hot.is_whole or hot.settings.amps_run < 2 * hot.planned.amps_run


def test_the_same_job_gets_the_recipe_itself():
    recipe = kept(amps=1.07)
    chosen = {"shape_en": "soft", "post_flow_s": 11.0}
    recipe = recipe._replace(settings=recipe.settings.model_copy(update=chosen))
    (found,) = nearest(recipe.job, BENCH, [recipe])
    assert found.differs == ()
    assert found.settings.amps_run == pytest.approx(recipe.settings.amps_run, rel=0.01)
    assert (found.settings.shape_en, found.settings.post_flow_s) == ("soft", 11.0)


def test_a_peak_comes_with_its_pulse_or_not_at_all():
    """Amps that were found with a pulse are its peak: without it they would be the heat of the whole weld."""
    other = read_job(BUTT | {"a": {"alloy": "6061", "thickness": 4}})
    recipe = kept(amps=1.4)
    pulse = Pulse(rate_hz=1.5, peak_share=0.5, base_share=0.3)
    recipe = recipe._replace(settings=recipe.settings.model_copy(update={"pulse": pulse}))
    (found,) = nearest(other, BENCH, [recipe])
    assert found.settings.pulse is not None
    assert found.settings.pulse.rate_hz == pytest.approx(1.5, rel=0.05)
    assert found.settings.amps_run > 1.2 * found.planned.amps_run
    plain = CURLEW.model_copy(update={"can_pulse": False})
    (bare,) = nearest(other, Bench(plain, None, nominal()), [recipe])
    assert bare.settings.pulse is None
    assert not bare.is_whole


def test_accounts():
    runs = [PartRun(seconds=1800, gas_l=10, rod_mm=500, cost=2.5), PartRun(seconds=900)]
    whole = account(runs)
    assert (whole.runs, whole.arc_h, whole.gas_l, whole.rod_mm, whole.cost) == (2, 0.75, 10, 500, 2.5)
    assert account([]).runs == 0
    assert week_of(datetime(2026, 12, 31)) == "2026-W53"
