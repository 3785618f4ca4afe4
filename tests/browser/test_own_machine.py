"""From New job to a plan on one's own machine, by touch on a phone, counted: at most 14 taps and 8 fields."""

import re

import pytest
from playwright.sync_api import expect

MOST_TAPS, MOST_FIELDS = 14, 8


class Thumb:
    """Taps and typed fields, counted. A list is two taps: it opens, and one of it is chosen."""

    def __init__(self, page):
        self.page, self.taps, self.fields = page, 0, 0

    def tap(self, locator):
        locator.tap()
        self.taps += 1

    def choose(self, name, value):
        self.page.locator(f"#{name}").select_option(value)
        self.taps += 2

    def type(self, name, text):
        self.page.locator(f"#{name}").fill(text)
        self.fields += 1


@pytest.fixture
def phone(open_desk):
    return open_desk(width=390, height=844, has_touch=True, is_mobile=True)


MACHINES = {
    "counts EN": (
        {"figure": "en"},
        [("balance_most", "50"), ("balance_least", "85")],
        ((50, 0.5), (85, 0.15)),
    ),
    "an unlabelled knob": (
        {"figure": "clock"},
        [("balance_most", "5"), ("balance_least", "7")],
        ((7, 0.15), (17, 0.5)),
    ),
}


@pytest.mark.parametrize("kind", MACHINES)
def test_a_new_job_on_ones_own_machine(phone, kind):
    choices, balance, _ = MACHINES[kind]
    page, thumb = phone, Thumb(phone)
    page.goto("/jobs/new")
    thumb.type("a_alloy", "5052")
    thumb.type("a_thickness", "2")
    thumb.tap(page.get_by_role("link", name="Add your machine"))
    page.wait_for_url(re.compile(r"/shop/machines/new\?job=new"))
    thumb.type("name", "Own one")
    thumb.type("amps_high", "180")
    thumb.tap(page.get_by_text("it has such a control"))
    for name, value in choices.items():
        thumb.choose(name, value)
    for name, text in balance:
        thumb.type(name, text)
    thumb.tap(page.locator("label", has_text="AC frequency").first)
    expect(page.locator("#panel-drawing desc")).to_contain_text("AC balance")  # grows as it is answered
    thumb.tap(page.get_by_role("button", name="Save the machine, and go on with the job"))
    page.wait_for_url(re.compile(r"/jobs/new\?machine="))
    expect(page.locator("#machine")).to_have_value("Own one")
    expect(page.locator("#a_thickness")).to_have_value("2")
    thumb.tap(page.get_by_role("button", name="Plan it", exact=True))
    page.wait_for_url(re.compile(r"/jobs/\d+/tune"))
    expect(page.locator("body")).to_contain_text("Own one")
    print(kind, thumb.taps, "taps", thumb.fields, "fields")
    assert thumb.taps <= MOST_TAPS
    assert thumb.fields <= MOST_FIELDS
    # In the words of that panel: what the guide was told is what the set line shows.
    shown = page.locator('#set-line [data-set="ep_share"]').first.inner_text()
    assert re.search({"counts EN": r"70", "an unlabelled knob": r"\d+:\d\d"}[kind], shown), shown


def test_a_knob_is_not_said_to_begin_at_five(phone):
    """The least amps that stand in the form from the beginning are no number on a scale of another kind."""
    phone.goto("/shop/machines/new?job=99999")
    expect(phone.get_by_role("button", name="Save the machine", exact=True)).to_be_visible()
    expect(phone.locator("#amps_low")).to_have_value("5")
    phone.locator("#amps_figure").select_option("scale")
    expect(phone.locator("#amps_low")).to_have_value("")
    phone.locator("#amps_low").fill("1")
    phone.locator("#amps_figure").select_option("clock")
    expect(phone.locator("#amps_low")).to_have_value("1")


def test_a_job_that_is_there_is_planned_for_the_new_machine(phone, job_id):
    job = job_id("Float tank")
    phone.goto(f"/jobs/{job}/machines")
    phone.get_by_role("link", name="Add your machine, and plan for it").tap()
    phone.locator("#name").fill("Other one")
    phone.locator("#amps_high").fill("250")
    # Swapped ends are told, with what was typed still there.
    phone.get_by_text("it has such a control").tap()
    phone.locator("#balance_most").fill("30")
    phone.locator("#balance_least").fill("99")
    phone.get_by_role("button", name="plan the job for it").tap()
    expect(phone.locator(".problem-box")).to_contain_text("its cleaning end has more EP than its other end")
    expect(phone.locator("#balance_most")).to_have_value("30")
    phone.locator("#figure").select_option("en")
    phone.locator("#balance_most").fill("50")
    phone.get_by_role("button", name="plan the job for it").tap()
    phone.wait_for_url(re.compile(rf"/jobs/{job}/tune"))
    expect(phone.locator(".told").first).to_contain_text("Planned for Other one")
    expect(phone.locator("body")).to_contain_text("Other one")
