"""A job in a few words: the name it proposes for itself, and what was assumed where nothing was said."""

from __future__ import annotations

from anvilsong.core import say
from anvilsong.core.job import PART_SIZE_WORDS, Job
from anvilsong.core.joint import find_joint
from anvilsong.core.metal.fillers import PURPOSE_WORDS
from anvilsong.core.metal.surfaces import find_surface
from anvilsong.core.model import situation
from anvilsong.core.said import Words
from anvilsong.core.words import sentence

LONGEST_TITLE = 120
CONTROL_WORDS = {
    "pedal": "pedal",
    "switch_2": "torch switch, 2-step",
    "switch_4": "torch switch, 4-step",
    "switch_4_two_levels": "4-step with a second level",
    "spot": "torch switch, spots",
}


def proposed_title(job: Job) -> str:
    """Joint, metal and thickness as they were typed: what a welder would write on the card.

    >>> proposed_title(Job(a={"alloy": "6061", "thickness": "1/8"}, joint="tee"))
    'Tee, 6061, 1/8'
    """
    metals = dict.fromkeys((job.a.alloy, job.b.alloy))
    sizes = dict.fromkeys(str(side.thickness) for side in (job.a, job.b))
    words = f"{find_joint(job.joint).words}, {' to '.join(metals)}, {' to '.join(sizes)}"
    return words[:LONGEST_TITLE]


def _bevel_words(job: Job) -> list[Words]:
    """The bevel that the plan takes, given or its own."""
    bevel = situation(job).job.bevel if find_joint(job.joint).kind == "butt" else None
    return (
        [say.joined(f"bevelled {bevel.angle_deg:.0f}°, root face ", say.near_mm(bevel.root_face_mm))]
        if bevel
        else []
    )


def assumed_words(job: Job) -> Words:
    """What the plan takes where nothing was said, as one line; with it what was said there."""
    words = [
        say.joined("gap ", say.mm(job.gap_mm)) if job.gap_mm else "no gap",
        *_bevel_words(job),
        job.position,
        say.joined(say.about_mm(job.weld_length_mm), " long"),
        "a large part" if job.part_size == "large" else say.joined("a part ", PART_SIZE_WORDS[job.part_size]),
        find_surface(job.surface).words.lower(),
        say.joined("part at ", say.celsius(job.part_temperature_c)),
        CONTROL_WORDS[job.control],
        f"filler {job.filler_wanted}" if job.filler_wanted else "the best filler",
        ", ".join(PURPOSE_WORDS[purpose] for purpose in job.purposes)
        if job.purposes
        else sentence("web.nothing_special_asked_weld"),
    ]
    return say.joined(*words, by=", ")
