"""A photograph for the demo, taken by the simulated camera over the coupon that is recorded, and what was
measured on it. Both lie here as files, since a first start has better things to do than to take pictures:
``scripts/demo_photograph.py`` takes it anew, and a test compares.
"""

from __future__ import annotations

import json
from importlib.resources import files
from typing import TYPE_CHECKING

from sqlalchemy.orm import Session

from anvilsong.core.bead import Readings
from anvilsong.store import attachments, coupons
from anvilsong.store.columns import Document
from anvilsong.store.models import JobRow

if TYPE_CHECKING:  # what takes pictures brings libraries along
    from anvilsong.instruments import Picture

PICTURE, READ_FROM_IT = "coupon.jpg", "coupon.json"
SEED = 7


def photograph_last(session: Session, row: JobRow) -> None:
    """Keep the picture of the job's newest coupon with it."""
    here = files("anvilsong.demo")
    picture, read = here.joinpath(PICTURE).read_bytes(), here.joinpath(READ_FROM_IT).read_text("utf-8")
    kept = attachments.add_attachment(session, row, attachments.PHOTOGRAPH, "image/jpeg", picture)
    attachments.keep_reading(kept, json.loads(read))
    attachments.give_to(session, kept, coupons.find_coupons(session, row.id, 1)[0])


def taken_anew(seen: Readings) -> tuple[Picture, Document]:
    """The picture of a coupon with these readings as it is kept, and what was measured on it."""
    import io

    from PIL import Image

    from anvilsong.instruments import Camera, Coupon, open_picture, photograph, pixels_of, read_bead

    camera = Camera(width_px=1200, height_px=700, px_per_mm=12.0, turned_deg=2.0, tilted_deg=3.0)
    surface = Coupon(
        seen.bead_width_mm, seen.border_left_mm, seen.border_right_mm, seen.ripple_pitch_mm or 1.3
    )
    taken = photograph(surface, camera, SEED)
    file = io.BytesIO()
    Image.fromarray(taken.pixels).save(file, "PNG")
    picture = open_picture(file.getvalue())
    bead = read_bead(pixels_of(picture.jpeg), taken.marks)
    size = {"width_px": picture.width_px, "height_px": picture.height_px}
    return picture, {**size, "bead": bead.model_dump(mode="json")}
