"""A coupon recorded with gloves on: the clock, steps instead of typing, scales to tap, and nothing lost by a reload."""

import re

import pytest
from playwright.sync_api import expect


@pytest.fixture
def phone(open_desk):
    """A phone on a book of its own."""
    return open_desk(390, 844, has_touch=True, is_mobile=True)


def place(page, name, value):
    return page.locator(f'.place:has([name={name}][value="{value}"])')


def test_twelve_taps_and_nothing_but_figures(phone):
    """Clock, three measures, four scales and a judgement on a phone: at most 12 taps, and a reload in the middle loses nothing."""
    taps = 0

    def tap(selector):
        nonlocal taps
        (phone.locator(selector) if isinstance(selector, str) else selector).tap()
        taps += 1

    phone.goto("/jobs/8/coupon")
    tap("#clock")
    expect(phone.locator("#clock")).to_contain_text(re.compile(r"Stop: \d+ s"))
    phone.reload()
    expect(phone.locator("#clock")).to_contain_text(re.compile(r"Stop: [1-9]\d* s"))
    tap("#clock")
    expect(phone.locator("#clock")).to_have_text("Start the clock")
    assert 0.5 <= float(phone.locator("#seconds").input_value()) < 600
    phone.fill("#seconds", "28")  # the run of this test was shorter than a weld
    for field, figures in (("bead_width_mm", "6.2"), ("border_left_mm", "0.4"), ("border_right_mm", "0.6")):
        tap(f"#{field}")
        phone.keyboard.type(figures)
    for name, value in (("judged_bright", 2), ("judged_specks", 1), ("judged_toes", 2), ("judged_even", 2)):
        tap(place(phone, name, value))
    tap(place(phone, "overall", "nearly"))
    phone.reload()
    expect(phone.locator("#bead_width_mm")).to_have_value("6.2")
    expect(phone.locator('[name=judged_specks][value="1"]')).to_be_checked()
    tap("text=Record it")
    expect(phone.locator("h1.verdict")).to_be_visible()
    assert taps <= 12
    expect(phone.locator(".judged")).to_contain_text("Skin bright, Specks a few, Toes wet, Ripples even")
    expect(phone.locator(".ladder")).to_contain_text("nearly")


def test_steps_as_last_time_and_the_space_bar(page):
    page.goto("/jobs/10/coupon")
    expected = page.locator(".outcome dd", has_text="bead").locator("b").nth(1).inner_text()
    more = page.get_by_role("button", name="More bead width")
    more.click()
    expect(page.locator("#bead_width_mm")).to_have_value(expected.removesuffix(" mm"))
    more.click()
    assert float(page.locator("#bead_width_mm").input_value()) == pytest.approx(
        float(expected.split()[0]) + 0.1
    )
    for typed, after in (("5 mm", "4.9 mm"), ("0.05", "0.0"), ("1/8", "1/8")):
        page.fill("#bead_width_mm", typed)
        page.get_by_role("button", name="Less bead width").click()
        expect(page.locator("#bead_width_mm")).to_have_value(after)
    page.get_by_role("button", name="More length of the run").click()
    expect(page.locator("#length_mm")).to_have_value("110 mm")
    # What was seen last time comes back where nothing was said yet, and can be taken back.
    place(page, "judged_bright", 0).click()
    page.locator("#as-last").click()
    expect(page.locator('[name=judged_bright][value="0"]')).to_be_checked()
    expect(page.locator("#bead_width_mm")).to_have_value("1/8")
    expect(page.locator("[name=judged_specks][value='']")).not_to_be_checked()
    place(page, "judged_specks", "").click()
    expect(page.locator("[name=judged_specks][value='']")).to_be_checked()
    # The space bar is the clock's unless somebody types.
    page.locator("h1").click()
    page.keyboard.press("Space")
    expect(page.locator("#clock")).to_have_class(re.compile("running"))
    page.locator("#note").focus()
    page.keyboard.type("a b")
    expect(page.locator("#note")).to_have_value("a b")
    expect(page.locator("#clock")).to_have_class(re.compile("running"))
    page.locator("h1").click()
    page.keyboard.press("Space")
    expect(page.locator("#seconds")).to_have_value(re.compile(r"^\d+\.\d$"))
    # By keys alone: a scale is one stop, and arrows move on it.
    place(page, "judged_toes", "").locator("input").focus()
    page.keyboard.press("ArrowLeft")
    expect(page.locator('[name=judged_toes][value="3"]')).to_be_checked()
    page.get_by_role("button", name="Delete it").click() if page.get_by_role(
        "button", name="Delete it"
    ).count() else None
    page.evaluate("localStorage.clear()")


