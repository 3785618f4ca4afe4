"""Hands on it: nothing typed is lost, nothing moves by itself. By touch, by keyboard, with the server stopped in the middle."""

import re
import shutil

import pytest
from playwright.sync_api import expect
from tests.browser.fingers import middle, settled, swipe


@pytest.fixture
def touch(browser, served):
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True, base_url=served
    )
    page = context.new_page()
    page.set_default_timeout(180_000)
    yield page
    context.close()


def switch_units(page):
    """Press the switch, and wait for the page that comes back in the other units."""
    page_units = page.locator("html")
    other = {"mm": "inch", "inch": "mm"}[page_units.get_attribute("data-units")]
    page.locator("#units").click()
    expect(page_units).to_have_attribute("data-units", other)
    page.wait_for_load_state()  # what was typed comes back by the page's scripts


def test_a_thumb_that_scrolls_changes_nothing(touch, job_id):
    touch.goto(f"/jobs/{job_id('Survey raft')}/tune")
    lane = touch.locator('.lane[data-key="amps_set"]')
    amps = touch.locator("#lane-amps_set")
    lane.scroll_into_view_if_needed()
    before, top = amps.input_value(), touch.evaluate("scrollY")
    for grip in (".track", ".tab"):
        x, y = middle(lane.locator(grip))
        swipe(touch, (x, y), (x + 3, y - 160))
        assert amps.input_value() == before
        assert touch.evaluate("scrollY") > top
        touch.evaluate(f"scrollTo(0, {top})")
    # A tap beside the tab only marks a place; the second one goes there.
    box = lane.locator(".track").bounding_box()
    far = (box["x"] + box["width"] * 0.25, box["y"] + 20)
    touch.touchscreen.tap(*far)
    expect(lane.locator(".aim")).to_contain_text("tap again")
    assert amps.input_value() == before
    touch.touchscreen.tap(*far)
    expect(lane.locator(".aim")).to_have_count(0)
    assert amps.input_value() != before
    # The tab itself is drawn sideways.
    touch.wait_for_load_state("networkidle")
    settled(touch)  # warnings above may still move the lane
    held = amps.input_value()
    x, y = middle(lane.locator(".tab"))
    swipe(touch, (x, y), (x + 60, y + 2))
    assert float(amps.input_value()) > float(held)
    # On the wave too: up and down scrolls, sideways drags.
    wave = touch.locator("#wave")
    wave.scroll_into_view_if_needed()
    kept = {
        key: touch.locator(f"#lane-{key}").input_value() for key in ("amps_set", "ep_share", "frequency_hz")
    }
    for key in kept:
        if touch.locator(f'[data-handle="{key}"]').count():
            x, y = middle(touch.locator(f'[data-handle="{key}"]'))
            swipe(touch, (x, y), (x + 2, y - 60))
    assert {key: touch.locator(f"#lane-{key}").input_value() for key in kept} == kept
    for spot in ("#wave svg", '#wave [data-handle="ep_share"]'):
        wave.scroll_into_view_if_needed()
        x, y = middle(touch.locator(spot))
        top = touch.evaluate("scrollY")
        swipe(touch, (x, y), (x + 2, y + 90))
        assert touch.evaluate("scrollY") < top, spot


TYPED = [
    ("flow_l_min", "15 cfh", "7.1"),
    ("flow_l_min", "7 lpm", "7.0"),
    ("ep_share", "70 EN", "30"),
    ("ep_share", "32 %", "32"),
    ("travel_mm_s", "8.5 in/min", "3.6"),
    ("stick_out_mm", "1/4", "6.3"),
]  # fmt: skip
REFUSED = [
    ("amps_set", "half", "“half” cannot be used; type a number"),
    ("amps_set", "250", "Curlew 220 goes from 5 A to 220 A"),
    ("flow_l_min", "abc", "type a flow such as 8 L/min or 17 cfh"),
    ("amps_set", "3,2", "Curlew 220 goes from 5 A to 220 A"),
]


