"""Whole answers, every number pinned, so that a small fault anywhere in the core shows.

The jobs are chosen so that every joint, position, surface, school, machine and way of starting stands in at least one. The
numbers are those of the day they were looked through against the handbooks' ranges and the sixty setups; after a change that is
meant, ``python tests/core/test_pinned.py`` writes them anew, and the difference is read line by line before it is kept.
"""

import json
import re
from pathlib import Path

import pytest

from anvilsong.core.bead import Readings, next_change, read
from anvilsong.core.board import resolve, ties
from anvilsong.core.board.lanes import board
from anvilsong.core.job import read_job
from anvilsong.core.joint import filler_layer, joint_shape
from anvilsong.core.machine import IDEAL, show_on_panel
from anvilsong.core.model import situation
from anvilsong.core.plan import make_plan, with_cup, with_tungsten
from anvilsong.core.prep import prepare
from anvilsong.core.registry import with_value
from anvilsong.core.said import Message, Quantity
from anvilsong.core.shop import rank_shop, swap
from anvilsong.core.torch.kit import Kit
from anvilsong.demo.machines import MACHINES

FILE = Path(__file__).with_name("pinned.json")
SAME = 1e-5  # of the value

JOINTS = [
    "butt",
    "lap",
    "tee",
    "outside_corner",
    "inside_corner",
    "edge",
    "build_up",
    "tube_tube",
    "tube_plate",
]
THICK = [0.8, 1.2, 1.6, 2.0, 2.5, 3.2, 4.0, 4.8, 5.5, 6.4, 8.0, 9.5]
ALLOYS = ["1050A", "3003", "5052", "5083", "6061", "6082", "A356", "5754", "7005", "2219"]
SURFACES = ["brushed", "mill", "stored", "blasted", "machined", "cast"]
POSITIONS = ["flat", "horizontal", "vertical", "overhead"]
PURPOSES = [[], ["ease"], ["appearance"], ["strength"], ["strength", "tight"], ["corrosion"], ["colour"]]
CONTROLS = ["pedal", "switch_2", "switch_4", "pedal", "pedal"]


def pick(values, n, step):
    return values[n * step % len(values)]


