"""The wave, the whole board, a new machine and a swap, as a person does them."""

import json
import re

from playwright.sync_api import expect


def number(text):
    return float(re.search(r"[−-]?[\d.]+", text)[0].replace("−", "-"))


def figure(page, key):
    return page.locator(f'#set-line [data-set="{key}"] .on-panel b')


def margin(page, name):
    return page.locator("#margins dt", has_text=name).locator("xpath=following-sibling::dd[1]")


def test_handles_on_the_wave(page, job_id):
    page.goto(f"/jobs/{job_id('Survey raft')}/wave")
    load, border = number(margin(page, "Tungsten").inner_text()), number(margin(page, "Border").inner_text())
    handle = page.locator('#wave [data-handle="ep_share"]')
    box = handle.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + 70, box["y"] + 10, steps=8)
    page.mouse.up()
    share = int(page.locator("#lane-ep_share").input_value())
    assert share > 33
    expect(figure(page, "ep_share")).to_have_text(str(share))
    expect(page.locator("#panel-drawing desc")).to_contain_text(f"Cleaning {share} % pos")
    assert number(margin(page, "Tungsten").inner_text()) > load
    assert number(margin(page, "Border").inner_text()) > border
    expect(page.locator("#figures")).to_contain_text("Cleaning charge")

    # By keys alone: the frequency handle and the amps handle move their lanes.
    page.locator('#wave [data-handle="frequency_hz"]').focus()
    page.keyboard.press("ArrowRight")
    expect(page.locator("#lane-frequency_hz")).to_have_value("115")
    expect(page.locator('#wave [data-handle="frequency_hz"]')).to_be_focused()
    page.keyboard.press("ArrowLeft")
    expect(page.locator("#lane-frequency_hz")).to_have_value("110")

    # Against another revision: a ghost, and the differences in words.
    page.get_by_role("button", name="Save these settings").click()
    page.select_option("#compare", "1")
    expect(page.locator(".wave-ghost").first).to_be_attached()
    expect(page.locator("#differences")).to_contain_text(f"AC balance: {share} % EP instead of 30 % EP")
    expect(page.locator('.lane[data-key="ep_share"] .ghost-tab')).to_be_visible()

    # Hear it: real samples, not silence; and it can be saved and exported.
    page.locator("#hear").click()
    expect(page.locator("#hear")).to_have_attribute("data-samples", re.compile(r"\d{5}"))
    assert float(page.locator("#hear").get_attribute("data-peak")) > 0.05
    with page.expect_download() as saved:
        page.locator("#save-wav").click()
    assert saved.value.path().read_bytes()[:4] == b"RIFF"
    rows = page.request.get(page.url.split("/wave")[0] + "/wave.csv").text().splitlines()
    assert rows[0] == "time_s,current_a"
    assert any(float(row.split(",")[1]) > 0 for row in rows[1:])
    page.locator("#metronome").click()
    expect(page.locator("#beat")).to_have_attribute("data-beats", re.compile("[2-9]"))
    page.locator("#metronome").click()


