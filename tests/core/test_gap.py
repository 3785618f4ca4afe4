"""A gap that closes step by step, worked a second time from what docs/numbers.md says of it."""

import math

import pytest

from anvilsong.core.job import read_job
from anvilsong.core.model import needs_bridging, situation
from anvilsong.core.plan import make_plan
from anvilsong.core.prep.gap import bridge_gap


def gapped(t, gap, length, joint="butt", **more):
    job = {
        "a": {"alloy": "5052", "thickness": t},
        "joint": joint,
        "gap_mm": gap,
        "weld_length_mm": length,
    } | more
    plan = make_plan(read_job(job))
    return situation(plan.job), plan.settings


def worked(t, gap, length, rod, looks):
    """Kind, gap left, volume, and share of the butt's amps, of each step."""
    section = math.pi / 4 * rod**2
    yield "clean", gap, 0.0, None
    yield "tack", gap, 10 * gap * t, 0.6
    laid, left, layers = 10 * gap * t, gap, 0
    while layers < 6 and (left > 2 * rod or layers == 0):
        bead = min(0.9 * section / t, (left - max(0.3, gap / 4)) / 2)
        if bead <= 0.02:
            break
        for _ in range(2):
            left -= bead
            volume = bead * t * (length - 10)
            laid += volume
            yield "edge", left, volume, min(1.0, 0.6 + 0.1 * layers)
        layers += 1
    hot = max(min(1.0, 0.6 + 0.1 * layers), 0.7)
    tied = min(max(1, round(length / 150)) * 10, 0.3 * (length - 10))
    laid += tied * left * t
    yield "bridge", left, tied * left * t, hot
    yield "wait", left, 0.0, None
    yield "fill", 0.0, gap * t * length - laid, min(1.0, hot + 0.1)
    if looks:
        yield "level", 0.0, 0.0, 1.0


@pytest.mark.parametrize(
    ("t", "gap", "length"),
    [(1.5, 2, 160), (1.5, 6, 300), (3, 1.6, 240), (2, 12, 900), (0.8, 0.45, 60), (5, 4, 370), (1.0, 9, 520), (3, 15, 100)],
)  # fmt: skip
@pytest.mark.parametrize("purposes", [[], ["appearance"]])
def test_every_step_of_the_sequence(t, gap, length, purposes):
    at, settings = gapped(t, gap, length, purposes=purposes)
    rod = settings.filler.diameter_mm
    steps = bridge_gap(at, settings)
    expected = list(worked(t, gap, length, rod, bool(purposes)))
    assert [step.kind for step in steps] == [kind for kind, *_ in expected]
    layers = sum(step.kind == "edge" for step in steps) // 2
    for step, (kind, left, volume, share) in zip(steps, expected, strict=True):
        assert step.gap_left_mm == pytest.approx(left, abs=1e-9)
        assert step.volume_mm3 == pytest.approx(volume, rel=1e-6, abs=1e-6)
        assert step.wait_s == (30 + 15 * layers if kind == "wait" else 0)
        if share is None:
            assert step.amps is None
            continue
        run = settings.amps_run
        assert step.amps == pytest.approx(share * run)
        assert step.amps_window == pytest.approx(((share - 0.1) * run, min(1.05, share + 0.1) * run))
        assert step.rod_length_mm == pytest.approx(volume / (math.pi / 4 * rod**2))
        assert step.frequency_hz == (45 if kind == "level" else settings.frequency_hz + 30)
        grown = gap - left
        assert sum(step.built_mm) == pytest.approx(grown)
        assert abs(step.built_mm[0] - step.built_mm[1]) <= 0.9 * math.pi / 4 * rod**2 / t + 1e-9
    bridge = next(step for step in steps if step.kind == "bridge")
    assert f": {max(1, round(length / 150))} × " in bridge.text


@pytest.mark.parametrize(
    ("t", "gap", "more", "needs"),
    [
        (3, 1.5, {}, False),
        (3, 1.51, {}, True),
        (3, 2, {"joint": "build_up"}, False),
        (3, 2, {"joint": "lap"}, True),
        (3, 2, {"b": {"alloy": "5052", "thickness": 6}}, True),
        (6, 2, {"b": {"alloy": "5052", "thickness": 3}}, True),
        (12, 7, {"bevel": {"angle_deg": 60, "root_face_mm": 1.6}}, False),
    ],
)
def test_which_gap_needs_it(t, gap, more, needs):
    job = {"a": {"alloy": "5052", "thickness": t}, "joint": "butt", "gap_mm": gap} | more
    assert needs_bridging(situation(read_job(job))) is needs
