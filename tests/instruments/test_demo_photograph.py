"""The demo's photograph is what the simulated camera takes of its coupon, its figures what is read from it."""

from importlib.resources import files

import numpy as np
import pytest
from sqlalchemy import select

from anvilsong.core.bead import Readings
from anvilsong.demo.pictures import PICTURE, taken_anew
from anvilsong.instruments import pixels_of
from anvilsong.store.models import AttachmentRow, CouponRow


def test_the_demo_s_photograph_is_taken_and_measured_again(make_session):
    with make_session() as session:
        kept = session.scalars(select(AttachmentRow)).one()
        content, document = kept.content, kept.document
        seen = Readings.model_validate(session.get_one(CouponRow, kept.coupon_id).readings[-1].document)
    assert content == files("anvilsong.demo").joinpath(PICTURE).read_bytes()
    picture, read = taken_anew(seen)
    apart = np.abs(pixels_of(picture.jpeg).astype(float) - pixels_of(content))
    assert apart.mean() < 0.5
    assert {name: read[name] for name in ("width_px", "height_px")} == {
        name: document[name] for name in ("width_px", "height_px")
    }
    for name in ("bead_width", "border_left", "border_right", "ripple_pitch"):
        for key in ("value_mm", "spread_mm", "sureness"):
            assert document["bead"][name][key] == pytest.approx(read["bead"][name][key], abs=0.01), (
                name,
                key,
            )
    assert document["bead"]["bead_width"]["value_mm"] == pytest.approx(seen.bead_width_mm, abs=0.25)