def test_the_whole_board_by_keyboard(page, job_id):
    page.goto(f"/jobs/{job_id('Rigger bracket')}/tune")
    keys = page.keyboard

    def on(selector):
        page.locator(selector).focus()

    # Hold the share high, solve the rest: the tungsten and the amps give way.
    on('.lane[data-key="ep_share"] .track')
    for _ in range(60):
        if page.locator("#lane-ep_share").input_value() == "42":
            break
        keys.press("ArrowRight" if int(page.locator("#lane-ep_share").input_value()) < 42 else "ArrowLeft")
    expect(page.locator("#lane-ep_share")).to_have_value("42")
    on('.lane[data-key="ep_share"] .lock')
    keys.press("Enter")
    amps = page.locator("#lane-amps_set").input_value()
    on("#resolve")
    keys.press("Enter")
    expect(page.locator("#resolved")).to_contain_text("Moved: welding amps")
    expect(page.locator("#lane-ep_share")).to_have_value("42")
    assert page.locator("#lane-amps_set").input_value() != amps

    # Undo and redo.
    on("#undo")
    keys.press("Enter")
    expect(page.locator("#lane-amps_set")).to_have_value(amps)
    on("#redo")
    keys.press("Enter")
    expect(page.locator("#lane-amps_set")).not_to_have_value(amps)

    # A pulse too fast for the AC: the tie says so, and a line joins the lanes.
    on('.lane-group[data-group="pulse"] > summary')
    keys.press("Enter")
    on('input[name="pulse_off"]')
    keys.press("Space")
    expect(page.locator('.lane-group[data-group="pulse"] .group-state')).to_have_text("on")
    on("#lane-pulse_rate_hz")
    page.locator("#lane-pulse_rate_hz").fill("50")
    keys.press("Tab")
    expect(page.locator("#ties")).to_contain_text("pulse and AC interfere")
    expect(page.locator("#tie-lines path")).not_to_have_count(0)
    expect(page.locator("#overview svg")).to_be_visible()
    # The lane goes as far as the machine's pulse, and a step is a tenth of what is set or less.
    track = '.lane[data-key="pulse_rate_hz"] .track'
    for typed, pressed, then in (
        ("1.6", "ArrowRight", "1.7"),
        ("100", "ArrowLeft", "90.0"),
        ("20", "ArrowRight", "21.0"),
    ):
        page.locator("#lane-pulse_rate_hz").fill(typed)
        keys.press("Tab")
        expect(page.locator(track)).to_have_attribute("aria-valuenow", str(float(typed)).removesuffix(".0"))
        on(track)
        keys.press(pressed)
        expect(page.locator("#lane-pulse_rate_hz")).to_have_value(then)
    on("#back-to-plan")
    keys.press("Enter")
    expect(page.locator("#ties li")).to_have_count(0)

    # Another waveform by arrows on its lane; the panel speaks its own word.
    on('.lane[data-key="shape_en"] .track')
    keys.press("ArrowRight")
    expect(figure(page, "shape_en")).to_have_text("Eased")
    on("#keep")
    keys.press("Enter")
    expect(page.locator(".revision")).to_contain_text("Tuned: waveform")


def test_a_new_machine_with_a_knob_from_nothing(page):
    page.goto("/shop")
    page.get_by_role("link", name="New machine").click()
    page.get_by_role("link", name="As a table").click()
    page.fill("#name", "Sandpiper 190")
    page.fill("#most_a", "190")
    page.fill("#duty_amps", "190")

    def row(n, setting, label, kind, meaning, step="1", unit=""):
        page.select_option(f"[name=c{n}_setting]", setting)
        page.fill(f"[name=c{n}_label]", label)
        page.select_option(f"[name=c{n}_kind]", kind)
        page.fill(f"[name=c{n}_meaning]", meaning)
        page.fill(f"[name=c{n}_step]", step)
        page.fill(f"[name=c{n}_unit]", unit)

    row(0, "amps_set", "Go", "digits", "5 = 5, 190 = 190", unit="A")
    # Not sensible yet: told as it is typed.
    row(1, "ep_share", "Grit", "clock", "7:00 = 15, 12:00 = 30, 17:00 = 20", "0.25")
    expect(page.locator("#machine-said")).to_contain_text(
        "the meaning must rise all the way or fall all the way"
    )
    page.fill("[name=c1_meaning]", "7:00 = 15, 12:00 = 28, 17:00 = 45")
    expect(page.locator("#machine-said .problem")).to_have_count(0)
    row(2, "frequency_hz", "Buzz", "travel", "0 = 40, 100 = 200", "5", "%")
    expect(page.locator("#panel-drawing desc")).to_contain_text("Grit 12:45 o’clock")
    page.get_by_role("button", name="Save the machine").click()
    expect(page).to_have_url(re.compile(r"/shop/machines/\d+$"))
    machine = page.url

    # A job planned in its words.
    page.goto("/jobs/new")
    page.fill("#title", "Thwart bracket")
    page.fill("#a_alloy", "6061")
    page.fill("#a_thickness", "2.5 mm")
    page.select_option("#machine", "Sandpiper 190")
    page.get_by_role("button", name="Plan it", exact=True).click()
    expect(figure(page, "ep_share")).to_have_text("12:45 o’clock")
    expect(page.locator("#set-line")).to_contain_text("Grit")
    expect(page.locator("#panel-drawing .pointer").first).to_be_attached()

    # Calibrate the knob; a contradiction is named, a good point moves the setting.
    page.goto(f"{machine}/knob/ep_share")
    page.fill("#points", "7:00 = 15\n12:00 = 50\n5:00 = 45")
    page.get_by_role("button", name="Calibrate").click()
    expect(page.locator(".problem-box")).to_contain_text("these two do not")
    page.fill("#points", "7:00 = 15\n12:00 = 33 ± 1\n5:00 = 45")
    page.get_by_role("button", name="Calibrate").click()
    expect(page.locator(".knob-curve desc")).to_contain_text("3 known points")
    exported = page.request.get(f"{machine}/export.json").json()
    assert [control["setting"] for control in exported["controls"]] == [
        "amps_set",
        "ep_share",
        "frequency_hz",
    ]
    page.goto("/shop/machines/new/rows")
    page.fill(
        "#text",
        json.dumps(exported).replace("Sandpiper 190", "Sandpiper twin"),
    )
    page.get_by_role("button", name="Bring it in").click()
    expect(page.locator("h1")).to_have_text("Sandpiper twin")


