"""One finger on a page, through the browser's own input, which may take it for scrolling."""

import re


def swipe(page, start, end, steps=12):
    """One finger from start to end, as the browser's own input pipeline sees it: it may scroll or drag."""
    client = page.context.new_cdp_session(page)
    client.send(
        "Input.dispatchTouchEvent", {"type": "touchStart", "touchPoints": [{"x": start[0], "y": start[1]}]}
    )
    for step in range(1, steps + 1):
        at = [a + (b - a) * step / steps for a, b in zip(start, end, strict=True)]
        client.send(
            "Input.dispatchTouchEvent", {"type": "touchMove", "touchPoints": [{"x": at[0], "y": at[1]}]}
        )
    client.send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
    settled(page)


def settled(page):
    """Wait until nothing has moved for a dozen frames: scrolling has come to its end, warnings stand where they stay."""
    page.evaluate(
        """() => new Promise((done) => {
          let last = "", still = 0;
          const look = () => {
            const now = `${scrollY} ${document.body.scrollHeight}`;
            still = now === last ? still + 1 : 0;
            last = now;
            if (still >= 12) done(); else requestAnimationFrame(look);
          };
          requestAnimationFrame(look);
        })"""
    )


def middle(locator):
    box = locator.bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def drag(page, grip, to):
    """A grip to a pixel of the picture, by mouse; the page may not answer before it is let go."""
    page.locator("#marks").scroll_into_view_if_needed()
    box = page.locator("#marks").bounding_box()
    size = [float(n) for n in page.locator("#marks").get_attribute("viewBox").split()[2:]]
    at = page.locator(f'[data-grip="{grip}"] .ring').bounding_box()
    page.mouse.move(at["x"] + at["width"] / 2, at["y"] + at["height"] / 2)
    page.mouse.down()
    page.mouse.move(
        box["x"] + to[0] / size[0] * box["width"], box["y"] + to[1] / size[1] * box["height"], steps=4
    )
    with page.expect_response(re.compile("/measure$")):
        page.mouse.up()