def test_lanes_read_as_every_field_does(page, job_id):
    page.goto(f"/jobs/{job_id('Survey raft')}/tune")
    revision = page.locator(".revision").first.inner_text()
    for box in page.locator("details.lane-group").all():
        box.evaluate("box => (box.open = true)")
    for key, typed, shown in TYPED:
        page.fill(f"#lane-{key}", typed)
        page.keyboard.press("Tab")
        expect(page.locator(f"#lane-{key}")).to_have_value(shown)
    before = page.locator('#set-line [data-set="amps_set"] .on-panel b').inner_text()
    for key, typed, said in REFUSED:
        page.fill(f"#lane-{key}", typed)
        page.keyboard.press("Tab")
        lane = page.locator(f'.lane[data-key="{key}"]')
        expect(lane.locator(".lane-problem")).to_contain_text(said)
        expect(page.locator(f"#lane-{key}")).to_have_value(typed)
    assert page.locator('#set-line [data-set="amps_set"] .on-panel b').inner_text() == before
    # Kept all the same: the page comes back with the sentence, and nothing was stored.
    page.get_by_role("button", name="Save these settings").click()
    expect(page.locator("#problems")).to_contain_text("“3,2” cannot be used")
    expect(page.locator("#problems")).to_be_focused()
    expect(page.locator("#lane-amps_set")).to_have_value("3,2")
    expect(page.locator(".revision").first).to_contain_text(revision)


def test_the_board_is_a_draft_until_it_is_kept(page, job_id):
    job = job_id("Rigger bracket")
    page.goto(f"/jobs/{job}/tune")
    page.fill("#lane-ep_share", "37")
    page.keyboard.press("Tab")
    expect(page.locator("#draft")).to_be_visible()
    for leave in (
        lambda: (page.keyboard.press("2"), page.wait_for_url("**/prep")),
        lambda: page.reload(),
        lambda: switch_units(page),
        lambda: page.goto("/book"),
    ):
        page.evaluate("document.activeElement.blur()")
        leave()
        page.goto(f"/jobs/{job}/tune")
        expect(page.locator("#lane-ep_share")).to_have_value("37")
        expect(page.locator("#draft")).to_be_visible()
    switch_units(page)
    # A coupon asks which of the two was run.
    page.get_by_role("link", name="Run a coupon").click()
    expect(page.locator("#which-settings")).to_contain_text("AC balance 37 % EP")
    for name, value in {
        "bead_width_mm": "7",
        "border_left_mm": "1",
        "border_right_mm": "1",
        "seconds": "28",
    }.items():
        page.fill(f"#{name}", value)
    page.get_by_role("button", name="Record it").click()
    expect(page).to_have_url(re.compile("/coupon"))  # nothing chosen yet
    page.get_by_label("The board as you left it").check()
    page.get_by_role("button", name="Record it").click()
    expect(page.locator(".verdict")).to_be_visible()
    page.goto(f"/jobs/{job}/tune")
    expect(page.locator(".revision").first).to_contain_text("Tuned: as it was run")
    expect(page.locator("#lane-ep_share")).to_have_value("37")
    expect(page.locator("#draft")).to_be_hidden()


def test_forms_keep_what_was_typed(page):
    """Job, kit, machine and welder: reload, units, another station, back."""
    page.goto("/jobs/new")
    page.fill("#title", "Thwart knee")
    page.fill("#a_alloy", "6082")
    page.fill("#a_thickness", "4 mm")
    page.locator("#assumed > summary").click()
    page.locator(".chip-check", has_text="strength").click()
    page.reload()
    expect(page.locator("#a_alloy")).to_have_value("6082")
    expect(page.locator(".draft-back")).to_contain_text("It is not stored yet")
    switch_units(page)
    expect(page.locator("#a_thickness")).to_have_value("4 mm")
    switch_units(page)
    page.goto("/shop/kits/new")
    page.fill("#name", "Boat kit")
    page.get_by_role("group", name="Plain cups").get_by_text("12", exact=True).click()
    page.get_by_text("Add a torch").click()
    page.fill("#torch0_name", "Long arm")
    page.goto("/shop/machines/new/rows")
    page.fill("#name", "Sandpiper 190")
    page.fill("[name=c1_label]", "Grit")
    page.goto("/shop/welders/new")
    page.fill("#name", "Ilse")
    page.goto("/shop/kits/new")
    expect(page.locator("[name='cup 12']")).not_to_be_checked()
    expect(page.locator("#torch0_name")).to_have_value("Long arm")
    page.goto("/shop/machines/new/rows")
    expect(page.locator("[name=c1_label]")).to_have_value("Grit")
    page.goto("/shop/welders/new")
    expect(page.locator("#name")).to_have_value("Ilse")
    page.get_by_role("button", name="Save").click()
    expect(page.locator("h1")).to_contain_text("How Ilse likes to work")
    page.goto("/shop/welders/new")
    expect(page.locator("#name")).to_have_value("")
    page.goto("/jobs/new")
    expect(page.locator("[name=purposes_strength]")).to_be_checked()
    page.get_by_role("button", name="Plan it", exact=True).click()
    expect(page.locator("#set-line")).to_be_visible()
    page.goto("/jobs/new")
    expect(page.locator("#title")).to_have_value("")
    page.goto("/shop/kits/new")
    page.get_by_role("button", name="Delete it").click()
    expect(page.locator("[name='cup 12']")).to_be_checked()


