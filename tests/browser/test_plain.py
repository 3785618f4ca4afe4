"""What a new user meets: the first page, a stop, something wrong, the strip of a phone, low windows, the clock."""

import re

import pytest
from playwright.sync_api import expect
from tests.browser.fingers import middle, swipe
from tests.browser.test_own_machine import Thumb

MOST_TAPS_TO_A_CAUSE, MOST_TAPS_OF_A_COUPON = 3, 12


@pytest.fixture
def phone(open_desk):
    return open_desk(width=390, height=844, has_touch=True, is_mobile=True)


@pytest.mark.parametrize("station", ["prep", "tune", "read", "card"])
def test_a_cause_is_three_taps_away_from_every_page_of_a_job(phone, job_id, station):
    phone.goto(f"/jobs/{job_id('Float tank')}/{station}")
    thumb = Thumb(phone)
    thumb.tap(phone.get_by_role("link", name="Something wrong?"))
    thumb.tap(phone.locator(".sign-grid label", has_text="Border too wide"))
    thumb.tap(phone.get_by_role("button", name="Find the cause"))
    expect(phone.locator(".next-change .what")).to_be_visible()
    assert thumb.taps <= MOST_TAPS_TO_A_CAUSE
    # The newest coupon's border is within its aim: that is said before anything is proposed.
    expect(phone.locator("#causes .notice")).to_contain_text(
        "The numbers speak against it: border against its aim"
    )


def test_a_cause_from_the_first_page_and_by_search(phone, job_id):
    phone.goto("/book")
    thumb = Thumb(phone)
    thumb.tap(phone.get_by_role("link", name="Something wrong?"))
    thumb.tap(phone.get_by_role("link", name="Pores"))
    expect(phone.locator(".cause.first")).to_be_visible()  # what usually causes it stands here already
    thumb.tap(phone.locator(".job-picks a", has_text="Float tank lid"))
    phone.wait_for_url(re.compile(rf"/jobs/{job_id('Float tank')}/faults\?sign=pores#causes"))
    expect(phone.locator(".next-change")).to_be_visible()
    assert thumb.taps <= MOST_TAPS_TO_A_CAUSE
    for words, sign in {
        "soot": "Soot, grey dust",
        "porosity": "Pores",
        "dirty arc": "Hard start, the arc wanders",
        "cracks": "Crack along the middle",
    }.items():
        phone.goto("/book")
        phone.fill("#find", words)
        phone.press("#find", "Enter")
        expect(phone.locator(".signs-found a", has_text=sign)).to_be_visible()


def test_a_stop_stands_first_on_every_page_of_the_job(phone, job_id):
    job = job_id("Keel bracket")
    for station in ("job", "prep", "torch", "tune", "coupon", "read", "card", "ladder-sheet", "map", "power"):
        phone.goto(f"/jobs/{job}/{station}")
        stop = phone.locator(".stop-line li").first
        expect(stop, station).to_contain_text("Stop The joint wants")
        box = stop.bounding_box()
        assert box["y"] + box["height"] < 300, station
    phone.emulate_media(media="print")
    for station in ("card", "ladder-sheet"):
        phone.goto(f"/jobs/{job}/{station}")
        expect(phone.locator(".sheet .stop-line li")).to_be_visible()
    phone.emulate_media(media="screen")
    # It goes as soon as the settings no longer break it, and comes when they do.
    phone.goto(f"/jobs/{job_id('Float tank')}/tune")
    expect(phone.locator("#stop-line li")).to_have_count(0)
    phone.fill("#lane-amps_run", "250")
    phone.press("#lane-amps_run", "Enter")
    expect(phone.locator("#stop-line li").first).to_contain_text("it melts through")


