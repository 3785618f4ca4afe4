"""What coupons and runs say of kept versions, of a whole page of recipes at once."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Collection
from datetime import datetime

from sqlalchemy import bindparam, text
from sqlalchemy.orm import Session

from anvilsong.core.shop import Evidence
from anvilsong.store.models import now

# Coupons of a version's job that were run with exactly its settings on its machine and kit, the oldest first,
# with what their newest readings ask for. CROSS JOIN and the plus signs keep SQLite on the way from a few
# versions to their coupons; by machine and kit it would read all there are.
_COUPONS = text("""
    SELECT p.id, c.made_at,
        (SELECT CASE WHEN json_valid(r.change) THEN json_extract(r.change, '$.kind') END FROM readings r
         WHERE r.coupon_id = c.id ORDER BY r.revision DESC LIMIT 1)
    FROM plans p
    CROSS JOIN plans o ON o.job_id = p.job_id AND o.settings = p.settings
    CROSS JOIN coupons c ON c.plan_id = o.id AND NOT c.left_out
        AND +c.machine = CASE WHEN json_valid(p.job_document)
            THEN coalesce(json_extract(p.job_document, '$.machine'), '') END
        AND +c.kit = CASE WHEN json_valid(p.job_document)
            THEN coalesce(json_extract(p.job_document, '$.kit'), '') END
    WHERE p.id IN :plans AND EXISTS (SELECT 1 FROM readings r WHERE r.coupon_id = c.id)
    ORDER BY p.id, c.id
""").bindparams(bindparam("plans", expanding=True))
_RUNS = text("""
    SELECT p.id, count(*)
    FROM plans p CROSS JOIN part_runs r ON r.job_id = p.job_id AND r.revision = p.revision
    WHERE p.id IN :plans GROUP BY p.id
""").bindparams(bindparam("plans", expanding=True))


def evidence_of(session: Session, plans: Collection[int]) -> dict[int, Evidence]:
    """What stands behind some kept versions, by their numbers."""
    asked = {"plans": list(plans)}
    coupons: defaultdict[int, list[tuple[datetime, bool]]] = defaultdict(list)
    for plan, made_at, kind in session.execute(_COUPONS, asked):
        coupons[plan].append((datetime.fromisoformat(made_at), kind == "keep"))
    runs: dict[int, int] = {row[0]: row[1] for row in session.execute(_RUNS, asked)}
    return {plan: _evidence(coupons[plan], runs.get(plan, 0)) for plan in plans}


def _evidence(coupons: list[tuple[datetime, bool]], runs: int) -> Evidence:
    good = [made_at for made_at, is_good in coupons if is_good]
    days = max((now() - good[-1]).total_seconds() / 86400, 0.0) if good else None
    newest_is_poor = bool(coupons) and not coupons[-1][1]
    return Evidence(len(good), len(coupons) - len(good), days, newest_is_poor, runs)
