"""Scales from answers: what a control shows at its two ends, and what that means."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from anvilsong.core import say
from anvilsong.core.errors import BadInput, Problem
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.web.scale_text import clock_place, plain_number

Figure = Literal["ep", "en", "scale", "clock"]
# What the figure of the cleaning control counts.
FIGURES: dict[Figure, Words] = {
    "ep": sentence("web.per_cent_cleaning_ep"),
    "en": sentence("web.per_cent_other_half"),
    "scale": "a scale of its own",
    "clock": "a bare knob, as a clock",
}
AMPS_FIGURES = {
    "amps": "amps",
    "scale": "a scale, such as 0 to 10",
    "clock": "a bare knob, as a clock",
}
# What most panels mean at their ends, % EP, where the manual does not say.
USUAL_MOST_EP, USUAL_LEAST_EP = 50.0, 15.0


@dataclass(frozen=True)
class Answered:
    """A control's row for the panel editor, its least and most in canonical figures, and what was assumed."""

    row: dict[str, str]
    least: float
    most: float
    note: Words = ""


def number_of(answers: dict[str, str], field: str, what: Words, problems: list[Problem]) -> float | None:
    """The number that was typed; None, and a problem told, where none was."""
    text = answers.get(field, "").strip()
    if not text:
        problems.append(Problem(field, "nothing", say.joined("type ", what)))
        return None
    try:
        return plain_number(text, field)
    except BadInput as trouble:
        problems.extend(trouble.problems)
        return None


def ends_of(answers: dict[str, str], key: str, problems: list[Problem], more: float = 0.0) -> str:
    """The two ends of a control whose figure is the value itself, or that and so much more, as the editor
    writes them.
    """
    low = number_of(answers, f"{key}_low", sentence("web.what_shows_turned_all"), problems)
    high = number_of(answers, f"{key}_high", sentence("web.what_shows_turned_all_2"), problems)
    if low is None or high is None:
        return ""
    if low >= high:
        problems.append(Problem(f"{key}_high", f"{high:g}", f"it must be above {low:g}"))
    return f"{low:g} = {low + more:g}, {high:g} = {high + more:g}"


def amps_control(answers: dict[str, str], problems: list[Problem]) -> Answered:
    """The amps: in amps, or on a knob whose ends the rating plate tells."""
    figure = answers.get("amps_figure") or "amps"
    row = {"setting": "amps_set", "label": answers.get("amps_label", "").strip() or "Amps", "step": "1"}
    if figure == "amps":
        told = len(problems)
        meaning = ends_of(answers, "amps", problems)
        row |= {"meaning": meaning, "unit": "A", "kind": "digits"}
        if len(problems) > told:
            return Answered(row, 5.0, 200.0)
        low, high = (plain_number(answers[f"amps_{end}"], f"amps_{end}") for end in ("low", "high"))
        return Answered(row, low, high)
    is_clock = figure == "clock"
    ends: list[tuple[str, float | None, float | None]] = []
    for end, words in (
        ("low", sentence("web.fewest_amps_gives_2")),
        ("high", sentence("web.most_amps_gives_2")),
    ):
        shown, place = _shown(
            answers, f"amps_{end}", say.joined("what it shows at ", words), is_clock, problems
        )
        means = number_of(
            answers, f"amps_{end}_means", say.joined(words, ", from its rating plate"), problems
        )
        ends.append((shown, means, place))
    least, most = ends[0][1], ends[1][1]
    if least is not None and most is not None and least >= most:
        problems.append(Problem("amps_high_means", f"{most:g} A", f"it must be above {least:g} A"))
    row |= {"meaning": _meaning(ends), "unit": "", "kind": "clock" if is_clock else "digits"}
    return Answered(row | {"step": "0.1"}, 5.0 if least is None else least, 200.0 if most is None else most)


def balance_control(answers: dict[str, str], problems: list[Problem]) -> Answered:
    """The cleaning control: its ends, and what each means in per cent of EP. Its cleaning end has more."""
    figure = answers.get("figure", "ep")
    own = figure in ("scale", "clock")
    row = {
        "setting": "ep_share",
        "label": answers.get("balance_label", "").strip() or "AC balance",
        "step": "1",
        "unit": "" if own else "%",
    }
    ends: list[tuple[str, float | None, float | None]] = []
    assumed = []
    for end, words, usual in (
        ("most", "at its cleaning end", USUAL_MOST_EP),
        ("least", "at its other end", USUAL_LEAST_EP),
    ):
        asks = say.joined("which number it shows ", words)
        shown, place = _shown(answers, f"balance_{end}", asks, figure == "clock", problems)
        field = f"balance_{end}_means" if own else f"balance_{end}"
        if own and not answers.get(field, "").strip():
            means: float | None = usual
            assumed.append(say.joined(f"{usual:g} % EP ", words))
        elif own or shown:
            manual = sentence("web.share_ep_manual_gives")
            means = number_of(answers, field, manual, problems) if own else place
            means = 100 - means if figure == "en" and means is not None else means
        else:
            means = None
        if means is not None and not 1 <= means <= 99:
            problems.append(Problem(field, f"{means:g} % EP", sentence("web.what_wave_can_have")))
        ends.append((shown, means, place))
    most, least = ends[0][1], ends[1][1]
    if most is not None and least is not None and most <= least:
        other = {"ep": sentence("web.say_figure_counts_en"), "en": sentence("web.say_figure_counts_ep")}
        text = sentence(
            "web.cleaning_end_has_more", ends=ends[1][0], least=least, figure=other.get(figure, "")
        )
        problems.append(Problem("balance_most", f"{ends[0][0]} ({most:g} % EP)", text))
    signed = figure == "scale" and any(shown.startswith(("-", "−", "+")) for shown, *_ in ends)
    usual_kind = "signed" if signed else "digits"
    row["kind"] = {"ep": "percent", "en": "reversed", "clock": "clock"}.get(figure, usual_kind)
    row["meaning"] = _meaning(ends)
    note = (
        sentence("web.not_manual_assumed_calibrate", assumed=say.joined(*assumed, by=" and "))
        if assumed
        else ""
    )
    return Answered(
        row, USUAL_LEAST_EP if least is None else least, USUAL_MOST_EP if most is None else most, note
    )


def _shown(
    answers: dict[str, str], field: str, what: Words, is_clock: bool, problems: list[Problem]
) -> tuple[str, float | None]:
    """What an end shows, and where it lies along the control; a knob goes from its stop at about seven
    through twelve to about five.
    """
    shown = answers.get(field, "").strip()
    if not shown:
        problems.append(Problem(field, "nothing", say.joined("type ", what)))
        return "", None
    if is_clock and ":" not in shown:
        shown += ":00"
    try:
        place = clock_place(shown, field) if is_clock else plain_number(shown, field)
    except BadInput as trouble:
        problems.extend(trouble.problems)
        return shown, None
    return shown, (place - 6) % 12 if is_clock else place


def _meaning(ends: list[tuple[str, float | None, float | None]]) -> str:
    """Both ends as the editor writes them, from the lower place up."""
    known = sorted((end for end in ends if None not in end), key=lambda end: end[2] or 0.0)
    return ", ".join(f"{shown} = {means:g}" for shown, means, _ in known)