def test_a_machine_by_answers(page):
    """From what a person reads off the panel, by taps, to settings in its words."""
    page.goto("/shop/machines/new")
    page.fill("#name", "Turnstone 180")
    page.get_by_text("it has such a control").click()
    page.select_option("#figure", "scale")
    page.fill("#balance_label", "Bite")
    page.fill("#balance_most", "-5")
    page.fill("#balance_least", "5")
    page.fill("#balance_least_means", "15")
    page.fill("#amps_high", "180")
    page.fill("#balance_most_means", "45")
    expect(page.locator("#panel-drawing desc")).to_contain_text("Bite")
    page.reload()
    expect(page.locator("#balance_most_means")).to_have_value("45")
    expect(page.locator("#balance_most_means")).to_be_visible()
    expect(page.locator("#panel-drawing desc")).to_contain_text("Bite")
    page.get_by_text("AC frequency").click()
    page.fill("#frequency_hz_label", "Cycles")
    page.fill("#frequency_hz_high", "often")
    page.get_by_role("button", name="Save the machine").click()
    expect(page.locator(".problem-box")).to_contain_text("AC frequency, highest: “often” cannot be used")
    page.fill("#frequency_hz_high", "150")
    page.get_by_role("button", name="Save the machine").click()
    page.wait_for_url(re.compile(r"/shop$"))
    expect(page.locator(".told")).to_contain_text("Turnstone 180 is saved")
    page.get_by_role("link", name="Turnstone 180").first.click()
    expect(page.locator("[name=c1_meaning]")).to_have_value("-5 = 45, 5 = 15")
    page.goto("/jobs/new")
    page.fill("#a_alloy", "5052")
    page.fill("#a_thickness", "2 mm")
    page.fill("#title", "Cockpit sole")
    page.select_option("#machine", "Turnstone 180")
    page.get_by_role("button", name="Plan it", exact=True).click()
    expect(page.locator("#set-line")).to_contain_text("Bite")


