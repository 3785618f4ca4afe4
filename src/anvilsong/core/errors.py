"""The tree of errors that the core raises. Every message is a sentence for a person.

AnvilsongError
├── BadInput     what was given cannot be used: which field, what was given, what is allowed
└── CannotRead   something measured or imported cannot be understood
"""

from __future__ import annotations

from dataclasses import dataclass

from anvilsong.core.said import Said, Words, in_units, joined
from anvilsong.core.words import sentence


class AnvilsongError(Exception):
    """Anything that goes wrong for a reason a person can act on: ``words`` for them, in millimetres where a
    log or a traceback prints it.
    """

    def __init__(self, words: Words) -> None:
        self.words = words
        super().__init__(words)

    def __str__(self) -> str:
        return in_units(self.words)


@dataclass(frozen=True)
class Problem:
    """One field that cannot be used, and what it may be."""

    field: str
    given: str
    allowed: Words

    @property
    def said(self) -> Words:
        """The sentence that stands beside the field."""
        if self.is_empty:
            return joined("This is empty: ", self.allowed, ".")
        return joined(self.given, " cannot be used; ", self.allowed, ".")

    @property
    def sentence(self) -> Words:
        """The sentence that names the field too."""
        if self.is_empty:
            return joined(self.field, " is empty: ", self.allowed, ".")
        return joined(self.field, ": ", self.said)

    @property
    def is_empty(self) -> bool:
        """Whether nothing was entered."""
        return self.given == "nothing"

    def __str__(self) -> str:
        return in_units(self.sentence)


class Unfit(ValueError):
    """What a value says when it is made of what does not fit together; ``field|words`` where one of its
    fields is meant. Whoever reads data turns it into a `Problem`.
    """

    def __init__(self, words: Words) -> None:
        self.words = words
        super().__init__(words)

    def __str__(self) -> str:
        return in_units(self.words)


class BadInput(AnvilsongError):
    """Input that cannot be used, as one problem a field."""

    def __init__(self, *problems: Problem) -> None:
        self.problems = problems
        super().__init__(joined(*(problem.sentence for problem in problems), by=" "))

    def __reduce__(self) -> tuple[type[BadInput], tuple[Problem, ...]]:
        """The error whole, also on its way from another process."""
        return type(self), self.problems

    @classmethod
    def one(cls, field: str, given: object, allowed: Words) -> BadInput:
        """The usual case: one field is wrong."""
        return cls(Problem(field, describe(given), allowed))


class CannotRead(AnvilsongError):
    """A measurement or file that cannot be understood."""

    def __init__(self, what: Words, why: Words) -> None:
        self.what, self.why = what, why
        super().__init__(joined(what, " cannot be read: ", why, "."))

    def __reduce__(self) -> tuple[type[CannotRead], tuple[Words, Words]]:
        """The error whole, also on its way from another process."""
        return type(self), (self.what, self.why)


def describe(given: object) -> str:
    """What was given, short enough to stand in a sentence."""
    if given is None or given == "":
        return "nothing"
    if isinstance(given, Said):
        given = in_units(given)
    if isinstance(given, dict | list):
        return "what was sent"
    if isinstance(given, int) and abs(given) >= 10**15:
        return in_units(sentence("typed.so_many_digits"))
    if isinstance(given, float):
        return f"{given:.6g}"
    if isinstance(given, int):
        return str(given)
    # A sentence must always be printable, whatever was sent.
    text = f"“{given}”".encode("utf-8", "replace").decode("utf-8")
    return text if len(text) <= 60 else text[:57] + "…”"
