"""What stands of a coupon, as values of the core: measured whole, or only looked at."""

from __future__ import annotations

from anvilsong.core.bead import Looks, LooksVerdict, Readings, Verdict
from anvilsong.store.models import CouponRow
from anvilsong.store.reading import readable


def looks_of(coupon: CouponRow) -> Looks | None:
    """What stands of a coupon: `Readings` where it was measured whole, else what was seen of it; None where
    that cannot be read.
    """
    stored = coupon.readings[-1].document if coupon.readings else None
    return stored if stored is None else readable(Readings, stored) or readable(Looks, stored)


def verdict_of(coupon: CouponRow) -> LooksVerdict | None:
    """The verdict that was stored with it; None where that cannot be read."""
    stored = coupon.readings[-1].verdict if coupon.readings else None
    return stored if stored is None else readable(Verdict, stored) or readable(LooksVerdict, stored)
