"""Sections, passes, rod, gap, preheat, tacks, and the ways to reach: closed formulas, worked chemistry, directions."""

import math

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from anvilsong.core.coefficients import nominal
from anvilsong.core.job import Job, read_job
from anvilsong.core.machine.model import Machine
from anvilsong.core.metal.alloys import alloys, find_alloy
from anvilsong.core.metal.chemistry import mix
from anvilsong.core.metal.fillers import find_filler
from anvilsong.core.metal.preheat import burner_minutes, heat_kj, preheat_limit
from anvilsong.core.metal.rods import rod_for_pass_mm
from anvilsong.core.model.effects import consequences
from anvilsong.core.model.situations import situation
from anvilsong.core.plan.planner import make_plan
from anvilsong.core.prep.gap import bridge_gap
from anvilsong.core.prep.pass_list import passes
from anvilsong.core.prep.rod import rod_length_mm, rod_use, rods_by_size
from anvilsong.core.prep.short import ways_to_reach
from anvilsong.core.prep.tacks import tack_plan
from anvilsong.core.prep.whole import prepare
from anvilsong.core.said import in_units as text
from anvilsong.demo.machines import MACHINES

C = nominal()
WIDE = Machine(name="Wide", least_a=1, most_a=1000)


def situated(t, joint, alloy="6061", b=None, **more):
    given = {"a": {"alloy": alloy, "thickness": t}, "joint": joint, **more}
    if b is not None:
        given["b"] = {"alloy": alloy, "thickness": b}
    return situation(read_job(given))


def rooted(plain_mm, t):
    """The pool under which a root of 0.45 of it comes through (docs/heat.md)."""
    square = 0.12 * math.log(math.exp(0.45**2 / 0.12) - 1)
    return plain_mm * max(1.0, ((0.40 + 0.158 * t) / (1 - square)) ** (1 / 3.7))


@pytest.mark.parametrize(
    ("at", "area"),
    [
        (lambda: situated(3.2, "butt"), 0.1 * rooted(6.02, 3.2) ** 2),
        (lambda: situated(3.2, "butt", gap_mm=1), 0.1 * rooted(6.02, 3.2) ** 2 + 3.2),
        (
            lambda: situated(10, "butt", bevel={"angle_deg": 60, "root_face_mm": 1.6}, gap_mm=2),
            8.4**2 * math.tan(math.pi / 6) + 20 + (2 * 8.4 * math.tan(math.pi / 6) + 2),
        ),
        (lambda: situated(4, "tee"), 8.0),
        (lambda: situated(8, "lap", leg_mm=5), 12.5),
        (lambda: situated(4, "inside_corner", gap_mm=0.5), 8.0 + 2.0),
        (lambda: situated(4, "outside_corner", b=3), 4 * 3 * 0.785),
        (lambda: situated(4, "outside_corner", b=3, corner="half"), 4 * 3 * 0.785 / 4),
        (lambda: situated(4, "outside_corner", corner="closed"), 0.1 * rooted(6.9, 4) ** 2),
        (lambda: situated(2, "edge"), 0.1 * 4.0**2),
        (lambda: situated(5, "build_up"), 2 / 3 * 0.25 * 5.5**2),
        (lambda: situated(3, "tube_tube"), 0.1 * rooted(5.8, 3) ** 2),
        (lambda: situated(3, "tube_plate"), 4.5),
    ],
)
def test_section_areas(at, area):
    at = at()
    assert at.whole.total_mm2 == pytest.approx(area, rel=1e-6)
    plan = make_plan(at.job, WIDE)
    assert sum(p.section_mm2 for p in passes(at, plan.settings, C)) == pytest.approx(area, rel=1e-6)


@settings(max_examples=40, deadline=None)
@given(
    st.floats(1, 12),
    st.floats(0.2, 3),
    st.sampled_from(["tee", "lap", "inside_corner"]),
    st.floats(2, 12),
    st.floats(0.5, 4),
)
def test_filler_grows_with_leg_gap_and_thickness(t, gap, joint, leg, more):
    def mass(**given):
        at = situated(given.pop("t", t), joint, **given)
        plan = make_plan(at.job, WIDE)
        return rod_use(at, plan.settings, plan.consequences, C, plan.passes)

    small, big = mass(leg_mm=leg), mass(leg_mm=leg + more)
    assert big.volume_mm3 > small.volume_mm3
    if gap < 0.5 * t:  # a wider one is bridged, flush
        assert mass(leg_mm=leg, gap_mm=gap).volume_mm3 > small.volume_mm3
    if t + more < 6:
        thick, thin = (mass(t=each, edge_prep="square").volume_mm3 for each in (t + more, t))
        assert thick > thin
    filler = find_filler("4043")
    assert small.mass_g == pytest.approx(small.section_mm2 * 300 * filler.density_g_cm3 / 1000)
    assert all(each.rods == math.ceil(each.length_mm / 1000) for each in small.take)
    melted = sum(each.length_mm * math.pi / 4 * each.diameter_mm**2 for each in small.take)
    assert melted * 0.9 == pytest.approx(small.volume_mm3, rel=0.02)


