"""What is picked out of some words on a coupon's form."""

from __future__ import annotations

PICKS: dict[str, tuple[str, tuple[tuple[str, str], ...]]] = {
    "back_side": (
        "Back side",
        (("none", "not reached"), ("partial", "in part"), ("full", "all along"), ("sagging", "sags")),
    ),
    "tip": (
        "Tungsten’s tip",
        (
            ("sharp", "stays sharp"),
            ("rounded", "rounded off"),
            ("balled", "balled"),
            ("spat", "spat, split"),
        ),
    ),
    "crater": ("Crater", (("filled", "filled"), ("hollow", "hollow"), ("cracked", "cracked"))),
    "overall": ("All in all", (("keep", "as wanted"), ("nearly", "nearly"), ("no", "no"))),
}
