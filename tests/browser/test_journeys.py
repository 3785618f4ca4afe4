"""What a welder does, in the real page: once by mouse, once by keyboard alone."""

import re

from playwright.sync_api import expect


def number(text):
    return float(re.search(r"[−-]?[\d.]+", text)[0].replace("−", "-"))


def set_line(page, key):
    return page.locator(f'#set-line [data-set="{key}"] .on-panel b')


def test_the_whole_loop_by_mouse(page):
    # An empty field first: the error names it and keeps what was typed.
    page.goto("/book")
    page.get_by_role("link", name="New job").click()
    page.fill("#title", "Mooring cleat base")
    page.fill("#a_alloy", "EN AW-6061")
    page.fill("#a_thickness", "thick")
    page.locator(".tile", has_text="Butt").click()
    page.select_option("#machine", "Heron 320")
    page.get_by_role("button", name="Plan it", exact=True).click()
    expect(page.locator(".problem-box")).to_contain_text("type a length such as 3.2 mm")
    expect(page.locator("#title")).to_have_value("Mooring cleat base")
    expect(page.locator("#a_thickness")).to_have_value("thick")
    expect(page.locator("#machine")).to_have_value("Heron 320")

    # A metal that is refused: no settings, the reason, and a way on.
    page.fill("#a_thickness", "1/8")
    page.fill("#a_alloy", "7075")
    expect(page.locator("#joint-said .stop-words")).to_contain_text("not for arc welding")
    page.get_by_role("button", name="Plan it", exact=True).click()
    expect(page.locator(".refusal")).to_contain_text("7075 cracks")
    expect(page.locator("#set-line")).to_have_count(0)

    # The real job: drawn as it is typed, then planned in the machine's words.
    page.fill("#a_alloy", "6061")
    page.fill("#b_alloy", "")
    page.fill("#b_thickness", "")
    expect(page.locator("#joint-drawing svg")).to_contain_text("a: 6061, 3.2 mm")
    page.get_by_role("button", name="Plan again").click()
    expect(page).to_have_url(re.compile("/tune$"))
    page.wait_for_load_state()  # its scripts are there
    expect(page.locator('#set-line [data-set="ep_share"]')).to_contain_text("Heat share")
    assert set_line(page, "ep_share").inner_text() == "70"
    assert 155 <= number(set_line(page, "amps_set").inner_text()) <= 175

    # Drag the balance to more cleaning: panel, tungsten, border and drawing follow.
    load = number(page.locator("#margins dd").nth(2).inner_text())
    border = number(page.locator("#margins dd").nth(1).inner_text())
    picture = page.locator("#section").inner_html()
    track = page.locator('.lane[data-key="ep_share"] .track')
    tab, box = page.locator('.lane[data-key="ep_share"] .tab').bounding_box(), track.bounding_box()
    page.mouse.move(tab["x"] + tab["width"] / 2, box["y"] + 15)
    page.mouse.down()
    page.mouse.move(box["x"] + 0.66 * box["width"], box["y"] + 15, steps=6)
    page.mouse.up()
    expect(page.locator("#lane-ep_share")).to_have_value("43")
    expect(set_line(page, "ep_share")).to_have_text("57")
    expect(page.locator('#set-line [data-set="ep_share"]')).to_have_class(re.compile("changed"))
    assert number(page.locator("#margins dd").nth(2).inner_text()) > load
    assert number(page.locator("#margins dd").nth(1).inner_text()) > border
    assert page.locator("#section").inner_html() != picture

    # Melt it through with the + of the amps lane, read the warning, go back to the plan.
    page.fill("#lane-amps_run", "190")
    page.locator("#lane-amps_run").press("Tab")
    expect(page.locator("#warnings")).to_contain_text("melts through")
    page.get_by_role("button", name="Back to the plan").click()
    expect(page.locator("#warnings li")).to_have_count(0)
    page.get_by_role("button", name="More AC balance").click()
    page.get_by_role("button", name="Save these settings").click()
    expect(page.locator(".revision")).to_contain_text("Tuned: AC balance")
    page.locator('.lane[data-key="amps_set"] summary').click()
    expect(page.locator('.lane[data-key="amps_set"] details')).to_contain_text("amps_run * headroom")

    # Card, coupon, verdict, next change, next rung.
    page.locator("#to-card").click()
    expect(page.locator(".sheet").first).to_contain_text("Main current")
    expect(page.locator(".code svg")).to_be_visible()
    page.locator('.rail [data-key="5"]').click()
    for field, typed in (
        ("bead_width_mm", "6.0"),
        ("border_left_mm", "0.2"),
        ("border_right_mm", "0.2"),
        ("seconds", "soon"),
    ):
        page.fill(f"#{field}", typed)
    page.get_by_role("button", name="Record it").click()
    expect(page.locator(".problem-box")).to_contain_text("Seconds it took: “soon” cannot be used")
    expect(page.locator("#bead_width_mm")).to_have_value("6.0")
    page.fill("#seconds", "28")
    page.get_by_role("button", name="Record it").click()
    expect(page.locator("h1.verdict")).to_have_text("Border too thin")
    expect(page.locator(".next-change .what")).to_contain_text("Change AC balance from 31 % EP")
    expect(page.locator(".panel-words")).to_contain_text(re.compile(r"Heat share: 69 → \d+ % neg"))
    expect(page.locator(".effects")).to_contain_text("Tungsten load")
    page.locator("#take").click()
    expect(page.locator(".revision")).to_contain_text("Change AC balance from 31 % EP")

    # And it is in the book, by words.
    page.fill("#find", "mooring cleat")
    page.locator("#find").press("Enter")
    expect(page.locator(".book li")).to_have_count(1)
    expect(page.locator(".book")).to_contain_text("1 coupon")