def test_rod_by_hand():
    """A 4 mm fillet, 500 mm long, with 2.4 mm rod: 8·500/4.524/0.9 = 982 mm, one rod; 10.8 g of 4043."""
    assert rod_length_mm(8, 500, 2.4) == pytest.approx(982.5, rel=1e-3)
    at = situated(4, "tee", weld_length_mm=500)
    plan = make_plan(at.job, WIDE)
    use = rod_use(at, plan.settings, plan.consequences, C, plan.passes)
    assert [(each.diameter_mm, each.rods) for each in use.take] == [(2.4, 1)]
    assert use.mass_g == pytest.approx(10.76)
    assert use.feed_mm_s == pytest.approx(8 * plan.settings.travel_mm_s / 4.524, rel=1e-3)
    assert use.most_feed_mm_s == pytest.approx(0.15 * plan.consequences.work_heat_w / 2.85 / 4.524, rel=1e-3)
    assert use.dab_mm * use.dabs_per_s == pytest.approx(use.feed_mm_s)


@pytest.mark.parametrize(
    ("base", "filler", "dilution", "si", "mg", "cu"),
    [
        ("6061", "4043", 0.65, 0.65 * 0.6 + 0.35 * 5.2, 0.65, 0.182),
        ("6061", "4043", 0.35, 0.35 * 0.6 + 0.65 * 5.2, 0.35, 0.098),
        ("6061", "5356", 0.65, 0.39, 0.65 + 0.35 * 5.0, 0.182),
        ("6061", "5356", 0.35, 0.21, 0.35 + 0.65 * 5.0, 0.098),
        ("5083", "5183", 0.65, 0, 0.65 * 4.4 + 0.35 * 4.75, 0),
        ("5083", "5183", 0.35, 0, 0.35 * 4.4 + 0.65 * 4.75, 0),
        ("A356", "4043", 0.65, 0.65 * 7 + 0.35 * 5.2, 0.65 * 0.35, 0),
        ("A356", "4043", 0.35, 0.35 * 7 + 0.65 * 5.2, 0.35 * 0.35, 0),
    ],
)
def test_weld_metal_by_hand(base, filler, dilution, si, mg, cu):
    metal = mix(find_alloy(base), find_filler(filler), dilution)
    assert (metal.si, metal.mg, metal.cu) == pytest.approx((si, mg, cu))


def test_dilution_follows_the_section():
    assert situated(3.2, "butt").filler.dilution == 0.65
    gaps = [situated(3.2, "butt", gap_mm=gap).filler.dilution for gap in (0.5, 1.0, 2.0)]
    assert 0.65 > gaps[0] > gaps[1] > gaps[2] > 0.1
    bevelled = situated(10, "butt", bevel={"angle_deg": 60, "root_face_mm": 1.6}).filler.dilution
    assert bevelled == pytest.approx(0.35, abs=0.05)
    assert situated(10, "butt", bevel={"angle_deg": 90, "root_face_mm": 1.6}).filler.dilution < bevelled


def test_a_2_mm_gap_in_1_5_mm_sheet():
    at = situated(1.5, "butt", "5052", gap_mm=2, weld_length_mm=160)
    plan = make_plan(at.job)
    steps = bridge_gap(at, plan.settings)
    assert [step.kind for step in steps] == ["clean", "tack", "edge", "edge", "bridge", "wait", "fill"]
    assert sum(step.volume_mm3 for step in steps) == pytest.approx(2 * 1.5 * 160, rel=0.05)
    lefts = [step.gap_left_mm for step in steps]
    assert lefts == sorted(lefts, reverse=True)
    assert lefts[-1] == 0
    previous = 0.0
    for step in steps:
        assert step.volume_mm3 >= 0
        if step.amps is not None:
            assert step.amps_window[0] <= step.amps <= step.amps_window[1]
            assert step.amps >= previous
            assert 0.6 * plan.settings.amps_run <= step.amps <= plan.settings.amps_run
            assert plan.settings.frequency_hz + 20 <= step.frequency_hz <= plan.settings.frequency_hz + 40
            previous = step.amps
    assert "gap" in [step.key for step in plan.run_sheet]


