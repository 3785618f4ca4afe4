"""A tab dragged on the board for some seconds in a real browser.

How many questions are under way at once, and how long what it will do stands still between two answers,
beside how often the browser says that the tab has moved.
"""

from __future__ import annotations

import shutil
import statistics
import sys
import tempfile
from itertools import pairwise
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, sync_playwright

from _serve import serving

FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking", "--no-first-run"]
MOST_UNDER_WAY, MOST_GAP = 1, 3.0  # gaps in moves of the tab
STEPS, REACH_PX = 240, 150  # every move is another value, and none beyond the end
WATCH = """() => {
  window.seen = { under: 0, most: 0, answers: [], moves: [] };
  const plain = window.fetch;
  window.fetch = async (...given) => {
    if (!String(given[0]).includes("/api/consequences")) return plain(...given);
    window.seen.most = Math.max(window.seen.most, ++window.seen.under);
    try { return await plain(...given); } finally { window.seen.under--; }
  };
  document.addEventListener("pointermove", () => window.seen.moves.push(performance.now()), true);
  new MutationObserver(() => window.seen.answers.push(performance.now()))
    .observe(document.getElementById("section"), { childList: true });
}"""


def sweep(page: Page) -> dict[str, Any]:
    """Drags the balance to and fro and returns what the page saw."""
    tab = page.locator('.lane[data-key="ep_share"] .tab')
    tab.scroll_into_view_if_needed()
    box = tab.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    for step in range(STEPS):
        page.mouse.move(x + REACH_PX * abs((step / 10) % 2 - 1), y)
        page.wait_for_timeout(4)
    page.mouse.up()
    page.wait_for_timeout(500)
    return dict(page.evaluate("window.seen"))


def between(times: list[float]) -> list[float]:
    """What lies between one time and the next, ms."""
    return [later - before for before, later in pairwise(times)]


def main() -> int:
    with (
        tempfile.TemporaryDirectory() as folder,
        serving(Path(folder) / "drag.sqlite") as address,
        sync_playwright() as playwright,
    ):
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium"), args=FLAGS)
        page = browser.new_page(base_url=address, viewport={"width": 1280, "height": 800})
        page.goto("/jobs/8/tune")
        page.evaluate(WATCH)
        seen = sweep(page)
        browser.close()
    gaps, moves = between(seen["answers"]), between(seen["moves"])
    gap, move = statistics.quantiles(gaps, n=20)[-1], statistics.median(moves)
    print(f"moves: {len(moves)}, one every {move:.0f} ms (ratio to itself: 1)")
    print(f"under way at once: {seen['most']} (wanted {MOST_UNDER_WAY})")
    print(
        f"drag: {len(gaps)} answers, gaps {statistics.median(gaps):.0f} ms, p95 {gap:.0f} ms "
        f"(ratio to a move: {gap / move:.1f}, wanted under {MOST_GAP})"
    )
    return int(seen["most"] > MOST_UNDER_WAY or gap > MOST_GAP * move)


if __name__ == "__main__":
    sys.exit(main())