def test_the_whole_loop_by_keyboard(page):
    page.goto("/jobs/new")
    keys = page.keyboard

    def go_to(selector):
        """Tab until the element has the focus; that it can be reached is part of the test."""
        for _ in range(90):
            if page.evaluate("selector => document.activeElement?.matches(selector)", selector):
                return
            keys.press("Tab")
        raise AssertionError(f"{selector} cannot be reached by Tab")

    expect(page.locator("#a_alloy")).to_be_focused()
    keys.type("5083")
    go_to("#a_thickness")
    keys.type("3mm")
    go_to("input[name=joint]")
    keys.press("ArrowRight")
    keys.press("ArrowRight")
    expect(page.locator("input[name=joint]:checked")).to_have_value("tee")
    go_to("#machine")
    keys.type("Dunlin")
    go_to("#title")
    keys.type("Raft hinge ear")
    go_to("button.act")
    keys.press("Enter")
    expect(page).to_have_url(re.compile("/tune$"))
    assert set_line(page, "ep_share").inner_text() == "+2"

    go_to('.lane[data-key="ep_share"] .track')
    keys.press("ArrowRight")
    keys.press("ArrowRight")
    keys.press("ArrowRight")
    expect(page.locator("#lane-ep_share")).to_have_value("33")
    expect(set_line(page, "ep_share")).to_have_text("0")
    go_to('.lane[data-key="frequency_hz"] .track')
    keys.press("End")
    expect(page.locator("#lane-frequency_hz")).to_have_value("150")
    go_to("#keep")
    keys.press("Enter")
    expect(page.locator(".revision")).to_contain_text("Tuned: AC balance, AC frequency")
    page.wait_for_load_state()

    keys.press("2")
    expect(page).to_have_url(re.compile("/prep$"))
    expect(page.locator(".tick").first).to_be_visible()
    go_to(".tick")
    keys.press("Enter")
    expect(page.locator(".steps li.done")).to_have_count(1)
    keys.press("5")
    expect(page).to_have_url(re.compile("/coupon$"))
    go_to("#bead_width_mm")
    keys.type("5.2")
    go_to("#border_left_mm")
    keys.type("1.1")
    go_to("#border_right_mm")
    keys.type("1.0")
    go_to("#seconds")
    keys.type("28")
    keys.press("Enter")
    expect(page.locator("h1.verdict")).to_have_text("Border as wanted")

    keys.press("?")
    expect(page.locator("#key-list")).to_be_visible()
    keys.press("Escape")
    keys.press("c")
    expect(page.locator(".sheet h1").first).to_have_text("Raft hinge ear")
    keys.press("/")
    keys.type("hinge")
    keys.press("Enter")
    expect(page.locator(".book li")).to_have_count(1)


def test_units_and_a_narrow_screen(page, job_id):
    tank = f"/jobs/{job_id('Float tank')}"
    page.goto(f"{tank}/tune")
    page.click("#units")
    expect(page.locator("#units .on")).to_have_text("inch")
    expect(page.locator('.lane[data-key="flow_l_min"] .lane-value i')).to_have_text("CFH")
    expect(page.locator("#section svg")).to_contain_text(" in")
    page.locator('.lane[data-key="flow_l_min"] .more').click()
    expect(page.locator('#set-line [data-set="flow_l_min"] .on-panel b')).to_have_text(
        page.locator("#lane-flow_l_min").input_value()
    )
    page.set_viewport_size({"width": 390, "height": 844})
    stations = [
        f"{tank}/{station}"
        for station in (
            "job",
            "prep",
            "torch",
            "tune",
            "wave",
            "coupon",
            "read",
            "card",
            "machines",
            "schools",
        )
    ]
    for station in (
        *stations,
        "/book",
        "/shop",
        "/shop/kit",
        "/shop/machines/new",
        "/shop/machines/4",
        "/metals",
        "/metals/6061",
        "/swap",
    ):
        page.goto(station)
        assert page.evaluate("document.documentElement.scrollWidth") <= 390, station
        # Everything that is pressed is at least 44 px high.
        small = page.evaluate(
            "[...document.querySelectorAll('button, .act, .chip, .station, input:not([type=radio]):not([type=checkbox]):not([type=hidden]), select')].filter(e => e.offsetParent && e.getBoundingClientRect().height < 40).map(e => e.outerHTML.slice(0, 80))"
        )
        assert small == [], station