@settings(max_examples=40, deadline=None)
@given(st.floats(0.8, 3), st.floats(0.6, 5), st.floats(60, 800))
def test_any_gap_is_filled(t, gap, length):
    at = situated(round(t, 2), "butt", "5052", gap_mm=round(gap, 2), weld_length_mm=round(length))
    plan = make_plan(at.job)
    steps = bridge_gap(at, plan.settings)
    assert sum(step.volume_mm3 for step in steps) == pytest.approx(
        round(gap, 2) * round(t, 2) * round(length), rel=1e-6
    )
    assert min(step.volume_mm3 for step in steps) >= 0


def test_multipass_amps_are_set_for_the_hottest():
    at = situated(10, "butt", "5083", bevel={"angle_deg": 60, "root_face_mm": 1.6})
    plan = make_plan(at.job, WIDE)
    run = passes(at, plan.settings, C)
    assert [p.kind for p in run] == ["root", "fill", "fill", "cap"]
    assert plan.settings.amps_set >= max(p.amps_run for p in run) - 0.5
    assert all(p.amps_window[0] < p.amps_run < p.amps_window[1] for p in run)
    assert all(p.section_mm2 <= 18 + 1e-6 for p in run)


def test_a_machine_too_small_for_the_usual_passes_lays_more_and_smaller_ones():
    """10 mm on a 220 A machine: the cap wants 376 A; seven beads do it, and where none does it is a stop."""
    small = MACHINES[0]
    plan = make_plan(situated(10, "butt").job_as_asked, small)
    usual = make_plan(situated(10, "butt").job_as_asked, WIDE)
    assert max(p.amps_run for p in usual.passes) > 1.5 * small.most_a
    assert len(plan.passes) > len(usual.passes)
    assert max(p.amps_run for p in plan.passes) <= small.most_a
    assert sum(p.section_mm2 for p in plan.passes) == pytest.approx(sum(p.section_mm2 for p in usual.passes))
    said = {warning.code: warning for warning in plan.warnings}
    assert said["pass_small"].level == "watch"
    assert said["pass_small"].numbers["usual_a"] == pytest.approx(
        max(p.amps_run for p in usual.passes), rel=0.05
    )
    assert "pass_torch" in said
    assert not {"pass_small", "pass_short", "pass_torch"} & {warning.code for warning in usual.warnings}
    # As big as they can be: another machine lays fewer.
    assert len(make_plan(situated(10, "butt").job_as_asked, MACHINES[1]).passes) < len(plan.passes)
    weak = small.model_copy(update={"most_a": 190.0})
    none = {w.code: w.level for w in make_plan(situated(12, "butt").job_as_asked, weak).warnings}
    assert none["pass_short"] == "stop"
    short = prepare(
        situated(12, "butt"),
        make_plan(situated(12, "butt").job_as_asked, weak).settings,
        plan.consequences,
        weak,
    ).short
    assert short is not None
    assert "preheat" in {way.key for way in short.ways}


def test_each_pass_has_a_rod_it_can_take():
    """A root of 7.9 mm² takes no 4.0 mm rod (12.6 mm²), and the fills over it are bought apart."""
    at = situated(10, "butt")
    plan = make_plan(at.job_as_asked, WIDE)
    root = plan.passes[0]
    assert plan.settings.filler.diameter_mm == root.rod_mm == 2.4
    for each in plan.passes:
        assert math.pi / 4 * each.rod_mm**2 <= each.section_mm2
        assert each.rod_mm <= each.pool_width_mm
    taken = rods_by_size(plan.passes, 300)
    assert [each.diameter_mm for each in taken] == [2.4, 4.0]
    assert taken[0].length_mm == pytest.approx(rod_length_mm(root.section_mm2, 300, 2.4))
    assert [rod_for_pass_mm(a, 6, 4.0, (1.6, 2.4, 3.2, 4.0)) for a in (1, 4.5, 4.6, 8.1, 12.5, 12.6)] == [
        1.6, 1.6, 2.4, 3.2, 3.2, 4.0,
    ]  # fmt: skip
    assert rod_for_pass_mm(18, 3.0, 4.0, (1.6, 2.4, 3.2, 4.0)) == 2.4


def test_preheat_limits_and_heat():
    limits = {
        name: preheat_limit(find_alloy(name)).limit_c
        for name in ("6061", "7005", "2219", "5052", "5454", "5083", "535", "1100", "3003", "A356")
    }
    assert limits == {
        "6061": 120,
        "7005": 120,
        "2219": 120,
        "5052": 120,
        "5454": 120,
        "5083": 60,
        "535": 60,
        "1100": 200,
        "3003": 200,
        "A356": 120,
    }
    assert preheat_limit(find_alloy("6061"), "O").limit_c == 200
    assert all(preheat_limit(alloy).advised_c <= preheat_limit(alloy).limit_c for alloy in alloys())
    assert heat_kj(2.0, 100) == 200
    assert burner_minutes(210, 2.0) == pytest.approx(5)
    at = situated(8, "butt", "1050A")
    plan = make_plan(at.job, WIDE)
    warm = prepare(at, plan.settings, plan.consequences, WIDE).warming
    assert warm.wanted
    assert warm.amps_warm < warm.amps_cold == pytest.approx(plan.settings.amps_run)


