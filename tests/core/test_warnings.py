"""Every warning fires for its case and not for its neighbour, and stands in the docs."""

import re
from pathlib import Path

import pytest

from anvilsong.core.job import read_job
from anvilsong.core.machine.model import IDEAL, Machine
from anvilsong.core.plan.follow import with_settings
from anvilsong.core.plan.planner import make_plan
from anvilsong.core.registry import with_value
from anvilsong.core.torch.kit import Kit

ROOT = Path(__file__).parents[2]
SMALL = Machine(name="Small", most_a=150)
PLAIN = Machine(name="Plain", can_pulse=False, can_mix=False)
SLOW = Machine(name="Slow", least_half_ms=1.5)
ONE_TRIGGER = Machine(name="Switch", triggers=("switch_2",))
TIRED = Machine(name="Tired", duty={"amps": 100, "share": 0.2})
HOT_HANDLE = Machine(name="Hot", torch_amps=100, torch_duty=0.35)
PASSES, SMALLER = Machine(name="Short", most_a=220), Machine(name="Shorter", most_a=190)
TIRED_PASSES = Machine(name="Tired", duty={"amps": 200, "share": 0.01})
HOT_PASSES = Machine(name="Hot", torch_amps=250, torch_duty=0.35)
RATE_ONLY = Machine(
    name="Rate",
    controls=[
        {
            "setting": "pulse_rate_hz",
            "label": "Rate",
            "scale": {"points": [[0.5, 0.5], [200, 200]], "step": 0.5},
        }
    ],
)
TRIED = Machine(name="Tried", starts=({"tungsten_mm": 2.4, "least_a": 33},))
BIG_FOOT = Machine(name="Strong", least_a=60)


def shelf(*tungstens, **more):
    return Kit(tungstens=[{"class": name, "diameter_mm": size} for name, size in tungstens], **more)


def case(
    thickness=3.2, joint="butt", *, alloy="6061", b=None, machine=IDEAL, kit=None, put=None, off=None, **job
):
    """The codes of a plan, with some settings put otherwise."""
    given = {"a": {"alloy": alloy, "thickness": thickness}, "joint": joint, **job}
    if b is not None:
        given["b"] = {"alloy": b[0], "thickness": b[1]}
    plan = make_plan(read_job(given), machine, kit)
    if put or off:
        chosen = plan.settings
        for key, value in (put or {}).items():
            chosen = with_value(chosen, key, value, plan.job.control)
        chosen = chosen.model_copy(update=dict.fromkeys(off or ()))
        plan = with_settings(plan, chosen, machine)
    return {(warning.code, warning.level) for warning in plan.warnings}


