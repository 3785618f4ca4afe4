"""A bead on pictures of known truth: what is told is right, and what cannot be told is not."""

import importlib.util
import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from anvilsong.core.complaints import validated
from anvilsong.core.errors import BadInput
from anvilsong.instruments import Camera, Coupon, Edges, Marks, beside_line, by_hand, photograph, read_bead
from anvilsong.instruments.profiles import profiles_of
from anvilsong.instruments.ripples import ripples_of
from anvilsong.instruments.sections import sections_of
from anvilsong.instruments.strip import Strip, line_of, unroll
from anvilsong.instruments.sureness import LEAST_AGREE, LEAST_ALIKE, LEAST_STEP, Signs, sureness

COUPON = Coupon(7.2, 1.3, 2.1, 1.1)
CAMERA = Camera(width_px=1200, height_px=640, px_per_mm=12.0, turned_deg=3.0)
FIGURES = ("bead_width", "border_left", "border_right")


@pytest.fixture(scope="module")
def second_camera():
    """The other maker of pictures, which the bench judges by."""
    spec = importlib.util.spec_from_file_location(
        "second_camera", Path(__file__).parents[2] / "bench" / "_second_camera.py"
    )
    module = importlib.util.module_from_spec(spec)
    sys.modules[spec.name] = module
    spec.loader.exec_module(module)
    return module


@pytest.fixture(scope="module")
def taken():
    return photograph(COUPON, CAMERA, 5)


@pytest.fixture(scope="module")
def bead(taken):
    return read_bead(taken.pixels, taken.marks)


def values(bead):
    return [getattr(bead, name).value_mm for name in FIGURES]


def within(found, true, least=0.2, share=0.05):
    return [
        value is not None and abs(value - is_) <= max(least, share * is_)
        for value, is_ in zip(found, true, strict=True)
    ]


def test_a_good_picture_is_read_to_a_fifth_of_a_millimetre(taken, bead):
    truth = (taken.bead_width_mm, taken.border_left_mm, taken.border_right_mm)
    assert all(within(values(bead), truth))
    assert bead.ripple_pitch.value_mm == pytest.approx(1.1, rel=0.05)
    assert min(getattr(bead, name).sureness for name in FIGURES) > 0.85
    assert truth[2] > truth[1] + 0.5  # left and right are told apart


@pytest.mark.parametrize("seed", [2, 3])
def test_the_second_camera_is_read_as_well(second_camera, seed):
    painted = second_camera.paint(second_camera.Recipe(6.4, 0.9, 1.8, 1.3, turned_deg=-6), seed)
    bead = read_bead(painted.pixels, painted.marks)
    assert all(within(values(bead), (painted.bead_mm, painted.left_mm, painted.right_mm)))
    assert bead.ripple_pitch.value_mm == pytest.approx(1.3, rel=0.08)


def test_the_other_way_along_the_line_left_is_right(taken, bead):
    back = taken.marks.model_copy(update={"line": taken.marks.line[::-1]})
    turned = read_bead(taken.pixels, back)
    assert values(turned) == pytest.approx([values(bead)[k] for k in (0, 2, 1)], abs=0.06)


def test_a_longer_known_length_makes_everything_longer(taken, bead):
    doubled = taken.marks.model_copy(
        update={"known_mm": 2 * taken.marks.known_mm, "reach_mm": 2 * taken.marks.reach_mm}
    )
    assert values(read_bead(taken.pixels, doubled)) == pytest.approx([2 * v for v in values(bead)], rel=0.12)


def test_a_speck_of_glare_or_a_scratch_changes_little(taken, bead):
    scratched = taken.pixels.copy()
    scratched[:, 500:512] = 20
    scratched[250:420, 700:760] = 255
    assert values(read_bead(scratched, taken.marks)) == pytest.approx(values(bead), abs=0.12)


@pytest.mark.parametrize("pixels", ["grey", "white", "noise", "black"])
def test_where_nothing_is_nothing_is_told(taken, pixels):
    shape = taken.pixels.shape
    picture = {
        "grey": np.full(shape, 120, np.uint8),
        "white": np.full(shape, 255, np.uint8),
        "black": np.zeros(shape, np.uint8),
        "noise": np.random.default_rng(1).integers(80, 160, shape, dtype=np.uint8),
    }[pixels]
    bead = read_bead(picture, taken.marks)
    assert values(bead) == [None, None, None]
    assert all("drag" in getattr(bead, name).why for name in FIGURES)
    assert len(bead.edges.across_mm) == 4  # and there are edges to drag