def test_metal_fillers_and_the_prep_sheet(page, job_id):
    # Either name finds the alloy; purposes move the ranking; a refused filler says why.
    page.goto("/jobs/new")
    page.fill("#title", "Locker seam")
    page.fill("#a_alloy", "EN AW-6061")
    page.fill("#a_thickness", "3 mm")
    first = page.locator("#fillers .ranking .first > b")
    expect(first).to_have_text("4043")
    page.locator("#assumed > summary").click()
    page.locator(".chip-check", has_text="colour after anodising").click()
    expect(first).to_have_text("5356")
    page.locator(".chip-check", has_text="colour after anodising").click()
    expect(first).to_have_text("4043")
    page.fill("#a_alloy", "5083")
    expect(first).to_have_text("5183")
    page.locator("#fillers details summary", has_text="refused").click()
    expect(page.locator("#fillers .refused-list")).to_contain_text("rule 2: 5083 has 4.4 % magnesium")
    page.select_option("#filler_wanted", "4043")
    expect(page.locator("#joint-said .stop-words")).to_contain_text("brittle magnesium silicide")
    page.goto("/metals")
    page.get_by_role("link", name="A356").click()
    expect(page.locator("h1")).to_contain_text("AC-42100")
    expect(page.locator(".crack")).to_be_visible()

    # The gap job: a drawn sequence; the prep sheet is ticked off and printed with the card.
    hatch = f"/jobs/{job_id('Hatch coaming')}"
    page.goto(f"{hatch}/prep")
    expect(page.locator(".gap-steps li")).to_have_count(7)
    expect(page.locator(".gap-steps li").last).to_contain_text("closed")
    for _ in range(2):
        page.locator(".steps li:not(.done) .tick").first.click()
    expect(page.locator(".steps li.done")).to_have_count(2)
    expect(page.locator(".rail .here .sub")).to_contain_text("2 of")
    page.goto(f"{hatch}/card")
    page.emulate_media(media="print")
    expect(page.locator(".paper-steps")).to_contain_text("Degrease both sides")
    expect(page.locator(".topbar")).to_be_hidden()
    page.goto(f"/jobs/{job_id('Keel bracket')}/prep")
    expect(page.locator(".short")).to_contain_text("Gannet 350 does it as it is")


def test_torch_follows_its_tungsten_and_cup(page, job_id):
    page.goto(f"/jobs/{job_id('Survey raft')}/torch")
    load = page.locator("#torch-live .load desc")
    before = load.text_content()
    page.locator(".chip-check", has_text="WLa 20 1.6 mm").click()
    expect(page.locator(".band.melts.now, .band.balls.now, .band.rounds.now")).to_have_count(1)
    assert load.text_content() != before
    page.locator(".chip-check", has_text="WLa 20 3.2 mm").click()
    expect(page.locator(".band.good.now")).to_have_count(1)
    flow, words = number(page.locator("#flow-words b").inner_text()), page.locator("#cup-words").inner_text()
    picture = page.locator("#section").inner_html()
    page.locator(".chip-check", has_text="14 lens").click()
    expect(page.locator("#cup-words")).to_contain_text("reaches no further than 36 mm")
    assert number(page.locator("#flow-words b").inner_text()) > flow
    assert page.locator("#cup-words").inner_text() != words
    assert page.locator("#section").inner_html() != picture
    expect(page.locator(".access-row .here")).to_contain_text("fits")
    page.get_by_role("button", name="Save this torch").click()
    expect(page.locator("#set-line")).to_contain_text("18.2")

    # A reading of the gauge, in psi, and what is left.
    page.locator(".cylinder input[name=bar]").fill("725 psi")
    page.locator(".cylinder").get_by_role("button", name="Record").click()
    expect(page.locator(".cylinder").first).to_contain_text("50 bar")
    expect(page.locator(".cylinder").first).to_contain_text(re.compile(r"\d+ jobs\s+like this"))
    page.goto("/shop/kit")
    page.get_by_role("group", name="Plain cups").get_by_text("8", exact=True).click()
    page.fill("#torch0_rated_a", "thick")
    page.get_by_role("button", name="Save the kit").click()
    expect(page.locator(".problem-box")).to_contain_text("Torch 1, rated amps: “thick” cannot be used")
    expect(page.locator("#torch0_rated_a")).to_have_value("thick")
