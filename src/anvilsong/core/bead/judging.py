"""What is judged by sight on a coupon: scales of four places, their words, and which are asked first."""

from __future__ import annotations

from dataclasses import dataclass

from anvilsong.core.bead.coupon import JudgedWord


@dataclass(frozen=True)
class Scale:
    """One thing to judge, 0 to 3, and what each place looks like."""

    key: JudgedWord
    words: str
    places: tuple[str, str, str, str]

    @property
    def numbered(self) -> list[tuple[int, str]]:
        """Its places with their numbers."""
        return list(enumerate(self.places))


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
SCALES: dict[JudgedWord, Scale] = {scale.key: scale for scale in (*FIRST, *MORE)}