def test_a_coupon_moves_the_machine(phone):
    """Coupons recorded, read on the machine's page, one left out, the job planned again from them."""
    for width in ("8.8", "9.0", "9.1", "8.9"):
        phone.goto("/jobs/8/coupon")
        for field, figures in {
            "bead_width_mm": width,
            "border_left_mm": "0.4",
            "border_right_mm": "0.4",
            "seconds": "28",
        }.items():
            phone.fill(f"#{field}", figures)
        phone.get_by_role("button", name="Record it").tap()
        expect(phone.locator("h1.verdict")).to_be_visible()
    phone.goto("/jobs/8/tune")
    expect(phone.locator("#known")).to_contain_text(
        "4 of your coupons on this machine and kit say more by now"
    )
    phone.goto("/shop/machines/1")
    phone.get_by_role("link", name="What its coupons say").tap()
    expect(phone.locator("h1")).to_have_text("What your coupons say of Curlew 220")
    phone.locator("tr", has_text="coupon 4").get_by_role("button", name="Leave it out").tap()
    expect(phone.locator("tr.left-out")).to_contain_text("left out")
    expect(phone.locator("section p").first).to_contain_text("3 coupons count")
    phone.goto("/jobs/8/job")
    phone.get_by_role("button", name="Plan again").tap()
    expect(phone.locator("#known")).to_contain_text(
        "From 3 of your coupons on this machine and kit: amps within"
    )


def test_a_fault_through_two_proposals(phone):
    """Signs tapped, the first cause tried without help, the next one set for the next coupon."""
    phone.goto("/jobs/8/read")
    phone.get_by_role("link", name="Something is wrong with a bead").tap()
    place(phone, "sign", "hard_start").tap()
    place(phone, "sign", "end_grey").tap()
    phone.get_by_role("button", name="Find the cause").tap()
    first = phone.locator(".cause.first b").first
    said = phone.locator(".next-change .what")
    expect(said).to_be_visible()
    for _ in range(6):
        was = first.inner_text()
        phone.get_by_role("button", name="It did not: next").tap()
        expect(first).not_to_have_text(was)
        if phone.get_by_role("button", name="Set it for the next coupon").count():
            break
    expect(place(phone, "sign", "hard_start").locator("input")).to_be_checked()
    wanted = said.inner_text()
    phone.get_by_role("button", name="Set it for the next coupon").tap()
    expect(phone.locator(".revision").first).to_contain_text(wanted.split(".")[0])


def test_the_days_check_goes_out(phone):
    """Seven mornings as usual, and one that is not: gas, tungsten, cleanliness, in that order, before any setting."""
    for border in (0.9, 1.0, 1.1, 0.9, 1.0, 1.1, 1.0, 0.2):
        phone.goto("/jobs/8/coupon")
        for field, figures in {
            "bead_width_mm": "5",
            "border_left_mm": str(border),
            "border_right_mm": str(border),
            "seconds": "28",
        }.items():
            phone.fill(f"#{field}", figures)
        phone.get_by_role("button", name="Record it").tap()
        expect(phone.locator("h1.verdict")).to_be_visible()
        if border == 1.1:
            phone.goto("/jobs/8/day")
            expect(phone.locator(".outcome h2")).to_have_text(re.compile("As usual|When a run is out"))
    phone.goto("/jobs/8/read")
    phone.get_by_role("link", name="Day’s check").tap()
    expect(phone.locator(".outcome h2")).to_have_text("Out of what is usual: border")
    expect(phone.locator(".outcome li").first).to_contain_text("Gas: flow at the cup")
    expect(phone.locator(".run-out")).to_have_count(1)
    expect(phone.locator("svg[aria-label='Border']")).to_be_visible()


