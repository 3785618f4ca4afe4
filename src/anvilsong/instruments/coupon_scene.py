"""A welded coupon as a surface: bead, ripples, toes, cleaned border, plate, for the simulated camera.

Places are ``s`` along the run and ``u`` across it (right-hand side of the travel positive), mm. The surface
gives albedo, height and gloss at any places; how it is lit and seen is the camera's.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

Floats = NDArray[np.float64]

STEP_MM = 0.1  # of the tables of wandering edges
MOST_SOFT_MM = 0.35


@dataclass(frozen=True)
class Coupon:
    """What is true of a coupon, mm; shares are of the full range of brightness."""

    bead_width_mm: float
    border_left_mm: float
    border_right_mm: float
    ripple_pitch_mm: float
    length_mm: float = 90.0
    wander_mm: float = 0.08
    """Standard deviation of each edge along the run."""
    border_bright: float = 0.74
    plate_bright: float = 0.5
    bead_bright: float = 0.62
    grain: float = 0.05
    grain_angle_deg: float = 0.0
    """Direction of the rolling marks against the run."""
    specks: int = 12
    soot: float = 0.0
    crown_mm: float = 1.3
    ripple_mm: float = 0.06
    soft_mm: float = 0.1
    """How softly the border ends."""
    unevenness: float = 0.0
    """Scatter of the ripples, one standard deviation as a share of their pitch; 0 leaves a steady hand's."""
    pepper: int = 0
    """Black specks in the bead itself."""
    end: Literal["cut", "filled", "hollow", "cracked"] = "cut"
    """How the run ends: cut off straight, or in a crater."""
    grey_mm: float = 0.0
    """Length at the end that is dull and grey."""
    crack_mm: float = 0.0
    """Length of a crack along the middle, to the end."""


@dataclass(frozen=True)
class Surface:
    """The coupon at some places: how bright, how high (mm) and how glossy each is."""

    albedo: Floats
    height_mm: Floats
    gloss: Floats


