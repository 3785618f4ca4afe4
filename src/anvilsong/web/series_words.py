"""What a test series says, in sentences: what it must show, what its runs told, and what it points to."""

from __future__ import annotations

from typing import Any

from anvilsong.core import say
from anvilsong.core.bead import SCALES, HandScatter, Looks
from anvilsong.core.registry import BY_KEY
from anvilsong.core.said import Words
from anvilsong.core.trials import Expected, Pointed, Series, Told, seen_apart, spread, told
from anvilsong.core.words import sentence
from anvilsong.web.job_view import JobView
from anvilsong.web.series_form import run_said, to_set, value_said


def row(series: Series, place: int, view: JobView, one: Expected) -> dict[str, Any]:
    """A run as its tables show it."""
    return {
        "said": run_said(series, place),
        "set": to_set(series, place, view.machine),
        "expected": one,
        "cannot": [BY_KEY[key].words for key in one.cannot],
    }


def must_show(what: tuple[Expected, ...], hand: HandScatter, beads: int) -> Words:
    """What lies between the runs, and whether so many coupons tell it from the hand."""
    apart = spread(what, hand)
    between = sentence("web.series_between", border_mm=apart.border_mm, bead_mm=apart.bead_mm)
    if apart.beads == 0:
        return say.joined(between, sentence("web.series_too_near"), by=" ")
    if apart.beads > beads:
        return say.joined(between, sentence("web.series_wants_more", beads=apart.beads), by=" ")
    return say.joined(between, sentence("web.series_is_enough", beads=beads), by=" ")


def findings(
    series: Series, runs: list[list[Looks]], what: tuple[Expected, ...], hand: HandScatter
) -> list[Words]:
    """What the series says, in sentences; nothing before two runs were judged."""
    if sum(bool(run) for run in runs) < 2:
        return []
    said = list[Words]()
    for figure in ("border", "bead"):
        one = told(figure, runs, what, hand)
        if sum(mean is not None for mean in one.means) > 1:
            said.append(_told_said(one))
    for word, pairs in seen_apart(runs).items():
        named = say.listed([f"{one + 1} and {other + 1}" for one, other in pairs])
        said.append(sentence("web.runs_look_different", words=SCALES[word].words, named=named))  # type: ignore[index]
    return said


def _told_said(one: Told) -> Words:
    words = {"border": "border", "bead": "bead width"}[one.figure]
    if not one.differs:
        return sentence("web.runs_do_not_differ", words=words)
    named = say.listed([f"{first + 1} and {other + 1}" for first, other in one.pairs]) if one.pairs else ""
    said: list[Words] = [sentence("web.runs_differ", words=words)]
    if named:
        said.append(sentence("web.runs_told_apart", named=named))
    if one.follows is not None and one.follows_error is not None:
        said.append(sentence("web.series_follows", follows=one.follows, error=1.96 * one.follows_error))
    return say.joined(*said, by=" ")


def pointed_said(series: Series, pointed: Pointed) -> Words:
    """The settings that it points to, by their run or by their value."""
    said = run_said(series, pointed.run) if pointed.run is not None else None
    return said or value_said(series.axes[0].key, pointed.value)
