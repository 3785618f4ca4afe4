"""Photographs of practice coupons, as the simulated camera takes them: worse light from level to level."""

from __future__ import annotations

import random
from functools import lru_cache
from typing import TYPE_CHECKING

from anvilsong.core.practice.eye.coupon_run import RUN_MM, Sight
from anvilsong.web.heavy import done_now
from anvilsong.work import PICTURES, tasks

if TYPE_CHECKING:
    from anvilsong.instruments import Camera, Coupon

SMALL_LENGTH_MM = 54.0
WIDE_PX, HIGH_PX, PX_PER_MM = 880, 520, 12.6
SMALL_WIDE_PX, SMALL_HIGH_PX, SMALL_PX_PER_MM = 520, 340, 8.4
GREY_MM = 14.0


@lru_cache(maxsize=64)
def photograph_of(sight: Sight, level: int, seed: int, is_small: bool = False) -> bytes:
    """A coupon as JPEG, the same one for the same seed.

    Raises
    ------
    HTTPException : 503, as many pictures as may wait are waiting
    """
    coupon, camera = _coupon(sight, is_small), _camera(level, seed, is_small)
    taken: bytes = done_now(PICTURES, tasks.photograph_coupon, coupon, camera, seed)
    return taken


def _coupon(sight: Sight, is_small: bool) -> Coupon:
    from anvilsong.instruments import Coupon

    length = SMALL_LENGTH_MM if is_small else RUN_MM
    end = {"filled": "filled", "hollow": "hollow", "cracked": "cracked"}[sight.crater]
    return Coupon(
        bead_width_mm=sight.bead_width_mm,
        border_left_mm=sight.border_left_mm,
        border_right_mm=sight.border_right_mm,
        ripple_pitch_mm=sight.ripple_pitch_mm,
        length_mm=length,
        crown_mm=sight.crown_mm,
        ripple_mm=0.12,
        soot=0.34 if sight.soot else 0.0,
        specks=2,
        pepper=sight.specks,
        unevenness=sight.unevenness,
        end=end,  # type: ignore[arg-type]  # one of the three
        grey_mm=GREY_MM if sight.grey_end else 0.0,
        crack_mm=0.7 * length if sight.cracked else 0.0,
    )


def _camera(level: int, seed: int, is_small: bool) -> Camera:
    """How the picture is taken: straight and well lit at first, turned, tilted and badly lit later."""
    from anvilsong.instruments import Camera

    chance, bad = random.Random(f"camera {seed}"), level - 1
    nearer = chance.uniform(0.92, 1.0) if bad else 1.0
    return Camera(
        width_px=SMALL_WIDE_PX if is_small else WIDE_PX,
        height_px=SMALL_HIGH_PX if is_small else HIGH_PX,
        px_per_mm=nearer * (SMALL_PX_PER_MM if is_small else PX_PER_MM),
        turned_deg=bad * chance.uniform(-2.0, 2.0),
        tilted_deg=bad * chance.uniform(2.0, 7.0),
        light_from_deg=chance.uniform(30.0, 100.0),
        light_low_deg=50.0 - 6.0 * bad,
        uneven=0.15 + 0.1 * bad,
        exposure=1.0 - 0.1 * bad * chance.random(),
        noise=0.012 + 0.01 * bad,
        blur_px=0.8 + 0.3 * bad,
        glare=0.05 * (bad > 1) * chance.random(),
    )
