"""Dragging in a real browser whose processor is slowed to a quarter: a lane of the board, the point of the
map, the film of a part.

How often a frame is painted while something is dragged, beside a bare page on which a square follows the same
pointer; how many layouts one answer costs; how many questions are under way at once. Exit 1 where frames come
seldomer than the bare page's by more than the most, where a frame costs more than one layout, or where a
second question is asked before the first was answered.
"""

from __future__ import annotations

import shutil
import statistics
import sys
import tempfile
from collections.abc import Callable
from itertools import pairwise
from pathlib import Path
from typing import Any

from playwright.sync_api import CDPSession, Locator, Page, sync_playwright

from _serve import serving

FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--no-first-run"]
SLOWER = 4
MOST_UNDER_WAY = 1
MOST_LAYOUTS = 1.1  # a frame; what is not the page's own is a tenth
FRAME_MS = 1000 / 30
MOST_FRAMES = 2.0  # of the bare page's frames, 95th percentile: thirty a second beside its sixty
STEPS, REACH_PX = 120, 150
BARE = """<!doctype html>
<style>#one{position:absolute;width:20px;height:20px;top:90px;background:#333}</style>
<div id="one"></div><script>document.addEventListener("pointermove", (event) => {
  document.getElementById("one").style.left = event.clientX + "px"; });</script>"""
WATCH = """() => {
  window.seen = { under: 0, most: 0, answers: 0, frames: [] };
  const plain = window.fetch;
  window.fetch = async (...given) => {
    if (!String(given[0]).includes("/api/consequences")) return plain(...given);
    window.seen.most = Math.max(window.seen.most, ++window.seen.under);
    try {
      const answer = await plain(...given);
      window.seen.answers++;
      return answer;
    } finally { window.seen.under--; }
  };
  const frame = (time) => { window.seen.frames.push(time); requestAnimationFrame(frame); };
  requestAnimationFrame(frame);
}"""


def layouts(session: CDPSession) -> int:
    """How many layouts the page has made."""
    metrics = session.send("Performance.getMetrics")["metrics"]
    return int(next(each["value"] for each in metrics if each["name"] == "LayoutCount"))


def dragged(page: Page, session: CDPSession, x: float, y: float, up: float = 0.0) -> dict[str, Any]:
    """Drag from a place to and fro; what the page saw, with the layouts that it cost."""
    session.send("Performance.enable")
    session.send("Emulation.setCPUThrottlingRate", {"rate": SLOWER})
    page.evaluate(WATCH)
    page.mouse.move(x, y)
    page.mouse.down()
    before = layouts(session)
    start = page.evaluate("performance.now()")
    for step in range(STEPS):
        across = REACH_PX * abs((step / 20) % 2 - 1)
        page.mouse.move(x + across, y + up * across)
        page.wait_for_timeout(8)
    seen = dict(page.evaluate("window.seen"))
    seen["layouts"] = layouts(session) - before
    page.mouse.up()
    session.send("Emulation.setCPUThrottlingRate", {"rate": 1})
    seen["gaps"] = [later - earlier for earlier, later in pairwise(seen["frames"]) if earlier > start]
    return seen


def middle(place: Locator) -> tuple[float, float]:
    """Where a pointer takes hold of something."""
    place.scroll_into_view_if_needed()
    box = place.bounding_box()
    assert box is not None
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def lane(page: Page, session: CDPSession) -> dict[str, Any]:
    page.goto("/jobs/10/tune")
    page.wait_for_selector("#wave svg")
    return dragged(page, session, *middle(page.locator('.lane[data-key="ep_share"] .tab')))


def map_point(page: Page, session: CDPSession) -> dict[str, Any]:
    page.goto("/jobs/10/map")
    page.wait_for_selector("#map-point")
    return dragged(page, session, *middle(page.locator("#map-point")), up=0.3)


def film(page: Page, session: CDPSession) -> dict[str, Any]:
    """A part is welded first; then its slider is dragged."""
    page.goto("/jobs/10/part")
    page.locator("#weld").click()
    page.wait_for_selector("#film-bar:not([hidden])", timeout=300_000)
    slider = page.locator("#scrub")
    y = middle(slider)[1]
    box = slider.bounding_box()
    assert box is not None
    return dragged(page, session, box["x"] + 8, y)


def told(name: str, seen: dict[str, Any], bare_ms: float, is_asking: bool) -> bool:
    """One line; whether the figures are as wanted."""
    p95 = statistics.quantiles(seen["gaps"], n=20)[-1]
    ratio = p95 / bare_ms
    good = ratio <= MOST_FRAMES or p95 <= FRAME_MS
    said = f"{name}: a frame every {statistics.median(seen['gaps']):.0f} ms, p95 {p95:.0f} ms"
    said += f" (ratio to the bare page: {ratio:.1f}, wanted under {MOST_FRAMES})"
    if is_asking:
        each = seen["layouts"] / max(len(seen["gaps"]), 1)
        per_answer = seen["layouts"] / max(seen["answers"], 1)
        good &= each <= MOST_LAYOUTS and seen["most"] <= MOST_UNDER_WAY
        said += f"; {seen['answers']} answers, {seen['most']} under way at once"
        said += f", {each:.2f} layouts a frame ({per_answer:.2f} an answer)"
    print(said + ("" if good else "  TOO MUCH"), flush=True)
    return good


def main() -> int:
    good = True
    with (
        tempfile.TemporaryDirectory() as folder,
        serving(Path(folder) / "drag.sqlite") as address,
        sync_playwright() as playwright,
    ):
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=FLAGS)
        page = browser.new_page(base_url=address, viewport={"width": 1280, "height": 800})
        session = page.context.new_cdp_session(page)
        page.set_content(BARE)
        bare = dragged(page, session, 100, 100)
        bare_ms = statistics.quantiles(bare["gaps"], n=20)[-1]
        print(
            f"bare page, at a {SLOWER}th of the processor: a frame every {bare_ms:.0f} ms, p95 (ratio to"
            " itself: 1)"
        )
        stations: dict[str, tuple[Callable[[Page, CDPSession], dict[str, Any]], bool]] = {
            "a lane of the board": (lane, True),
            "the map's point": (map_point, True),
            "a part's film": (film, False),
        }
        for name, (drag, is_asking) in stations.items():
            good &= told(name, drag(page, session), bare_ms, is_asking)
        browser.close()
    return 0 if good else 1


if __name__ == "__main__":
    sys.exit(main())
