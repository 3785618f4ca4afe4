"""What the gauges of gas cylinders said: a log that is only added to. The caller commits."""

from __future__ import annotations

from collections.abc import Collection

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.torch.kit import Cylinder
from anvilsong.store.models import GaugeRow


def gauge_log(session: Session, cylinder: str, limit: int = 50) -> list[GaugeRow]:
    """Readings of a cylinder, newest first."""
    return list(
        session.scalars(
            select(GaugeRow).where(GaugeRow.cylinder == cylinder).order_by(GaugeRow.id.desc()).limit(limit)
        )
    )


def last_bar(session: Session, cylinders: Collection[str]) -> dict[str, float]:
    """What the gauge of some cylinders said last, bar, by their names; those never read are left out."""
    last = select(func.max(GaugeRow.id)).where(GaugeRow.cylinder.in_(cylinders)).group_by(GaugeRow.cylinder)
    asked = select(GaugeRow.cylinder, GaugeRow.bar).where(GaugeRow.id.in_(last))
    return {row[0]: row[1] for row in session.execute(asked)}


def read_gauge(session: Session, cylinder: Cylinder, bar: float, note: str = "") -> GaugeRow:
    """Record what the gauge says."""
    if not 0 <= bar <= 1.25 * cylinder.full_bar:
        raise BadInput.one("bar", f"{bar:g} bar", f"{cylinder.name} holds 0 to {cylinder.full_bar:g} bar")
    row = GaugeRow(cylinder=cylinder.name, bar=bar, note=note.strip()[:400])
    session.add(row)
    session.flush()
    return row
