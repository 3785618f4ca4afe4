"""A simulated camera over a simulated coupon: what it sees is known, so that a reader can be judged by it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.ndimage import gaussian_filter

from anvilsong.instruments.coupon_scene import Coupon, Floats, Scene
from anvilsong.instruments.marks import Marks, Point


@dataclass(frozen=True)
class Camera:
    """How the picture is taken. Lengths px, angles degrees; shares are of the full range of brightness."""

    width_px: int = 1400
    height_px: int = 900
    px_per_mm: float = 14.0
    turned_deg: float = 0.0
    tilted_deg: float = 0.0
    light_from_deg: float = 60.0
    """Direction the light comes from, against the run."""
    light_low_deg: float = 50.0
    uneven: float = 0.15
    """How much darker the far side of the picture is."""
    exposure: float = 1.0
    noise: float = 0.012
    blur_px: float = 0.8
    glare: float = 0.0
    """Size of a reflected lamp, as a share of the picture."""
    shadow: float = 0.0
    """How dark the shadow of the ruler is."""
    shadow_at_mm: float = 9.0
    mark_px: float = 1.0
    """How far the marks are set beside their places."""
    line_off_mm: float = 0.25


@dataclass(frozen=True)
class Taken:
    """A picture with the marks a person would set on it, and what is true between the line's ends, mm."""

    pixels: np.ndarray
    marks: Marks
    bead_width_mm: float
    border_left_mm: float
    border_right_mm: float
    ripple_pitch_mm: float


RULER_MM, DISTANCE_MM, LAMP = 50.0, 350.0, np.array([1.0, 0.97, 0.93])


class View:
    """Where places of the plate fall on the picture: turned, tilted about the run, in perspective."""

    def __init__(self, camera: Camera, centre_s: float) -> None:
        self.camera, self.centre_s = camera, centre_s
        self.turn = np.deg2rad(camera.turned_deg)
        self.tilt = np.deg2rad(camera.tilted_deg)

    def places(self) -> tuple[Floats, Floats]:
        """s and u of every pixel, mm."""
        y, x = np.mgrid[0 : self.camera.height_px, 0 : self.camera.width_px].astype(float)
        right = (x - self.camera.width_px / 2) / self.camera.px_per_mm
        down = (y - self.camera.height_px / 2) / self.camera.px_per_mm
        a = right * np.cos(self.turn) + down * np.sin(self.turn)
        b = -right * np.sin(self.turn) + down * np.cos(self.turn)
        u = b / (np.cos(self.tilt) - b * np.sin(self.tilt) / DISTANCE_MM)
        return a * (1 + u * np.sin(self.tilt) / DISTANCE_MM) + self.centre_s, u

    def pixel(self, s: float, u: float) -> Point:
        """The pixel of a place."""
        deep = 1 + u * np.sin(self.tilt) / DISTANCE_MM
        a, b = (s - self.centre_s) / deep, u * np.cos(self.tilt) / deep
        right = a * np.cos(self.turn) - b * np.sin(self.turn)
        down = a * np.sin(self.turn) + b * np.cos(self.turn)
        scale, camera = self.camera.px_per_mm, self.camera
        return (camera.width_px / 2 + right * scale, camera.height_px / 2 + down * scale)


