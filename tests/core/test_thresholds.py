"""Where each warning begins: one figure a hair under its limit and a hair over, everything else left as it was.

The limits stand here a second time, from the tables of docs/warnings.md: none moves without this file.
"""

import pytest

from anvilsong.core.checks.border import border_warnings
from anvilsong.core.checks.gas import gas_warnings
from anvilsong.core.checks.limits import refusals, warnings_for
from anvilsong.core.checks.machine import machine_warnings
from anvilsong.core.checks.metal import metal_warnings
from anvilsong.core.checks.pool import pool_warnings
from anvilsong.core.checks.pulse import pulse_and_mix_warnings
from anvilsong.core.checks.tungsten import tungsten_warnings
from anvilsong.core.checks.warmth import warmth_warnings
from anvilsong.core.job import read_job
from anvilsong.core.machine import Machine
from anvilsong.core.metal.alloys import find_alloy
from anvilsong.core.metal.preheat import preheat_limit
from anvilsong.core.model import situation
from anvilsong.core.plan import make_plan
from anvilsong.core.settings import Mix, Pulse

MACHINE = Machine(
    name="Any", least_a=10, most_a=300, torch_amps=200, torch_duty=0.6, duty={"amps": 200, "share": 0.4}
)
HAIR = 1e-6


class Bench:
    """A plan that breaks nothing, and its figures with some of them put otherwise."""

    def __init__(self, **job):
        given = {"a": {"alloy": "5083", "thickness": 3}, "joint": "tee"} | job
        plan = make_plan(read_job(given), MACHINE)
        self.at, self.settings, self.seen = situation(plan.job), plan.settings, plan.consequences

    def figures(self, **put):
        return self.seen.model_copy(update=put)

    def pool(self, **put):
        return codes(pool_warnings(self.at, self.figures(**put)))

    def border(self, **put):
        return codes(border_warnings(self.at, self.figures(**put)))

    def tungsten(self, settings=None, **put):
        return codes(tungsten_warnings(settings or self.settings, self.figures(**put)))

    def machine(self, settings=None, machine=MACHINE, **put):
        return codes(machine_warnings(self.at, settings or self.settings, self.figures(**put), machine))


def codes(found):
    return {warning.code: warning.level for warning in found}


@pytest.fixture(scope="module")
def bench():
    return Bench()


@pytest.fixture(scope="module")
def rooted():
    return Bench(joint="butt", penetration="full")


def over_and_under(limit, ask, code, above=True):
    """A warning that begins over a limit, or under it, and not on the other side."""
    sides = (limit - HAIR, limit + HAIR) if above else (limit + HAIR, limit - HAIR)
    return code not in ask(sides[0]) and code in ask(sides[1])


def test_a_plan_breaks_nothing(bench):
    assert warnings_for(bench.at, bench.settings, bench.seen, MACHINE) == []


def test_melting_through_and_near_it(bench):
    melts = lambda share: bench.pool(melt_through=share)  # noqa: E731
    assert over_and_under(1.0, melts, "melt_through")
    assert over_and_under(1.15 / 1.3, melts, "melt_through_near")
    assert melts(1.0) == {"melt_through": "stop"}
    assert melts(0.95) == {"melt_through_near": "watch"}


def test_the_root_where_one_is_wanted(bench, rooted):
    root = lambda share: rooted.pool(pool_width_mm=8.0, root_width_mm=8.0 * share)  # noqa: E731
    assert over_and_under(0.25, root, "short_root", above=False)
    # A stop only where a pool a fifth wider would not reach it either: that much a slower hand makes.
    reaches = next(w / 100 for w in range(200, 900) if rooted.at.root_mm(w / 100) > 0)
    for pool, said in ((0.99, {"no_root": "stop"}), (1.01, {"short_root": "watch"})):
        assert rooted.pool(pool_width_mm=pool * reaches / 1.2, root_width_mm=0.0) == said
    assert root(0.1) == {"short_root": "watch"}
    assert bench.pool(pool_width_mm=8.0, root_width_mm=0.0) == {}  # a fillet asks for none


def test_cold_and_chilled(bench):
    assert over_and_under(
        850.0, lambda heat: bench.pool(work_heat_w=heat, heat_wanted_w=1000.0), "cold", above=False
    )
    assert over_and_under(0.20, lambda share: bench.pool(filler_heat_share=share), "chill")


def test_each_warning_of_the_pool_points_at_the_lane_to_move():
    """Under a pedal the foot, with a switch the machine's amps; the rod where the rod chills."""
    for control, lane in (("pedal", "amps_run"), ("switch_2", "amps_set")):
        bench = Bench(control=control)
        seen = bench.figures(melt_through=1.1, work_heat_w=1.0, filler_heat_share=0.5)
        assert [each.setting for each in pool_warnings(bench.at, seen)] == [lane, lane, "filler_mm"]


