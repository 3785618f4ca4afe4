"""Handles under a finger: every one dragged 150 px in four directions on a phone, and read where it ended."""

import shutil

import pytest
from playwright.sync_api import expect
from tests.browser.fingers import middle, settled, swipe

FAR = 150
WAYS = {"right": (FAR, 0), "left": (-FAR, 0), "down": (0, FAR), "up": (0, -FAR)}


@pytest.fixture(params=[1, 3], ids=["1x", "3x"])
def phone(browser, serve, workshop_file, tmp_path, request):
    """A phone of its own workshop, at one and at three pixels to the point; what the browser complains of fails."""
    server = serve(shutil.copy(workshop_file, tmp_path / "book.sqlite"))
    context = browser.new_context(
        viewport={"width": 390, "height": 844},
        device_scale_factor=request.param,
        has_touch=True,
        is_mobile=True,
        base_url=server.address,
    )
    page, complaints = context.new_page(), []
    page.on("pageerror", lambda error: complaints.append(str(error)))
    page.set_default_timeout(180_000)
    yield page
    context.close()
    assert complaints == []


def to_middle(page, locator):
    """Bring something to the middle of the screen, so that a finger has room all round it."""
    locator.evaluate("(it) => it.scrollIntoView({ block: 'center', behavior: 'instant' })")
    settled(page)


def drag(page, start, way):
    """How far the page scrolled under a finger that went so far."""
    top = page.evaluate("scrollY")
    swipe(page, start, (start[0] + way[0], start[1] + way[1]), steps=15)
    return page.evaluate("scrollY") - top


def phone_job(page, title):
    page.goto("/book")
    page.click(f"text={title}")
    page.wait_for_url("**/jobs/*/**")
    return int(page.url.split("/jobs/")[1].split("/")[0])


ENDS = ("x_mm", "y_mm", "to_x_mm", "to_y_mm")


def number(text):
    return float(text.removesuffix(" mm"))


def near(ended, wanted):
    assert ended == pytest.approx(wanted, abs=3), (ended, wanted)


def test_the_marks_of_a_photograph(phone):
    job = phone_job(phone, "Float tank lid")
    phone.goto(f"/jobs/{job}/photographs/1")
    phone.wait_for_selector("#figures dd")
    picture = phone.locator("#picture")

    def on_picture(ring):
        (x, y), box = middle(ring), picture.bounding_box()
        return x - box["x"], y - box["y"]

    for label in (
        "Known length, end 1",
        "Known length, end 2",
        "Line, where the torch began",
        "Line, where it ended",
    ):
        ring = phone.locator(f'#marks [data-grip="{label}"] circle.ring')
        for way in WAYS.values():
            to_middle(phone, ring)
            box, was = picture.bounding_box(), on_picture(ring)
            size = box["width"], box["height"]
            # A grip at the picture's edge is touched a little inside.
            inside = [min(max(at, 8), most - 8) for at, most in zip(was, size, strict=True)]
            scrolled = drag(phone, (box["x"] + inside[0], box["y"] + inside[1]), way)
            assert scrolled == 0, (label, way)
            wanted = [min(max(at + by, 0), most) for at, by, most in zip(was, way, size, strict=True)]
            near(on_picture(ring), tuple(wanted))


def test_the_point_of_the_map(phone):
    job = phone_job(phone, "Survey raft")
    phone.goto(f"/jobs/{job}/map?x=ep_share&y=frequency_hz&lines=border")
    point = phone.locator("#map-point")
    for way in WAYS.values():
        to_middle(phone, point)
        start, svg = middle(point), phone.locator("#map svg").bounding_box()
        values = [float(field.input_value()) for field in phone.locator("#map-form .field input").all()]
        assert drag(phone, start, way) == 0, way
        ended = middle(point)
        after = [float(field.input_value()) for field in phone.locator("#map-form .field input").all()]
        # Either it went all the way, or to the end of its lane: never only the first few pixels of it.
        for axis in (0, 1):
            went, asked = ended[axis] - start[axis], way[axis]
            if asked == 0:
                assert went == pytest.approx(0, abs=4)
            elif abs(went - asked) > 6:
                again = drag(phone, ended, way)
                assert again == 0
                near(middle(point), ended)
            else:
                assert (after[axis] - values[axis]) * asked * (1, -1)[axis] > 0
        assert svg["width"] > 300


