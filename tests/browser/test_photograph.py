"""A ladder of three rungs, one of them measured on its photograph: marks dragged, an edge moved, a reload, and on to the coupon."""

import io
import re
import shutil

import pytest
from PIL import Image
from playwright.sync_api import expect
from tests.browser.fingers import drag

from anvilsong.instruments import Camera, Coupon, photograph


@pytest.fixture(scope="module")
def taken():
    return photograph(
        Coupon(8.4, 1.1, 1.5, 1.4), Camera(width_px=1200, height_px=700, px_per_mm=11.5, turned_deg=4), 12
    )


@pytest.fixture
def bench(open_desk):
    """A desk on a book of its own."""
    return open_desk()


def figures(page):
    said = page.locator("#figures dd b").all_inner_texts()
    return [None if text == "cannot tell" else float(text.removesuffix(" mm")) for text in said]


def record(page, **measures):
    for name, value in measures.items():
        page.fill(f"#{name}", value)
    with page.expect_navigation(url=re.compile("/read$")):
        page.click("text=Record it")


def test_a_ladder_with_a_photograph(bench, taken, job_id, tmp_path):
    page, job = bench, job_id("Rigger bracket")
    file = tmp_path / "coupon.png"
    out = io.BytesIO()
    Image.fromarray(taken.pixels).save(out, "PNG")
    file.write_bytes(out.getvalue())

    # The first rung, by ruler.
    page.goto(f"/jobs/{job}/coupon")
    record(
        page, bead_width_mm="7.4", border_left_mm="0.3", border_right_mm="0.2", length_mm="100", seconds="30"
    )
    page.click("#take")
    page.wait_for_url(re.compile("/tune$"))

    # What is no picture is refused with a sentence, and what was typed waits.
    page.goto(f"/jobs/{job}/coupon")
    page.fill("#seconds", "31")
    page.set_input_files(
        "#photo-file", {"name": "notes.png", "mimeType": "image/png", "buffer": b"no picture" * 50}
    )
    page.click("text=Measure on it")
    expect(page.locator("body")).to_contain_text("a picture is a PNG or a JPEG file")

    # The second, on its picture: both ends of the ruler, both ends of the bead.
    page.goto(f"/jobs/{job}/coupon")
    expect(page.locator("#seconds")).to_have_value("31")
    page.set_input_files("#photo-file", str(file))
    with page.expect_navigation(url=re.compile(r"/photographs/\d+$")):
        page.click("text=Measure on it")
    expect(page.locator("#use")).to_be_hidden()
    for grip, to in (
        ("Known length, end 1", taken.marks.known[0]),
        ("Known length, end 2", taken.marks.known[1]),
        ("Line, where the torch began", taken.marks.line[0]),
        ("Line, where it ended", taken.marks.line[1]),
    ):
        drag(page, grip, to)
    expect(page.locator("#use")).to_be_visible()
    true = [taken.bead_width_mm, taken.border_left_mm, taken.border_right_mm, taken.ripple_pitch_mm]
    expect(page.locator("#figures dd")).to_have_count(4)
    expect(page.locator("#measure.busy")).to_have_count(0)
    assert figures(page) == pytest.approx(true, abs=0.35)
    page.reload()
    expect(page.locator("#figures dd")).to_have_count(4)
    as_found = figures(page)
    assert as_found == pytest.approx(true, abs=0.35)

    # An edge that lies wrong is set by keys, and is kept.
    page.click('[data-edge="3"]')
    grip = page.locator('[data-grip="Outer edge, right, 3"]')
    grip.focus()
    with page.expect_response(re.compile("/measure$")):
        for _ in range(2):
            page.keyboard.press("Shift+ArrowDown")
    expect(page.locator("#measure.busy")).to_have_count(0)
    moved = figures(page)
    assert moved[:2] == as_found[:2]
    assert 0.2 < moved[2] - as_found[2] < 1.6
    # A thumb that slipped is taken back; what was set by keys stays.
    drag(page, "Known length, end 1", (taken.marks.known[0][0] + 120, taken.marks.known[0][1]))
    expect(page.locator("#measure.busy")).to_have_count(0)
    assert figures(page)[0] > 1.1 * moved[0]
    with page.expect_response(re.compile("/measure$")):
        page.click("#undo")
    expect(page.locator("#measure.busy")).to_have_count(0)
    assert figures(page)[:3] == pytest.approx(moved[:3], abs=0.11)
    page.fill("#known", "a foot or so")
    page.locator("#known").blur()
    expect(page.locator("#measure-problem")).to_be_visible()
    page.fill("#known", "50 mm")
    with page.expect_response(re.compile("/measure$")):
        page.locator("#known").blur()
    expect(page.locator("#measure-problem")).to_be_hidden()

    with page.expect_navigation(url=re.compile("photograph=")):
        page.click("#use")
    expect(page.locator("#bead_width_mm")).to_have_value(re.compile(r"^8\.\d+ mm$"))
    expect(page.locator("#seconds")).to_have_value("31")  # typed before the picture was sent
    record(page, length_mm="100")
    expect(page.locator(".ladder .coupon-picture img")).to_be_visible()

    # The third, with the change that was proposed or the same again.
    if page.locator("#take").count():
        page.click("#take")
        page.wait_for_url(re.compile("/tune$"))
    page.goto(f"/jobs/{job}/coupon")
    record(
        page, bead_width_mm="7.6", border_left_mm="0.9", border_right_mm="1.0", length_mm="100", seconds="30"
    )
    expect(page.locator(".ladder > li")).to_have_count(3)
    expect(page.locator(".ladder .coupon-picture")).to_have_count(1)
    page.click(".ladder .coupon-picture")
    expect(page.locator("h1")).to_contain_text("Coupon 2")


def test_marks_by_touch_on_a_phone(browser, serve, workshop_file, tmp_path):
    """The picture fits a phone, can be made larger, and an edge moves under a finger."""
    server = serve(shutil.copy(workshop_file, tmp_path / "book.sqlite"))
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True, base_url=server.address
    )
    page = context.new_page()
    page.goto("/book")
    page.click("text=Float tank lid")
    page.goto(re.sub(r"/jobs/(\d+).*", r"/jobs/\1/photographs/1", page.url))
    page.wait_for_selector("#figures dd")
    assert page.evaluate("document.documentElement.scrollWidth <= innerWidth")
    before = page.locator("#picture").bounding_box()["width"]
    page.locator('[data-zoom="in"]').tap()
    assert page.locator("#picture").bounding_box()["width"] > 1.4 * before
    page.locator('[data-edge="0"]').tap()
    touch = page.locator('[data-grip="Outer edge, left, 1"] .touch').bounding_box()
    assert min(touch["width"], touch["height"]) >= 43
    context.close()
