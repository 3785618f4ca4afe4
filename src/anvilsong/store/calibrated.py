"""What is known of a machine and kit from their coupons, as plans and pages ask for it."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from anvilsong.core.bead import Calibration
from anvilsong.core.coefficients import Coefficients, nominal
from anvilsong.store.models import CalibrationRow
from anvilsong.store.reading import readable


def calibration_row(session: Session, machine: str | None, kit: str | None) -> CalibrationRow | None:
    """The row of a machine and kit; None before their first coupon, and where no machine is named."""
    if not machine:
        return None
    of_pair = (CalibrationRow.machine == machine, CalibrationRow.kit == (kit or ""))
    return session.scalar(select(CalibrationRow).where(*of_pair))


def members_of(row: CalibrationRow) -> list[int]:
    """The coupons that a row was made from, in the order of its misses; none where that cannot be read."""
    found = row.members.get("coupons")
    return [each for each in found if isinstance(each, int)] if isinstance(found, list) else []


def calibration_of(row: CalibrationRow | None) -> Calibration | None:
    """What a row says; None where it is switched off, or cannot be read."""
    return readable(Calibration, row.document) if row is not None and row.is_on else None


def coefficients_of(session: Session, machine: str | None, kit: str | None) -> Coefficients:
    """The coefficients for a new plan: from the coupons of the pair, else nominal."""
    made = calibration_of(calibration_row(session, machine, kit))
    return made.coefficients if made is not None else nominal()
