"""What was tried against a fault in this shop, and whether it helped."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import Integer, func, select
from sqlalchemy.orm import Session

from anvilsong.core.bead import Tried, find_sign
from anvilsong.core.errors import BadInput
from anvilsong.core.words import sentence
from anvilsong.store.models import FaultTrialRow


def add_trial(session: Session, sign: str, cause: str, helped: bool) -> FaultTrialRow:
    """Record that a cause of a sign was acted on."""
    if cause not in {each.key for each in find_sign(sign).cause}:
        raise BadInput.one("cause", cause, sentence("store.choose_one_list"))
    row = FaultTrialRow(sign=sign, cause=cause, helped=helped)
    session.add(row)
    session.flush()
    return row


def trials(session: Session, signs: Sequence[str]) -> dict[tuple[str, str], Tried]:
    """How often each cause of some signs was acted on, and how often that helped."""
    of = (FaultTrialRow.sign, FaultTrialRow.cause)
    counted = select(*of, func.sum(FaultTrialRow.helped.cast(Integer)), func.count())
    rows = session.execute(counted.where(FaultTrialRow.sign.in_(signs)).group_by(*of))
    return {(sign, cause): Tried(int(helped or 0), tried) for sign, cause, helped, tried in rows}
