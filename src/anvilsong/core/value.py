"""What every stored value of the core is made of: one strict base, and the bounds that several of them share.

A bound is physical: outside it no weld, machine or shop is meant, only a slip or a prank. Nothing that is
not finite passes,
and no text or list is longer than a person would write. What stands here once is used by form, JSON,
import and page alike.
"""

from __future__ import annotations

import unicodedata
from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints

from anvilsong.core.errors import Unfit
from anvilsong.core.words import sentence

LONGEST_TEXT = 4000
STRICT = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, str_max_length=LONGEST_TEXT)


UNSEEN = ("Cc", "Cf", "Cs", "Zl", "Zp")


class Value(BaseModel):
    """A frozen value that takes no unknown field, no infinity and no text without end."""

    model_config = STRICT


def _printable(text: str) -> str:
    """One line of letters that can be shown: no control characters, no marks that turn the line round."""
    # Nearly all text is plain; the categories are looked up only where it is not.
    if not text.isprintable() and any(unicodedata.category(each) in UNSEEN for each in text):
        raise Unfit(sentence("typed.one_line"))
    return text


def _name(text: str) -> str:
    """A name that a person can see and say: something in it is a letter or a figure."""
    if not any(letter.isalnum() for letter in text):
        raise Unfit(sentence("typed.name_has_letter"))
    return _printable(text)


def _note(text: str) -> str:
    """Text of any lines, without control characters."""
    if any(unicodedata.category(letter) in ("Cc", "Cs") and letter not in "\n\r\t" for letter in text):
        raise Unfit(sentence("typed.letters_figures_signs"))
    return text


Name = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60), AfterValidator(_name)
]
Title = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120), AfterValidator(_name)
]
Label = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40), AfterValidator(_printable)
]
Word = Annotated[str, StringConstraints(max_length=40), AfterValidator(_printable)]
Note = Annotated[str, StringConstraints(max_length=400), AfterValidator(_note)]
LongNote = Annotated[str, StringConstraints(max_length=2000), AfterValidator(_note)]

LEAST_THICKNESS_MM, MOST_THICKNESS_MM = 0.08, 50.0  # from can stock to plate
LEAST_TRAVEL_MM_S, MOST_TRAVEL_MM_S = 0.3, 50.0
MOST_AMPS = 2000.0

TravelMmS = Annotated[
    float, Field(ge=LEAST_TRAVEL_MM_S, le=MOST_TRAVEL_MM_S, json_schema_extra={"unit": "mm/s"})
]
RunLengthMm = Annotated[float, Field(ge=5, le=20_000, json_schema_extra={"unit": "mm"})]
Amps = Annotated[float, Field(ge=0.5, le=MOST_AMPS, json_schema_extra={"unit": "A"})]
TungstenMm = Annotated[float, Field(ge=0.5, le=8, json_schema_extra={"unit": "mm"})]
RodMm = Annotated[float, Field(ge=0.5, le=8, json_schema_extra={"unit": "mm"})]
CupNumber = Annotated[int, Field(ge=3, le=24)]
Finite = Annotated[float, Field(ge=-1e9, le=1e9)]
