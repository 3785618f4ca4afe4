"""The tree of errors that the core raises. Every message is a sentence for a person.

AnvilsongError
├── BadInput     what was given cannot be used: which field, what was given, what is allowed
└── CannotRead   something measured or imported cannot be understood
"""

from __future__ import annotations

from dataclasses import dataclass


class AnvilsongError(Exception):
    """Anything that goes wrong for a reason a person can act on."""


@dataclass(frozen=True)
class Problem:
    """One field that cannot be used, and what it may be."""

    field: str
    given: str
    allowed: str

    @property
    def said(self) -> str:
        """The sentence that stands beside the field."""
        if self.is_empty:
            return f"This is empty: {self.allowed}."
        return f"{self.given} cannot be used; {self.allowed}."

    @property
    def is_empty(self) -> bool:
        """Whether nothing was entered."""
        return self.given == "nothing"

    def __str__(self) -> str:
        return f"{self.field} is empty: {self.allowed}." if self.is_empty else f"{self.field}: {self.said}"


class BadInput(AnvilsongError):
    """Input that cannot be used, as one problem a field."""

    def __init__(self, *problems: Problem) -> None:
        self.problems = problems
        super().__init__(" ".join(str(problem) for problem in problems))

    def __reduce__(self) -> tuple[type[BadInput], tuple[Problem, ...]]:
        """The error whole, also on its way from another process."""
        return type(self), self.problems

    @classmethod
    def one(cls, field: str, given: object, allowed: str) -> BadInput:
        """The usual case: one field is wrong."""
        return cls(Problem(field, describe(given), allowed))


class CannotRead(AnvilsongError):
    """A measurement or file that cannot be understood."""

    def __init__(self, what: str, why: str) -> None:
        self.what, self.why = what, why
        super().__init__(f"{what} cannot be read: {why}.")

    def __reduce__(self) -> tuple[type[CannotRead], tuple[str, str]]:
        """The error whole, also on its way from another process."""
        return type(self), (self.what, self.why)


def describe(given: object) -> str:
    """What was given, short enough to stand in a sentence."""
    if given is None or given == "":
        return "nothing"
    if isinstance(given, dict | list):
        return "what was sent"
    if isinstance(given, int) and abs(given) >= 10**15:
        return "a number of so many digits"
    if isinstance(given, float):
        return f"{given:.6g}"
    if isinstance(given, int):
        return str(given)
    # A sentence must always be printable, whatever was sent.
    text = f"“{given}”".encode("utf-8", "replace").decode("utf-8")
    return text if len(text) <= 60 else text[:57] + "…”"
