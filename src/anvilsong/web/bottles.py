"""The gas of a job in the kit's bottles: what it uses, what is left, and what went out between two
readings.
"""

from __future__ import annotations

from typing import Any

from sqlalchemy.orm import Session

from anvilsong.core.errors import BadInput
from anvilsong.core.model import situation
from anvilsong.core.prep import passes, tack_plan
from anvilsong.core.said import Words
from anvilsong.core.settings import Settings
from anvilsong.core.torch.bottle import at_rest, gone_between, welded
from anvilsong.core.torch.cylinder import gas_account, gas_used_l
from anvilsong.core.torch.kit import Cylinder, Kit
from anvilsong.core.words import sentence
from anvilsong.store import gauges
from anvilsong.store.models import GaugeRow
from anvilsong.web.job_view import JobView
from anvilsong.web.scale_text import plain_number


def gas_of(view: JobView, kit: Kit, session: Session, between: dict[str, str]) -> list[dict[str, Any]]:
    """What the job uses, and what each fitting cylinder still gives; ``between`` asks what went out of one
    between its newest two readings.
    """
    at, settings = situation(view.job), view.settings
    runs = len(passes(at, settings, view.c, view.machine.most_a))
    arc_s = runs * view.job.weld_length_mm / settings.travel_mm_s
    starts = runs + tack_plan(view.job.weld_length_mm, view.job.thin_mm).count
    used = gas_used_l(arc_s, starts, settings.pre_flow_s, settings.post_flow_s, settings.gas.flow_l_min)
    rows = []
    for cylinder in kit.cylinders:
        if abs(cylinder.helium_share - view.job.helium_share) > 0.08:
            continue
        log = gauges.gauge_log(session, cylinder.name)
        account = gas_account(
            cylinder, log[0].bar if log else cylinder.full_bar, used, settings.gas.flow_l_min
        )
        asked = between if between.get("cylinder") == cylinder.name else {}
        rows.append(
            {
                "cylinder": cylinder,
                "log": log,
                "account": account,
                "used": used,
                "starts": starts,
                "asked": asked,
                "gone": _gone(asked, cylinder, log, settings) if asked and len(log) > 1 else "",
            }
        )
    return rows


def _gone(asked: dict[str, str], cylinder: Cylinder, log: list[GaugeRow], settings: Settings) -> Words:
    """What went out between the newest two readings: at rest, or over so many minutes of arc and starts."""
    try:
        arc_s = 60 * plain_number(asked.get("arc_min", "") or "0", "arc_min")
        starts = plain_number(asked.get("starts", "") or "0", "starts")
    except BadInput:
        return sentence("web.bottle_numbers")
    if min(arc_s, starts) < 0:
        return sentence("web.bottle_numbers")
    gone = gone_between(cylinder, log[1].bar, log[0].bar)
    gas_s = arc_s + starts * (settings.pre_flow_s + settings.post_flow_s)
    if gas_s == 0:
        return at_rest(gone, (log[0].made_at - log[1].made_at).total_seconds() / 3600)
    return welded(gone, gas_s, settings.gas.flow_l_min)
