"""Outlines of SVG and DXF: sizes, holes, arcs, loops of single lines; and files that are none, or bombs."""

import io
import itertools

import ezdxf
import numpy as np
import pytest

from anvilsong.core.errors import BadInput
from anvilsong.core.warming import PRESETS
from anvilsong.core.warming.raster import rasterised
from anvilsong.instruments import read_outlines as read_drawing
from anvilsong.instruments.loops import joined
from anvilsong.web.part_outline import part_of_outlines

PLATE = '<svg xmlns="http://www.w3.org/2000/svg" {size}><path d="M10 20h120v60h-120z"/><circle cx="100" cy="50" r="12"/></svg>'


def read_outlines(data, name, wide_mm=None):
    """The closed lines alone. What says no size is as wide as it is drawn, unless a test says otherwise."""
    return read_drawing(data, name, wide_mm).outlines


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
        PLATE.format(size='width="140mm" height="100mm" viewBox="0 0 140 100"').encode(),
        PLATE.format(size='width="14cm" height="10cm" viewBox="0 0 140 100"').encode(),
        dxf(4, bracket),
        dxf(1, lambda space: bracket(space, 1 / 25.4)),
    ],
    ids=["svg in mm", "svg in cm", "dxf", "dxf in inches"],
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
            "3000 mm|can be read|closed line",
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
        read_outlines(data, "thing.svg", 90.0)


def test_many_shapes_are_few():
    many = "".join(f'<rect x="{n % 40 * 9}" y="{n // 40 * 9}" width="7" height="7"/>' for n in range(3000))
    found = read_drawing(f'<svg xmlns="http://www.w3.org/2000/svg">{many}</svg>'.encode(), "many", 358.0)
    assert len(found.outlines) <= 60
    assert "2940 smaller lines" in found.said[-1]


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
        for one, other in itertools.pairwise([(0, 0), (80, 0), (80, 30), (0, 30), (0, 0.6)]):
            space.add_line(one, other)

    with pytest.raises(BadInput):
        read_outlines(dxf(draw=draw), "profile.dxf")


def test_a_point_and_a_line_in_a_drawing_are_passed_over():
    drawn = '<svg xmlns="http://www.w3.org/2000/svg"><path d="M5 5h0z"/><text>size</text><path d="M0 0h40v30h-40z"/></svg>'
    found = read_outlines(drawn.encode(), "drawn.svg", 40.0)
    assert [round(area(line)) for line in found] == [1200]


def raw_dxf(*entities):
    """A drawing of a few bytes, as an enemy writes it: group codes and values."""
    body = "".join(f"{code}\n{value}\n" for entity in entities for code, value in entity)
    return f"0\nSECTION\n2\nENTITIES\n{body}0\nENDSEC\n0\nEOF\n".encode()


def svg(inside):
    return f'<svg xmlns="http://www.w3.org/2000/svg">{inside}</svg>'.encode()


SMALL_PLATE = '<rect width="40" height="30"/>'
BOMBS = {
    "circle": raw_dxf([(0, "CIRCLE"), (10, 0), (20, 0), (40, 1e9)]),
    "circle of a kilometre": raw_dxf([(0, "CIRCLE"), (10, 0), (20, 0), (40, 1e6)]),
    "arc": raw_dxf([(0, "ARC"), (10, 0), (20, 0), (40, 1e9), (50, 0), (51, 359)]),
    "ellipse": raw_dxf([(0, "ELLIPSE"), (10, 0), (20, 0), (11, 1e9), (21, 0), (40, 0.5), (41, 0), (42, 6.28)]),
    "bulge": raw_dxf([(0, "LWPOLYLINE"), (90, 2), (70, 1), (10, 0), (20, 0), (42, 1e7), (10, 90), (20, 40), (42, 1)]),
    "far corners": raw_dxf([(0, "LWPOLYLINE"), (90, 3), (70, 1), (10, 0), (20, 0), (10, 1e12), (20, 0), (10, 0), (20, 1e12)]),
    "spline": raw_dxf([(0, "SPLINE"), (70, 8), (71, 3), (72, 8), (73, 4), (74, 0), *((40, k) for k in (0, 0, 0, 0, 1, 1, 1, 1)),
                       *(pair for k in range(4) for pair in ((10, k * 1e9), (20, k % 2 * 1e9), (30, 0)))]),
    "spline of many corners": dxf(4, lambda space: space.add_spline([(k, k % 7) for k in range(1600)])),
    "curve": svg('<path d="M0 0C1e9 0 1e9 1e9 0 1e9z"/>'),
    "arc of an svg": svg('<path d="M0 0A1e9 1e9 0 1 1 10 10z"/>'),
    "scaled": svg('<g transform="scale(1e9)"><circle r="9"/></g>'),
    "other prefix": b'<svg xmlns="http://www.w3.org/2000/svg" xmlns:x-y="http://www.w3.org/2000/svg"><g id="a"><rect width="9" height="9"/></g><x-y:use href="#a"/></svg>',
    "utf-16": '<?xml version="1.0" encoding="utf-16"?><!DOCTYPE a [<!ENTITY b "c">]><svg xmlns="http://www.w3.org/2000/svg">&b;</svg>'.encode("utf-16"),
    "utf-16 use": '<?xml version="1.0" encoding="utf-16"?><svg xmlns="http://www.w3.org/2000/svg"><g id="a"/><use href="#a"/></svg>'.encode("utf-16"),
    "billion": b'<?xml version="1.0"?><!DOCTYPE l [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;">]><svg xmlns="http://www.w3.org/2000/svg"><text>&b;</text></svg>',
    "many shapes": svg('<rect width="9" height="9"/>' * 21_000),
    "deep": svg("<g>" * 3000 + SMALL_PLATE + "</g>" * 3000),
    "many corners": svg("".join(f'<path d="M0 0{"h1v1" * 9000}z"/>' for _ in range(30))),
    "html": b"<html><body><svg/></body></html>",
}  # fmt: skip


