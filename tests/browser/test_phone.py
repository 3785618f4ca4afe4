"""A phone in the shop: in by the code on the bench's screen, a coupon from its photograph, and a coupon without network."""

import io
import re
import sqlite3
from contextlib import closing

import pytest
import zxingcpp
from PIL import Image
from playwright.sync_api import expect
from tests.browser.fingers import drag

from anvilsong.instruments import Camera, Coupon, photograph
from anvilsong.web.door import set_passphrase

PHONE = {"viewport": {"width": 390, "height": 844}, "has_touch": True, "is_mobile": True}
WORDS = "grind the toes twice"


@pytest.fixture
def shop(data_file, serve):
    set_passphrase(data_file, WORDS)
    return serve(data_file, ANVILSONG_SHOP="1")


@pytest.fixture
def device(browser, shop):
    """Opens a browser of its own, as another device would be; what it complains of fails the test."""
    opened, complaints = [], []

    def open_one(**more):
        context = browser.new_context(base_url=shop.address, **more)
        opened.append(context)
        page = context.new_page()
        page.on("pageerror", lambda error: complaints.append(str(error)))
        return page

    yield open_one
    for context in opened:
        context.close()
    assert complaints == []


def count(data_file, table):
    with closing(sqlite3.connect(data_file)) as connection:
        return connection.execute(f"SELECT count(*) FROM {table}").fetchone()[0]


def come_in(page, who):
    page.fill("#passphrase", WORDS.upper())
    page.click("text=Come in")
    page.get_by_role("button", name=who).click()


def test_from_the_code_to_the_verdict(device, shop, job_id, data_file, tmp_path):
    job = job_id("Rigger bracket")
    bench = device(viewport={"width": 1280, "height": 800})
    bench.goto(f"/jobs/{job}/card")
    expect(bench.get_by_label("Passphrase of the workshop")).to_be_focused()
    bench.fill("#passphrase", "grind the toes once")
    bench.click("text=Come in")
    expect(bench.locator(".problem-box")).to_contain_text("not the passphrase")
    come_in(bench, "Ottilie")
    expect(bench).to_have_url(re.compile(f"/jobs/{job}/card$"))
    bench.get_by_role("link", name="On a phone").click()
    picture = Image.open(io.BytesIO(bench.locator(".ways .first .code").screenshot()))
    link = zxingcpp.read_barcode(picture).text
    assert re.match(r"http://[^/]+/enter\?ticket=", link)

    phone = device(**PHONE)
    phone.goto(link[link.index("/enter") :])
    expect(phone).to_have_url(re.compile(f"/jobs/{job}/card$"))
    expect(phone.locator("#who")).to_have_text("Ottilie")
    phone.goto(f"/jobs/{job}/coupon")
    taken = photograph(
        Coupon(8.4, 1.1, 1.5, 1.4), Camera(width_px=1200, height_px=700, px_per_mm=11.5, turned_deg=4), 12
    )
    file = tmp_path / "coupon.png"
    Image.fromarray(taken.pixels).save(file)
    phone.set_input_files("#photo-file", file)
    phone.get_by_role("button", name="Measure on it").tap()
    for grip, to in (
        ("Known length, end 1", taken.marks.known[0]),
        ("Known length, end 2", taken.marks.known[1]),
        ("Line, where the torch began", taken.marks.line[0]),
        ("Line, where it ended", taken.marks.line[1]),
    ):
        drag(phone, grip, to)
    phone.locator("#use").tap()
    expect(phone.locator("#bead_width_mm")).to_have_value(re.compile(r"^8\.\d"))
    phone.fill("#seconds", "30")
    phone.get_by_role("button", name="Record it").tap()
    expect(phone.locator("h1.verdict")).to_be_visible()
    bench.goto(f"/book/changes?job={job}")
    expect(bench.locator("#changes tbody tr").first).to_contain_text("Ottilie")
    expect(bench.locator("#changes tbody tr").first).to_contain_text("a coupon recorded")

    # The passphrase was set anew while a coupon was typed: the form leads to the door, and what was typed is back behind it.
    phone.goto(f"/jobs/{job}/coupon")
    phone.fill("#bead_width_mm", "7.7")
    set_passphrase(data_file, f"{WORDS} again")
    phone.get_by_role("button", name="Record it").tap()
    phone.fill("#passphrase", f"{WORDS} again")
    phone.click("text=Come in")
    phone.get_by_role("button", name="Ottilie").tap()
    expect(phone).to_have_url(re.compile(f"/jobs/{job}/coupon$"))
    expect(phone.locator("#bead_width_mm")).to_have_value("7.7")
    phone.goto("/who")
    phone.get_by_role("button", name="Leave").tap()
    expect(phone.get_by_label("Passphrase of the workshop")).to_be_visible()
    assert phone.evaluate("localStorage.length") == 0


def test_a_coupon_without_network_is_sent_later(device, shop, serve, job_id, data_file):
    job = job_id("Rigger bracket")
    phone = device(**PHONE)
    phone.goto(f"/jobs/{job}/coupon")
    come_in(phone, "Bram")
    expect(phone.locator("html[data-keeps]")).to_be_attached()
    phone.goto(f"/jobs/{job}/card")
    phone.goto(f"/jobs/{job}/coupon")
    expect(phone.locator("html[data-keeps]")).to_be_attached()
    before = count(data_file, "coupons")
    shop.kill()

    # Card and form open as they stood, and say so; what was never seen says what is kept.
    phone.goto(f"/jobs/{job}/card")
    expect(phone.locator("#kept-page")).to_contain_text("No network. This is the page as it stood")
    expect(phone.locator(".sheet").first).to_contain_text("Rigger bracket")
    phone.goto("/metals")
    expect(phone.locator("h1")).to_have_text("No network")
    for width in ("6.2", "6.6"):  # two coupons on one kept page are two
        phone.goto(f"/jobs/{job}/coupon")
        expect(phone.locator("#kept-page")).to_be_visible()
        phone.fill("#bead_width_mm", width)
        phone.fill("#seconds", "28")
        phone.get_by_role("button", name="Record it").tap()
        expect(phone.locator("h1")).to_have_text("Saved on this device")
    phone.goto(f"/jobs/{job}/coupon")
    expect(phone.locator("#kept-waiting")).to_contain_text("2 coupons wait")
    phone.fill("#bead_width_mm", "-4")  # the server will not take this one
    phone.get_by_role("button", name="Record it").tap()
    expect(phone.locator("h1")).to_have_text("Saved on this device")

    serve(data_file, shop.port, ANVILSONG_SHOP="1")
    phone.goto(f"/jobs/{job}/card")
    expect(phone.locator("#kept-sent")).to_contain_text(
        "2 coupons that were saved on this device are in the logbook now."
    )
    assert count(data_file, "coupons") == before + 2
    expect(phone.locator("#kept-refused")).to_contain_text("was not taken")
    phone.get_by_role("button", name="Look at it").tap()
    expect(phone.locator("#problems")).to_be_visible()
    expect(phone.locator("#bead_width_mm")).to_have_value("-4")
    phone.fill("#bead_width_mm", "6.4")
    phone.get_by_role("button", name="Record it").tap()
    expect(phone.locator("h1.verdict")).to_be_visible()
    assert count(data_file, "coupons") == before + 3
    phone.goto(f"/jobs/{job}/card")
    expect(phone.locator("html[data-keeps]")).to_be_attached()
    expect(phone.locator("#kept-sent, #kept-refused, #kept-waiting")).to_have_count(0)