def wall(rng):
    """Bricks of many shades between light joints: a border, a bead and a border to the eye of a profile."""
    pixels = np.full((700, 1000, 3), 190, np.uint8)
    for row, y in enumerate(range(0, 700, 88)):
        for x in range(-(row % 2) * 80, 1000, 168):
            pixels[y : y + 78, max(x, 0) : x + 160] = int(rng.integers(90, 150))
    return pixels


def weave(rng):
    """A cloth, as even as ripples and no bead."""
    y, x = np.mgrid[0:700, 0:1000]
    return np.repeat((140 + 40 * np.sin(x / 6) * np.sin(y / 6)).astype(np.uint8)[:, :, None], 3, axis=2)


@pytest.mark.parametrize("picture", [wall, weave])
def test_what_is_no_bead_has_no_figure(picture):
    """`bench/pictures.py` tries two hundred of ten kinds."""
    rng = np.random.default_rng(5)
    pixels = picture(rng) + rng.integers(0, 6, (700, 1000, 1)).astype(np.uint8)
    for y in (303.0, 346.0, 391.0):
        marked = Marks(known=((100, 650), (600, 650)), known_mm=50, line=((100, y), (900, y)), reach_mm=12)
        found = read_bead(pixels, marked)
        for each in (found.bead_width, found.border_left, found.border_right, found.ripple_pitch):
            assert each.value_mm is None


def test_a_line_beside_the_picture_tells_nothing(taken):
    off = taken.marks.model_copy(update={"line": ((-900.0, -300.0), (-100.0, -300.0))})
    assert values(read_bead(taken.pixels, off)) == [None, None, None]


def test_a_plate_as_bright_as_the_border_is_not_told():
    taken = photograph(replace(COUPON, plate_bright=0.74, grain=0.1), CAMERA, 6)
    bead = read_bead(taken.pixels, taken.marks)
    assert bead.border_left.value_mm is None
    assert bead.border_right.value_mm is None


def test_an_edge_set_by_hand_counts_and_moves_its_own_figure_alone(taken, bead):
    moved = [list(one) for one in bead.edges.across_mm]
    moved[3] = [place + 0.5 for place in moved[3]]
    edges = Edges(
        along_mm=bead.edges.along_mm, across_mm=moved, sureness=[0.0] * 4, by_hand=[False, False, True, True]
    )
    again = by_hand(taken.pixels, taken.marks, edges)
    assert again.border_right.value_mm == pytest.approx(bead.border_right.value_mm + 0.5, abs=0.002)
    assert again.border_right.sureness == 1.0
    assert again.border_left.value_mm is None  # nobody has set it, and it was not sure
    assert again.bead_width.value_mm is None  # one of its toes was not


def test_edges_that_meet_are_no_border(bead, taken):
    met = [list(one) for one in bead.edges.across_mm]
    met[0] = [place - 0.02 for place in met[1]]
    again = by_hand(taken.pixels, taken.marks, bead.edges.model_copy(update={"across_mm": met}))
    assert (again.border_left.value_mm, again.bead_width.value_mm) == (None, None)
    assert again.border_right.value_mm == bead.border_right.value_mm
    set_so = bead.edges.model_copy(update={"across_mm": met, "by_hand": [True, True, False, False]})
    assert by_hand(taken.pixels, taken.marks, set_so).border_left.value_mm == pytest.approx(0.02, abs=0.002)


def test_straightness_is_of_the_edge_about_its_own_line(taken, bead):
    along = np.array(bead.edges.along_mm)
    places = [list(one) for one in bead.edges.across_mm]
    places[0] = list(-6.0 + 0.02 * along)
    straight = by_hand(taken.pixels, taken.marks, bead.edges.model_copy(update={"across_mm": places}))
    assert straight.border_left.straightness_mm == pytest.approx(0.0, abs=0.001)
    places[0] = list(-6.0 + 0.02 * along + 0.3 * (-1.0) ** np.arange(along.size))
    wavy = by_hand(taken.pixels, taken.marks, bead.edges.model_copy(update={"across_mm": places}))
    assert wavy.border_left.straightness_mm == pytest.approx(0.3, rel=0.1)


def marks(**change):
    usual = {"known": ((0, 0), (500, 0)), "known_mm": 50, "line": ((10, 100), (410, 100)), "reach_mm": 8}
    return Marks.model_validate(usual | change)


def test_right_of_the_travel_is_down_when_it_goes_right():
    assert marks().px_per_mm == 10
    assert marks().line_mm == 40
    assert line_of(marks()).pixel(np.array([5.0]), np.array([2.0])) == pytest.approx(
        np.array([[60.0, 120.0]])
    )
    assert beside_line(marks(), [0.0, 40.0]) == [[10.0, 100.0, 0.0, 10.0], [410.0, 100.0, 0.0, 10.0]]


