"""Codes to be photographed with a phone."""

from __future__ import annotations

from functools import lru_cache

import segno
from markupsafe import Markup

QUIET_MODULES = 4  # the white that a reader needs around a code


@lru_cache(maxsize=256)
def qr_code(text: str) -> Markup:
    """A text as a code to be photographed: black on white whatever the theme, with its quiet zone, scaled by
    its box.
    """
    code = segno.make(text, error="m" if len(text) < 300 else "l", boost_error=False)
    svg = code.svg_inline(border=QUIET_MODULES, dark="#000000", light="#ffffff", omitsize=True)
    return Markup(svg)
