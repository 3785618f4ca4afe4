"""What is judged by sight on a coupon, in tap scales: the words of each place, and which are asked first."""

from __future__ import annotations

from dataclasses import dataclass

from anvilsong.core.bead import JudgedWord


@dataclass(frozen=True)
class Scale:
    """One thing to judge, 0 to 3, and what each place looks like."""

    key: JudgedWord
    words: str
    places: tuple[str, str, str, str]


FIRST = (
    Scale("bright", "Skin", ("dull", "matt", "bright", "mirror")),
    Scale("specks", "Specks", ("none", "a few", "many", "all over")),
    Scale("toes", "Toes", ("rolled over", "stand up", "wet", "run out")),
    Scale("even", "Ripples", ("no pattern", "rough", "even", "like coins")),
)
MORE = (
    Scale("soot", "Soot", ("none", "a haze", "grey", "black")),
    Scale("milky", "Pool while welding", ("clear", "hazy", "milky", "no pool seen")),
    Scale("wander", "Arc", ("stands", "twitches", "wanders", "jumps")),
    Scale("noise", "Noise", ("soft", "clear", "loud", "harsh")),
    Scale("ease", "How it ran", ("a fight", "work", "good", "by itself")),
)
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