# code, level, what fires it, and the neighbour that does not.
CASES = [
    ("filler_rule_1", "stop", {"alloy": "7075"}, {"alloy": "7005"}),
    ("filler_rule_3", "stop", {"alloy": "5083", "purposes": ["warm_service"]}, {"alloy": "5454", "purposes": ["warm_service"]}),
    ("part_too_hot", "stop", {"part_temperature_c": 130}, {"part_temperature_c": 110}),
    ("surface_refused", "stop", {"surface": "anodised"}, {"surface": "mill"}),
    ("melt_through", "stop", {"put": {"amps_run": 165}}, {"put": {"amps_run": 145}}),
    ("melt_through_near", "watch", {"put": {"amps_run": 145}}, {"put": {"amps_run": 136}}),
    ("no_root", "stop", {"thickness": 6.0, "edge_prep": "square", "penetration": "full", "put": {"amps_run": 160}}, {"thickness": 3.2}),
    ("short_root", "watch", {"put": {"amps_run": 124}}, {"put": {"amps_run": 130}}),
    ("cold", "watch", {"put": {"amps_run": 108}}, {"put": {"amps_run": 122}}),
    ("hot", "watch", {"thickness": 6.0, "joint": "tee", "put": {"amps_run": 320}}, {"thickness": 6.0, "joint": "tee"}),
    ("pass_small", "watch", {"thickness": 8, "machine": PASSES}, {"thickness": 8}),
    ("pass_short", "stop", {"thickness": 12, "machine": SMALLER}, {"thickness": 8, "machine": PASSES}),
    ("pass_duty", "watch", {"thickness": 8, "machine": TIRED_PASSES}, {"thickness": 8}),
    ("pass_torch", "watch", {"thickness": 8, "machine": HOT_PASSES}, {"thickness": 8}),
    ("chill", "watch", {"thickness": 3, "joint": "tee", "leg_mm": 4.5, "travel_mm_s": 8, "put": {"amps_run": 110}}, {"thickness": 3, "joint": "tee"}),
    ("oxide_at_toes", "watch", {"put": {"ep_share": 0.1}}, {"put": {"ep_share": 0.25}}),
    ("thin_border", "watch", {"put": {"ep_share": 0.155}}, {"put": {"ep_share": 0.25}}),
    ("border_for_look", "watch", {"purposes": ["appearance"], "put": {"ep_trim": 0.0}}, {"purposes": ["appearance"]}),
    ("wide_border", "watch", {"arc_length_mm": 8, "put": {"ep_share": 0.45, "travel_mm_s": 1.6, "amps_run": 90, "cup_number": 12}}, {"arc_length_mm": 8}),
    ("thorium", "watch", {"kit": shelf(("WTh 20", 2.4))}, {"kit": shelf(("WLa 20", 2.4), ("WTh 20", 2.4))}),
    ("tungsten_melts", "stop", {"put": {"tungsten_mm": 1.0}}, {"put": {"tungsten_mm": 2.4}}),
    ("tungsten_hot", "watch", {"put": {"ep_share": 0.55}}, {"put": {"ep_share": 0.35}}),
    ("tungsten_cool", "note", {"thickness": 0.8, "put": {"tungsten_mm": 4.0}}, {"thickness": 0.8}),
    ("tungsten_short", "watch", {"thickness": 6, "joint": "tee", "kit": shelf(("WLa 20", 1.6))}, {"thickness": 6, "joint": "tee"}),
    ("post_flow_short", "watch", {"put": {"post_flow_s": 2}}, {"put": {"post_flow_s": 6}}),
    ("gas_weak", "watch", {"put": {"flow_l_min": 3}}, {"put": {"flow_l_min": 6}}),
    ("gas_turbulent", "watch", {"put": {"flow_l_min": 16}}, {"put": {"flow_l_min": 11}}),
    ("draught", "stop", {"draught_m_s": 1.2}, {"draught_m_s": 0.4}),
    ("draught", "watch", {"draught_m_s": 0.7}, {"draught_m_s": 0.4}),
    ("stick_out_long", "watch", {"put": {"stick_out_mm": 16}}, {}),
    ("cup_short", "watch", {"thickness": 6, "joint": "tee", "kit": Kit(cups=[4], lens_cups=[])}, {"thickness": 6, "joint": "tee"}),
    ("machine_short", "stop", {"thickness": 8, "joint": "tee", "machine": SMALL}, {"thickness": 8, "joint": "tee"}),
    ("machine_slow", "watch", {"thickness": 3.8, "machine": SMALL}, {"thickness": 3.2, "machine": SMALL}),
    ("machine_minimum", "watch", {"thickness": 1.4, "travel_mm_s": 4.2, "machine": BIG_FOOT}, {"thickness": 2, "machine": BIG_FOOT}),
    ("over_machine", "stop", {"machine": SMALL, "put": {"amps_set": 170}}, {"machine": SMALL}),
    ("panel_lacks", "watch", {"machine": RATE_ONLY, "put": {"pulse_rate_hz": 100}}, {"machine": RATE_ONLY}),
    ("start_low", "note", {"machine": TRIED, "put": {"start_amps": 12}}, {"machine": TRIED}),
    ("trigger", "watch", {"machine": ONE_TRIGGER}, {"machine": ONE_TRIGGER, "control": "switch_2"}),
    ("slopes_under_pedal", "watch", {"put": {"up_slope_s": 1}}, {"control": "switch_2", "put": {"up_slope_s": 1}}),
    ("pedal_coarse", "watch", {"put": {"amps_set": 390}}, {"put": {"amps_set": 300}}),
    ("pedal_no_reserve", "watch", {"put": {"amps_set": 130}}, {"put": {"amps_set": 150}}),
    ("half_too_short", "watch", {"machine": SLOW, "put": {"frequency_hz": 220}}, {"machine": SLOW, "put": {"frequency_hz": 150}}),
    ("duty", "watch", {"machine": TIRED, "weld_length_mm": 900}, {"machine": TIRED, "weld_length_mm": 100}),
    ("duty_full_press", "note", {"machine": TIRED, "weld_length_mm": 240, "school": {"pedal": "hot"}}, {"machine": TIRED, "weld_length_mm": 100}),
    ("torch_rating", "watch", {"machine": HOT_HANDLE}, {"machine": HOT_HANDLE, "thickness": 1.6}),
    ("torch_full_press", "note", {"machine": HOT_HANDLE, "thickness": 2.2}, {"machine": HOT_HANDLE, "thickness": 1.6}),
    ("pulse_cooler", "note", {"put": {"pulse_rate_hz": 2}}, {"put": {"pulse_rate_hz": 2, "amps_run": 260}}),
    ("pulse_beats", "watch", {"put": {"pulse_rate_hz": 60}}, {"put": {"pulse_rate_hz": 2}}),
    ("pulse_base_low", "watch", {"machine": BIG_FOOT, "put": {"pulse_base_share": 0.2}}, {"machine": BIG_FOOT, "put": {"pulse_base_share": 0.8}}),
    ("pulse_short", "note", {"thickness": 3.2, "machine": SMALL, "school": {"pulse": "dab"}}, {"thickness": 1.2, "machine": SMALL, "school": {"pulse": "dab"}}),
    ("no_pulse", "note", {"machine": PLAIN, "school": {"pulse": "dab"}}, {"machine": PLAIN}),
    ("no_pulse", "stop", {"machine": PLAIN, "put": {"pulse_rate_hz": 2}}, {"put": {"pulse_rate_hz": 2}}),
    ("no_mix", "stop", {"machine": PLAIN, "thickness": 6, "put": {"mix_ac_share": 0.7}}, {"thickness": 6, "put": {"mix_ac_share": 0.7}}),
    ("mix_on_thin", "watch", {"thickness": 2, "put": {"mix_ac_share": 0.7}}, {"thickness": 6, "put": {"mix_ac_share": 0.7}}),
    ("noise", "note", {"thickness": 6.4, "joint": "tee"}, {"thickness": 1.6, "joint": "tee"}),
    ("unknown_alloy", "watch", {"alloy": "unknown sheet"}, {"alloy": "6061"}),
    ("softened_zone", "watch", {"purposes": ["strength"]}, {"alloy": "5083", "purposes": ["strength"]}),
    ("crack_range", "watch", {"filler_wanted": "none", "joint": "edge", "alloy": "1050A", "b": ("5052", 3.2)}, {}),
    ("rod_refused", "stop", {"alloy": "5083", "put": {"filler_class": "4043"}}, {"alloy": "5083", "put": {"filler_class": "5183"}}),
    ("rod_refused", "stop", {"put": {"filler_class": "1100"}}, {"put": {"filler_class": "5356"}}),
    ("rod_refused", "stop", {"alloy": "7005", "put": {"filler_class": "4043"}}, {"alloy": "7005", "put": {"filler_class": "5356"}}),
    ("rod_refused", "stop", {"alloy": "A356", "put": {"filler_class": "5356"}}, {"alloy": "A356", "put": {"filler_class": "4047"}}),
    ("rod_refused", "stop", {"purposes": ["warm_service"], "put": {"filler_class": "5356"}}, {"purposes": ["warm_service"], "put": {"filler_class": "4043"}}),
    ("no_rod", "stop", {"off": ("filler",)}, {"alloy": "5083", "off": ("filler",)}),
    ("filler_watch", "watch", {"alloy": "5083", "b": ("A356", 3.2)}, {"alloy": "6061", "b": ("A356", 3.2)}),
    ("filler_short", "watch", {"kit": Kit(fillers=["5356"])}, {"kit": Kit(fillers=["4043", "5356"])}),
    ("bevel", "watch", {"thickness": 8, "edge_prep": "square"}, {"thickness": 8}),
    ("can_stock", "note", {"thickness": 0.2}, {"thickness": 0.3}),
    ("preheat_advised", "note", {"thickness": 8}, {"thickness": 5}),
    ("preheat_advised", "note", {"thickness": 8}, {"thickness": 8, "put": {"preheat_c": 80}}),
    ("preheat_over", "stop", {"thickness": 10, "alloy": "5083", "put": {"preheat_c": 61}}, {"thickness": 10, "alloy": "5083", "put": {"preheat_c": 60}}),
    ("preheat_over", "stop", {"thickness": 10, "alloy": "A356", "put": {"preheat_c": 250}}, {"thickness": 10, "alloy": "A356", "put": {"preheat_c": 120}}),
    ("surface", "watch", {"surface": "stored"}, {"surface": "brushed"}),
]  # fmt: skip


@pytest.mark.parametrize(
    ("code", "level", "fires", "not_here"),
    CASES,
    ids=[f"{c}-{lv}-{n}" for n, (c, lv, *_) in enumerate(CASES)],
)
def test_fires_for_its_case_and_not_for_its_neighbour(code, level, fires, not_here):
    assert (code, level) in case(**fires)
    assert (code, level) not in case(**not_here)


def written_codes():
    """Every code that the core writes."""
    found = set()
    for path in (ROOT / "src/anvilsong/core").rglob("*.py"):
        text = path.read_text(encoding="utf-8")
        found |= set(re.findall(r'code="([a-z_]+)"', text)) | set(
            re.findall(r'code="[a-z_]+" if .* else "([a-z_]+)"', text)
        )
    return found


def test_every_code_has_its_case_and_stands_in_the_docs():
    listed = set(
        re.findall(
            r"^\| `([a-z_0-9]+)` \|", (ROOT / "docs/warnings.md").read_text(encoding="utf-8"), re.MULTILINE
        )
    )
    tried = {code for code, *_ in CASES}
    assert written_codes() - tried == set()
    assert listed >= tried
    assert {code for code in listed if not code.startswith("filler_rule")} == written_codes()
