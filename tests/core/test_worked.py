"""Near fifty plans worked a second time, from the equations of docs/numbers.md, the tables and nothing of the program.

Sums are long, searches plain, constants written out: a number that the program makes otherwise is wrong here or there.
"""

import itertools
import math
import tomllib
from functools import cache
from pathlib import Path

import numpy as np
import pytest

import anvilsong.core
from anvilsong.core.job import read_job
from anvilsong.core.plan import make_plan

DATA = Path(anvilsong.core.__file__).parent / "data"
METALS = ("1050A", "3003", "5083", "6061", "6082")
SHEETS = (1.2, 2.0, 3.2, 4.0, 6.4)
JOINTS = ("butt", "tee", "lap", "outside_corner", "edge", "inside_corner", "build_up")
POSITIONS = ("flat", "vertical", "overhead", "horizontal")
UNLIKE = [("tee", 2.0, 5.0), ("lap", 1.6, 6.0), ("butt", 2.5, 3.0)]
OTHERWISE = [
    {"purposes": ["appearance"]},
    {"purposes": ["strength"]},
    {"arc_length_mm": 4.5},
    {"helium_share": 0.3},
    {"part_temperature_c": 60},
    {"travel_mm_s": 2.6},
    {"surface": "mill"},
]
SETUPS = [
    *((metal, t, t, "butt", "flat", {}) for metal, t in itertools.product(METALS, (1.2, 3.2, 4.4))),
    *(("5083", t, t, joint, "flat", {}) for t, joint in itertools.product((1.2, 3.2), JOINTS[1:])),
    *(
        ("6061", t, t, "tee", position, {})
        for t, position in itertools.product((2.0, 4.0, 6.4), POSITIONS[1:])
    ),
    *(("6082", a, b, joint, "flat", {}) for joint, a, b in UNLIKE),
    *(("5754", 2.4, 2.4, "butt", "flat", more) for more in OTHERWISE),
]


@cache
def table(name):
    return tomllib.loads((DATA / f"{name}.toml").read_text(encoding="utf-8"))


def along(points, at):
    return float(np.interp(at, *zip(*points, strict=True)))


def heat_for(width, t, v, k, a, rise):
    """Heat whose contour is so wide at the face: long mirror sums, looked at everywhere behind the source."""
    m = 2 * t * np.arange(-4000, 4001)[:, None]
    y, reach = width / 2, 4 * width + 6 * t

    def hottest(xi):
        r = np.sqrt(xi**2 + y**2 + m**2)
        rises = (np.exp(-v * (xi + r) / (2 * a)) / r).sum(axis=0) / (2 * math.pi * k)
        best = int(rises.argmax())
        return rises[best], xi[best]

    _, near = hottest(np.linspace(-reach, 0, 120))
    peak, _ = hottest(np.linspace(near - reach / 100, near + reach / 100, 60))
    return rise / peak


class Worked:
    """One job: what it wants, then what some settings do to it."""

    def __init__(self, metal, a_mm, b_mm, joint, position, more):
        row = next(each for each in table("alloys")["alloy"] if each["name"] == metal)
        shape = next(each for each in table("joints")["joint"] if each["key"] == joint)
        ways_a, ways_b = shape["paths_a"], shape["paths_b"]
        self.thin, self.joint = min(a_mm, b_mm), joint
        mean = (ways_a * a_mm + ways_b * b_mm) / (ways_a + ways_b)
        self.t = min(math.sqrt(mean * self.thin), 1.6 * self.thin)
        self.k = 1.2 * math.sqrt(167 * row["k25_w_mk"]) / 1000
        self.a = self.k / (row["density_g_cm3"] / 1000)  # c = 1 J/(g·K)
        self.rise = (row["solidus_c"] + row["liquidus_c"]) / 2 - more.get("part_temperature_c", 20)
        self.factor = along(shape["heat_points"], self.t)
        self.position = along(table("joints")["positions"][position], self.t)
        self.v = more.get("travel_mm_s") or along(table("joints")["travel"]["points"], self.t)
        self.sides = a_mm, b_mm
        self.arc, self.helium = more.get("arc_length_mm", 3.0), more.get("helium_share", 0.0)
        self.surface = more.get("surface", "brushed")
        purposes = more.get("purposes", [])
        self.width = self._width() * (0.95 if "appearance" in purposes else 1.05 if purposes else 1.0)
        if joint in ("butt", "outside_corner"):  # the look gives way to the root
            self.width = max(self.width, self.face_for_root(0.30, self.thin))

    def _width(self):
        t, through = min(self.t, 10), 2.5 + 1.1 * min(self.t, 10)
        if self.joint in ("tee", "lap", "inside_corner"):
            leg = min(self.thin, 6.0)
            return max(1.4 * leg, 2.5 + 0.6 * t)
        if self.joint == "build_up":
            return 2.5 + 0.6 * t
        if self.joint == "edge":
            return through
        return max(through, self.face_for_root(0.45, min(self.thin, 4.8)), 0)

    @staticmethod
    def root_share(face, t):
        """Root over face."""
        e = face / (2.5 + 1.1 * t)
        share = math.sqrt(0.12 * math.log(1 + math.exp((1 - (0.40 + 0.158 * t) * e**-3.7) / 0.12)))
        return 0.0 if share < 0.1 else min(share, 1.0)

    def face_for_root(self, share, t):
        """By halving."""
        low, high = 0.5, 60.0
        for _ in range(60):
            middle = (low + high) / 2
            low, high = (middle, high) if self.root_share(middle, t) < share else (low, middle)
        return low

    def rod_mm2(self):
        """The filler's section that one pass lays."""
        a, b = self.sides
        if self.joint in ("tee", "lap", "inside_corner"):
            section = min(self.thin, 6.0) ** 2 / 2
            return min(section, min(6.0, 1.5 * self.thin) ** 2 / 2)
        if self.joint == "outside_corner":
            section = 0.785 * a * b
        elif self.joint == "build_up":
            section = 2 / 3 * self.width * 0.25 * self.width
        else:
            wide = min(a + b, self.width) if self.joint == "edge" else self.width
            section = 2 / 3 * wide * 0.15 * wide
        return min(section, 18.0)

    def into_the_work(self, mean_en, mean_ep):
        """Heat of the arc, W; a longer arc and helium put in more."""
        more = (1 + 0.03 * (self.arc - 3)) * (1 + 0.2 * self.helium + 0.3 * self.helium**2)
        return (7.6 * mean_en + 5.95 * mean_ep) * more

    def amps(self, v, ep_share, trim):
        """Under the foot: pool and rod over heat an ampere, of a square wave."""
        pool = self.factor * self.position * heat_for(self.width, self.t, v, self.k, self.a, self.rise)
        each = self.into_the_work((1 - ep_share), ep_share * (1 + trim))
        return (pool + self.rod_mm2() * v * 2.85) / each


