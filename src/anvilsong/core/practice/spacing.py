"""What to ask next: what was failed comes back within the session, what is known comes back later and later
(FSRS), what was never asked comes in between.
"""

from __future__ import annotations

import random
from collections.abc import Sequence
from datetime import UTC, datetime
from typing import NamedTuple

from fsrs import Card, Rating, Scheduler

BETWEEN = 2  # other questions before a failed one comes back


class Answered(NamedTuple):
    """A question that was answered: of which item, whether rightly, and when (UTC, without a zone)."""

    item: str
    is_right: bool
    at: datetime


def next_item(items: Sequence[str], answers: Sequence[Answered], now: datetime, seed: int) -> str:
    """The item to ask of next; ``answers`` are the earlier ones, the oldest first.

    First what was failed last, once two others were asked since; then what is due; then what was never asked,
    in an order by ``seed``; then what is due soonest. What was asked just now waits.
    """
    known = [answer for answer in answers if answer.item in items]
    just_asked = {answer.item for answer in known[-BETWEEN:]}
    last = {answer.item for answer in known[-1:]}
    choices = [item for item in items if item not in just_asked] or [
        item for item in items if item not in last
    ]
    choices = choices or list(items)
    newest = {answer.item: place for place, answer in enumerate(known)}
    failed = [item for item in choices if item in newest and not known[newest[item]].is_right]
    if failed:
        return min(failed, key=lambda item: newest[item])
    due = {item: card.due.replace(tzinfo=None) for item, card in _cards(known).items() if item in choices}
    ready = [item for item, when in due.items() if when <= now and known[newest[item]].is_right]
    if ready:
        return min(ready, key=lambda item: due[item])
    unseen = [item for item in choices if item not in newest]
    if unseen:
        return random.Random(seed).choice(unseen)
    return min(choices, key=lambda item: due.get(item, now))


def _cards(answers: Sequence[Answered]) -> dict[str, Card]:
    """The state of each item after its answers."""
    scheduler, cards = Scheduler(enable_fuzzing=False), dict[str, Card]()
    for answer in answers:
        card = cards.get(answer.item) or Card(card_id=len(cards) + 1)
        rating = Rating.Good if answer.is_right else Rating.Again
        at = answer.at.replace(tzinfo=UTC)
        cards[answer.item], _ = scheduler.review_card(card, rating, at)
    return cards
