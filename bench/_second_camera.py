"""A second maker of coupon pictures, written apart from the shipped one: painted, not lit.

The plate is blotched and scratched by hand, the border ends in a ragged front, ripples are crescents drawn
one by one with spacings of their own, the crown mirrors a dark room with a bright window, and the whole is
warped and kept as JPEG. It shares no code with the shipped camera, so that the reader is not tuned to that.
"""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from anvilsong.instruments import Marks

PX = 22.0  # of the painting, a millimetre


@dataclass(frozen=True)
class Recipe:
    """One picture: what is true (mm) and how it is painted and taken."""

    bead_mm: float
    left_mm: float
    right_mm: float
    pitch_mm: float
    ragged_mm: float = 0.12
    contrast: float = 50.0
    """How much brighter than the plate the border is, of 255."""
    plate: float = 120.0
    scratches: int = 120
    scale: float = 12.0
    """Pixels a millimetre in the picture."""
    turned_deg: float = 0.0
    keystone: float = 0.0
    """How much narrower the far edge of the picture is."""
    quality: int = 88
    blur_px: float = 0.7
    noise: float = 3.0
    window: float = 70.0
    """How bright the window is that the crown mirrors."""
    band_shadow: float = 0.0
    """A bar's shadow across the picture, as a share of the light."""
    hand_px: float = 1.2


@dataclass(frozen=True)
class Painted:
    """The picture, the marks on it, and the mean truth over the line, mm."""

    pixels: np.ndarray
    marks: Marks
    bead_mm: float
    left_mm: float
    right_mm: float
    pitch_mm: float


LONG_MM, WIDE_MM, MIDDLE_MM = 84.0, 52.0, 22.0


