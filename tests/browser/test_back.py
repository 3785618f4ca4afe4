"""Back in the browser, something changed, sent again: both are stored, whatever the browser kept of the page."""

import shutil

import pytest
from playwright.sync_api import expect
from tests.conftest import CHROMIUM_ARGS, answering

from anvilsong.store import book
from anvilsong.store.database import open_database, sessions

TYPED = {
    "bead_width_mm": "6",
    "border_left_mm": "0.8",
    "border_right_mm": "0.8",
    "length_mm": "100",
    "seconds": "27",
}


@pytest.mark.parametrize("keeps_pages", [False, True], ids=["asks anew", "keeps pages"])
def test_back_change_record_again(browser, workshop_file, tmp_path, keeps_pages):
    """A browser that keeps pages brings the form back as it was sent, hidden fields too; the second coupon is another one."""
    data = shutil.copy(workshop_file, tmp_path / "book.sqlite")
    left_out = ["--disable-back-forward-cache"] if keeps_pages else []
    own = browser.browser_type.launch(
        executable_path=shutil.which("chromium"), args=CHROMIUM_ARGS, ignore_default_args=left_out
    )
    with answering(data) as address:
        page = own.new_context(base_url=address).new_page()
        page.set_default_timeout(120_000)
        page.goto("/jobs/8/coupon")
        came_back = "() => addEventListener('pageshow', (event) => { document.documentElement.dataset.kept = event.persisted; })"
        page.evaluate(came_back)
        first = page.locator("#coupon-form [name=uid]").input_value()
        for name, value in TYPED.items():
            page.fill(f"#{name}", value)
        page.get_by_role("button", name="Record it").click()
        expect(page.locator("h1.verdict")).to_be_visible()
        page.go_back(wait_until="commit")
        expect(page.locator("#coupon-form")).to_be_visible()
        kept = page.locator("html").get_attribute("data-kept")
        assert kept == ("true" if keeps_pages else None)
        expect(page.locator("#coupon-form [name=uid]")).not_to_have_value(first)
        for name, value in (TYPED | {"bead_width_mm": "9"}).items():
            page.fill(f"#{name}", value)
        page.locator("[name=note]").fill("the second one")
        page.get_by_role("button", name="Record it").click()
        expect(page.locator("h1.verdict")).to_be_visible()
        own.close()
    with sessions(open_database(data))() as session:
        coupons = book.get_job(session, 8).coupons
        found = [
            (run.readings[-1].document["bead_width_mm"], run.readings[-1].document["note"]) for run in coupons
        ]
    assert found == [(6, ""), (9, "the second one")]