def photograph(coupon: Coupon, camera: Camera, seed: int) -> Taken:
    """Take a picture of a coupon; the same seed takes the same picture."""
    rng = np.random.default_rng(seed)
    scene, view = Scene(coupon, rng), View(camera, coupon.length_mm / 2)
    s, u = view.places()
    light = _lit(scene, s, u, camera)
    ruler_u = coupon.bead_width_mm / 2 + max(coupon.border_left_mm, coupon.border_right_mm) + 7.0
    light = _with_ruler(light, s - (coupon.length_mm - RULER_MM) / 2, u - ruler_u)
    light *= 1 - camera.uneven * (s / coupon.length_mm - 0.5) - camera.uneven * u / 60
    if camera.shadow:
        inside = 1 / (1 + np.exp(-(u - camera.shadow_at_mm - 0.04 * (s - coupon.length_mm / 2)) / 0.4))
        light *= 1 - camera.shadow * inside
    if camera.glare:
        at, size = rng.uniform(0.25, 0.75, 2), camera.glare * camera.width_px
        y, x = np.mgrid[0 : camera.height_px, 0 : camera.width_px]
        far = (x - at[0] * camera.width_px) ** 2 + (y - camera.height_px * at[1]) ** 2
        light += 1.2 * np.exp(-far / (2 * size**2))
    seen = gaussian_filter(light * camera.exposure, camera.blur_px)
    seen = seen + rng.standard_normal(seen.shape) * camera.noise * np.sqrt(0.3 + np.clip(seen, 0, 1))
    colours = np.clip(seen[..., None] * LAMP + 0.004 * rng.standard_normal((*seen.shape, 3)), 0, 1)
    pixels = (255 * colours ** (1 / 1.8)).astype(np.uint8)
    return Taken(pixels, _marks(scene, view, rng, ruler_u), *_truth(scene), coupon.ripple_pitch_mm)


ENDS = (0.12, 0.9)  # of the run, that the line is set between


def _truth(scene: Scene) -> tuple[float, float, float]:
    start, end = (share * scene.coupon.length_mm for share in ENDS)
    return scene.mean_truth(start, end)


def _lit(scene: Scene, s: Floats, u: Floats, camera: Camera) -> Floats:
    surface = scene.at(s, u)
    step = 1 / camera.px_per_mm
    slope_down, slope_right = np.gradient(surface.height_mm, step)
    away, low = np.deg2rad(camera.light_from_deg), np.deg2rad(camera.light_low_deg)
    lamp = np.array([np.cos(away) * np.cos(low), np.sin(away) * np.cos(low), np.sin(low)])
    length = np.sqrt(1 + slope_down**2 + slope_right**2)
    facing = np.clip((lamp[2] - slope_right * lamp[0] - slope_down * lamp[1]) / length, 0, 1)
    half = lamp + np.array([0, 0, 1.0])
    half /= np.linalg.norm(half)
    shine = np.clip((half[2] - slope_right * half[0] - slope_down * half[1]) / length, 0, 1) ** 40
    return np.asarray(surface.albedo * (0.35 + 0.65 * facing / np.sin(low)) + surface.gloss * shine * 0.6)


def _with_ruler(light: Floats, along: Floats, across: Floats) -> Floats:
    """A steel ruler laid beside the run, with a mark each millimetre."""
    on = (along > -4) & (along < RULER_MM + 4) & (across > 0) & (across < 14)
    ticks = (np.abs(along - np.round(along)) < 0.12) & (across < np.where(np.round(along) % 5 == 0, 5.0, 3.0))
    return np.where(on, np.where(ticks & (along > -0.2) & (along < RULER_MM + 0.2), 0.2, 0.68), light)


def _marks(scene: Scene, view: View, rng: np.random.Generator, ruler_u: float) -> Marks:
    coupon, camera = scene.coupon, view.camera
    start_s = (coupon.length_mm - RULER_MM) / 2

    def near(s: float, u: float) -> Point:
        x, y = view.pixel(s, u)
        return (x + rng.normal(0, camera.mark_px), y + rng.normal(0, camera.mark_px))

    known = (near(start_s, ruler_u), near(start_s + RULER_MM, ruler_u))
    line = tuple(near(share * coupon.length_mm, rng.normal(0, camera.line_off_mm)) for share in ENDS)
    far = coupon.bead_width_mm / 2 + max(coupon.border_left_mm, coupon.border_right_mm)
    return Marks(known=known, known_mm=RULER_MM, line=line, reach_mm=float(far * rng.uniform(1.4, 1.9) + 1.5))