def _cloud(rng: np.random.Generator, shape: tuple[int, int], coarse: int) -> np.ndarray:
    """Blotches of a size, mean 0 and deviation 1."""
    small = rng.normal(size=(max(shape[0] // coarse, 2), max(shape[1] // coarse, 2)))
    image = Image.fromarray(small.astype(np.float32)).resize(shape[::-1], Image.Resampling.BICUBIC)
    cloud = np.asarray(image, float)
    return (cloud - cloud.mean()) / cloud.std()


def _front(rng: np.random.Generator, columns: int, ragged_mm: float) -> np.ndarray:
    """A ragged front along the run: slow sway and teeth, px."""
    slow = np.interp(np.arange(columns), np.linspace(0, columns, 14), rng.normal(size=14))
    teeth = np.interp(
        np.arange(columns), np.arange(0, columns, 5), rng.normal(size=len(range(0, columns, 5)))
    )
    return PX * ragged_mm * (0.7 * slow + 0.6 * teeth)


def paint(recipe: Recipe, seed: int) -> Painted:
    """One picture; the same seed paints the same."""
    rng = np.random.default_rng([seed, 77])
    rows, columns = int(WIDE_MM * PX), int(LONG_MM * PX)
    y = np.arange(rows)[:, None]
    middle = MIDDLE_MM * PX + PX * 0.15 * np.interp(
        np.arange(columns), np.linspace(0, columns, 5), rng.normal(size=5)
    )
    half = recipe.bead_mm * PX / 2
    toe_up = middle - half + _front(rng, columns, 0.05)
    toe_down = middle + half + _front(rng, columns, 0.05)
    edge_up = np.minimum(toe_up - recipe.left_mm * PX + _front(rng, columns, recipe.ragged_mm), toe_up)
    edge_down = np.maximum(toe_down + recipe.right_mm * PX + _front(rng, columns, recipe.ragged_mm), toe_down)

    plate = recipe.plate + 5 * _cloud(rng, (rows, columns), 160) + 4 * _cloud(rng, (rows, columns), 3)
    plate = _scratched(plate, recipe.scratches, rng)
    white = (
        recipe.plate
        + recipe.contrast
        + 5 * _cloud(rng, (rows, columns), 5)
        + 4 * _cloud(rng, (rows, columns), 60)
    )
    cleaned = (y > edge_up) & (y < edge_down)
    picture = np.where(cleaned, white, plate)
    across = (y - middle) / half
    mirror = 95 + recipe.window * np.exp(-(((across + 0.25) / 0.28) ** 2)) + 25 * across
    mirror = mirror + _ripples(recipe, rng, rows, columns, middle, half)
    picture = np.where((y > toe_up) & (y < toe_down), mirror, picture)
    picture = _with_tape(picture)
    if recipe.band_shadow:
        slope = rng.uniform(-0.5, 0.5)
        far = np.abs((np.arange(columns) - columns * rng.uniform(0.3, 0.7)) - slope * (y - rows / 2)) / PX
        picture = picture * (1 - recipe.band_shadow / (1 + np.exp((far - 6) / 0.7)))

    keep = slice(int(0.12 * columns), int(0.88 * columns))
    ends = [
        (float(x), float(middle[int(x)] + PX * rng.normal(0, 0.2)))
        for x in (0.12 * columns, 0.5 * columns, 0.88 * columns - 1)
    ]
    tape = [(14 * PX, (WIDE_MM - 12) * PX), (64 * PX, (WIDE_MM - 12) * PX)]
    pixels, moved = _taken(picture, recipe, rng, [*tape, *ends])
    marks = Marks(
        known=(moved[0], moved[1]),
        known_mm=50.0,
        line=tuple(moved[2:]),
        reach_mm=float(
            (recipe.bead_mm / 2 + max(recipe.left_mm, recipe.right_mm)) * rng.uniform(1.4, 2.0) + 1.0
        ),
    )
    return Painted(
        pixels,
        marks,
        float((toe_down - toe_up)[keep].mean() / PX),
        float((toe_up - edge_up)[keep].mean() / PX),
        float((edge_down - toe_down)[keep].mean() / PX),
        recipe.pitch_mm,
    )


def _scratched(plate: np.ndarray, count: int, rng: np.random.Generator) -> np.ndarray:
    rows, columns = plate.shape
    drawn = Image.new("L", (columns, rows), 128)
    pen = ImageDraw.Draw(drawn)
    for _ in range(count):
        x, y = rng.uniform(0, columns), rng.uniform(0, rows)
        angle, long = rng.normal(0.9, 0.5), rng.uniform(3, 20) * PX
        end = (x + long * np.cos(angle), y + long * np.sin(angle))
        pen.line([(x, y), end], fill=int(128 + rng.normal(0, 40)), width=int(rng.integers(1, 4)))
    return plate + (np.asarray(drawn, float) - 128) * 0.6


def _ripples(
    recipe: Recipe, rng: np.random.Generator, rows: int, columns: int, middle: np.ndarray, half: float
) -> np.ndarray:
    drawn = Image.new("L", (columns, rows), 128)
    pen = ImageDraw.Draw(drawn)
    x = 0.0
    while x < columns:
        centre, deep = middle[min(int(x), columns - 1)], half * 0.55
        box = [x - 2 * deep, centre - half * 1.02, x, centre + half * 1.02]
        shade = int(np.clip(rng.normal(60, 12), 0, 255))
        pen.arc(box, -88, 88, fill=shade, width=max(int(recipe.pitch_mm * PX * 0.22), 2))
        lit = [box[0] + 3, box[1], box[2] + 3, box[3]]
        pen.arc(lit, -60, 60, fill=178, width=2)
        x += recipe.pitch_mm * PX * max(1 + 0.12 * rng.normal(), 0.3)
    return (np.asarray(drawn.filter(ImageFilter.GaussianBlur(1.5)), float) - 128) * 0.55


def _with_tape(picture: np.ndarray) -> np.ndarray:
    """A strip of white paper tape with 50 mm between two strokes."""
    top = int((WIDE_MM - 12) * PX)
    picture[top : top + int(6 * PX), int(10 * PX) : int(68 * PX)] = 225
    for x_mm in (14, 64):
        picture[top : top + int(6 * PX), int((x_mm - 0.1) * PX) : int((x_mm + 0.1) * PX) + 1] = 40
    return picture


def _taken(
    picture: np.ndarray, recipe: Recipe, rng: np.random.Generator, places: list[tuple[float, float]]
) -> tuple[np.ndarray, list[tuple[float, float]]]:
    rows, columns = picture.shape
    out = int(LONG_MM * recipe.scale * 1.1), int(WIDE_MM * recipe.scale * 1.25)
    turn, shrink = np.deg2rad(recipe.turned_deg), recipe.scale / PX
    forth = np.array(
        [
            [shrink * np.cos(turn), -shrink * np.sin(turn), 0.0],
            [shrink * np.sin(turn), shrink * np.cos(turn), 0.0],
            [0.0, 0.0, 1.0],
        ]
    )
    forth = forth @ np.array([[1, 0, -columns / 2], [0, 1, -rows / 2], [0, 0, 1.0]])
    lean = np.array([[1, 0, 0], [0, 1, 0], [0, recipe.keystone / out[1], 1.0]])
    forth = np.array([[1, 0, out[0] / 2], [0, 1, out[1] / 2], [0, 0, 1.0]]) @ lean @ forth
    back = np.linalg.inv(forth)
    back /= back[2, 2]
    image = Image.fromarray(np.clip(picture, 0, 255).astype(np.uint8))
    image = image.filter(ImageFilter.BoxBlur(PX / recipe.scale / 2))
    image = image.transform(
        out, Image.Transform.PERSPECTIVE, back.ravel()[:8].tolist(), Image.Resampling.BICUBIC, fillcolor=90
    )
    image = image.filter(ImageFilter.GaussianBlur(recipe.blur_px))
    seen = np.asarray(image, float)[..., None] * np.array([0.96, 0.99, 1.04])
    seen = seen + rng.normal(0, recipe.noise, seen.shape[:2])[..., None]
    kept = io.BytesIO()
    Image.fromarray(np.clip(seen, 0, 255).astype(np.uint8)).save(kept, "JPEG", quality=recipe.quality)
    moved = []
    for x, y in places:
        at = forth @ np.array([x, y, 1.0])
        moved.append(
            (
                float(at[0] / at[2] + rng.normal(0, recipe.hand_px)),
                float(at[1] / at[2] + rng.normal(0, recipe.hand_px)),
            )
        )
    return np.asarray(Image.open(kept).convert("RGB")), moved