def test_a_bent_line_goes_through_its_points():
    bent = marks(line=((10, 100), (210, 140), (410, 100)))
    line = line_of(bent)
    half = np.hypot(200, 40) / 10
    assert line.long_mm == pytest.approx(2 * half)
    assert line.pixel(np.array([half]), np.array([0.0])) == pytest.approx(np.array([[210.0, 140.0]]))


@pytest.mark.parametrize(
    ("change", "field", "words"),
    [
        ({"known": ((0, 0), (5, 0))}, "known", "further apart"),
        ({"known_mm": 500}, "known", "take the picture from nearer"),
        ({"line": ((10, 100), (60, 100))}, "line", "draw it over 10 mm"),
        ({"line": ((10, 100),)}, "line", ""),
        ({"reach_mm": 0.5}, "reach_mm", ""),
        ({"known_mm": "half"}, "known_mm", ""),
        ({"line": ((10, 100), (float("nan"), 3))}, "line", ""),
    ],
)
def test_marks_that_mean_nothing_are_named(change, field, words):
    usual = {"known": ((0, 0), (500, 0)), "known_mm": 50, "line": ((10, 100), (410, 100)), "reach_mm": 8}
    with pytest.raises(BadInput) as trouble:
        validated(Marks, usual | change)
    assert trouble.value.problems[0].field.startswith(field)
    assert words in trouble.value.problems[0].allowed


def test_a_known_length_takes_what_people_type():
    usual = {"known": ((0, 0), (500, 0)), "line": ((10, 100), (410, 100))}
    assert validated(Marks, usual | {"known_mm": "2 in"}).known_mm == 50.8
    assert validated(Marks, usual | {"known_mm": "2"}, "inch").known_mm == 50.8


def test_sections_are_found_where_a_clean_profile_changes():
    """Steps at places that can be read off: plate, border from -5 to -3.5, bead, border from 3.5 to 5.5, plate."""
    u = np.arange(-11, 11.01, 0.06)
    s = np.arange(0, 60, 0.1)
    rng = np.random.default_rng(2)
    level = np.select([np.abs(u) < 3.5, (u > -5) & (u < 5.5)], [-0.6, -0.3], -0.75)
    bright = level + rng.normal(0, 0.02, (s.size, u.size))
    bright[:, np.abs(u) < 3.5] += 0.1 * np.sin(2 * np.pi * s / 1.4)[:, None]
    strip = Strip(line_of(marks(line=((0, 100), (600, 100)))), s, u, bright)
    found = sections_of(profiles_of(strip))
    middles = [sum(edge) / 2 for edge in found.edges_mm]
    assert middles == pytest.approx([-5, -3.5, 3.5, 5.5], abs=0.12)
    assert min(found.doubt) > 3
    ripples = ripples_of(strip, np.full(s.size, -3.5), np.full(s.size, 3.5))
    assert ripples.pitch_mm == pytest.approx(1.4, rel=0.01)
    assert ripples_of(strip, np.full(s.size, 6.0), np.full(s.size, 10.0)).pitch_mm is None


def test_the_strip_follows_a_slanting_line():
    """A bright ridge along a slanted line lies in the middle of its strip."""
    y, x = np.mgrid[0:400, 0:600]
    ridge = np.exp(-(((y - 100 - 0.3 * x) / np.hypot(1, 0.3)) ** 2) / 50)
    strip = unroll(0.1 + 0.7 * ridge, marks(line=((50, 115), (550, 265))))
    assert strip.u_mm[np.argmax(strip.bright.mean(axis=0))] == pytest.approx(0, abs=0.06)


SURE = Signs(6, 0.3, 0.3, 40, 1.0, 0.1, 0.05, 0.95)


def test_what_makes_an_edge_sure():
    assert sureness(SURE) > 0.95
    for name, worse in (("doubt", 0.0), ("toe_step", 0.02), ("agree", 0.65), ("inside", 0.8), ("alike", 0.5)):
        assert sureness(replace(SURE, **{name: worse})) < sureness(SURE)
    assert sureness(replace(SURE, alike=LEAST_ALIKE - 0.01)) == 0
    assert sureness(replace(SURE, step=LEAST_STEP - 0.001)) == 0
    assert sureness(replace(SURE, inside=0.95)) == sureness(replace(SURE, beside=1.1)) == 0
    assert sureness(replace(SURE, agree=LEAST_AGREE - 0.01)) == 0