def test_a_series_by_touch(phone):
    """From choice to a kept version on a phone: a ready-made series, its sheet typed in, told, and saved."""
    phone.goto("/jobs/8/coupon")
    phone.get_by_role("link", name="run a test series").tap()
    phone.get_by_role("link", name="Three balances").tap()
    expect(phone.locator(".must-show")).to_contain_text("of border")
    expect(phone.locator(".runs li")).to_have_count(3)
    expect(phone.locator("#beads")).to_have_value("3")  # what tells it from the scatter
    phone.select_option("#beads", "1")
    phone.get_by_role("button", name="Run this series").tap()
    expect(phone.locator("h1")).to_contain_text("Three balances")
    for run, border in enumerate(("0.4", "0.9", "1.5"), 1):
        for name, typed in (
            ("seconds", "28"), ("bead_width_mm", "5"), ("border_left_mm", border), ("border_right_mm", border)
        ):  # fmt: skip
            phone.fill(f"#r{run}_1_{name}", typed)
        if run == 2:  # a reload in the middle loses nothing
            phone.reload()
            expect(phone.locator("#r1_1_border_left_mm")).to_have_value("0.4")
    phone.get_by_role("button", name="Record these coupons").tap()
    expect(phone.locator(".series-told .said")).to_contain_text("The border changes with it")
    expect(phone.locator("tr.recorded")).to_have_count(3)
    # What is drawn can be read on a phone.
    least = phone.evaluate(
        """() => Math.min(...[...document.querySelectorAll(".series-told svg text")].map((text) =>
          parseFloat(getComputedStyle(text).fontSize) * text.getScreenCTM().a))"""
    )
    assert least >= 14
    phone.locator("#keep-pointed").tap()
    expect(phone.locator(".told").first).to_contain_text("Saved as the newest version")
    expect(phone.locator(".revision").first).to_contain_text("Three balances")


def test_a_day_by_looks_alone(phone):
    """A taps-only coupon, then seven mornings of one figure and three taps: what is missing is asked for, and dull is out."""
    phone.goto("/jobs/8/coupon")
    place(phone, "judged_specks", "3").tap()
    place(phone, "overall", "no").tap()
    phone.get_by_role("button", name="Record it").tap()
    expect(phone.locator("h1.verdict")).to_have_text("Black specks in the bead")
    expect(phone.locator(".next-change")).to_contain_text("The likeliest cause")
    expect(phone.locator(".said")).to_contain_text("Not measured: bead width")
    expect(phone.locator(".station", has_text="Result")).to_contain_text("by sight")
    for morning in range(7):
        phone.goto("/jobs/8/day")
        if morning == 0:
            place(phone, "judged_bright", "2").tap()
            phone.get_by_role("button", name="Record today’s").tap()
            expect(phone.locator("#problem-bead_width_mm")).to_contain_text("measure one thing")
            expect(place(phone, "judged_bright", "2").locator("input")).to_be_checked()
        phone.fill("#border_left_mm", "0.9" if morning % 2 else "1.0")
        place(phone, "judged_bright", "0" if morning == 6 else "2").tap()
        place(phone, "judged_specks", "0").tap()
        place(phone, "overall", "keep").tap()
        phone.get_by_role("button", name="Record today’s").tap()
        expect(phone.locator(".form-side p").first).to_contain_text(f"{morning + 2} of them so far")
    expect(phone.locator(".outcome h2")).to_have_text("Out of what is usual: skin")
    expect(phone.locator(".facts")).to_contain_text("dull, usually bright")
    phone.goto("/jobs/8/recipe?revision=1")
    expect(phone.get_by_role("button", name="Save it")).to_be_visible()
