"""Ways of working: what each choice is called, gains and costs."""

from __future__ import annotations

from anvilsong.core.tables import Row, read_table


class SchoolChoice(Row):
    """One answer to a question: its key in a job, its words where they are others, and what it brings."""

    question: str
    school: str
    words: str | None = None
    gains: str
    costs: str

    @property
    def shown(self) -> str:
        """The answer as people read it."""
        return self.words or self.school


class SchoolTable(Row):
    source: str
    questions: dict[str, str]
    choice: list[SchoolChoice]


def school_choices() -> dict[str, list[SchoolChoice]]:
    """Every choice by its question, in the table's order."""
    found: dict[str, list[SchoolChoice]] = {}
    for row in read_table("schools", SchoolTable).choice:
        found.setdefault(row.question, []).append(row)
    return found


def question_words(question: str) -> str:
    """A question as people read it.

    >>> question_words("balance")
    'AC balance'
    """
    return read_table("schools", SchoolTable).questions[question]


def answer_words(question: str, school: str) -> str:
    """An answer as people read it; one that the table does not know, as it is.

    >>> answer_words("amplitude", "symmetrical")
    'equal halves'
    """
    rows = school_choices().get(question, ())
    return next((row.shown for row in rows if row.school == school), school)


def way_words(said: str) -> str:
    """A reason's way of working, such as ``amplitude: trimmed``, as people read it.

    >>> way_words("amplitude: trimmed")
    'EP amplitude: less EP'
    """
    question, _, school = said.partition(": ")
    return f"{question_words(question)}: {answer_words(question, school)}"
