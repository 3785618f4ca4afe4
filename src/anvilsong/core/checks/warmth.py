"""How warm the part may be made before the arc, by its metals."""

from __future__ import annotations

from collections.abc import Iterator

from anvilsong.core.metal.preheat import THICK_MM, WARM_ENOUGH_C, strictest
from anvilsong.core.model import LimitWarning, Situation
from anvilsong.core.settings import Settings
from anvilsong.core.words import sentence


def warmth_warnings(at: Situation, settings: Settings) -> Iterator[LimitWarning]:
    """A preheat that is set past what the metal may have, and thick metal that has none."""
    job, preheat = at.job, settings.preheat_c
    limit = strictest(job.a.metal, job.b.metal, job.temper)
    if preheat is not None and preheat > limit.limit_c:
        yield LimitWarning(
            code="preheat_over",
            level="stop",
            setting="preheat_c",
            message=sentence(
                "checks.preheat_over", preheat=preheat, limit_c=limit.limit_c, words=limit.words
            ),
            numbers={"preheat_c": preheat, "limit_c": limit.limit_c},
        )
    thick = max(job.a.thickness_mm, job.b.thickness_mm) > THICK_MM and not at.is_casting
    if thick and preheat is None and job.part_temperature_c < WARM_ENOUGH_C:
        yield LimitWarning(
            code="preheat_advised",
            level="note",
            setting="preheat_c",
            message=sentence("checks.preheat_advised", thick_mm=THICK_MM),
        )
