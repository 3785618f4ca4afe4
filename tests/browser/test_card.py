"""The card: one page on each paper, its letters large enough, its code read back from paper and from both screens."""

import io

import pypdfium2
import pytest
import zxingcpp
from PIL import Image

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
