"""How the panel stands for a trigger, what the trigger makes of its controls, and what clashes with it."""

from __future__ import annotations

from anvilsong.core.job import Control
from anvilsong.core.machine import Machine, shown_text, to_panel_value
from anvilsong.core.prep.trigger import Levels, SpotTimes
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence


def set_for(control: Control, settings: Settings, machine: Machine) -> list[Words]:
    """How the panel stands for a control: the trigger, slopes, remote, the pedal's own knob."""
    if control == "pedal":
        said: list[Words] = [sentence("prep.pedal_two_step_remote")]
        knob = 10 * settings.amps_set / machine.most_a
        has_own = any(one.what == "limit_knob" for one in machine.trigger_controls)
        if settings.amps_set < machine.most_a - 0.5 and not has_own:
            said.append(
                sentence(
                    "prep.pedal_limit_knob", amps_set=settings.amps_set, most_a=machine.most_a, knob=knob
                )
            )
        return said
    said_of: dict[Control, Words] = {
        "switch_2": sentence("prep.set_two_step"),
        "switch_4": sentence("prep.set_four_step"),
        "switch_4_two_levels": sentence("prep.set_two_levels"),
        "spot": sentence("prep.set_spot"),
    }
    return [said_of[control], sentence("prep.remote_off_for_switch")]


TRIGGERS_OF: dict[Control, tuple[str, ...]] = {
    "pedal": ("limit_knob",),
    "switch_4_two_levels": ("second_level",),
    "spot": ("spot_s", "spot_pause_s"),
}


def trigger_settings(
    control: Control, settings: Settings, machine: Machine, level: Levels, spot: SpotTimes
) -> list[tuple[str, str, bool]]:
    """How the trigger's own controls of this panel stand: label, figure with its unit, and whether the scale
    ends before it.
    """
    means = {
        "limit_knob": settings.amps_set / machine.most_a,
        "second_level": level.amps,
        "spot_s": spot.spot_s,
        "spot_pause_s": spot.pause_s,
    }
    found = []
    for one in machine.trigger_controls:
        if one.what not in TRIGGERS_OF.get(control, ()):
            continue
        meant = means[one.what] / settings.amps_set if one.basis == "share_of_set" else means[one.what]
        value, clipped = to_panel_value(one.scale, meant)
        found.append((one.label, f"{shown_text(one.scale, value)} {one.scale.unit}".strip(), clipped))
    return found


# What a control of the panel does under each trigger; what stands in no row does what its name says.
MEANS: dict[Control, dict[str, Words]] = {
    "pedal": {
        "amps_set": sentence("prep.pedal_amps_set"),
        "start_amps": sentence("prep.pedal_start_amps"),
        "finish_amps": sentence("prep.pedal_finish_amps"),
        "up_slope_s": sentence("prep.foot_makes_slope"),
        "down_slope_s": sentence("prep.foot_makes_slope"),
    },
    "switch_2": {
        "amps_set": sentence("prep.two_amps_set"),
        "start_amps": sentence("prep.two_start_amps"),
        "finish_amps": sentence("prep.two_finish_amps"),
        "up_slope_s": sentence("prep.two_up_slope"),
        "down_slope_s": sentence("prep.two_down_slope"),
    },
    "switch_4": {
        "amps_set": sentence("prep.four_amps_set"),
        "start_amps": sentence("prep.four_start_amps"),
        "finish_amps": sentence("prep.four_finish_amps"),
        "up_slope_s": sentence("prep.four_up_slope"),
        "down_slope_s": sentence("prep.four_down_slope"),
    },
    "spot": {
        "amps_set": sentence("prep.spot_amps_set"),
        "start_amps": sentence("prep.spot_makes_none"),
        "finish_amps": sentence("prep.spot_makes_none"),
        "up_slope_s": sentence("prep.spot_makes_none"),
        "down_slope_s": sentence("prep.spot_makes_none"),
    },
}
MEANS["switch_4_two_levels"] = MEANS["switch_4"]
IDLE: dict[Control, tuple[str, ...]] = {
    "pedal": ("up_slope_s", "down_slope_s"),
    "spot": ("up_slope_s", "down_slope_s"),
}


def means_under(control: Control, machine: Machine) -> list[tuple[str, Words]]:
    """What the trigger makes of each control of this panel that begins or ends a run, by its label."""
    return [
        (on_panel.label, said)
        for setting, said in MEANS[control].items()
        if (on_panel := machine.control(setting)) is not None
    ]


def clashes(control: Control, settings: Settings, machine: Machine) -> list[Words]:
    """What is set so that this trigger makes something else of it than is meant."""
    found: list[Words] = []
    if control not in machine.triggers:
        found.append(sentence("prep.machine_has_no_trigger", name=machine.name))
    for key in IDLE.get(control, ()):
        on_panel = machine.control(key)
        value = getattr(settings, key)
        if on_panel is not None and key.endswith("_s") and value > 0:
            found.append(sentence("prep.set_it_to_zero", label=on_panel.label, value=value))
    if control in ("switch_2", "switch_4", "switch_4_two_levels"):
        if settings.down_slope_s == 0 and machine.sets("down_slope_s"):
            found.append(sentence("prep.no_downslope_crater"))
        if settings.start_amps > settings.amps_set:
            found.append(sentence("prep.start_over_full", start=settings.start_amps, full=settings.amps_set))
    if control == "spot" and settings.pulse is not None:
        found.append(sentence("prep.pulse_under_spot"))
    return found