def job_of(n):
    job = {
        "a": {"alloy": pick(ALLOYS, n, 3), "thickness": pick(THICK, n, 5)},
        "joint": pick(JOINTS, n, 1),
        "position": pick(POSITIONS, n, 3) if n % 3 else "flat",
        "surface": pick(SURFACES, n, 5) if n % 2 else "brushed",
        "purposes": pick(PURPOSES, n, 2),
        "control": pick(CONTROLS, n, 1),
        "school": {
            "pedal": pick(["hot", "middle", "patient"], n, 1),
            "balance": pick(["lean", "middle", "cleaning"], n, 2),
            "frequency": pick(["wide", "middle", "tight"], n // 2, 1),
            "amplitude": pick(["symmetrical", "trimmed"], n // 3, 1),
            "pulse": pick(["none", "none", "dab", "fast"], n, 1),
            "shielding": pick(["lens", "plain"], n // 4, 1),
            "tip": pick(["point", "point", "ball"], n, 1),
            "waveform": pick(["square", "soft", "trapezoid", "sine", "triangle"], n, 2),
        },
    }
    if n % 4 == 1:
        job["b"] = {"alloy": pick(ALLOYS, n, 7), "thickness": pick(THICK, n, 7)}
    if n % 5 == 2:
        job["gap_mm"] = 0.4 + n % 3
    more = [
        {"part_temperature_c": 55},
        {"helium_share": 0.25},
        {"arc_length_mm": 4.5},
        {"draught_m_s": 0.6},
        {"leg_mm": 5},
    ]
    return read_job(job | pick(more, n, 1) if n % 2 == 0 else job)


def machine_of(n):
    return ([IDEAL, *MACHINES])[n % (1 + len(MACHINES))]


def flat(value, path=""):
    """Every number and short word of plain data, by where it stands."""
    if isinstance(value, dict) and value.keys() == {"key", "words"}:
        return  # a sentence
    if isinstance(value, dict):
        for key, inner in value.items():
            yield from flat(inner, f"{path}.{key}")
    elif isinstance(value, list | tuple):
        for place, inner in enumerate(value):
            yield from flat(inner, f"{path}.{place}")
    elif isinstance(value, float):
        yield path[1:], float(f"{value:.7g}")
    else:
        yield path[1:], value


def sentences(plan):
    """All that a plan says, in order."""
    for step in plan.run_sheet:
        yield from (step.text, step.why, step.caution)
    yield from (reason.said for reason in plan.reasons)
    yield from (warning.message for warning in plan.warnings)
    yield from (line.said for line in plan.panel.lines)
    yield from (margin.said for margin in plan.margins)
    yield from (refusal.reason for refusal in plan.fillers.refused)


def numbers_in(words):
    """The numbers of a sentence, a quantity's in its inside unit."""
    if isinstance(words, Quantity):
        return [float(f"{words.value:.7g}")]
    if isinstance(words, Message):
        return [each for part in words.words for each in numbers_in(part)]
    return [float(each) for each in re.findall(r"\d+(?:\.\d+)?", words or "")]


def answers(n):
    """What the core says of one job: plan, preparation, board, solving, judging."""
    job, machine = job_of(n), machine_of(n)
    plan = make_plan(job, machine)
    said = plan.model_dump(
        mode="json", by_alias=True, exclude={"job", "run_sheet", "coefficients", "fillers", "reasons", "ends"}
    )
    said["warnings"] = [[each["code"], each["level"], each["numbers"]] for each in said["warnings"]]
    said["reasons"] = {each.setting: each.value for each in plan.reasons}
    said["sentences"] = [numbers_in(text) for text in sentences(plan)]
    said["fillers"] = [[each.filler, each.score, each.sensitivity] for each in plan.fillers.ranked]
    if plan.settings is None:
        return said
    at, seen, settings = situation(job), plan.consequences, plan.settings
    said["prep"] = prepare(at, settings, seen, machine, MACHINES[:3]).model_dump(
        mode="json", exclude={"passes"}
    )
    shape = joint_shape(at.job, 20.0)
    said["shape"] = [shape.a, shape.b, shape.weld, shape.torch, shape.faces]
    said["layers"] = [
        filler_layer(at.job, at.joint.kind, *ends) for ends in ((0.0, at.section_mm2), (at.section_mm2, 30.0))
    ]
    moved = with_value(with_value(settings, "ep_share", 0.37), "frequency_hz", 170.0)
    said["lanes"] = [[each.key, each.low, each.high, each.marks] for each in board(plan, settings, machine)]
    said["ties"] = [[each.a, each.b] for each in ties(moved, seen, machine)]
    solved = resolve(job, moved, ["ep_share", "amps_set"], machine)
    said["solved"] = [
        solved.settings.model_dump(mode="json"),
        solved.moved,
        [each.code for each in solved.conflicts],
    ]
    said["torch"] = with_tungsten(with_cup(at, settings, 10, n % 2 == 0), "WLa 20", 3.2).model_dump(
        mode="json"
    )
    if n % 3 == 0:
        other = MACHINES[n % len(MACHINES)]
        theirs = MACHINES[(n + 3) % len(MACHINES)]
        shown = {
            each.setting: each.value
            for each in show_on_panel(settings, theirs).lines
            if each.value is not None
        }
        said["swap"] = swap(shown, theirs, other, settings).model_dump(mode="json")
    border = (0.1, 2.4, 0.45)[n % 3]
    readings = Readings(
        bead_width_mm=round(seen.pool_width_mm * (0.85, 1.0, 1.2)[n % 3], 2), border_left_mm=border,
        border_right_mm=border * (1 + n % 2), length_mm=100, seconds=round(100 / settings.travel_mm_s * (1, 1.4)[n % 5 == 4], 1),
    )  # fmt: skip
    verdict = read(job, settings, readings, machine)
    said["verdict"] = verdict.model_dump(mode="json", exclude={"said"})
    said["change"] = next_change(job, settings, readings, verdict, machine).model_dump(mode="json")
    return said


def rows(said):
    """The numbers and codes of an answer, a row of them for each of its parts; sentences are tested where they are made."""
    found = {}
    for key, value in flat(said):
        if not isinstance(value, str) or len(value) < 12:
            found.setdefault(key.split(".")[0], {})[key] = value
    return found


def ranking(n):
    return {"rank": [each.model_dump(mode="json") for each in rank_shop(job_of(n), MACHINES, Kit())]}


CASES = {str(n): (answers, n) for n in range(40)} | {f"rank {n}": (ranking, n) for n in (3, 10, 21)}


@pytest.fixture(scope="module")
def pinned():
    return json.loads(FILE.read_text(encoding="utf-8"))


@pytest.mark.parametrize("case", CASES)
def test_every_number_of_an_answer(pinned, case):
    make, n = CASES[case]
    said, kept = rows(make(n)), pinned[case]
    assert {part: len(row) for part, row in said.items()} == {part: len(row) for part, row in kept.items()}
    wrong = {
        key: (was, now)
        for part, row in said.items()
        for (key, now), was in zip(row.items(), kept[part], strict=True)
        if now != (pytest.approx(was, rel=SAME, abs=1e-6) if isinstance(now, float) else was)
    }
    assert wrong == {}


def write():
    lines = []
    for case, (make, n) in CASES.items():
        parts = [
            f"  {json.dumps(part)}: {json.dumps(list(row.values()))}" for part, row in rows(make(n)).items()
        ]
        lines.append(f"{json.dumps(case)}: {{\n" + ",\n".join(parts) + "\n}")
    FILE.write_text("{\n" + ",\n".join(lines) + "\n}\n", encoding="utf-8")


if __name__ == "__main__":
    write()