def test_a_corrected_coupon_starts_from_all_of_it(page, job_id):
    job = job_id("Deck plate")
    page.goto(f"/jobs/{job}/coupon")
    typed = {
        "bead_width_mm": "7.25 mm",
        "border_left_mm": "1/16",
        "border_right_mm": "1,5",
        "seconds": "65",
        "length_mm": "6 in",
    }
    for name, value in typed.items():
        page.fill(f"#{name}", value)
    page.locator('.place:has([name=judged_bright][value="2"])').click()
    page.locator(".place:has([name=crater][value=hollow])").click()
    page.get_by_role("button", name="Record it").click()
    expect(page.locator(".verdict")).to_be_visible()
    page.get_by_role("link", name="correct").click()
    for name, value in typed.items():
        expect(page.locator(f"#{name}")).to_have_value(value)
    expect(page.locator('[name=judged_bright][value="2"]')).to_be_checked()
    expect(page.locator("[name=crater][value=hollow]")).to_be_checked()
    switch_units(page)  # comes back to the same coupon, and changes nothing that was typed
    expect(page.locator("h1")).to_contain_text("Correct coupon 1")
    expect(page.locator("#border_left_mm")).to_have_value("1/16")
    switch_units(page)
    page.goto(f"/jobs/{job}/tune?revision=1&compare=1")
    switch_units(page)
    expect(page).to_have_url(re.compile(r"revision=1&compare=1"))
    switch_units(page)


def test_units_switched_in_another_window(page):
    """A form that was opened in millimetres never sends its figures as inches."""
    page.goto("/shop/kits/1")
    page.fill("#torch0_hose", "7")
    other = page.context.new_page()
    other.goto("/book")
    switch_units(other)
    page.bring_to_front()
    page.evaluate("dispatchEvent(new Event('focus'))")
    expect(page.locator("html")).to_have_attribute("data-units", "inch")
    expect(page.locator("#torch0_hose")).to_have_value("7 m")
    page.get_by_role("button", name="Delete it").click()
    switch_units(other)
    other.close()


def test_first_settings_from_an_empty_book(browser, serve, tmp_path):
    """Nobody has typed anything yet: the first settings in at most 6 taps and 3 fields, on a phone."""
    server = serve(tmp_path / "new.sqlite")
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, has_touch=True, is_mobile=True, base_url=server.address
    )
    page, taps, fields = context.new_page(), 0, 0
    try:
        page.goto("/")
        for selector, typed in (
            ("a.act", None),
            ("#a_alloy", "6061"),
            ("#a_thickness", "3 mm"),
            ('.tile:has-text("Tee")', None),
            ("button.act", None),
        ):
            page.locator(selector).first.tap()
            taps += 1
            if typed:
                page.keyboard.type(typed)
                fields += 1
            if selector == "#a_alloy":
                expect(page.locator("#joint-drawing svg")).to_be_visible()
                expect(page.locator("#joint-sample")).to_be_visible()
            if selector == "#a_thickness":
                expect(page.locator("#joint-sample")).to_be_hidden()
                expect(page.locator("#title")).to_have_attribute("placeholder", "Butt, 6061, 3 mm")
                expect(page.locator("#assumed-words")).to_contain_text("no gap, flat, 300 mm long")
        expect(page.locator("#set-line")).to_be_visible()
        expect(page.locator(".job-name strong")).to_have_text("Tee, 6061, 3 mm")
        assert taps <= 6
        assert fields <= 3
        # The machine comes second.
        page.get_by_role("link", name="in my panel’s words").tap()
        page.get_by_role("link", name="Add your machine").tap()
        expect(page.locator("h1")).to_have_text("A new machine")
    finally:
        context.close()


