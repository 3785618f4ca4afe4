"""The card: one page on each paper, its letters large enough, its code read back from paper and from both screens."""

import io
import re

import pypdfium2
import pytest
import zxingcpp
from PIL import Image
from playwright.sync_api import expect

SIZES_MM = {"a4": (210, 297), "letter": (216, 279), "a6": (105, 148)}


def codes(picture):
    return [found.text for found in zxingcpp.read_barcodes(picture)]


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_every_card_on_every_paper(browser, served, scheme):
    context = browser.new_context(color_scheme=scheme, base_url=served)
    page = context.new_page()
    try:
        for job in range(1, 11) if scheme == "light" else (4, 8):  # paper is white in either
            for size, paper in SIZES_MM.items():
                if size == "a4" and job % 3:  # taller than a letter by far more than it is narrower
                    continue
                page.goto(f"/jobs/{job}/card?size={size}")
                if page.locator(".refusal").count():
                    continue
                printed = pypdfium2.PdfDocument(page.pdf(prefer_css_page_size=True))
                assert [round(mm / 72 * 25.4) for mm in printed[0].get_size()] == list(paper)
                assert len(printed) == 1, (job, size)
                (said,) = codes(printed[0].render(scale=2).to_pil())
                assert page.locator(".sheet h1").first.inner_text() in said
                if scheme == "light":
                    page.emulate_media(media="print")
                    least = page.evaluate(
                        """Math.min(...[...document.querySelectorAll('.sheet:not(.second) *')]
                        .filter(e => e.checkVisibility() && !e.closest('svg') && [...e.childNodes].some(n => n.nodeType === 3 && n.textContent.trim()))
                        .map(e => parseFloat(getComputedStyle(e).fontSize)))"""
                    )
                    page.emulate_media(media="null")
                    assert least >= 10 * 96 / 72 - 0.1, (job, size)
            if page.locator(".refusal").count():
                continue
            picture = Image.open(io.BytesIO(page.locator(".code").screenshot()))
            assert codes(picture), (job, "on the screen")
    finally:
        context.close()


def test_the_code_leads_back_where_others_can_reach_it(client):
    """On this machine alone the code says the settings; under a name that others know, the card's address."""
    from starlette.requests import Request

    from anvilsong.web.job_view import job_view
    from anvilsong.web.pages.card_page import code_for

    with client.app.state.sessions() as session:
        view = job_view(session, 8)
        said = {}
        for host in ("127.0.0.1:8765", "192.168.1.20:8765"):
            scope = {"type": "http", "method": "GET", "path": "/", "headers": [(b"host", host.encode())], "query_string": b"",
                     "scheme": "http", "server": ("127.0.0.1", 8765), "app": client.app, "router": client.app.router}  # fmt: skip
            said[host] = code_for(Request(scope), view)[0]
    assert said["192.168.1.20:8765"] == "http://192.168.1.20:8765/jobs/8/card?revision=1"
    assert "Cup: " in said["127.0.0.1:8765"]
    assert "http" not in said["127.0.0.1:8765"]


def test_a_card_says_when_the_board_holds_something_else(open_desk, job_id):
    """What is saved is printed; the board's own settings are told, and their card is one tap away."""
    page, job = open_desk(), job_id("Survey raft")
    page.goto(f"/jobs/{job}/card")
    saved = page.locator(".card-figures").inner_text()
    expect(page.locator("#other-board")).to_be_hidden()
    page.goto(f"/jobs/{job}/tune")
    page.fill("#lane-ep_share", "37")
    page.locator("#lane-ep_share").press("Tab")
    expect(page.locator("#draft")).to_be_visible()
    page.goto(f"/jobs/{job}/card?size=a6")
    other = page.locator("#other-board")
    expect(other).to_be_visible()
    expect(other).to_contain_text("AC balance 37")
    expect(other).to_contain_text("This setup card has those of version")
    assert page.locator(".card-figures").inner_text() == saved
    page.get_by_role("button", name="Setup card of the board").click()
    expect(page.locator(".told").first).to_contain_text("Of the board, not saved")
    expect(page.locator(".sheet header").first).to_contain_text("From the board, not saved")
    expect(page.locator("body")).to_have_class(re.compile("size-a6"))
    figures = page.locator(".card-figures").inner_text()
    assert figures != saved
    assert "37" in figures
    (said,) = codes(Image.open(io.BytesIO(page.locator(".code").screenshot(scale="device"))))
    assert "37" in said
    assert "not saved" in said
    # On another paper it is still the board's.
    page.locator("label", has_text="Letter").click()
    expect(page.locator("body")).to_have_class(re.compile("size-letter"))
    expect(page.locator(".sheet header").first).to_contain_text("From the board, not saved")
    assert "37" in page.locator(".card-figures").inner_text()
    # Nothing was stored, and the board still holds it.
    page.get_by_role("link", name="save them there").click()
    expect(page.locator("#lane-ep_share")).to_have_value("37")
    page.get_by_role("button", name="Save these settings").click()
    expect(page.locator(".revision").first).to_contain_text("Tuned")
    page.goto(f"/jobs/{job}/card")
    expect(page.locator("#other-board")).to_be_hidden()
    assert "37" in page.locator(".card-figures").inner_text()


def test_settings_of_a_board_that_are_none_are_refused(client, job_id):
    for text in ("", "{", "[]", '{"amps_run": "much"}', '{"amps_run": 1e400}', "null"):
        answer = client.post(f"/jobs/{job_id('Survey raft')}/card", data={"settings": text})
        assert answer.status_code in (400, 422), text
