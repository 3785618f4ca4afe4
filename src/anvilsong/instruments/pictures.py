"""Pictures from anywhere: read whole or refused, turned the right way up, made smaller, stripped of
everything but the picture.
"""

from __future__ import annotations

import io
from contextlib import suppress
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageOps

from anvilsong.core.errors import BadInput
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.instruments.limits import PICTURE_BYTES

# They lie in memory while they are unpacked, all of them in a PNG, several times over in a JPEG that comes in
# passes; a plain JPEG is unpacked small.
MOST_PIXELS = {"PNG": 40_000_000, "JPEG": 80_000_000, "passes": 24_000_000}
LEAST_SIDE_PX, LONG_SIDE_PX = 160, 2400
MOST_UNLIKE = 12  # how many times as long as the other a side may be: made smaller, something must be left
QUALITY = 90
PLAIN = ("L", "RGB")
WIDE = ("I", "I;16", "I;16B", "I;16L", "F")  # more than 8 bits a pixel, grey


@dataclass(frozen=True)
class Picture:
    """A picture as it is kept: JPEG without metadata, at most ``LONG_SIDE_PX`` along its longer side."""

    jpeg: bytes
    width_px: int
    height_px: int


def open_picture(data: bytes) -> Picture:
    """A picture as it is kept.

    Raises
    ------
    BadInput : what was sent is no PNG or JPEG, is damaged, moves, or is too large or too small
    """
    if not data:
        raise _refused("an empty file", "choose a picture")
    if len(data) > PICTURE_BYTES:
        raise _refused(f"{len(data) / 1e6:.0f} MB", f"at most {PICTURE_BYTES / 1e6:.0f} MB")
    try:
        # The sizes that a header claims are judged here, before anything is unpacked.
        opened = Image.open(io.BytesIO(data), formats=("PNG", "JPEG"))
    except (Image.DecompressionBombError, Image.DecompressionBombWarning):
        raise _refused("far too many pixels", _most("JPEG")) from None
    except (OSError, ValueError, SyntaxError, TypeError, OverflowError):
        raise _refused("this file", sentence("instruments.picture_png_jpeg_file")) from None
    with opened:
        return _kept(opened)


def _kept(opened: Image.Image) -> Picture:
    width, height = opened.size
    kind = "passes" if opened.info.get("progressive") else "PNG" if opened.format == "PNG" else "JPEG"
    if width * height > MOST_PIXELS[kind]:
        raise _refused(f"{width} × {height} pixels", _most(kind))
    if min(width, height) < LEAST_SIDE_PX:
        raise _refused(
            f"{width} × {height} pixels",
            sentence("instruments.least_pixels_each_side", least_side_px=LEAST_SIDE_PX),
        )
    if max(opened.size) > MOST_UNLIKE * min(opened.size):
        raise _refused(
            f"{width} × {height} pixels", sentence("instruments.no_side_over_times", most_unlike=MOST_UNLIKE)
        )
    if opened.format == "PNG" and getattr(opened, "is_animated", False):
        raise _refused("a moving picture", sentence("instruments.send_one_stands_still"))
    try:
        small = _plain(_smaller(opened))
    except (OSError, ValueError, SyntaxError, TypeError, EOFError, OverflowError, MemoryError):
        raise _refused("this picture", sentence("instruments.damaged_cut_short_take")) from None
    kept = io.BytesIO()
    small.save(kept, "JPEG", quality=QUALITY)
    return Picture(kept.getvalue(), *small.size)


def _smaller(opened: Image.Image) -> Image.Image:
    """Unpacked, at about the size it is kept in: early, since every later step takes memory."""
    if opened.format == "JPEG":
        opened.draft("RGB", (LONG_SIDE_PX, LONG_SIDE_PX))
    opened.load()
    factor = max(opened.size) // LONG_SIDE_PX
    if factor > 1 and opened.mode not in ("1", "P", "PA", *WIDE):
        return opened.reduce(factor)
    return opened


def _plain(picture: Image.Image) -> Image.Image:
    """RGB, the right way up, nothing but the picture: no position, no date, no camera, no comment."""
    if picture.mode in WIDE:
        grey = np.asarray(picture, dtype=np.float64)
        top = 65535.0 if grey.max(initial=0) > 255 else 255.0
        flat = Image.fromarray((np.clip(grey / top, 0, 1) * 255).astype(np.uint8))
    elif picture.has_transparency_data:
        over = picture.convert("RGBA")
        flat = Image.new("RGB", over.size, "white")
        flat.paste(over, mask=over.getchannel("A"))
    else:
        flat = picture if picture.mode in PLAIN else picture.convert("RGB")
    flat = flat.convert("RGB")
    with suppress(Exception):  # a broken note of how the camera was held leaves the picture as it lies
        flat.info["exif"] = picture.info.get("exif", b"")
        flat = ImageOps.exif_transpose(flat)
    flat.thumbnail((LONG_SIDE_PX, LONG_SIDE_PX), Image.Resampling.LANCZOS)
    return Image.fromarray(np.asarray(flat))


def is_kept(content: bytes, width_px: int, height_px: int) -> bool:
    """Whether these bytes are a picture as this program keeps them, of this size."""
    try:
        with Image.open(io.BytesIO(content), formats=("JPEG",)) as opened:
            if opened.size != (width_px, height_px) or max(opened.size) > LONG_SIDE_PX:
                return False
            opened.load()
    except (Image.DecompressionBombError, OSError, ValueError, SyntaxError, TypeError, OverflowError):
        return False
    return True


def pixels_of(jpeg: bytes) -> NDArray[np.uint8]:
    """The pixels of a picture that was kept, (rows, columns, 3)."""
    return np.asarray(Image.open(io.BytesIO(jpeg), formats=("JPEG",)).convert("RGB"))


def _refused(given: str, allowed: Words) -> BadInput:
    return BadInput.one("photograph", given, allowed)


def _most(kind: str) -> str:
    return f"at most {MOST_PIXELS[kind] / 1e6:.0f} million pixels"


def jpeg_of(pixels: NDArray[np.uint8]) -> bytes:
    """Pixels, rows × columns × red, green, blue, as JPEG."""
    file = io.BytesIO()
    Image.fromarray(pixels).save(file, "JPEG", quality=QUALITY)
    return file.getvalue()