@pytest.mark.parametrize("name", BOMBS)
def test_what_would_grow_without_end_is_refused_by_its_size(name):
    """Each is refused by what it says of itself, before a corner of it is computed: memory stays what it was."""
    with pytest.raises(BadInput) as refused:
        read_outlines(BOMBS[name], f"{name}.dxf")
    assert refused.value.problems[0].field == "outline"


def test_a_drawing_in_another_coding_of_letters_is_read():
    drawn = '<?xml version="1.0" encoding="utf-16"?><svg xmlns="http://www.w3.org/2000/svg"><rect width="40" height="30"/></svg>'
    (plate,) = read_outlines(drawn.encode("utf-16"), "plate.svg", 40.0)
    assert area(plate) == pytest.approx(1200)


def test_twenty_thousand_single_lines_join():
    """A ring drawn in single lines, shuffled and turned: one outline. The work grows with the lines, not with their square."""
    count = 19_990
    angle = np.linspace(0, 2 * np.pi, count, endpoint=False)
    corners = 900 * np.stack((np.cos(angle), np.sin(angle)), axis=1)
    lines = [np.stack((corners[k], corners[(k + 1) % count])) for k in range(count)]
    rng = np.random.default_rng(1)
    shuffled = [lines[k][::-1] if rng.random() < 0.5 else lines[k] for k in rng.permutation(count)]
    (ring,) = joined(shuffled, 0.02, 60).closed
    assert len(ring) == count + 1
    star = [np.array([(0.0, 0.0), (np.cos(a), np.sin(a))]) for a in angle]
    assert joined(star, 0.02, 60).closed == []


@pytest.mark.parametrize(("gap", "found"), [(0.0199, 1), (0.0201, 0)])
def test_ends_that_lie_near_join_across_squares(gap, found):
    """A hair under the distance they join, wherever the squares' borders lie; a hair over, they do not."""
    for shift in np.linspace(0, 0.02, 7):
        corners = np.array([(0, 0), (30, 0), (30, 20), (0, 20), (0, 0)]) + shift
        pieces = [np.array([one, other]) for one, other in itertools.pairwise(corners)]
        pieces[2] = pieces[2] + (0, gap)
        pieces[3] = np.array([pieces[2][1] - (0, gap), corners[0]])
        assert len(joined(pieces, 0.02, 60).closed) == found


@pytest.mark.parametrize(
    ("data", "high"),
    [
        (PLATE.format(size='width="140px" height="100px"').encode(), 60),
        (PLATE.format(size="").encode(), 60),
        (PLATE.format(size='width="100%" viewBox="0 0 140 100"').encode(), 60),
        (dxf(0, bracket), 60),
        (dxf(0, lambda space: bracket(space, 1 / 25.4)), 60),  # drawn in inches, and nobody says so
    ],
    ids=["px", "no size", "per cent", "dxf without units", "dxf in inches"],
)
def test_a_drawing_that_does_not_say_its_size_is_asked_for_it(data, high):
    with pytest.raises(BadInput, match="does not say its size: type how wide it is") as asked:
        read_drawing(data, "plate")
    assert asked.value.problems[0].field == "outline_wide"
    for wide in (120.0, 60.0):
        drawing = read_drawing(data, "plate", wide)
        plate, hole = drawing.outlines
        assert np.ptp(plate.corners, axis=0) == pytest.approx([wide, high * wide / 120], rel=2e-3)
        assert area(hole) == pytest.approx(np.pi * 144 * (wide / 120) ** 2, rel=0.03)
    assert read_drawing(dxf(4, bracket), "plate", 60.0).outlines[0].corners.max() == pytest.approx(60)