# Address, a field of it, what is typed there, and the button that sends it.
FORMS_KEPT = {
    "job": ("/jobs/8/job", "#weld_length_mm", "410 mm", "Plan again"),
    "kit": ("/shop/kits/1", "#torch0_hose", "7", "Save the kit"),
    "machine": ("/shop/machines/1", "#note", "By the door.", "Save the machine"),
    "welder": ("/shop/welders/1", "#note", "Left-handed.", "Save"),
}


def test_the_server_stops_in_the_middle(browser, serve, workshop_file, tmp_path):
    """What was typed and moved while it is away is there when it comes back, on the same page."""
    data = shutil.copy(workshop_file, tmp_path / "book.sqlite")
    server = serve(data)
    context = browser.new_context(base_url=server.address)
    page, form = context.new_page(), context.new_page()
    try:
        page.goto("/jobs/8/tune")
        form.goto("/jobs/8/coupon")
        others = {name: context.new_page() for name in FORMS_KEPT}
        for name, (address, *_) in FORMS_KEPT.items():
            others[name].goto(address)
        server.kill()
        page.bring_to_front()  # windows behind others draw once a second
        page.locator('.lane[data-key="ep_share"] .more').click()
        page.locator('.lane[data-key="ep_share"] .more').click()
        expect(page.locator("#silence")).to_be_visible()
        page.get_by_role("button", name="Save these settings").click()
        form.bring_to_front()
        for name, value in {
            "bead_width_mm": "7",
            "border_left_mm": "1",
            "border_right_mm": "1",
            "seconds": "28",
        }.items():
            form.fill(f"#{name}", value)
        form.get_by_role("button", name="Record it").click()
        expect(form.locator("#silence")).to_be_visible()
        expect(form.locator("#bead_width_mm")).to_have_value("7")
        for name, (_, field, typed, press) in FORMS_KEPT.items():
            others[name].bring_to_front()
            others[name].fill(field, typed)
            others[name].get_by_role("button", name=press).click()
            expect(others[name].locator("#silence"), name).to_be_visible()
            expect(others[name].locator(field)).to_have_value(typed)
        serve(data, server.port)
        page.bring_to_front()
        expect(page.locator("#silence")).to_be_hidden()
        expect(page.locator('#set-line [data-set="ep_share"] .on-panel b')).to_have_text("32")
        page.get_by_role("button", name="Save these settings").click()
        expect(page.locator(".revision").first).to_contain_text("Version 2")
        form.bring_to_front()
        expect(form.locator("#silence")).to_be_hidden()
        form.get_by_role("button", name="Record it").click()
        expect(form.locator(".verdict")).to_be_visible()
        for name, (address, field, typed, press) in FORMS_KEPT.items():
            others[name].bring_to_front()
            expect(others[name].locator("#silence")).to_be_hidden()
            with others[name].expect_navigation():
                others[name].get_by_role("button", name=press).click()
            expect(others[name].locator("[data-refused]"), name).to_have_count(0)
            others[name].goto(address)
            expect(others[name].locator(field), name).to_have_value(typed)
    finally:
        context.close()


def test_another_window_that_moved_nothing_leaves_the_draft(page, job_id):
    """It was opened before the draft was made, and goes after it; a draft made just before leaving is written."""
    address = f"/jobs/{job_id('Rigger bracket')}/tune"
    other = page.context.new_page()
    for window in (other, page):
        window.goto(address)
        window.wait_for_selector("#wave svg")
    page.locator('.lane[data-key="ep_share"] .more').click()
    moved = page.locator("#lane-ep_share").input_value()
    page.goto("/book")  # at once
    other.goto("/book")
    other.close()
    page.goto(address)
    expect(page.locator("#lane-ep_share")).to_have_value(moved)
    expect(page.locator("#draft")).to_be_visible()