@pytest.mark.parametrize("key", ["ep_share", "frequency_hz", "amps_set", "ep_trim"])
def test_the_handles_of_the_wave(phone, key):
    job = phone_job(phone, "Float tank lid" if key == "ep_trim" else "Survey raft")  # its machine trims
    phone.goto(f"/jobs/{job}/wave")
    handle, field = phone.locator(f'#wave [data-handle="{key}"]'), phone.locator(f"#lane-{key}")
    sideways = key in ("ep_share", "frequency_hz")
    to_middle(phone, handle)
    before = field.input_value()
    if not sideways:
        # A thumb that scrolls over it changes nothing; tapped first, it is held.
        assert drag(phone, middle(handle), WAYS["up"]) != 0
        assert field.input_value() == before
        to_middle(phone, handle)
        phone.touchscreen.tap(*middle(handle))
        expect(handle).to_be_focused()
    seen = {before}
    for name in ("right", "left") if sideways else ("up", "down"):
        to_middle(phone, handle)
        start, was = middle(handle), field.input_value()
        assert drag(phone, start, WAYS[name]) == 0, name
        phone.wait_for_load_state("networkidle")
        now = field.input_value()
        if now == was:  # it stood at its end already
            continue
        seen.add(now)
    assert len(seen) >= 2


def test_the_tabs_of_the_lanes(phone):
    """Sideways they go as far as the finger, up and down the page scrolls and they stay."""
    job = phone_job(phone, "Survey raft")
    phone.goto(f"/jobs/{job}/tune")
    for key in ("amps_set", "ep_share", "frequency_hz"):
        lane, field = phone.locator(f'.lane[data-key="{key}"]'), phone.locator(f"#lane-{key}")
        for name in ("right", "left", "down", "up"):
            tab = lane.locator(".tab")
            to_middle(phone, tab)
            start, track = middle(tab), lane.locator(".track").bounding_box()
            was = field.input_value()
            scrolled = drag(phone, start, WAYS[name])
            phone.wait_for_load_state("networkidle")
            if name in ("down", "up"):
                assert field.input_value() == was, (key, name)
                assert scrolled != 0, (key, name)
                continue
            assert scrolled == 0, (key, name)
            wanted = min(max(start[0] + WAYS[name][0], track["x"]), track["x"] + track["width"])
            assert middle(tab)[0] == pytest.approx(wanted, abs=6), (key, name)


def test_strokes_on_the_part(phone):
    """With a tool tapped a finger draws in any direction; before, up and down scrolls and draws nothing."""
    job = phone_job(phone, "Float tank")
    phone.goto(f"/jobs/{job}/part")
    drawing = phone.locator(".part-drawing").first
    expect(drawing).to_be_visible()
    runs = phone.locator('.part-rows[data-kind="runs"] .part-row')
    count = runs.count()
    to_middle(phone, drawing)
    drag(phone, middle(drawing), (0, -FAR))
    assert runs.count() == count
    phone.locator('label:has(input[name="tool"][value="run"])').tap()
    for name, (across, down) in WAYS.items():
        to_middle(phone, drawing)
        box, start = drawing.bounding_box(), middle(drawing)
        # As far as the drawing goes: the finger stays on it.
        way = (across * min(1, 0.4 * box["width"] / FAR), down * min(1, 0.4 * box["height"] / FAR))
        count = runs.count()
        drag(phone, start, way)  # a finger that is taken for scrolling draws nothing
        expect(runs).to_have_count(count + 1)
        row = f"r{count}_"
        x, y, to_x, to_y = (number(phone.locator(f'[name="{row}{end}"]').input_value()) for end in ENDS)
        went = {"right": to_x - x, "left": x - to_x, "up": to_y - y, "down": y - to_y}
        assert max(went, key=went.get) == name
        assert went[name] > 5
