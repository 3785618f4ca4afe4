"""A machine from answers: one control at a time, what its ends show and what that means, turned into the
panel editor's form.

The answers are what a person reads off the panel; ``editor_form`` writes them as the rows of the editor,
so that one reader,
``machine_from_form``, checks both.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from anvilsong.core import say
from anvilsong.core.arc.waveform import SHAPES, Shape
from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.machine import Machine
from anvilsong.core.words import sentence
from anvilsong.web.guide_scales import amps_control, balance_control, ends_of
from anvilsong.web.machine_counts import counted, is_there, is_transformer, times
from anvilsong.web.machine_form import machine_from_form
from anvilsong.web.scale_text import plain_number

TRIMS = {
    "": "no such control",
    "value": sentence("web.per_cent_stronger_weaker"),
    "ep_amps": sentence("web.amps_ep_half"),
}


@dataclass(frozen=True)
class Plain:
    """A control whose figure is the value itself: its quantity, words, unit, step, and the ends most panels
    have.
    """

    key: str
    words: str
    read: str
    unit: str
    step: str
    low: str
    high: str
    setting: str = ""
    basis: str = "value"

    @property
    def quantity(self) -> str:
        """What it sets, as the editor names it: its own key, unless two controls set one quantity."""
        return self.setting or self.key


PLAIN: tuple[Plain, ...] = (
    Plain("frequency_hz", "AC frequency", "AC Hz, frequency", "Hz", "1", "40", "200"),
    Plain("pre_flow_s", "Gas before the arc", "pre-flow, gas pre", "s", "0.1", "0", "5"),
    Plain("start_amps", "Amps it starts at", "start, initial", "A", "1", "5", ""),
    Plain("up_slope_s", "Slope up", "upslope, rise", "s", "0.1", "0", "10"),
    Plain("down_slope_s", "Slope down", "downslope, fade", "s", "0.1", "0", "15"),
    Plain("finish_amps", "Amps it ends at", "final, crater", "A", "1", "5", ""),
    Plain("post_flow_s", "Gas after the arc", "post-flow, gas post", "s", "1", "1", "60"),
    Plain("pulse_rate_hz", "Pulses a second", "pulse Hz, PPS", "Hz", "0.1", "0.2", "20"),
    Plain("pulse_peak_share", "Time at the peak", "pulse on, peak time", "%", "1", "10", "90"),
    Plain(
        "pulse_peak_s",
        "Seconds at the peak",
        "peak time",
        "s",
        "0.01",
        "0.01",
        "5",
        "pulse_peak_share",
        "peak_s",
    ),
    Plain(
        "pulse_base_s",
        "Seconds at the background",
        "base time",
        "s",
        "0.01",
        "0.01",
        "5",
        "pulse_rate_hz",
        "base_s",
    ),
    Plain("pulse_base_share", "Background, % of peak", "background, base", "%", "1", "10", "90"),
    Plain(
        "pulse_base_a",
        "Background, in amps",
        "background, base",
        "A",
        "1",
        "5",
        "",
        "pulse_base_share",
        "amps",
    ),
    Plain("second_level", "Second level of 4-step", "level 2, I2", "A", "1", "5", "", "trigger:second_level"),
    Plain("spot_s", "Seconds of a spot", "spot time", "s", "0.1", "0.1", "10", "trigger:spot_s"),
    Plain(
        "spot_pause_s", "Seconds between spots", "interval", "s", "0.1", "0.1", "10", "trigger:spot_pause_s"
    ),
)
PULSE_TIMES = ("pulse_peak_s", "pulse_base_s")
START: dict[str, str] = {
    "amps_label": "",
    "amps_low": "5",
    "amps_high": "",
    "amps_figure": "amps",
    "amps_count": "",
    "duty_share": "",
    "torch_amps": "",
    "figure": "ep",
    "trim": "",
}


def shown_of(form: dict[str, str]) -> dict[str, str]:
    """The form as it is shown first: the usual ends stand in the fields of controls that were not answered
    yet.
    """
    usual = {f"{plain.key}_{end}": getattr(plain, end) for plain in PLAIN for end in ("low", "high")}
    return usual | START | form


def editor_form(answers: dict[str, str]) -> dict[str, str]:
    """The panel editor's fields for these answers.

    Raises
    ------
    BadInput : for what was not answered, under the name of the field
    """
    problems: list[Problem] = []
    basis, peaks = counted(answers)
    amps = amps_control(answers, problems)
    rows = [amps.row | {"basis": basis}]
    most = amps.most
    form = {
        "name": answers.get("name", "").strip(),
        "least_a": times(f"{amps.least:g}", peaks),
        "most_a": times(f"{most:g}", peaks),
        "duty_amps": times(answers.get("duty_amps", "").strip() or f"{most:g}", peaks),
        "duty_share": answers.get("duty_share", "").strip() or "30",
        "torch_amps": answers.get("torch_amps", "").strip() or "150",
        "torch_duty": answers.get("torch_duty", "").strip() or "35",
        "trigger_pedal": "on",
        "trigger_switch_2": "on",
        "trigger_switch_4": "on",
    }
    if answers.get("water_cooled"):
        form["water_cooled"] = "on"
    if is_there(answers, "balance", "balance_label", "balance_most", "balance_least"):
        balance = balance_control(answers, problems)
        rows.append(balance.row)
        form |= {"least_ep_share": f"{balance.least:g}", "most_ep_share": f"{balance.most:g}"}
        form["note"] = say.in_units(balance.note)
    else:
        # Without the control the share is what the maker built in; half and half is the old transformer's.
        share = answers.get("fixed_share", "").strip() or "50"
        form |= {"least_ep_share": share, "most_ep_share": share}
    there = [plain for plain in PLAIN if is_there(answers, plain.key, f"{plain.key}_label")]
    rows += [_plain_row(answers, plain, most, problems) for plain in there]
    form |= _frequency(answers, there)
    keys = {plain.key for plain in there}
    if "pulse_rate_hz" in keys:
        form |= {"can_pulse": "on", "most_pulse_hz": answers.get("pulse_rate_hz_high", "")}
    elif keys.issuperset(PULSE_TIMES):
        form |= {"can_pulse": "on", "most_pulse_hz": _fastest(answers)}
    form |= {f"trigger_{trigger}": "on" for key, trigger in TRIGGER_OF.items() if key in keys}
    if answers.get("trim"):
        rows.append(_trim(answers, problems))
        form |= {"can_trim": "on"} | _trim_limits(answers)
    shapes = {shape: answers.get(f"shape_{shape}", "").strip() for shape in SHAPES}
    form |= {f"shape_{shape}": "on" for shape, word in shapes.items() if word}
    if is_transformer(answers):
        form["shape_sine"] = "on"
    rows += _wave_row(answers, shapes)
    if problems:
        raise BadInput(*problems)
    for n, row in enumerate(rows):
        form |= {f"c{n}_{key}": value for key, value in row.items()}
    return form


TRIGGER_OF = {"second_level": "switch_4_two_levels", "spot_s": "spot"}


def _fastest(answers: dict[str, str]) -> str:
    """Pulses a second with both times as short as they go; what is no number is complained of where it was
    asked.
    """
    try:
        shortest = sum(plain_number(answers.get(f"{key}_low", ""), "times") for key in PULSE_TIMES)
    except BadInput:
        return ""
    return f"{1 / shortest:g}" if shortest > 0 else ""


def _plain_row(
    answers: dict[str, str], plain: Plain, most_a: float, problems: list[Problem]
) -> dict[str, str]:
    high = answers.get(f"{plain.key}_high", "").strip() or (f"{most_a:g}" if plain.unit == "A" else "")
    return {
        "setting": plain.quantity,
        "basis": plain.basis,
        "label": answers.get(f"{plain.key}_label", "").strip() or plain.words,
        "meaning": ends_of(answers | {f"{plain.key}_high": high}, plain.key, problems),
        "step": plain.step,
        "unit": plain.unit,
        "kind": "digits",
    }


def _wave_row(answers: dict[str, str], shapes: dict[Shape, str]) -> list[dict[str, str]]:
    """The selector of waves, where there is more than one to select."""
    words = {shape: re.sub(r"[,;=]", " ", word) for shape, word in shapes.items() if word}
    if len(words) < 2:
        return []
    return [
        {
            "setting": "shape_en",
            "label": answers.get("wave_label", "").strip() or "Wave",
            "kind": "names",
            "meaning": ", ".join(f"{word} = {shape}" for shape, word in words.items()),
        }
    ]


def machine_of(answers: dict[str, str]) -> Machine:
    """The machine of these answers; BadInput where they make none, under the words of each control."""
    form = editor_form(answers)
    try:
        return machine_from_form(form)
    except BadInput as trouble:
        raise BadInput(*(replace(p, field=_by_label(p.field, form)) for p in trouble.problems)) from None


def _by_label(field: str, form: dict[str, str]) -> str:
    """``control 2, meaning`` under the label of that control."""
    numbered = re.match(r"control (\d+), ", field)
    return form[f"c{int(numbered[1]) - 1}_label"] if numbered else field


def _frequency(answers: dict[str, str], there: list[Plain]) -> dict[str, str]:
    if any(plain.key == "frequency_hz" for plain in there):
        return {
            "least_frequency_hz": answers.get("frequency_hz_low", ""),
            "most_frequency_hz": answers.get("frequency_hz_high", ""),
        }
    mains = answers.get("fixed_hz", "").strip() or "50"
    return {"least_frequency_hz": mains, "most_frequency_hz": mains}


def _trim(answers: dict[str, str], problems: list[Problem]) -> dict[str, str]:
    basis = answers["trim"]
    return {
        "setting": "ep_trim",
        "label": answers.get("trim_label", "").strip() or "Positive amps",
        "basis": basis,
        "kind": "signed" if basis == "value" else "digits",
        # Nought of a scale of stronger and weaker is an amplitude of 100 %.
        "meaning": ends_of(answers, "trim", problems, 100.0 if basis == "value" else 0.0),
        "step": "1",
        "unit": "%" if basis == "value" else "A",
    }


def _trim_limits(answers: dict[str, str]) -> dict[str, str]:
    if answers["trim"] != "value":
        return {"least_trim": "50", "most_trim": "150"}
    ends = (
        (f"{end}_trim", answers.get(f"trim_{side}", "")) for end, side in (("least", "low"), ("most", "high"))
    )
    return {field: _amplitude(typed) for field, typed in ends}


def _amplitude(typed: str) -> str:
    """An end of a scale of stronger and weaker as an EP amplitude; what is no number is complained of where
    it was asked.
    """
    try:
        return f"{plain_number(typed, 'amplitude') + 100:g}"
    except BadInput:
        return ""