class Scene:
    """One coupon with its wandering edges, grain and specks drawn once."""

    def __init__(self, coupon: Coupon, rng: np.random.Generator) -> None:
        self.coupon = coupon
        self.count = int(coupon.length_mm / STEP_MM) + 1
        half = coupon.bead_width_mm / 2
        self.toe_left = -half + self._wander(rng)
        self.toe_right = half + self._wander(rng)
        self.edge_left = self.toe_left - np.maximum(coupon.border_left_mm + self._wander(rng), 0.0)
        self.edge_right = self.toe_right + np.maximum(coupon.border_right_mm + self._wander(rng), 0.0)
        self.phase = np.cumsum(1 + 0.06 * rng.standard_normal(self.count)) * STEP_MM / coupon.ripple_pitch_mm
        if coupon.unevenness:
            self.phase = self._uneven(rng)
        self.grain = rng.standard_normal((512, 512))
        self.grain = gaussian_filter1d(self.grain, 40.0, axis=1, mode="wrap")
        self.grain /= self.grain.std()
        self.frost = rng.standard_normal((512, 512))
        side = rng.choice([-1.0, 1.0], coupon.specks)
        away = rng.exponential(0.5, coupon.specks)
        self.specks = [
            (float(s), float(way * (half + off)), float(size))
            for s, way, off, size in zip(
                rng.uniform(0, coupon.length_mm, coupon.specks),
                side,
                away,
                rng.uniform(0.08, 0.25, coupon.specks),
                strict=True,
            )
        ]

        self.pepper = [
            (float(s), float(u * half), float(size))
            for s, u, size in zip(
                rng.uniform(0, coupon.length_mm - half, coupon.pepper),
                rng.uniform(-0.9, 0.9, coupon.pepper),
                rng.uniform(0.12, 0.32, coupon.pepper),
                strict=True,
            )
        ]
        # Drawn where there is one alone, so that every other coupon stays the one it was.
        self.crack_mm = np.zeros(self.count)
        if coupon.crack_mm:
            self.crack_mm = 0.25 * self._wander(rng) / max(coupon.wander_mm, 1e-6)

    def _uneven(self, rng: np.random.Generator) -> Floats:
        """Where between its ripples each place lies, with ripples that scatter."""
        c = self.coupon
        pitches = c.ripple_pitch_mm * np.exp(
            rng.normal(0.0, c.unevenness, int(3 * c.length_mm / c.ripple_pitch_mm) + 2)
        )
        places = np.concatenate([[0.0], np.cumsum(pitches)])
        return np.asarray(np.interp(np.arange(self.count) * STEP_MM, places, np.arange(len(places))))

    def _wander(self, rng: np.random.Generator) -> Floats:
        walk = gaussian_filter1d(rng.standard_normal(self.count), 25.0)
        return np.asarray(walk / walk.std() * self.coupon.wander_mm)

    def _along(self, table: Floats, s: Floats) -> Floats:
        return np.interp(s, np.arange(self.count) * STEP_MM, table)

    def mean_truth(self, start: float, end: float) -> tuple[float, float, float]:
        """Bead width, border left and border right, mean of a part of the run, mm."""
        part = slice(int(start / STEP_MM), int(end / STEP_MM) + 1)
        return (
            float((self.toe_right - self.toe_left)[part].mean()),
            float((self.toe_left - self.edge_left)[part].mean()),
            float((self.edge_right - self.toe_right)[part].mean()),
        )

    def at(self, s: Floats, u: Floats) -> Surface:
        """The surface at places, arrays of one shape."""
        c = self.coupon
        left, right = self._along(self.toe_left, s), self._along(self.toe_right, s)
        on_run = _step(s, 0.3) * _step(c.length_mm - s, 0.3)
        if c.end != "cut":
            on_run = on_run * _step(c.length_mm - s - _round_off(u, c.bead_width_mm), 0.15)
        bead = _step(u - left, 0.05) * _step(right - u, 0.05) * on_run
        edge_left, edge_right = self._along(self.edge_left, s), self._along(self.edge_right, s)
        frosted = _step(u - edge_left, c.soft_mm) * _step(edge_right - u, c.soft_mm) * on_run

        turn = np.deg2rad(c.grain_angle_deg)
        a, b = s * np.cos(turn) - u * np.sin(turn), s * np.sin(turn) + u * np.cos(turn)
        plate = c.plate_bright + c.grain * self._tile(self.grain, a, b, 12.0)
        plate -= c.soot * np.exp(-(((np.abs(u) - c.bead_width_mm) / c.bead_width_mm) ** 2))
        frost = c.border_bright + 0.035 * self._tile(self.frost, s, u, 9.0)
        albedo = plate + (frost - plate) * frosted
        albedo = albedo + (c.bead_bright - albedo) * bead
        toe = np.exp(-(((u - left) / 0.12) ** 2)) + np.exp(-(((u - right) / 0.12) ** 2))
        albedo = albedo * (1 - 0.35 * toe * on_run)
        for speck_s, speck_u, size in self.specks:
            near = np.exp(-((s - speck_s) ** 2 + (u - speck_u) ** 2) / size**2)
            albedo = albedo * (1 - 0.8 * near)
        for speck_s, speck_u, size in self.pepper:
            near = np.exp(-((((s - speck_s) ** 2 + (u - speck_u) ** 2) / size**2) ** 2))
            albedo = albedo * (1 - 0.9 * near)
        gloss = 0.55 * bead + 0.08 * (1 - frosted) * (1 - bead)
        dull = _step(s - (c.length_mm - c.grey_mm), 3.0) if c.grey_mm else np.zeros_like(s)
        albedo, gloss = albedo * (1 - 0.45 * dull * np.maximum(bead, frosted)), gloss * (1 - 0.9 * dull)
        crack = self._crack(s, u)
        albedo = albedo * (1 - 0.9 * crack * bead)

        middle, half = (left + right) / 2, np.maximum((right - left) / 2, 0.3)
        across = np.clip((u - middle) / half, -1, 1)
        phase = self._along(self.phase, s) + 0.28 * half / c.ripple_pitch_mm * across**2
        ripple = c.ripple_mm * (phase % 1.0) ** 2 * (1 - across**4)
        height = (c.crown_mm * (1 - across**2) + ripple) * bead
        if c.end in ("hollow", "cracked"):
            reach = 0.32 * c.bead_width_mm
            dip = np.exp(-((((s - c.length_mm + 0.55 * c.bead_width_mm) ** 2 + u**2) / reach**2) ** 2))
            height, albedo = height - 0.9 * c.crown_mm * dip * bead, albedo * (1 - 0.25 * dip * bead)
        return Surface(albedo, height, gloss * (1 - crack))

    def _crack(self, s: Floats, u: Floats) -> Floats:
        """1 in a crack, 0 beside it: along the middle, or a star in the crater."""
        c = self.coupon
        found = np.zeros_like(s)
        if c.crack_mm:
            line = np.exp(-(((u - self._along(self.crack_mm, s)) / 0.13) ** 2))
            found = line * _step(s - (c.length_mm - c.crack_mm), 0.5) * _step(c.length_mm - 1.0 - s, 0.3)
        if c.end == "cracked":
            a, b = s - c.length_mm + 0.55 * c.bead_width_mm, u
            near = np.exp(-((a**2 + b**2) / (0.3 * c.bead_width_mm) ** 2))
            for turn in (0.3, 1.4, 2.5):
                beside = -a * np.sin(turn) + b * np.cos(turn)
                found = np.maximum(found, near * np.exp(-((beside / 0.12) ** 2)))
        return found

    def _tile(self, noise: Floats, a: Floats, b: Floats, per_mm: float) -> Floats:
        i, j = (b * per_mm).astype(int) % noise.shape[0], (a * per_mm).astype(int) % noise.shape[1]
        return np.asarray(noise[i, j])


def _round_off(u: Floats, width_mm: float) -> Floats:
    """How much shorter the run is beside its middle, mm, where it ends in a round pool."""
    half = width_mm / 2
    return np.asarray(half * (1 - np.sqrt(np.clip(1 - (u / (1.6 * half)) ** 2, 0.0, 1.0))))


def _step(distance: Floats, soft_mm: float) -> Floats:
    """0 to 1 over a soft edge."""
    return 1 / (1 + np.exp(-np.clip(distance / (soft_mm / 2), -40, 40)))