def test_the_strip_stays_in_view_while_a_thumb_moves_a_lane(phone, job_id):
    phone.goto(f"/jobs/{job_id('Survey raft')}/tune")
    lanes = phone.locator(".lane:visible")
    assert [lanes.nth(n).get_attribute("data-key") for n in range(lanes.count())] == [
        "amps_set", "amps_run", "ep_share", "frequency_hz", "flow_l_min",
    ]  # fmt: skip
    lane = phone.locator('.lane[data-key="ep_share"]')
    lane.scroll_into_view_if_needed()
    phone.evaluate(
        "() => document.querySelector('.lane[data-key=ep_share]').scrollIntoView({block: 'center'})"
    )
    bars = phone.locator("#margins")
    before = bars.inner_text()
    x, y = middle(lane.locator(".tab"))
    swipe(phone, (x, y), (x + 60, y))
    expect(bars).not_to_have_text(before)
    strip = phone.locator(".outcome-live").bounding_box()
    assert 0 <= strip["y"] <= 1
    assert strip["height"] < 844 / 4
    # Nothing in it is too small to read.
    sizes = phone.evaluate(
        """() => [...document.querySelectorAll('.outcome-live *')]
          .filter((each) => each.checkVisibility() && [...each.childNodes].some((one) => one.nodeType === 3 && one.data.trim()))
          .map((each) => parseFloat(getComputedStyle(each).fontSize))"""
    )
    assert min(sizes) >= 14


@pytest.mark.parametrize(("width", "height"), [(320, 256), (667, 375)])
@pytest.mark.parametrize("station", ["tune", "coupon", "card"])
def test_low_windows_are_content(open_desk, job_id, station, width, height):
    """At four times the size, and on a phone laid down, nothing stays in the way, and nothing runs off sideways."""
    page = open_desk(width=width, height=height, has_touch=True, is_mobile=True)
    page.goto(f"/jobs/{job_id('Float tank')}/{station}")
    covered = page.evaluate(
        """() => [...document.querySelectorAll('body *')]
          .filter((each) => ['fixed', 'sticky'].includes(getComputedStyle(each).position) && each.checkVisibility())
          .map((each) => each.getBoundingClientRect().height).reduce((a, b) => a + b, 0)"""
    )
    assert covered <= height / 3
    assert page.evaluate("document.documentElement.scrollWidth") <= width


def test_the_gas_is_timed_after_the_arc(phone, job_id):
    phone.goto(f"/jobs/{job_id('Float tank')}/coupon")
    clock, gas = phone.locator("#clock"), phone.locator("#gas-left")
    expect(gas).to_be_hidden()
    clock.tap()
    expect(clock).to_contain_text("Stop")
    clock.tap()
    expect(gas).to_contain_text(re.compile(r"leave the torch over the end for [678] s"))
    assert float(phone.input_value("#seconds")) >= 0
    phone.reload()
    expect(gas).to_contain_text("leave the torch over the end")
    clock.tap()  # the next run
    expect(gas).to_be_hidden()


def test_a_coupon_by_touch(phone, job_id):
    phone.goto(f"/jobs/{job_id('Float tank')}/coupon")
    wanted = phone.locator(".outcome", has_text="Wanted").bounding_box()
    record = phone.get_by_role("button", name="Record it")
    assert wanted["y"] < record.bounding_box()["y"]
    thumb = Thumb(phone)
    thumb.tap(phone.locator("#clock"))
    thumb.tap(phone.locator("#clock"))
    for name, text in {
        "bead_width_mm": "6.1",
        "border_left_mm": "1.0",
        "border_right_mm": "0.9",
        "seconds": "28",
    }.items():
        thumb.tap(phone.locator(f"#{name}"))
        assert phone.get_attribute(f"#{name}", "inputmode") == "decimal"  # the number pad
        thumb.type(name, text)
    for name, place in {"judged_bright": 2, "judged_specks": 0, "overall": 0}.items():
        thumb.tap(phone.locator(f"label:has(input[name={name}])").nth(place))
    thumb.tap(record)
    expect(phone.locator("h1.verdict")).to_be_visible()
    assert thumb.taps <= MOST_TAPS_OF_A_COUPON
    phone.goto(f"/jobs/{job_id('Float tank')}/read")
    expect(phone.locator(".coupon-picture img").first).to_be_visible()


def test_an_empty_logbook_opens_the_first_job(browser, serve, tmp_path):
    server = serve(tmp_path / "empty.sqlite")
    page = browser.new_page()
    page.goto(f"http://127.0.0.1:{server.port}/")
    expect(page.locator(".welcome .lead")).to_contain_text("the metal, its thickness and the joint")
    expect(page.locator(".welcome svg")).to_be_visible()
    expect(page.locator("body")).not_to_contain_text("0 jobs")
    page.get_by_role("link", name="Plan the first job").click()
    page.fill("#a_alloy", "5052")
    page.fill("#a_thickness", "2")
    page.get_by_role("button", name="Plan it", exact=True).click()
    expect(page.locator("#set-line")).to_be_visible()
    page.close()
