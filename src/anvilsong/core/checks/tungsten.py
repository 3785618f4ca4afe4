"""The tungsten: load, class, and gas after the arc."""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core.model import Consequences, LimitWarning
from anvilsong.core.settings import Settings
from anvilsong.core.torch.tungsten import (
    LOAD_AT_RUN,
    LOAD_BALLS,
    LOAD_MELTS,
    LOAD_WANDERS,
    STATE_WORDS,
    find_class,
    find_size,
    load_state,
)
from anvilsong.core.words import sentence


def tungsten_warnings(settings: Settings, seen: Consequences) -> Iterator[LimitWarning]:
    """By load under the foot and at full press, class, and post-flow in s."""
    tungsten = settings.tungsten
    if tungsten is None:
        return
    if find_class(tungsten.class_).never_proposed:
        yield LimitWarning(
            code="thorium",
            level="watch",
            setting="tungsten_class",
            message=sentence("checks.thorium"),
        )
    worst = max(seen.tungsten_load, seen.tungsten_load_set / LOAD_BALLS * LOAD_AT_RUN)
    numbers = {"tungsten_load": seen.tungsten_load, "tungsten_load_set": seen.tungsten_load_set}
    if seen.tungsten_load > LOAD_MELTS:
        yield LimitWarning(
            code="tungsten_melts",
            level="stop",
            setting="tungsten_mm",
            message=sentence(
                "checks.tungsten_melts", tungsten_load=seen.tungsten_load, state_words=STATE_WORDS["melts"]
            ),
            numbers=numbers,
        )
    elif worst > LOAD_AT_RUN:
        yield LimitWarning(
            code="tungsten_hot",
            level="watch",
            setting="tungsten_mm",
            message=sentence(
                "checks.tungsten_hot",
                tungsten_load=seen.tungsten_load,
                tungsten_load_set=seen.tungsten_load_set,
                state_words=STATE_WORDS[load_state(max(seen.tungsten_load, seen.tungsten_load_set))],
            ),
            numbers=numbers,
        )
    elif seen.tungsten_load < LOAD_WANDERS:
        yield LimitWarning(
            code="tungsten_cool",
            level="note",
            setting="tungsten_mm",
            message=sentence(
                "checks.tungsten_cool", tungsten_load=seen.tungsten_load, state_words=STATE_WORDS["wanders"]
            ),
            numbers=numbers,
        )
    least = find_size(tungsten.diameter_mm).post_flow_least_s
    if settings.post_flow_s < least:
        yield LimitWarning(
            code="post_flow_short",
            level="watch",
            setting="post_flow_s",
            message=sentence("checks.post_flow_short", post_flow_s=settings.post_flow_s, least=least),
        )
