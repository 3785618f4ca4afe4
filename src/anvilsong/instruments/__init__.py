"""Readers of what a shop can record, and their simulated stand-ins. They give core values and know no
database.

Ask here: a picture from untrusted bytes, a bead measured on it, and a simulated camera whose truth is known.
What is asked for is read then: a server that starts needs none of it.
"""

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from anvilsong.instruments.bead_reader import by_hand as by_hand
    from anvilsong.instruments.bead_reader import read_bead as read_bead
    from anvilsong.instruments.bead_values import BeadOnPicture as BeadOnPicture
    from anvilsong.instruments.bead_values import Edges as Edges
    from anvilsong.instruments.bead_values import Measure as Measure
    from anvilsong.instruments.camera import Camera as Camera
    from anvilsong.instruments.camera import photograph as photograph
    from anvilsong.instruments.coupon_scene import Coupon as Coupon
    from anvilsong.instruments.marks import Marks as Marks
    from anvilsong.instruments.outlines import Drawing as Drawing
    from anvilsong.instruments.outlines import Outline as Outline
    from anvilsong.instruments.outlines import read_outlines as read_outlines
    from anvilsong.instruments.pictures import Picture as Picture
    from anvilsong.instruments.pictures import jpeg_of as jpeg_of
    from anvilsong.instruments.pictures import open_picture as open_picture
    from anvilsong.instruments.pictures import pixels_of as pixels_of
    from anvilsong.instruments.strip import beside_line as beside_line

_ROOMS = {
    "bead_reader": ("by_hand", "read_bead"),
    "bead_values": ("BeadOnPicture", "Edges", "Measure"),
    "camera": ("Camera", "photograph"),
    "coupon_scene": ("Coupon",),
    "marks": ("Marks",),
    "outlines": ("Drawing", "Outline", "read_outlines"),
    "pictures": ("Picture", "jpeg_of", "open_picture", "pixels_of"),
    "strip": ("beside_line",),
}
_AT = {name: module for module, names in _ROOMS.items() for name in names}


def __getattr__(name: str) -> Any:
    if name not in _AT:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    return getattr(import_module(f"{__name__}.{_AT[name]}"), name)