def test_swap_ranking_and_schools(page, job_id):
    page.goto("/swap")
    page.select_option("#theirs", "Curlew 220")
    page.get_by_role("button", name="Swap").click()
    page.select_option("#mine", "Heron 320")
    page.fill("#their_amps_set", "150")
    page.fill("#their_ep_share", "35")
    page.get_by_role("button", name="Swap").click()
    expect(page.locator('.swap-lines [data-set="ep_share"] b')).to_have_text("65")
    expect(page.locator('.swap-lines [data-set="amps_set"] b')).to_have_text("150")
    expect(page.locator(".outcome")).to_contain_text("the same.")
    expect(page.locator(".outcome")).to_contain_text("Cup, lens and stick-out")
    page.fill("#paste", "I run weld amps 140 with cleaning at 25, AC wave Soft")
    page.get_by_role("button", name="Swap").click()
    expect(page.locator('.swap-lines [data-set="ep_share"] b')).to_have_text("75")
    expect(page.locator('.swap-lines [data-set="shape_en"] b')).to_have_text("Eased")
    page.fill("#their_ep_share", "95")
    page.get_by_role("button", name="Swap").click()
    expect(page.locator(".problem-box")).to_contain_text("on Curlew 220 it runs from 15 to 50")

    job = f"/jobs/{job_id('Deck plate')}"
    page.goto(f"{job}/machines")
    expect(page.locator(".fits li").first).to_contain_text("does it")
    page.locator(".fits li", has_text="Gannet 350").get_by_role("button").click()
    expect(page.locator("#set-line")).to_contain_text("Minus amps")
    page.goto(f"{job}/schools")
    page.select_option("[name=b_pedal]", "patient")
    page.select_option("[name=b_frequency]", "wide")
    page.get_by_role("button", name="Compare").click()
    expect(page.locator(".outcome tr", has_text="AC frequency")).to_have_class(re.compile("unlike"))

    # A welder's school is kept and comes along to a new job.
    page.goto("/shop")
    page.get_by_role("link", name="Bram").click()
    page.locator(".school", has_text="Waveform").get_by_text("soft", exact=True).click()
    with page.expect_navigation():
        page.get_by_role("button", name="Save").click()
    page.goto("/jobs/new")
    page.locator("#assumed > summary").click()
    page.select_option("#welder", label="Bram")
    expect(page.locator("#school_waveform")).to_have_value("soft")
    expect(page.locator("#school_pedal")).to_have_value("hot")


def test_a_trigger_with_a_second_level(open_desk):
    """A job under a pedal looked at with a second level: its amps, when to tap, what clashes; then planned so."""
    phone = open_desk(390, 844, has_touch=True, is_mobile=True)
    phone.goto("/jobs/8/tune")
    phone.get_by_role("link", name="Pedal and trigger").tap()
    expect(phone.locator("h1")).to_have_text("Pedal and trigger")
    expect(phone.locator(".outcome")).to_contain_text("upslope and downslope at 0, remote on")
    expect(phone.locator("#clashes")).to_have_count(0)
    phone.get_by_role("link", name="second level").tap()
    expect(phone.locator("#clashes")).to_contain_text("Curlew 220 does not have this trigger")
    expect(phone.locator(".outcome")).to_contain_text("by a tap after")
    expect(phone.locator(".course-steps")).to_contain_text("Second level, let go")
    expect(phone.locator("svg.course .press-bar")).to_have_count(3)
    phone.goto("/jobs/8/job")
    phone.locator("#machine").select_option("Gannet 350")
    phone.locator("#control").select_option("switch_4_two_levels")
    phone.get_by_role("button", name="Plan again").tap()
    phone.wait_for_url("**/tune")
    phone.goto("/jobs/8/trigger")
    expect(phone.locator("a[aria-current]", has_text="second level")).to_be_visible()
    expect(phone.locator("#clashes")).to_have_count(0)


def test_a_wedge_and_the_set_up_sheet(open_desk, job_id):
    """From Prep on a phone: a gap that opens, sliced; then the set-up of the bench, ticked, and printed on one page."""
    tank = job_id("Float tank")
    phone = open_desk(390, 844, has_touch=True, is_mobile=True)
    phone.goto(f"/jobs/{tank}/prep")
    phone.get_by_role("link", name="The gap opens along the seam").tap()
    phone.fill("#narrow", "0.3")
    phone.fill("#wide", "4 mm")
    phone.get_by_role("button", name="Slice it").tap()
    expect(phone.locator("#slices > li").first).to_contain_text("while welding")
    expect(phone.locator("#slices > li").last).to_contain_text("bridge it")
    phone.fill("#narrow", "5")
    phone.get_by_role("button", name="Slice it").tap()
    expect(phone.locator(".problem-box")).to_contain_text("at the closed end first")
    expect(phone.locator("#wide")).to_have_value("4 mm")
    phone.goto(f"/jobs/{tank}/prep")
    phone.get_by_role("link", name="Set-up sheet").tap()
    first = phone.locator(".steps li").first
    expect(first).to_contain_text("Chain the cylinder upright.")
    first.locator("button").tap()
    expect(phone.locator(".steps li").first).to_have_class("done")
    desk = open_desk(1040, 900)
    desk.goto("/jobs/8/bench")
    sheet = desk.pdf(format="A4")
    assert len(re.findall(rb"/Type\s*/Page[^s]", sheet)) == 1
