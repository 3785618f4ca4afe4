"""Takes the demo's photograph anew and measures it: ``demo/coupon.jpg`` and ``demo/coupon.json``."""

from __future__ import annotations

import json
from pathlib import Path
from tempfile import TemporaryDirectory

import anvilsong.demo
from anvilsong.core.bead import Readings
from anvilsong.demo.pictures import PICTURE, READ_FROM_IT, taken_anew
from anvilsong.demo.workshop import load_demo
from anvilsong.store import coupons
from anvilsong.store.database import open_database, sessions
from anvilsong.store.models import CouponRow

HERE = Path(anvilsong.demo.__file__).parent


def photographed(folder: Path) -> Readings:
    """The readings of the coupon that the demo photographs: its last one."""
    with sessions(open_database(folder / "demo.sqlite")).begin() as session:
        load_demo(session)
        last = session.query(CouponRow).order_by(CouponRow.id.desc()).first()
        assert last is not None
        (coupon,) = coupons.find_coupons(session, last.job_id, 1)
        return Readings.model_validate(coupon.readings[-1].document)


if __name__ == "__main__":
    for name in (PICTURE, READ_FROM_IT):
        (HERE / name).touch()
    (HERE / READ_FROM_IT).write_text((HERE / READ_FROM_IT).read_text() or "{}")
    with TemporaryDirectory() as folder:
        picture, read = taken_anew(photographed(Path(folder)))
    (HERE / PICTURE).write_bytes(picture.jpeg)
    (HERE / READ_FROM_IT).write_text(json.dumps(read, indent=1) + "\n", encoding="utf-8")
