"""A part drawn by hand and by keys, welded, stopped and looked at; and the map, whose point the board follows."""

import re

import pytest
from playwright.sync_api import expect


@pytest.fixture
def desk(open_desk):
    return open_desk()


def on_part(page, x_mm, y_mm):
    """Where a place of the part is on the screen."""
    # In one question: the drawing may be replaced by a newer one at any time.
    data, box = page.evaluate(
        "() => { const svg = document.querySelector('#part-drawing svg'); const {x, y, width} = svg.getBoundingClientRect();"
        " return [{...svg.dataset}, {x, y, width}]; }"
    )
    units = 800 / box["width"]
    return (
        box["x"] + (float(data["x"]) + (x_mm - float(data["left"])) * float(data["scale"])) / units,
        box["y"] + (float(data["y"]) + (float(data["top"]) - y_mm) * float(data["scale"])) / units,
    )


def draw(page, tool, begin, end):
    """From one place to another with a tool; waits until the server has drawn it."""
    page.locator(f'label:has(input[name=tool][value="{tool}"])').click()
    page.mouse.move(*on_part(page, *begin))
    page.mouse.down()
    page.mouse.move(*on_part(page, *end), steps=4)
    with page.expect_response("**/api/parts/draw"):
        page.mouse.up()


def weld(page):
    with page.expect_navigation(
        url=re.compile(r"run=\d+"), timeout=400_000
    ):  # the first one reads the solver; by key, since the drawing that is drawn anew may move the button
        page.locator("#weld").press("Enter")


def test_a_part_from_nothing_to_its_foot(desk, job_id):
    page, job = desk, job_id("Float tank")
    page.goto(f"/jobs/{job}/tune")
    page.click("text=What the part does")
    page.wait_for_url(re.compile("/part$"))
    page.wait_for_load_state()
    expect(page.locator(".part-drawing .part-run")).to_have_count(1)  # a plate in the job's own sheet

    # A hole, round; a block; a place to watch; all by mouse, and undone by a key.
    page.locator("label:has(#round)").click()
    draw(page, "hole", (220, 110), (232, 110))
    expect(page.locator("circle.part-hole")).to_have_count(1)
    page.locator("label:has(#round)").click()
    draw(page, "block", (60, 110), (140, 140))
    expect(page.locator("rect.part-block")).to_have_count(1)
    draw(page, "mark", (220, 95), (220, 95))
    page.fill("#m0_name", "Seal")
    page.fill("#m0_most_c", "150")
    expect(page.locator(".part-drawing text", has_text="Seal")).to_have_count(1)
    draw(page, "hole", (20, 20), (40, 40))
    expect(page.locator("rect.part-hole")).to_have_count(1)
    page.locator('[data-row="s3_"] .take-away').press("Enter")
    expect(page.locator("rect.part-hole")).to_have_count(0)

    # What cannot be is said while it is typed, and a reload keeps all of it.
    page.fill("#r0_to_x_mm", "half")
    expect(page.locator("#part-problem")).to_contain_text("half")
    page.fill("#r0_to_x_mm", "300")
    expect(page.locator("#part-problem")).to_be_hidden()
    page.fill("#cell_mm", "2.5")
    page.reload()
    page.wait_for_load_state()
    expect(page.locator("#cell_mm")).to_have_value("2.5")
    expect(page.locator("#m0_name")).to_have_value("Seal")
    expect(page.locator("circle.part-hole")).to_have_count(1)
    expect(page.locator(".draft-back")).to_be_visible()

    weld(page)
    film = page.locator("#film-bar")
    expect(film).to_be_visible(timeout=400_000)
    expect(page.locator(".foot figcaption")).to_contain_text("A once it moves")
    expect(page.locator("aside .said")).to_contain_text("Seal:")
    expect(page.locator(".part-ways")).to_contain_text("Without the block")

    # The film, scrubbed by keys and played; another picture is another canvas.
    scrub = page.locator("#scrub")
    paint = "canvas => canvas.toDataURL()"
    last = page.locator("#film").evaluate(paint)
    scrub.focus()
    page.keyboard.press("Home")
    expect(page.locator("#film-time")).to_have_text("0 s")
    assert page.locator("#film").evaluate(paint) != last
    page.keyboard.press("PageUp")
    expect(page.locator("#film-time")).not_to_have_text("0 s")
    page.locator("#play").press("Enter")
    expect(page.locator("#play")).to_have_text("Stop")
    page.locator("#play").press("Enter")

    # It stands where amps are set.
    page.goto(f"/jobs/{job}/tune")
    expect(page.locator(".on-part")).to_contain_text("at the end")


