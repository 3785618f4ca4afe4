"""Trials as welders run them: series of coupons with one setting stepped, two set-ups judged blind, and what
they tell.
"""

from typing import Annotated

from pydantic import Field

from anvilsong.core.trials.blind import (
    LEAST_PAIRS,
    MOST_PAIRS,
    Answer,
    Blind,
    by_guessing,
    shuffled,
    sureness,
)
from anvilsong.core.trials.choosing import Pointed, pointed_to
from anvilsong.core.trials.proposals import (
    BESIDE,
    MOST_PROPOSALS,
    Compared,
    Difference,
    Found,
    Proposal,
    Proposals,
    as_proposed,
    held_against,
    proposal_for,
)
from anvilsong.core.trials.ready_made import ReadyMade, ready_made
from anvilsong.core.trials.series import (
    LEAST_VALUES,
    MOST_BEADS,
    MOST_OF_A_RUN,
    MOST_VALUES,
    STEPPED,
    Axis,
    Expected,
    Layout,
    Run,
    Series,
    Spread,
    expected,
    make_series,
    set_to,
    spread,
)
from anvilsong.core.trials.sounds import SoundTest, heard_point, sound_beside
from anvilsong.core.trials.spots import (
    MOST_SPOTS,
    Spot,
    SpotTest,
    balled_load,
    balls_from,
    counts_otherwise,
    shares_of,
    turned_round,
)
from anvilsong.core.trials.starts import TRIES, StartTest, Tries, least_start_a
from anvilsong.core.trials.telling import Told, seen_apart, told
from anvilsong.core.trials.traces import (
    TraceTest,
    amps_basis,
    counted_by,
    flowing_beside,
    measured_point,
    was_set,
)

MachineTrial = Annotated[
    SpotTest | StartTest | Proposals | TraceTest | SoundTest, Field(discriminator="kind")
]

__all__ = [
    "BESIDE",
    "LEAST_PAIRS",
    "LEAST_VALUES",
    "MOST_BEADS",
    "MOST_OF_A_RUN",
    "MOST_PAIRS",
    "MOST_PROPOSALS",
    "MOST_SPOTS",
    "MOST_VALUES",
    "STEPPED",
    "TRIES",
    "Answer",
    "Axis",
    "Blind",
    "Compared",
    "Difference",
    "Expected",
    "Found",
    "Layout",
    "MachineTrial",
    "Pointed",
    "Proposal",
    "Proposals",
    "ReadyMade",
    "Run",
    "Series",
    "SoundTest",
    "Spot",
    "SpotTest",
    "Spread",
    "StartTest",
    "Told",
    "TraceTest",
    "Tries",
    "amps_basis",
    "as_proposed",
    "balled_load",
    "balls_from",
    "by_guessing",
    "counted_by",
    "counts_otherwise",
    "expected",
    "flowing_beside",
    "heard_point",
    "held_against",
    "least_start_a",
    "make_series",
    "measured_point",
    "pointed_to",
    "proposal_for",
    "ready_made",
    "seen_apart",
    "set_to",
    "shares_of",
    "shuffled",
    "sound_beside",
    "spread",
    "sureness",
    "told",
    "turned_round",
    "was_set",
]
