"""The schools: what each choice gains and costs."""

from __future__ import annotations

from anvilsong.core.tables import Row, read_table


class SchoolChoice(Row):
    question: str
    school: str
    gains: str
    costs: str


class SchoolTable(Row):
    source: str
    choice: list[SchoolChoice]


def school_choices() -> dict[str, list[SchoolChoice]]:
    """Every choice by its question, in the table's order."""
    found: dict[str, list[SchoolChoice]] = {}
    for row in read_table("schools", SchoolTable).choice:
        found.setdefault(row.question, []).append(row)
    return found