def test_gaps_that_were_meant_to_meet_are_closed_and_told():
    corners = [(0, 0), (80, 0), (80, 30), (0, 30), (0, 0)]

    def draw(space, gap):
        for n, (one, other) in enumerate(itertools.pairwise(corners)):
            short = np.array(other) + (np.array(one) - other) / np.hypot(*(np.array(one) - other)) * gap * (
                n % 2
            )
            space.add_line(one, short)

    drawing = read_drawing(dxf(4, lambda space: draw(space, 0.3)), "gaps.dxf")
    (line,) = drawing.outlines
    assert area(line) == pytest.approx(2400, rel=0.01)
    from anvilsong.core import say

    assert "Gaps of up to 0.3 mm were closed: 2." in [
        say.in_units(line, "mm").replace("0.30", "0.3") for line in drawing.said
    ]
    assert not any("Gaps" in line for line in read_drawing(dxf(4, lambda space: draw(space, 0.0)), "x").said)
    with pytest.raises(BadInput, match="open line"):
        read_drawing(dxf(4, lambda space: draw(space, 0.7)), "x")


def test_lines_of_an_svg_are_taken():
    drawn = "".join(
        f'<line x1="{x}" y1="{y}" x2="{to_x}" y2="{to_y}" stroke="black"/>'
        for (x, y), (to_x, to_y) in itertools.pairwise([(0, 0), (90, 0), (90, 40), (0, 40), (0, 0)])
    )
    whole = f'<svg xmlns="http://www.w3.org/2000/svg" width="90mm" height="40mm" viewBox="0 0 90 40">{drawn}<text>90</text></svg>'
    drawing = read_drawing(whole.encode(), "lines.svg")
    assert [round(area(line)) for line in drawing.outlines] == [3600]
    assert "1 text." in drawing.said[-1]


def test_blocks_are_taken_and_what_is_no_line_is_named():
    document = ezdxf.new()
    document.header["$INSUNITS"] = 4
    block = document.blocks.new("PLATE")
    block.add_lwpolyline([(0, 0), (50, 0), (50, 20), (0, 20)], close=True)
    nested = document.blocks.new("TWO")
    nested.add_blockref("PLATE", (0, 0))
    nested.add_blockref("PLATE", (0, 40))
    document.modelspace().add_blockref("TWO", (100, 100), dxfattribs={"xscale": 2, "yscale": 2})
    document.modelspace().add_text("rev B")
    document.modelspace().add_point((0, 0))
    out = io.StringIO()
    document.write(out)
    drawing = read_drawing(out.getvalue().encode(), "blocks.dxf")
    assert [round(area(line)) for line in drawing.outlines] == [4000, 4000]
    assert "left out: 1 point, 1 text." in drawing.said[-1].lower()


def test_blocks_within_blocks_do_not_grow_without_end():
    """Each level holds the one under it ten times: ten to the seventh plates, refused while they are counted."""
    document = ezdxf.new()
    document.header["$INSUNITS"] = 4
    document.blocks.new("B0").add_lwpolyline([(0, 0), (5, 0), (5, 2), (0, 2)], close=True)
    for level in range(1, 8):
        block = document.blocks.new(f"B{level}")
        for n in range(10):
            block.add_blockref(f"B{level - 1}", (n, 0))
    document.modelspace().add_blockref("B7", (0, 0))
    itself = document.blocks.new("SELF")
    itself.add_blockref("SELF", (1, 1))
    document.modelspace().add_blockref("SELF", (0, 0))
    out = io.StringIO()
    document.write(out)
    with pytest.raises(BadInput):
        read_drawing(out.getvalue().encode(), "blocks.dxf")


def test_a_frame_that_does_not_close_is_no_part_of_the_width():
    def draw(space):
        bracket(space)
        space.add_line((-100, -50), (300, -50))
        space.add_line((-100, -50), (-100, 200))

    drawing = read_drawing(dxf(0, draw), "framed.dxf", 120.0)
    assert np.ptp(drawing.outlines[0].corners, axis=0) == pytest.approx([120, 60], rel=1e-3)
    assert "2 open lines" in drawing.said[-1]