def worked_and_planned(setup):
    metal, a, b, joint, position, more = setup
    asked = {"a": {"alloy": metal, "thickness": a}, "joint": joint, "position": position} | more
    if joint != "build_up":
        asked["b"] = {"alloy": metal, "thickness": b}
    plan = make_plan(read_job(asked))
    return Worked(*setup), plan


def test_there_are_enough():
    assert len({repr(setup) for setup in SETUPS}) >= 45


@pytest.mark.parametrize("setup", SETUPS, ids=lambda s: "-".join(map(str, s[:5])) + "".join(s[5]))
def test_a_plan_is_what_its_equations_say(setup):
    mine, plan = worked_and_planned(setup)
    s, seen = plan.settings, plan.consequences
    assert s.shape_en == s.shape_ep == "square"
    assert s.travel_mm_s == pytest.approx(mine.v, abs=0.005)
    amps = mine.amps(s.travel_mm_s, s.ep_share, s.ep_trim)
    assert s.amps_run == pytest.approx(amps, rel=2e-3, abs=0.06)

    # What they do: work heat, pool at 100 Hz, root, cleaning, tungsten, rod, flow.
    mean_en, mean_ep = s.amps_run * (1 - s.ep_share), s.amps_run * (1 + s.ep_trim) * s.ep_share
    heat, rod = mine.into_the_work(mean_en, mean_ep), mine.rod_mm2() * s.travel_mm_s * 2.85
    assert seen.work_heat_w == pytest.approx(heat, rel=1e-3)
    assert seen.filler_heat_share == pytest.approx(rod / heat, rel=2e-3)
    bead, shape = seen.pool_width_mm, (s.frequency_hz / 100) ** -0.12 * (1 + 0.06 * (mine.arc - 3))
    if setup[4] == "flat":
        assert bead == pytest.approx(mine.width * shape, rel=4e-3)
    narrowed = (s.frequency_hz / 100) ** -0.12
    spread = (1.0 * narrowed + 0.13 * bead) * (1 + s.ep_trim) ** 0.4 * (1 + 0.1 * (mine.arc - 3))
    surface = next(each for each in table("surfaces")["surface"] if each["key"] == mine.surface)
    warm = (
        mine.rise + setup[5].get("part_temperature_c", 20) - 20
    ) / mine.rise  # of the same pool, which clears as much with fewer amps
    dose = (
        warm * surface["cleaning_factor"] * mean_ep / (math.sqrt(2 * math.pi) * s.travel_mm_s * spread * 0.18)
    )
    cleaned = min(2 * spread * math.sqrt(2 * math.log(max(dose, 1))), 1.6 * s.cup.number * 25.4 / 16)
    assert seen.cleaned_width_mm == pytest.approx(cleaned, rel=2e-3)
    assert seen.border_mm == pytest.approx(max(0, (cleaned - bead) / 2), abs=0.01)
    size = next(
        each for each in table("torch")["tungsten_size"] if each["diameter_mm"] == s.tungsten.diameter_mm
    )
    load = mean_en / size["en_limit_a"] + mean_ep / size["ep_limit_a"]
    assert seen.tungsten_load == pytest.approx(load, rel=1e-3)
    assert seen.tungsten_load_set == pytest.approx(load * s.amps_set / s.amps_run, rel=1e-3)
    flow, bore = s.gas.flow_l_min / 60000, s.cup.number * 25.4 / 16000
    assert seen.reynolds == pytest.approx(
        4 * flow / (math.pi * bore * 1.34e-5 / (1 - 0.9 * mine.helium)), rel=1e-3
    )
    if setup[4] == "flat" and setup[3] in ("butt", "outside_corner"):
        deep = mine.thin
        face = bead / shape
        assert seen.root_width_mm == pytest.approx(face * mine.root_share(face, deep), rel=3e-3)
