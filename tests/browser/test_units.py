"""The switch between millimetres and inches in the middle of any form: every typed number keeps its unit."""

import re

import pytest
from playwright.sync_api import expect

from anvilsong.core.job import Job
from anvilsong.core.units import SHOWN
from anvilsong.web.forms import units_of_fields

# Every kind of page that a number is typed on.
PAGES = (
    "/jobs/new", "/jobs/{job}/job", "/jobs/{job}/coupon", "/jobs/{job}/map", "/jobs/{job}/torch", "/jobs/{job}/part",
    "/jobs/{job}/ladder-sheet", "/shop/kits/1", "/shop/machines/1", "/shop/machines/new", "/jobs/{job}/as-set", "/jobs/{job}/day",
)  # fmt: skip
UNIT_OF_ENDING = {"mm": "mm", "c": "°C"}
SWITCHED = {words["mm"][0] for words in SHOWN.values() if words["mm"][0] != words["inch"][0]}
# Every number field that is shown: its name with its place on the page, and its unit.
NUMBERS = """() => [...document.querySelectorAll('form[method="post"] input')].flatMap((field, place) =>
  ["text", "number", ""].includes(field.getAttribute("type") ?? "") && field.name && !field.readOnly && field.checkVisibility()
    && !/alloy|title|name|note|label|text|currency|meaning|unit|temper$|corners|_means|shape_/.test(field.name)
    ? [[place, field.name, field.dataset.unit ?? ""]] : [])"""


OPEN = "() => document.querySelectorAll('main details').forEach((fold) => { fold.open = true; })"


def switch(page, to):
    page.locator("#units").click()
    expect(page.locator("html")).to_have_attribute("data-units", to)
    page.wait_for_load_state()  # what was typed comes back by the page's scripts


@pytest.mark.parametrize("address", PAGES)
def test_every_typed_number_keeps_its_unit(page, job_id, address):
    page.goto(address.format(job=job_id("Float tank")))
    page.evaluate(OPEN)
    fields = page.evaluate(NUMBERS)
    inputs = page.locator('form[method="post"] input')
    assert fields, "a page of PAGES has number fields"
    for place, name, _ in fields:
        inputs.nth(place).fill("-5" if name == "part_temperature_c" else "7")
        inputs.nth(place).dispatch_event("change")
    switch(page, "inch")
    for _, name, unit in fields:
        field = page.locator(f'form[method="post"] input[name="{name}"]').first
        typed = "-5" if name == "part_temperature_c" else "7"
        if unit and unit in SWITCHED:
            assert re.fullmatch(rf"{typed} ?{re.escape(unit)}", field.input_value()), name
        elif address != "/jobs/{job}/part":
            assert field.input_value() == typed, name
        else:  # the part's fields know their units by their names
            found = re.search(r"_(mm|c)$", name)
            unit = f" {UNIT_OF_ENDING[found[1]]}" if found else ""
            assert field.input_value() == f"{typed}{unit}", name


def test_a_refused_form_is_not_sent_again_by_the_switch(page):
    """Its answer stays in the units it was typed in; what is asked for anew comes in the others."""
    page.goto("/jobs/new")
    page.locator("#a_alloy").fill("5052")
    page.locator("#a_thickness").fill("999")
    page.locator("#job-form button.act").first.click()
    expect(page.locator("#a_thickness")).to_have_attribute("aria-invalid", "true")
    other = page.context.new_page()
    other.goto("/book")
    switch(other, "inch")
    sent = []
    page.on("request", lambda request: sent.append(request.method))
    page.bring_to_front()
    page.evaluate("() => dispatchEvent(new Event('focus'))")
    page.wait_for_load_state("networkidle")
    expect(page.locator("html")).to_have_attribute("data-units", "mm")
    expect(page.locator("#a_thickness")).to_have_value("999")
    assert "POST" not in sent
    switch(other, "mm")


def test_quantities_of_a_job_all_say_their_unit(page):
    """What the model calls a quantity with two units says it in its field, so that no new field is forgotten."""
    page.goto("/jobs/new")
    units = {name: unit for name, unit in units_of_fields(Job, "mm").items() if unit in SWITCHED}
    assert {"a_thickness", "travel_mm_s", "part_temperature_c", "bevel_root_face_mm"} <= set(units)
    for name, unit in units.items():
        assert page.locator(f'[name="{name}"]').get_attribute("data-unit") == unit, name


def test_a_job_typed_across_the_switch_is_the_job_that_was_meant(page):
    page.goto("/jobs/new")
    page.evaluate(OPEN)
    page.locator("#a_alloy").fill("5052")
    for name, typed in (
        ("a_thickness", "1"),
        ("weld_length_mm", "80"),
        ("part_temperature_c", "35"),
        ("travel_mm_s", "4"),
    ):
        page.locator(f"#{name}").fill(typed)
    switch(page, "inch")
    page.locator("#gap_mm").fill("0.02")
    switch(page, "mm")
    expect(page.locator("#gap_mm")).to_have_value("0.02 in")
    expect(page.locator("#travel_mm_s")).to_have_value("4 mm/s")
    page.locator("#job-form button.act").first.click()
    page.wait_for_url(re.compile(r"/jobs/\d+/tune"))
    page.goto(page.url.replace("/tune", "/job"))
    shown = {
        name: page.locator(f"#{name}").input_value()
        for name in ("a_thickness", "weld_length_mm", "travel_mm_s", "gap_mm")
    }
    assert shown["a_thickness"] in ("1", "1 mm")
    assert {name: float(re.match(r"[\d.]+", text)[0]) for name, text in shown.items()} == pytest.approx(
        {"a_thickness": 1, "weld_length_mm": 80, "travel_mm_s": 4, "gap_mm": 0.508}, abs=1e-3
    )


def test_a_form_sent_after_a_switch_elsewhere_means_what_was_on_it(client, job_id):
    """The form says what units it was printed in; the cookie that another window has set since does not count."""
    form = {
        "a_alloy": "5052",
        "a_thickness": "1.5",
        "weld_length_mm": "80",
        "joint": "butt",
        "position": "flat",
        "title": "Far",
    }
    sent = {"mm": ("1.5", "80"), "inch": (".125", "8")}
    meant = {"mm": ("1.5", "80"), "inch": (".125 in", "203.2")}
    for number, printed in enumerate(sent):
        client.cookies.set("units", {"mm": "inch", "inch": "mm"}[printed])
        typed = dict(zip(("a_thickness", "weld_length_mm"), sent[printed], strict=True))
        mark = {"typed_in": printed, "uid": f"{number:032x}", "title": f"Far {printed}"}
        made = client.post("/jobs/new", data=form | typed | mark, follow_redirects=False)
        client.cookies.set("units", "mm")
        page = client.get(made.headers["location"].replace("/tune", "/job")).text
        for name, value in zip(typed, meant[printed], strict=True):
            assert re.search(rf'name="{name}"\s+value="{re.escape(value)}( mm)?"', page), (printed, name)
    client.cookies.set("units", "inch")
    refused = client.post("/jobs/new", data=form | {"a_thickness": "999", "typed_in": "mm", "uid": "f" * 32})
    assert refused.status_code == 422
    assert 'data-units="mm"' in refused.text
    assert 'value="80"' in refused.text
