"""Nobody is kept out: no critical or serious finding on the main views, in both themes, wide and narrow."""

from pathlib import Path

AXE = Path(__file__).parent.joinpath("vendor", "axe.min.js").read_text(encoding="utf-8")
VIEWS = [
    "/who",
    "/phone",
    "/book/changes",
    "/recipes/wall",
    "/book",
    "/jobs/new",
    "/jobs/10/job",
    "/jobs/2/job",
    "/jobs/3/prep",
    "/jobs/8/torch",
    "/jobs/10/tune",
    "/jobs/10/wave",
    "/jobs/10/coupon",
    "/jobs/10/read",
    "/jobs/10/card",
    "/jobs/8/machines",
    "/jobs/8/schools",
    "/shop",
    "/shop/kits/1",
    "/shop/machines/4",
    "/shop/machines/2/coupons",
    "/jobs/10/compare?one=1&other=3",
    "/jobs/10/faults?sign=tip_balls",
    "/shop/welders/1",
    "/shop/machines/new",
    "/help",
    "/swap",
    "/metals",
    "/metals/6061",
    "/book/care",
    "/wrong?sign=soot",
    "/jobs/10/map",
    "/jobs/10/part?preset=box_panel",
    "/jobs/10/series?ready=balance",
    "/jobs/10/series/1",
    "/jobs/10/blind",
    "/jobs/10/blind/2",
    "/jobs/10/blind/2/helper",
    "/jobs/10/trigger?control=switch_4_two_levels",
    "/jobs/10/day",
    "/jobs/10/bench",
    "/jobs/10/wedge?narrow=0.3&wide=4",
    "/shop/machines/4/arc",
    "/shop/machines/4/trace",
    "/shop/machines/4/sound",
    "/together?job=8&job=9",
    "/shop/machines/2/proposals",
    "/jobs/10/proposal",
    "/jobs/10/again",
    "/jobs/1/cut-out?flaw=30&depth=4",
    "/jobs/8/order",
    "/",
    "/practice",
    "/practice?job=10&mode=switch",
    "/practice/rhythm?bead=stopped",
    "/practice/changes?level=2",
    "/practice/eye?job=10&level=1",
    "/practice/eye?job=10&kind=two",
    "/practice/eye?job=10&kind=tip",
    "/practice/panels",
    "/practice/progress",
    "/recipes",
    "/recipes/12",
    "/shop/machines/2/memories",
    "/shop/machines/2/memories/1/copy",
    "/jobs/10/store",
    "/jobs/10/runs",
    "/runs",
]


EVERYTHING = "['wcag2a', 'wcag2aa', 'wcag21aa', 'best-practice']"
# The words and roles are the same in either scheme; what a scheme and a width decide is looked at in both.
LOOKS = (
    "{ type: 'rule', values: ['color-contrast', 'link-in-text-block', 'scrollable-region-focusable', "
    "'aria-hidden-focus', 'target-size'] }"
)


def serious(page, rules):
    """What the checker finds of a page with everything opened."""
    page.evaluate(AXE)
    seen = page.evaluate(f"axe.run(document, {{ runOnly: {rules}, resultTypes: ['violations'] }})")
    return [
        (finding["id"], finding["nodes"][0]["html"][:120])
        for finding in seen["violations"]
        if finding["impact"] in ("critical", "serious")
    ]


def opened(page, view):
    page.goto(view)
    page.evaluate("document.querySelectorAll('details').forEach(box => (box.open = true))")


def test_no_serious_finding(browser, served):
    # The checker is put into the page, which the page's own policy would forbid.
    context = browser.new_context(
        color_scheme="light", viewport={"width": 1280, "height": 844}, base_url=served, bypass_csp=True
    )
    page, found = context.new_page(), []
    try:
        for view in VIEWS:
            opened(page, view)
            found += [(view, each) for each in serious(page, EVERYTHING)]
    finally:
        context.close()
    print(*found, sep="\n")
    assert found == []


# What is tapped, unless all of a label around it is; a link among words counts with its padding.
SMALL_TARGETS = """() => [...document.querySelectorAll('a, button, input:not([type=hidden]), select, summary, [role=slider]')]
  .filter((each) => each.checkVisibility({ opacityProperty: true }) && !each.disabled && !each.classList.contains('skip'))
  .map((each) => [each, (each.matches('input') && each.closest('label')) || each])
  .filter(([, taken]) => taken.getBoundingClientRect().height < 43.5)
  .map(([each, taken]) => `${each.outerHTML.slice(0, 90)} ${taken.getBoundingClientRect().height}`)"""
COVERED = """() => {
  const links = [...document.querySelectorAll('main a')].filter((each) => each.checkVisibility({ opacityProperty: true }));
  const middle = (each) => { const box = each.getClientRects()[0]; return [box.left + box.width / 2, box.top + box.height / 2]; };
  const over = (box, x, y) => x > box.left && x < box.right && y > box.top && y < box.bottom;
  return links.flatMap((each, place) => links.slice(place + 1)
    .filter((other) => !each.contains(other) && [...other.getClientRects()].some((box) => over(box, ...middle(each))))
    .map((other) => `${each.textContent.trim()} lies under ${other.textContent.trim()}`));
}"""
SMALL_WORDS = """() => [...document.querySelectorAll('svg text')]
  .filter((each) => each.checkVisibility() && each.textContent.trim())
  .map((each) => [each.textContent, Math.hypot(each.getScreenCTM().a, each.getScreenCTM().b) * parseFloat(getComputedStyle(each).fontSize)])
  .filter(([, size]) => size < 13.9)"""


def test_on_a_phone_in_the_dark_all_is_seen_and_large_enough_to_tap_and_to_read(browser, served):
    context = browser.new_context(
        color_scheme="dark", viewport={"width": 390, "height": 844}, base_url=served, bypass_csp=True
    )
    page, found = context.new_page(), []
    try:
        for view in VIEWS:
            opened(page, view)
            for asked in (SMALL_WORDS, SMALL_TARGETS, COVERED):
                found += [(view, each) for each in page.evaluate(asked)]
            found += [(view, each) for each in serious(page, LOOKS)]
    finally:
        context.close()
    print(*found, sep="\n")
    assert found == []


def test_a_phone_sees_every_figure_and_station(browser, served):
    # Without motion, so that a scroll has ended when it is looked at.
    context = browser.new_context(
        viewport={"width": 390, "height": 844}, base_url=served, reduced_motion="reduce"
    )
    page = context.new_page()
    try:
        page.goto("/jobs/10/tune")
        for part in ("#set-line .figure", ".rail .station"):
            for item in page.locator(part).all():
                box = item.bounding_box()
                assert 0 <= box["x"] < box["x"] + box["width"] <= 390
        page.goto("/jobs/10/coupon")
        for field in page.locator(
            "#coupon-form input:not([type=hidden]), #coupon-form select, #coupon-form textarea"
        ).all():
            if not field.is_visible():
                continue
            field.focus()
            box = field.bounding_box()
            assert box["y"] + box["height"] <= page.locator(".rail").bounding_box()["y"] + 1
        assert page.evaluate("document.documentElement.scrollWidth") <= 390
    finally:
        context.close()