@given(st.floats(20, 3000), st.floats(0.5, 20))
def test_tacks(length, t):
    plan = tack_plan(length, t)
    assert plan.order_mm[:2] == [0, length]
    assert len(set(plan.order_mm)) == plan.count
    assert plan.spacing_mm <= 100 + 1e-6


def test_when_the_machine_is_short():
    job = read_job({"a": {"alloy": "6082", "thickness": "8 mm"}, "joint": "tee"})
    small = Machine(name="Two hundred", most_a=200, can_mix=False)
    short = ways_to_reach(job, small, 0.30, MACHINES)
    assert short.need_a > 300
    assert {"lean_square", "slower", "more_passes", "preheat", "helium"} == {way.key for way in short.ways}
    assert short.reaches
    assert short.together == ["lean_square", "slower", "more_passes", "preheat", "helium"]
    together = [way.amps_together for way in short.ways if way.key in short.together]
    assert together == sorted(together, reverse=True)
    assert together[-1] <= 200 < together[-2]
    thick = ways_to_reach(
        read_job({"a": {"alloy": "6082", "thickness": "20 mm"}, "joint": "tee"}), small, 0.30
    )
    assert not thick.reaches
    assert text(thick.said).startswith("No: with everything it still wants")
    mixed = ways_to_reach(job, small.model_copy(update={"can_mix": True}), 0.30)
    assert "mix" in {way.key for way in mixed.ways}


def test_unlike_sides_and_cautions_by_condition():
    job = Job(a={"alloy": "6061", "thickness": 8}, b={"alloy": "6061", "thickness": 2}, joint="tee")
    plan = make_plan(job, WIDE)
    prep = prepare(situation(job), plan.settings, consequences(job, plan.settings), WIDE)
    assert "Side a carries" in prep.aim
    assert prep.mix
    assert prepare(situated(2, "butt"), plan.settings, plan.consequences, WIDE).mix == ""

    def cautions(**given):
        sheet = make_plan(
            read_job({"a": {"alloy": "6061", "thickness": 3}, "joint": "butt"} | given)
        ).run_sheet
        texts = [text(step.caution) for step in sheet if step.caution]
        assert len(texts) == len(set(texts))
        return " ".join(texts)

    assert "phosgene" in cautions()
    assert "magnesium" not in cautions()
    assert "Fizzing is magnesium" in cautions(a={"alloy": "unknown casting", "thickness": 5})
    assert "closed vessel" in cautions(purposes=["tight"])
    assert "Never quench" in cautions(a={"alloy": "A356", "thickness": 5})
    keys = [
        step.key
        for step in make_plan(
            read_job({"a": {"alloy": "A356", "thickness": 6}, "joint": "butt", "surface": "cast"})
        ).run_sheet
    ]
    assert (
        keys.index("degrease")
        < keys.index("grind")
        < keys.index("brush")
        < keys.index("bevel")
        < keys.index("tack")
        < keys.index("preheat")
    )


def test_what_reaches_alone_and_what_together_is_said():
    job = read_job({"a": {"alloy": "6082", "thickness": "8 mm"}, "joint": "tee"})
    for most in (200, 260, 310):
        short = ways_to_reach(job, Machine(name="Some", most_a=most, can_mix=False), 0.30)
        together = {way.key: way.amps_together for way in short.ways}
        reached = together[short.together[-1]]
        assert reached <= most
        words = "This alone reaches" if len(short.together) == 1 else "Together these just reach"
        assert text(short.said) == f"{words}: {reached:.0f} A of {most} A."
        assert [way.reaches_alone for way in short.ways] == [way.amps_alone <= most for way in short.ways]
    # A way that would gain nothing is not named.
    lean = ways_to_reach(job, Machine(name="Some", most_a=200), 0.25)
    assert "lean_square" not in {way.key for way in lean.ways}


@pytest.mark.parametrize(
    ("length", "t", "spacing", "count"),
    [
        (1000, 6.0, 100, 11),
        (1000, 4.0, 100, 11),
        (1000, 3.0, 1000 / 14, 15),
        (1000, 0.8, 25, 41),
        (60, 6.0, 60, 2),
        (110, 9.0, 55, 3),
    ],
)
def test_tacks_by_hand(length, t, spacing, count):
    """Twenty-five thicknesses apart, 25 mm at least, 100 mm at most."""
    plan = tack_plan(length, t)
    assert (plan.spacing_mm, plan.count) == (pytest.approx(spacing), count)
