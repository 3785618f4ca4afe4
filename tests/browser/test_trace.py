"""A trace of the current, from its file to a knob that stands right and a plan that has moved: on a phone, by fingers."""

import re

from playwright.sync_api import expect
from tests.browser.fingers import settled
from tests.browser.test_access import EVERYTHING, serious
from tests.web.test_trace import trace_file

from anvilsong.core.arc.waveform import Wave


def pinch(page, locator, apart, to):
    """Two fingers on a drawing, so many pixels from its middle, moved to so many."""
    box, client = locator.bounding_box(), page.context.new_cdp_session(page)
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    for kind, wide in (
        ("touchStart", apart),
        *(("touchMove", apart + (to - apart) * n / 6) for n in range(1, 7)),
    ):
        points = [{"x": x - wide, "y": y, "id": 0}, {"x": x + wide, "y": y, "id": 1}]
        client.send("Input.dispatchTouchEvent", {"type": kind, "touchPoints": points})
    client.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
    settled(page)


def seen_s(canvas):
    return float(canvas.get_attribute("data-wide")), float(canvas.get_attribute("data-from"))


def test_a_trace_corrects_a_knob_and_the_plan_moves_its_place(open_desk):
    page = open_desk(390, 844, has_touch=True, bypass_csp=True)
    page.goto("/jobs/new")
    page.fill("#a_alloy", "6061")
    page.fill("#a_thickness", "3 mm")
    page.evaluate("document.querySelectorAll('details').forEach((box) => (box.open = true))")
    page.select_option("#machine", "Plover 200")
    page.click("text=Plan it")
    page.wait_for_url(re.compile(r"/jobs/\d+/"))
    job = re.search(r"/jobs/(\d+)", page.url)[1]
    page.goto(f"/jobs/{job}/as-set")
    planned = page.input_value("#ep_share")

    # The panel's figures come from the plan; a file that is no trace is refused, and they stay.
    page.goto(f"/shop/machines/4/trace?job={job}")
    assert page.input_value("#ep_share") == planned
    page.set_input_files(
        "#file", {"name": "notes.csv", "mimeType": "text/csv", "buffer": b"name,remark\n" * 90}
    )
    page.click("text=What flows?")
    expect(page.locator(".problem-box")).to_contain_text("no table of numbers")
    assert page.input_value("#ep_share") == planned

    # What flows cleans a good deal less than the knob was thought to.
    wave = Wave(90.0, 0.22, 110.0, 0.0, "soft", "soft")
    page.set_input_files("#file", {"name": "arc.csv", "mimeType": "text/csv", "buffer": trace_file(wave, 3)})
    page.click("text=What flows?")
    row = page.locator('tr[data-setting="ep_share"]')
    expect(row).to_contain_text("less than set")
    expect(row).to_contain_text("22 % EP")
    expect(page.locator("#told")).to_contain_text("Sure.")

    # Zoomed by two fingers, moved by one, by keys back to all of it.
    canvas = page.locator("#trace-canvas")
    canvas.scroll_into_view_if_needed()
    expect(canvas).to_have_attribute("data-wide", "0.5600")
    pinch(page, canvas, 30, 120)
    wide, start = seen_s(canvas)
    assert 0.12 < wide < 0.16
    assert 0.18 < start < 0.24  # what lay between the fingers still lies there
    page.click("#trace-in")
    expect(canvas).not_to_have_attribute("data-wide", f"{wide:.4g}")
    expect(page.locator("#trace-span")).to_contain_text("ms, −9")
    canvas.press("End")
    for _ in range(6):
        canvas.press("-")
    expect(canvas).to_have_attribute("data-wide", "0.5600")
    expect(canvas).to_have_attribute("data-from", "0.000")
    assert serious(page, EVERYTHING) == []
    assert page.evaluate("document.documentElement.scrollWidth") <= 390

    # One tap makes it a place of the knob; planned again, the job has the knob further round.
    row.locator("button").click()
    expect(page.locator("#told")).to_be_visible()
    expect(page.locator('tr[data-setting="ep_share"] td >> nth=2')).to_have_text("as set")
    page.click("#plan-again")
    page.wait_for_url(re.compile("/tune$"))
    page.goto(f"/jobs/{job}/as-set")

    def hours(text):
        hour, _, minutes = text.removesuffix(" o’clock").partition(":")
        return (int(hour) + (12 if int(hour) < 6 else 0)) + int(minutes) / 60

    assert hours(page.input_value("#ep_share")) > hours(planned) + 0.5