def test_a_long_run_is_stopped(desk, job_id):
    page, job = desk, job_id("Float tank")
    page.goto(f"/jobs/{job}/part?preset=plate")
    page.wait_for_load_state()
    page.fill("#cell_mm", "0.7")  # fine: it takes long
    page.fill("#s0_width_mm", "380")
    page.fill("#r0_to_x_mm", "380")
    weld(page)
    expect(page.locator("#work progress")).to_be_visible()
    expect(page.locator("#work-words")).to_contain_text("%", timeout=200_000)
    page.goto(f"/jobs/{job}/prep")  # other pages answer meanwhile
    expect(page.locator("h1").first).to_be_visible()
    page.go_back()
    page.wait_for_load_state()
    page.locator("#work button").press("Enter")
    page.wait_for_load_state()
    expect(page.locator("#work-words")).to_contain_text("Stopped", timeout=200_000)
    expect(page.locator("#cell_mm")).to_have_value(re.compile("^0.7"))

    # Too fine is said before it starts.
    page.fill("#cell_mm", "0.2")
    page.fill("#s0_height_mm", "2000")
    page.click("#weld")
    expect(page.locator(".problem-box, .problems, [role=alert]").first).to_be_visible()
    expect(page.locator("main")).to_contain_text("minutes; take cells of")


def test_the_maps_point_is_the_board(desk, job_id):
    page, job = desk, job_id("Float tank")
    page.goto(f"/jobs/{job}/tune")
    page.click("text=Map")
    page.wait_for_url(re.compile("/map$"))
    page.wait_for_load_state()
    point, amps, travel = (
        page.locator("#map-point"),
        page.locator("#value_amps_run"),
        page.locator("#value_travel_mm_s"),
    )
    first = float(amps.input_value())
    box = page.locator(".map-here").bounding_box()
    at = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.move(*at)
    page.mouse.down()
    with page.expect_response("**/api/consequences"):
        page.mouse.move(at[0] + 90, at[1] + 60, steps=6)
    assert float(amps.input_value()) > first + 8
    assert float(travel.input_value()) < 4
    expect(page.locator("#warnings")).to_contain_text("melts through")  # slow and hot: the map said sags
    dragged = travel.input_value()
    page.mouse.move(at[0] + 90, at[1] + 60)
    page.mouse.up()
    assert (
        travel.input_value() == dragged
    )  # the stop told above has pushed the map down, the point stays with the hand
    expect(page.locator("#margins")).to_contain_text("melts through")

    # Back by keys, and kept.
    point.focus()
    for _ in range(3):
        page.keyboard.press("Shift+ArrowLeft")
    page.keyboard.press("Shift+ArrowUp")
    expect(page.locator("#warnings")).not_to_contain_text("melts through")
    kept = amps.input_value()
    page.locator("text=Save these settings").press("Enter")
    page.wait_for_url(re.compile("/tune$"))
    expect(page.locator("#lane-amps_run")).to_have_value(kept)
    expect(page.locator(".board-end .revision")).to_contain_text("From the map")

    # Other axes are drawn as soon as they are chosen; what is typed moves the point.
    page.goto(f"/jobs/{job}/map")
    page.wait_for_load_state()
    with page.expect_navigation():
        page.select_option("#x", "ep_share")
    page.wait_for_load_state()
    before = page.locator(".map-here").get_attribute("cx")
    with page.expect_response("**/api/consequences"):
        page.fill("#value_ep_share", "45")
    assert page.locator(".map-here").get_attribute("cx") != before