def test_the_border_from_oxide_to_wide(bench):
    wide = {"cleaned_width_mm": 20.0, "pool_width_mm": 8.0}
    assert over_and_under(
        8.0, lambda mm: bench.border(cleaned_width_mm=mm, pool_width_mm=8.0), "oxide_at_toes", above=False
    )
    border = lambda mm: bench.border(border_mm=mm, **wide)  # noqa: E731
    assert over_and_under(0.3, border, "thin_border", above=False)
    assert over_and_under(3.0, border, "wide_border")
    assert border(1.0) == {}
    look = Bench(purposes=["appearance"])
    high = look.at.aim.high_mm
    assert over_and_under(high + 0.03, lambda mm: look.border(border_mm=mm, **wide), "border_for_look")
    assert look.border(border_mm=9.0, **wide) == {"border_for_look": "watch"}  # one sentence of it, not two


def test_the_tungstens_load(bench):
    under_foot = lambda load: bench.tungsten(tungsten_load=load, tungsten_load_set=0.5)  # noqa: E731
    pressed = lambda load: bench.tungsten(tungsten_load=0.5, tungsten_load_set=load)  # noqa: E731
    assert over_and_under(0.85, under_foot, "tungsten_hot")
    assert over_and_under(1.25, under_foot, "tungsten_melts")
    assert over_and_under(0.25, under_foot, "tungsten_cool", above=False)
    assert over_and_under(1.05, pressed, "tungsten_hot")
    assert pressed(2.0) == {"tungsten_hot": "watch"}  # for a moment: nothing melts yet
    assert under_foot(1.3) == {"tungsten_melts": "stop"}
    thoriated = bench.settings.tungsten.model_copy(update={"class_": "WTh 20"})
    assert bench.tungsten(bench.settings.model_copy(update={"tungsten": thoriated}))["thorium"] == "watch"
    assert bench.tungsten(bench.settings.model_copy(update={"tungsten": None}), tungsten_load=9.0) == {}


@pytest.mark.parametrize(
    ("diameter_mm", "least_s"), [(1.0, 3), (1.6, 3), (2.4, 5), (3.2, 8), (4.0, 12), (4.8, 15)]
)
def test_gas_after_the_arc_by_the_tungstens_size(bench, diameter_mm, least_s):
    tungsten = bench.settings.tungsten.model_copy(update={"diameter_mm": diameter_mm})

    def after(seconds):
        return bench.tungsten(
            bench.settings.model_copy(update={"tungsten": tungsten, "post_flow_s": seconds})
        )

    assert over_and_under(float(least_s), after, "post_flow_short", above=False)


def gassed(bench, job=None, *, flow=None, stick_out=None, reynolds=1300.0):
    settings = bench.settings
    if flow is not None:
        settings = settings.model_copy(update={"gas": settings.gas.model_copy(update={"flow_l_min": flow})})
    if stick_out is not None:
        settings = settings.model_copy(
            update={"cup": settings.cup.model_copy(update={"stick_out_mm": stick_out})}
        )
    return codes(gas_warnings(job or bench.at.job, settings, bench.figures(reynolds=reynolds)))


def test_gas_and_air(bench):
    bore = bench.settings.cup.number * 1.5875
    # Re = 4Q/(π·D·ν): the flow at which it is 800, given away a twentieth of a litre for what a ball can show.
    least = 800 * 3.14159265 * bore / 1000 * 1.34e-5 / 4 * 60_000
    weak = lambda flow: gassed(bench, flow=flow)  # noqa: E731
    assert "gas_weak" in weak(least - 0.2)
    assert "gas_weak" not in weak(least + 0.1)
    assert over_and_under(2000.0, lambda number: gassed(bench, reynolds=number), "gas_turbulent")

    def air(speed):
        return gassed(bench, bench.at.job.model_copy(update={"draught_m_s": speed}))

    assert air(0.5) == {}
    assert air(0.51) == {"draught": "watch"}
    assert air(1.0) == {"draught": "watch"}
    assert air(1.01) == {"draught": "stop"}


def test_stick_out_by_the_cup(bench):
    """A plain cup covers half its bore, a lens its whole bore."""
    for lens, of_bore in ((False, 0.5), (True, 1.0)):
        cup = bench.settings.cup.model_copy(update={"gas_lens": lens, "number": 8})
        own = Bench()
        own.settings = bench.settings.model_copy(update={"cup": cup})
        longest = max(mm / 10 for mm in range(400) if "stick_out_long" not in gassed(own, stick_out=mm / 10))
        assert longest == pytest.approx(of_bore * 12.7, abs=1.5)


