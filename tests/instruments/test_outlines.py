"""Outlines of SVG and DXF: sizes, holes, arcs, loops of single lines; and files that are none, or bombs."""

import io
import itertools

import ezdxf
import numpy as np
import pytest

from anvilsong.core.errors import BadInput
from anvilsong.core.warming import PRESETS
from anvilsong.core.warming.raster import rasterised
from anvilsong.instruments import read_outlines
from anvilsong.web.part_outline import part_of_outlines

PLATE = '<svg xmlns="http://www.w3.org/2000/svg" {size}><path d="M10 20h120v60h-120z"/><circle cx="100" cy="50" r="12"/></svg>'


def dxf(units=4, draw=lambda space: None):
    document = ezdxf.new()
    document.header["$INSUNITS"] = units
    draw(document.modelspace())
    out = io.StringIO()
    document.write(out)
    return out.getvalue().encode()


def bracket(space, k=1.0):
    space.add_lwpolyline([(x * k, y * k) for x, y in ((0, 0), (120, 0), (120, 60), (0, 60))], close=True)
    space.add_circle((90 * k, 30 * k), 12 * k)


def area(line):
    x, y = line.corners.T
    return abs(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2


@pytest.mark.parametrize(
    "data",
    [
        PLATE.format(size="").encode(),
        PLATE.format(size='width="140mm" height="100mm" viewBox="0 0 140 100"').encode(),
        PLATE.format(size='width="14cm" height="10cm" viewBox="0 0 140 100"').encode(),
        dxf(4, bracket),
        dxf(1, lambda space: bracket(space, 1 / 25.4)),
    ],
    ids=["svg", "svg in mm", "svg in cm", "dxf", "dxf in inches"],
)
def test_a_plate_with_a_hole(data):
    plate, hole = read_outlines(data, "plate")
    assert (plate.is_hole, hole.is_hole) == (False, True)
    assert plate.corners.max(axis=0) == pytest.approx([120, 60], abs=0.01)
    assert area(plate) == pytest.approx(7200, rel=1e-3)
    assert area(hole) == pytest.approx(np.pi * 144, rel=0.02)
    assert hole.corners.mean(axis=0) == pytest.approx([90, 30], abs=0.4)


def test_a_drawing_that_is_scaled_says_so():
    """70 mm wide for 140 of its own units: half of everything."""
    (plate, _) = read_outlines(
        PLATE.format(size='width="70mm" height="50mm" viewBox="0 0 140 100"').encode(), "x"
    )
    assert plate.corners.max(axis=0) == pytest.approx([60, 30], abs=0.01)


def test_single_lines_and_arcs_join():
    def stadium(space):
        space.add_line((10, 0), (50, 0))
        space.add_line((50, 20), (10, 20))
        space.add_arc((50, 10), 10, -90, 90)
        space.add_arc((10, 10), 10, 90, 270)
        space.add_line((200, 200), (210, 200))  # open: no outline

    (line,) = read_outlines(dxf(4, stadium), "stadium")
    assert area(line) == pytest.approx(40 * 20 + np.pi * 100, rel=0.01)


def test_an_outline_becomes_a_part():
    like = PRESETS["plate"][1]()
    part = part_of_outlines(read_outlines(dxf(4, bracket), "x"), like)
    cells = rasterised(part, 1.0)
    assert float((cells.thickness_mm > 0).sum()) == pytest.approx(7200 - np.pi * 144, rel=0.01)
    assert part.thickness_mm == like.thickness_mm
    assert part.runs[0].length_mm == pytest.approx(120, abs=0.2)
    assert not 18 < part.runs[0].y_mm < 42  # beside the hole


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"", "SVG or DXF drawing that can be read"),
        (b"no drawing at all", "SVG or DXF drawing that can be read"),
        (b"<svg", "SVG or DXF drawing that can be read"),
        (b"\x89PNG" + bytes(range(256)) * 20, "SVG or DXF drawing that can be read"),
        (
            b'<svg xmlns="http://www.w3.org/2000/svg"><line x1="0" y1="0" x2="90" y2="4"/></svg>',
            "at least one closed line",
        ),
        (b'<svg xmlns="http://www.w3.org/2000/svg"></svg>', "at least one closed line"),
        (
            b'<!DOCTYPE a [<!ENTITY b "c">]><svg xmlns="http://www.w3.org/2000/svg">&b;</svg>',
            "without references",
        ),
        (
            b'<svg xmlns="http://www.w3.org/2000/svg"><g id="a"><rect width="9" height="9"/></g><use href="#a"/></svg>',
            "without references",
        ),
        (
            b'<svg xmlns="http://www.w3.org/2000/svg"><image href="file:///etc/passwd"/></svg>',
            "without references",
        ),
        (
            b'<svg xmlns="http://www.w3.org/2000/svg"><rect width="1e30" height="90"/></svg>',
            "3000 mm|can be read",
        ),
        (
            b'<svg xmlns="http://www.w3.org/2000/svg"><rect width="nan" height="90"/></svg>',
            "closed line|can be read|3000",
        ),
        (dxf(4), "at least one closed line"),
        (b"x" * 2_000_001, "up to 2 MB"),
    ],
)
def test_what_is_no_outline_is_a_sentence(data, said):
    with pytest.raises(BadInput, match=said):
        read_outlines(data, "thing.svg")


def test_many_shapes_are_few():
    many = "".join(f'<rect x="{n % 40 * 9}" y="{n // 40 * 9}" width="7" height="7"/>' for n in range(3000))
    found = read_outlines(f'<svg xmlns="http://www.w3.org/2000/svg">{many}</svg>'.encode(), "many")
    assert len(found) <= 60


@pytest.mark.parametrize("seed", range(6))
def test_pieces_drawn_in_any_order_and_either_way_join(seed):
    """A profile of six lines and an arc, as a hand draws it: shuffled, some from their end to their beginning."""
    rng = np.random.default_rng(seed)
    corners = [(0, 0), (80, 0), (80, 30), (60, 30), (60, 50), (0, 50), (0, 0)]
    pieces = [(one, other) for one, other in itertools.pairwise(corners)]

    def draw(space):
        for place in rng.permutation(len(pieces)):
            begin, end = pieces[place]
            space.add_line(*((end, begin) if rng.random() < 0.5 else (begin, end)))
        space.add_text("not a line")
        space.add_line((200, 200), (230, 200))  # ends nowhere
        space.add_line((5, 5), (5, 5))  # no length

    (found,) = read_outlines(dxf(draw=draw), "profile.dxf")
    assert area(found) == pytest.approx(80 * 50 - 20 * 20)
    assert len(found.corners) == 6


def test_what_does_not_close_is_no_outline():
    def draw(space):
        for one, other in itertools.pairwise([(0, 0), (80, 0), (80, 30), (0, 30), (0, 0.5)]):
            space.add_line(one, other)

    with pytest.raises(BadInput):
        read_outlines(dxf(draw=draw), "profile.dxf")


def test_a_point_and_a_line_in_a_drawing_are_passed_over():
    drawn = '<svg xmlns="http://www.w3.org/2000/svg"><path d="M5 5h0z"/><text>size</text><path d="M0 0h40v30h-40z"/></svg>'
    found = read_outlines(drawn.encode(), "drawn.svg")
    assert [round(area(line)) for line in found] == [1200]
