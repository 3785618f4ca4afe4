"""Short guides: grinding, balling, recovery, flow, leaks."""

from __future__ import annotations

from anvilsong.core.tables import Row, read_table


class Guide(Row):
    key: str
    title: str
    steps: list[str]


class GuideTable(Row):
    source: str
    guide: list[Guide]


def guides() -> dict[str, Guide]:
    """Every guide by its key."""
    return {row.key: row for row in read_table("guides", GuideTable).guide}