def test_what_the_joint_wants_of_the_machine(bench):
    """Amps go with the heat; a panel's hundredth is no shortage."""
    run = bench.settings.amps_run

    def needs(share_of_most):
        return bench.machine(work_heat_w=100.0, heat_wanted_w=100.0 * share_of_most * MACHINE.most_a / run)

    assert over_and_under(1.01, needs, "machine_short")
    assert needs(1.02)["machine_short"] == "stop"

    def least(share_of_least, **more):
        wanted = 100.0 * share_of_least * MACHINE.least_a / run
        return bench.machine(work_heat_w=100.0, heat_wanted_w=wanted, **more)

    assert over_and_under(0.99, least, "machine_minimum", above=False)
    assert least(0.5, melt_through=0.99)["machine_minimum"] == "watch"
    assert least(0.5, melt_through=1.0)["machine_minimum"] == "stop"


def test_what_is_advised_where_the_machine_is_short():
    """Slower only where there is slower to go; a bevel only where one can be."""

    def ways(**job):
        own = Bench(**job)
        seen = own.figures(work_heat_w=1.0, heat_wanted_w=100.0)
        found = machine_warnings(own.at, own.settings, seen, MACHINE)
        return next(warning.message for warning in found if warning.code == "machine_short")

    plain = ways()
    assert "travel slower" not in plain
    assert "bevel" not in plain
    assert "travel slower, " in ways(travel_mm_s=2.0)
    own = Bench()
    own.settings = own.settings.model_copy(update={"travel_mm_s": own.at.usual_travel_mm_s + 0.5})
    seen = own.figures(work_heat_w=1.0, heat_wanted_w=100.0)
    assert "travel slower, " in next(iter(machine_warnings(own.at, own.settings, seen, MACHINE))).message
    assert ": bevel and more passes, preheat, or take" in ways(joint="butt", edge_prep="square")


def test_over_what_the_machine_has(bench):
    at = lambda amps: bench.machine(bench.settings.model_copy(update={"amps_set": amps}))  # noqa: E731
    assert over_and_under(300.5, at, "over_machine")


def test_the_pedals_travel(bench):
    used = lambda share: bench.machine(pedal_used=share)  # noqa: E731
    assert over_and_under(0.35, used, "pedal_coarse", above=False)
    assert over_and_under(0.95, used, "pedal_no_reserve")
    for slope in ("up_slope_s", "down_slope_s"):
        assert "slopes_under_pedal" in bench.machine(bench.settings.model_copy(update={slope: 0.1}))
    switched = Bench(control="switch_4")
    assert not {"slopes_under_pedal", "pedal_coarse"} & set(switched.machine(pedal_used=0.1))


def test_the_shorter_half(bench):
    slow = MACHINE.model_copy(update={"least_half_ms": 1.5})
    assert over_and_under(
        1.5, lambda ms: bench.machine(machine=slow, shortest_half_ms=ms), "half_too_short", above=False
    )


def test_ten_minutes_of_duty(bench):
    """I₁²·D₁ = I₂²·D₂: 240 A where 200 A may run four of ten minutes."""
    run = bench.settings.model_copy(update={"amps_run": 240.0, "amps_set": 240.0})
    seconds = 600 * 0.4 * (200 / 240) ** 2
    assert over_and_under(seconds, lambda s: bench.machine(run, arc_time_s=s), "duty")
    pressed = bench.settings.model_copy(update={"amps_run": 100.0, "amps_set": 240.0})
    assert over_and_under(seconds, lambda s: bench.machine(pressed, arc_time_s=s), "duty_full_press")
    assert bench.machine(pressed, arc_time_s=590.0)["duty_full_press"] == "note"
    # 100 A may run all the time, however long the run.
    calm = bench.settings.model_copy(update={"amps_run": 100.0, "amps_set": 100.0})
    assert not {"duty", "duty_full_press"} & set(bench.machine(calm, arc_time_s=5000.0))


def test_the_torch(bench):
    """Rated 200 A at 60 %: a short run takes no more, a run of the whole ten minutes 200·√0.6."""
    rms = lambda amps, s=10.0: bench.machine(rms_a=amps, rms_set_a=amps, arc_time_s=s)  # noqa: E731
    assert over_and_under(200.0, rms, "torch_rating")
    assert over_and_under(200.0 * 0.6**0.5, lambda amps: rms(amps, 600.0), "torch_rating")
    assert over_and_under(200.0 * 0.6**0.5, lambda amps: rms(amps, 6000.0), "torch_rating")
    pressed = lambda amps: bench.machine(rms_a=50.0, rms_set_a=amps, arc_time_s=10.0)  # noqa: E731
    assert over_and_under(200.0, pressed, "torch_full_press")
    assert pressed(201.0)["torch_full_press"] == "note"


