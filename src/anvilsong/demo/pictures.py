"""A photograph for the demo: the simulated camera over the coupon that was recorded."""

from __future__ import annotations

import io

from sqlalchemy.orm import Session

from anvilsong.core.bead import Readings
from anvilsong.store import attachments, coupons
from anvilsong.store.models import JobRow

SEED = 7


def photograph_last(session: Session, row: JobRow) -> None:
    """Take a picture of the job's newest coupon, measure it, and keep it with that coupon."""
    # Read here: a server that finds its book filled needs none of it.
    from PIL import Image

    from anvilsong.instruments import Camera, Coupon, open_picture, photograph, pixels_of, read_bead

    coupon = coupons.find_coupons(session, row.id, 1)[0]
    seen = Readings.model_validate(coupon.readings[-1].document)
    camera = Camera(width_px=1200, height_px=700, px_per_mm=12.0, turned_deg=2.0, tilted_deg=3.0)
    surface = Coupon(
        seen.bead_width_mm, seen.border_left_mm, seen.border_right_mm, seen.ripple_pitch_mm or 1.3
    )
    taken = photograph(surface, camera, SEED)
    file = io.BytesIO()
    Image.fromarray(taken.pixels).save(file, "PNG")
    picture = open_picture(file.getvalue())
    kept = attachments.add_attachment(session, row, attachments.PHOTOGRAPH, "image/jpeg", picture.jpeg)
    bead = read_bead(pixels_of(picture.jpeg), taken.marks)
    size = {"width_px": picture.width_px, "height_px": picture.height_px}
    attachments.keep_reading(kept, {**size, "bead": bead.model_dump(mode="json")})
    attachments.give_to(session, kept, coupon)
