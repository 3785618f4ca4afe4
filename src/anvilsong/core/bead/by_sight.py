"""The next change after what was seen rather than measured: from the signs to their likeliest cause."""

from __future__ import annotations

from anvilsong.core import say
from anvilsong.core.bead.evidence import Case
from anvilsong.core.bead.fault_signs import find_sign
from anvilsong.core.bead.faults import Likely, likely_causes, measured_against
from anvilsong.core.bead.next import NextChange
from anvilsong.core.bead.verdict import LooksVerdict
from anvilsong.core.said import Words
from anvilsong.core.words import sentence


def change_by_sight(case: Case, verdict: LooksVerdict) -> NextChange:
    """One change for the signs that were seen; none where nothing wrong was seen. A sign that the coupon's
    own measures contradict is told, and nothing is proposed for it.
    """
    contradicted = measured_against(verdict.signs, case)
    signs = [key for key in verdict.signs if key not in contradicted]
    if signs:
        return _for(likely_causes(signs, case)[0], signs, case)
    if verdict.flaws:
        return NextChange(
            kind="hand",
            settings=case.settings,
            said=say.joined("Leave the settings. ", verdict.flaws[0]),
            why=sentence("bead.crater_back_side_say"),
        )
    if contradicted:
        return NextChange(
            kind="hand",
            settings=case.settings,
            said=sentence("bead.leave_settings_measures_against", seen=_named(contradicted)),
            why=sentence("bead.ruler_says_otherwise"),
        )
    if verdict.overall in ("nearly", "no"):
        return NextChange(
            kind="hand",
            settings=case.settings,
            said=sentence("bead.leave_settings_nothing_says_why"),
            why=sentence("bead.measure_or_name_sign"),
        )
    return NextChange(
        kind="keep",
        settings=case.settings,
        said="Stay with these settings.",
        why=sentence("bead.nothing_wrong_seen_measure"),
    )


def _for(cause: Likely, signs: list[str], case: Case) -> NextChange:
    why = sentence(
        "bead.seen_likeliest_cause", seen=_named(signs), cause=say.within(cause.words), share=cause.share
    )
    if cause.change is not None:
        return cause.change.model_copy(
            update={"why": why, "otherwise": say.joined("Check first: ", cause.check)}
        )
    return NextChange(
        kind="hand",
        settings=case.settings,
        said=say.joined("Leave the settings. ", cause.check),
        why=why,
    )


def _named(signs: list[str]) -> Words:
    return say.listed([say.within(find_sign(key).words) for key in signs])
