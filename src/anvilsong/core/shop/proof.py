"""How far a recipe is borne out: by how many coupons, how they came out, how long ago, and runs on parts."""

from __future__ import annotations

from typing import Literal, NamedTuple

from anvilsong.core.said import Words
from anvilsong.core.words import sentence

State = Literal["as_planned", "proved", "needs_coupon"]
STATE_WORDS: dict[State, str] = {
    "as_planned": "as planned",
    "proved": "proved",
    "needs_coupon": "needs another coupon",
}
PROVED_BY, LASTS_DAYS = 2, 180.0


class Evidence(NamedTuple):
    """Coupons run with a recipe's settings: how many were as wanted and how many were not, days since the
    last that was, whether the newest was not, and runs on real parts.
    """

    good: int = 0
    poor: int = 0
    days: float | None = None
    newest_is_poor: bool = False
    runs: int = 0


class Proof(NamedTuple):
    """The state and why."""

    state: State
    why: Words


def proof_of(found: Evidence) -> Proof:
    """Proved is what two coupons bore out, or one and a run on a part, the last of them within half a year
    and none since that came out otherwise.
    """
    if not found.good and not found.poor:
        return Proof("as_planned", sentence("shop.proof_none"))
    if found.newest_is_poor or not found.good:
        return Proof("needs_coupon", sentence("shop.proof_poor"))
    days = found.days or 0.0
    if days > LASTS_DAYS:
        return Proof("needs_coupon", sentence("shop.proof_old", days=days))
    if found.good < PROVED_BY and not found.runs:
        return Proof("needs_coupon", sentence("shop.proof_one"))
    said = sentence(
        "shop.proof_good",
        coupons=_counted(found.good, "coupon"),
        runs=f", {_counted(found.runs, 'run')} on parts" if found.runs else "",
        ago="today" if days < 1 else f"{_counted(round(days), 'day')} ago",
    )
    return Proof("proved", said)


def _counted(number: int, word: str) -> str:
    """One coupon, two coupons."""
    return f"{number} {word}" if number == 1 else f"{number} {word}s"
