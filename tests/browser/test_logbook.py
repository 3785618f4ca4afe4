"""What the logbook gives back: last year's setting, a new thickness from a proved recipe, a memory that went out of date."""

import re
import shutil

from playwright.sync_api import expect
from sqlalchemy import text

from anvilsong.store.database import open_database, sessions


def test_last_years_setting_in_three_steps(open_desk, workshop_file, tmp_path):
    """Misspelt into the first page's box, the job, its card: the panel as it stood, with what that version was set to."""
    with sessions(open_database(shutil.copy(workshop_file, tmp_path / "look.sqlite")))() as session:
        (job,) = session.execute(text("SELECT id FROM jobs WHERE title LIKE 'Hatch coaming%'")).one()
    phone = open_desk(390, 844, has_touch=True, is_mobile=True)
    phone.goto("/")
    phone.fill("#home-find", "hatch coamign")
    phone.keyboard.press("Enter")  # one
    expect(phone.locator("main")).to_contain_text(re.compile(r"coamign.*coaming", re.S))
    phone.get_by_role("link", name="Hatch coaming, gap to bridge").first.tap()  # two
    expect(phone).to_have_url(re.compile(rf"/jobs/{job}/"))
    phone.locator(f'a[href^="/jobs/{job}/card"]').first.tap()  # three
    expect(phone).to_have_url(re.compile(rf"/jobs/{job}/card"))
    amps = phone.locator('[data-set="amps_set"]').first
    expect(amps).to_be_visible()
    expect(amps).to_contain_text(re.compile(r"\d{2,3}"))


def test_a_new_thickness_from_a_proved_recipe(open_desk):
    """While a thicker lid is typed the proved recipe stands beside it, brought over; one tap starts from it."""
    desk = open_desk()
    desk.goto("/jobs/new")
    desk.fill("#title", "Lid of 4")
    desk.fill("#a_alloy", "5083")
    desk.fill("#a_thickness", "4 mm")
    desk.select_option("#machine", "Heron 320")
    near = desk.locator("#nearest-list li", has_text="Tank lid, bright and tight")
    expect(near).to_contain_text("proved")
    expect(near).to_contain_text("thickness")
    brought = int(re.search(r"Brought over: (\d+) A", near.inner_text())[1])
    near.get_by_role("button").click()
    expect(desk).to_have_url(re.compile(r"/jobs/\d+/(tune|prep)"))
    job = re.search(r"/jobs/(\d+)/", desk.url)[1]
    desk.goto(f"/jobs/{job}/tune")
    expect(desk.locator("body")).to_contain_text("Brought over from the recipe Tank lid, bright and tight")
    answer = desk.request.get("/api/jobs?q=Lid of 4").json()["jobs"]
    assert [round(one["settings"]["amps_run"]) for one in answer if str(one["id"]) == job] == [brought]


def test_a_memory_goes_out_of_date(open_desk):
    """Stored, then the job goes on: the first page says so, and the checklist stores it anew."""
    desk = open_desk()
    desk.goto("/jobs/8/store")
    memory = desk.locator("[name=slot]").input_value()
    desk.get_by_role("button", name="It is stored").click()
    expect(desk).to_have_url(re.compile(r"/memories$"))
    machine = desk.url
    expect(desk.locator("#memories")).to_contain_text("Survey raft")
    desk.goto("/")
    expect(desk.locator("#stale")).not_to_contain_text("Curlew 220")  # another machine's stands there
    desk.goto("/jobs/8/as-set")
    desk.locator("[name=amps_set]").fill("111")
    desk.get_by_role("button", name="Run the coupon with it").click()
    expect(desk).not_to_have_url(re.compile(r"/as-set$"))
    desk.goto("/")
    expect(desk.locator("#stale")).to_contain_text(f"Curlew 220: memory {memory}")
    desk.locator("#stale").get_by_role("link", name="Curlew 220").click()
    expect(desk).to_have_url(machine)
    row = desk.locator("#memories tr.stale", has_text="Survey raft")
    expect(row).to_contain_text("Out of date")
    expect(row).to_contain_text("111")
    row.get_by_role("link", name=re.compile("^Store version")).click()
    expect(desk.locator("[name=slot]")).to_have_value(memory)
    desk.get_by_role("button", name="It is stored").click()
    expect(desk.locator("#memories tr", has_text="Survey raft")).not_to_contain_text("Out of date")
