"""Two currents under a pedal, as a welder meets them: on the board, the strip, the card, and after a reload."""

import re

from playwright.sync_api import expect


def number(locator):
    return float(locator.input_value())


def test_the_machine_is_a_ceiling_and_the_foot_makes_the_pool(page, job_id):
    page.goto(f"/jobs/{job_id('Float')}/tune")
    machine, foot = page.locator("#lane-amps_set"), page.locator("#lane-amps_run")
    pool = page.locator("#section svg")
    said, run = pool.text_content(), number(foot)

    # A higher ceiling melts nothing; the pedal gets coarser, and the strip says how much.
    machine.fill("240")
    machine.press("Tab")
    expect(page.locator("#pedal")).to_contain_text("machine amps 240 A")
    assert number(foot) == run
    assert pool.text_content() == said
    share = int(re.search(r"(\d+) % of the pedal", page.locator("#pedal").text_content())[1])
    assert share < 60
    expect(page.locator("#warnings")).not_to_contain_text("melts through")

    # Under the foot it takes the foot along, and gives it back.
    machine.fill("90")
    machine.press("Tab")
    expect(foot).to_have_value("90")
    expect(page.locator("#pedal")).to_contain_text("nothing left to push with")
    expect(page.locator("#warnings")).to_contain_text("slow to form")
    machine.fill("150")
    machine.press("Tab")
    expect(foot).to_have_value(f"{run:.0f}")

    # A foot that wants more than the machine has lifts it.
    foot.fill("165")
    foot.press("Tab")
    expect(machine).to_have_value("165")
    expect(page.locator("#warnings")).to_contain_text("melts through")
    foot.fill("118")
    foot.press("Tab")
    expect(machine).to_have_value("150")
    # The warning's place above the button has closed before it is pressed.
    expect(page.locator("#warnings")).not_to_contain_text("melts through")

    page.get_by_role("button", name="Save these settings").click()
    expect(page.locator(".revision").first).to_contain_text("Tuned: machine amps, welding amps")
    expect(page.locator('#set-line [data-set="amps_run"]')).to_contain_text("118")
    page.goto(f"/jobs/{job_id('Float')}/card")
    expect(page.locator(".card-figures")).to_contain_text("Welding amps118A")
    expect(page.locator(".card-pedal")).to_contain_text("machine amps 150 A")


def test_with_a_torch_switch_both_are_one(page, job_id):
    page.goto(f"/jobs/{job_id('Deck plate')}/tune")
    assert page.locator("#lane-amps_run").count() == 0
    assert page.locator("#pedal").text_content().strip() == ""
    pool = page.locator("#section svg")
    said = pool.text_content()
    page.locator("#lane-amps_set").fill("110")
    page.locator("#lane-amps_set").press("Tab")
    expect(page.locator("#warnings")).to_contain_text("slow to form")
    assert pool.text_content() != said
    page.locator("summary", has_text="Amps and travel").click()
    expect(page.locator(".trade")).to_contain_text("what can be done by hand")