def test_pulse_and_mix(bench):
    def pulsed(machine=MACHINE, heat=None, **more):
        pulse = Pulse(**({"rate_hz": 2.0, "peak_share": 0.5, "base_share": 0.4} | more))
        settings = bench.settings.model_copy(update={"pulse": pulse, "frequency_hz": 100.0})
        return codes(pulse_and_mix_warnings(bench.at, settings, bench.figures(**(heat or {})), machine))

    wanted = bench.seen.heat_wanted_w
    assert "pulse_cooler" not in pulsed(heat={"work_heat_w": 0.901 * wanted})
    assert pulsed(heat={"work_heat_w": 0.899 * wanted})["pulse_cooler"] == "note"
    # Two cycles of 100 Hz last 20 ms, which is half of 25 Hz.
    assert "pulse_beats" not in pulsed(rate_hz=24.9)
    assert "pulse_beats" in pulsed(rate_hz=25.1)
    assert "pulse_beats" in pulsed(rate_hz=10.0, peak_share=0.15)  # 15 ms of peak
    assert "pulse_beats" in pulsed(rate_hz=10.0, peak_share=0.85)
    assert over_and_under(
        MACHINE.least_a / bench.settings.amps_run,
        lambda share: pulsed(base_share=share),
        "pulse_base_low",
        above=False,
    )
    assert pulsed(MACHINE.model_copy(update={"can_pulse": False}))["no_pulse"] == "stop"

    def mixed(thickness, other, machine=MACHINE):
        own = Bench(a={"alloy": "5083", "thickness": thickness}, b={"alloy": "5083", "thickness": other})
        settings = own.settings.model_copy(update={"mix": Mix(ac_share=0.6, cycle_s=0.5, dc_level=1.0)})
        return codes(pulse_and_mix_warnings(own.at, settings, own.seen, machine))

    assert "mix_on_thin" in mixed(2.9, 2.0)
    assert "mix_on_thin" not in mixed(2.0, 3.0)  # the thicker side counts
    assert mixed(3.0, 3.0, MACHINE.model_copy(update={"can_mix": False}))["no_mix"] == "stop"


def test_thickness_and_surface():
    settings = Bench().settings

    def of(**job):
        given = {"a": {"alloy": "5083", "thickness": 3}, "joint": "butt"} | job
        return codes(metal_warnings(situation(read_job(given)), settings))

    thick = lambda mm, **more: of(a={"alloy": "5083", "thickness": mm}, **more)  # noqa: E731
    assert over_and_under(6.4, lambda mm: thick(mm, edge_prep="square"), "bevel")
    assert "bevel" not in thick(8, edge_prep="square", penetration="partial")
    assert "bevel" not in thick(8, edge_prep="square", joint="tee")
    assert of(surface="stored")["surface"] == "watch"


def test_how_warm_a_part_is_made():
    settings = Bench().settings

    def warm(mm=8, preheat=None, alloy="6061", **more):
        given = {"a": {"alloy": alloy, "thickness": mm}, "joint": "tee"} | more
        set_to = settings.model_copy(update={"preheat_c": preheat})
        return codes(warmth_warnings(situation(read_job(given)), set_to))

    assert over_and_under(6.0, warm, "preheat_advised")
    assert over_and_under(60.0, lambda c: warm(part_temperature_c=c), "preheat_advised", above=False)
    assert "preheat_advised" not in warm(preheat=80.0)
    assert "preheat_advised" not in warm(alloy="A356")  # has a step of its own
    for alloy in ("5083", "6061", "1050A", "A356"):
        limit = preheat_limit(find_alloy(alloy)).limit_c
        assert over_and_under(limit, lambda c, alloy=alloy: warm(preheat=c, alloy=alloy), "preheat_over")
    assert warm(preheat=300.0)["preheat_over"] == "stop"
    # The stricter side counts.
    assert "preheat_over" in warm(preheat=80.0, alloy="1050A", b={"alloy": "5083", "thickness": 8})


def test_what_gets_no_settings_at_all():
    def refused(**job):
        return codes(
            refusals(situation(read_job({"a": {"alloy": "6061", "thickness": 3}, "joint": "butt"} | job)))
        )

    assert over_and_under(120.0, lambda c: refused(part_temperature_c=c), "part_too_hot")
    mg = lambda c: refused(a={"alloy": "5083", "thickness": 3}, part_temperature_c=c)  # noqa: E731
    assert over_and_under(60.0, mg, "part_too_hot")
    assert refused(surface="painted") == {"surface_refused": "stop"}
    assert refused() == {}


def test_the_worst_stand_first(bench):
    seen = bench.figures(
        melt_through=0.9, tungsten_load=1.3, tungsten_load_set=1.3, pedal_used=0.1, rms_set_a=210.0
    )
    levels = [warning.level for warning in warnings_for(bench.at, bench.settings, seen, MACHINE)]
    assert levels == sorted(levels, key=["stop", "watch", "note"].index)
    assert set(levels) == {"stop", "watch", "note"}
