"""The words of drawings: none lies on another, none is cut, on the demo jobs and on jobs at the ends of what is welded."""

import pytest

JOBS = [  # foil, plate, two unlike sides, a tube on a foot, a hand-sized casting
    {"a": {"alloy": "3003", "thickness": "0.1 mm"}, "joint": "edge", "machine": "Heron 320"},
    {"a": {"alloy": "5083", "thickness": "25 mm"}, "joint": "butt", "machine": "Heron 320"},
    {
        "a": {"alloy": "6061", "thickness": "12 mm"},
        "b": {"alloy": "5052", "thickness": "0.8 mm"},
        "joint": "tee",
    },
    {
        "a": {"alloy": "6061", "thickness": "2 mm", "outside_diameter_mm": 20},
        "b": {"alloy": "6061", "thickness": "6 mm"},
        "joint": "tube_plate",
        "control": "switch_4",
    },
    {"a": {"alloy": "A356", "thickness": "6 mm"}, "joint": "build_up", "surface": "cast", "gap_mm": 0},
]
PAGES = ["prep", "torch", "tune", "wave", "card", "map"]
NEAR = 2  # pixels that letters' boxes may share: a box is higher than its letters
# Of each drawing: words that lie on one another, and words that its edge cuts.
WRONG = """(near) => [...document.querySelectorAll('svg')].flatMap((svg) => {
  const edge = svg.getBoundingClientRect();
  const clips = getComputedStyle(svg).overflow !== 'visible';
  const words = [...svg.querySelectorAll('text')]
    .filter((each) => each.checkVisibility({ opacityProperty: true }) && each.textContent.trim())
    .map((each) => [each, each.getBoundingClientRect()])
    .filter(([, box]) => box.width > 0);
  const said = ([each]) => `${svg.getAttribute('class')}: ${each.textContent.trim()}`;
  const cut = words.filter(([, box]) => clips && (box.left < edge.left - near || box.right > edge.right + near
    || box.top < edge.top - 2 * near || box.bottom > edge.bottom + 2 * near)).map((each) => `cut ${said(each)}`);
  const meet = words.flatMap((one, n) => words.slice(n + 1).filter((other) =>
    Math.min(one[1].right, other[1].right) - Math.max(one[1].left, other[1].left) > near
    && Math.min(one[1].bottom, other[1].bottom) - Math.max(one[1].top, other[1].top) > 2 * near)
    .map((other) => `${said(one)} on ${other[0].textContent.trim()}`));
  return [...cut, ...meet];
})"""


@pytest.mark.parametrize("width", [1280, 390])
def test_words_of_drawings_keep_apart(open_desk, width):
    page = open_desk(width=width, height=844, bypass_csp=True)
    addresses = [f"/jobs/{job}/{each}" for job in (1, 3, 5, 8, 10) for each in PAGES]
    for given in JOBS:
        fields = {
            f"{side}_{key}": str(value)
            for side in ("a", "b")
            for key, value in given.get(side, given["a"]).items()
        } | {key: str(value) for key, value in given.items() if key not in ("a", "b")}
        made = page.request.post("/jobs/new", form={"title": "Extreme", "control": "pedal", **fields})
        job = made.url.split("/jobs/")[1].split("/")[0]
        assert job.isdigit(), made.url
        addresses += [f"/jobs/{job}/{each}" for each in PAGES]
    found = []
    for address in addresses:
        page.goto(address)
        page.evaluate("document.querySelectorAll('details').forEach(box => (box.open = true))")
        found += [(address, each) for each in page.evaluate(WRONG, NEAR)]
    assert found == [], "\n".join(map(str, found))
