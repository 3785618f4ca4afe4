"""How big a part is, drawn beside a hand."""

from __future__ import annotations

from markupsafe import Markup

from anvilsong.core.job import PartSize

PART_SIZES: dict[PartSize, str] = {
    "large": "Large: a sheet, a frame",
    "hand": "About a hand",
    "fist": "Smaller than a fist",
}
# Corner, width and height of the part in a field of 64 by 48; the large one goes on past the field.
_PARTS: dict[PartSize, tuple[int, int, int, int]] = {
    "large": (4, 6, 80, 60),
    "hand": (6, 8, 30, 32),
    "fist": (10, 20, 16, 14),
}
_HAND = "M40 44 V30 L36 24 q1 -3 4 -1 l3 4 V12 q2 -3 4 0 V10 q2 -3 4 0 V12 q2 -3 4 0 V16 q2 -3 4 0 V32 q0 8 -5 12 z"


def part_size_drawing(size: PartSize) -> Markup:
    """The part as an outline, and a hand of always the same size beside or on it."""
    x, y, wide, high = _PARTS[size]
    return Markup(
        f'<svg viewBox="0 0 64 48" class="part-size"><rect x="{x}" y="{y}" width="{wide}" height="{high}" rx="1" '
        f'fill="none" stroke="currentColor" stroke-width="1.6"/><path d="{_HAND}" fill="currentColor" '
        'fill-opacity="0.25" stroke="currentColor" stroke-width="1"/></svg>'
    )
