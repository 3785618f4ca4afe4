"""Amps, filler rod and cup out of one's head, against what the plan of such a job comes to."""

from __future__ import annotations

import random

from anvilsong.core import say
from anvilsong.core.errors import BadInput
from anvilsong.core.job import Job, JointName, Side
from anvilsong.core.joint import find_joint
from anvilsong.core.machine import Machine
from anvilsong.core.plan import make_plan
from anvilsong.core.practice.panels import PanelQuestion
from anvilsong.core.words import sentence

THUMB_ITEMS = ("thumb amps", "thumb rod", "thumb cup")
ALLOYS = ("5083", "5052", "6061")
THICK_MM = (1.2, 1.6, 2.0, 2.5, 3.0, 4.0)  # in one pass, without a bevel
A_PER_MM, NEAR_SHARE = 40.0, 0.10  # the shop's rule; of the plan's amps or rod


def thumb_question(machine: Machine, item: str, seed: int) -> PanelQuestion:
    """A question about a common job, planned for a machine; the same one for the same seed.

    Raises
    ------
    BadInput : no such item, or the machine cannot weld any of such jobs
    """
    if item not in THUMB_ITEMS:
        raise BadInput.one("item", item[:60], sentence("practice.choose_panel_item"))
    chance = random.Random(f"{item} {seed}")
    for _ in range(6):
        joint: JointName = chance.choice(("butt", "tee", "outside_corner"))
        side = Side(alloy=chance.choice(ALLOYS), thickness=chance.choice(THICK_MM))
        settings = make_plan(Job(a=side, b=side, joint=joint), machine).settings
        if settings is not None and settings.filler is not None:
            break
    else:
        raise BadInput.one("item", item, sentence("practice.no_such_panel"))
    told = {"thick": side.thickness_mm, "alloy": side.alloy, "joint": find_joint(joint).words.lower()}
    match item:
        case "thumb amps":
            amps = settings.amps_run
            rule = sentence("practice.thumb_rule", amps=amps, rule=A_PER_MM * side.thickness_mm)
            asked = sentence("practice.ask_thumb_amps", **told)
            return PanelQuestion(item, asked, "A", amps, NEAR_SHARE * amps, rule)
        case "thumb rod":
            rod = settings.filler.diameter_mm
            asked = sentence("practice.ask_thumb_rod", **told)
            return PanelQuestion(item, asked, "", rod, NEAR_SHARE * rod, say.size(rod), "length")
        case _:
            number = float(settings.cup.number)
            kind = "a gas lens" if settings.cup.gas_lens else "a plain cup"
            asked = sentence("practice.ask_thumb_cup", kind=kind, amps=settings.amps_run, **told)
            return PanelQuestion(item, asked, "", number, 1.0, f"{number:.0f}")
