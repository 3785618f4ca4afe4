"""One finger on a page, through the browser's own input, which may take it for scrolling."""


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
