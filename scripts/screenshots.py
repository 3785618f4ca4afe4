"""Take the pictures of docs/screenshots from a fresh workshop."""

from __future__ import annotations

import os
import shutil
import socket
import sqlite3
import subprocess
import sys
import tempfile
import time
import urllib.parse
import urllib.request
from contextlib import closing
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from anvilsong.core.arc.waveform import Wave
from anvilsong.instruments.trace.probe import Probe, recorded

TARGET = Path("docs/screenshots")
ARGS = [
    "--no-sandbox",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
    "--no-first-run",
]
# name, address, width, height, scheme, medium
VIEWS = [
    ("home", "/", 1280, 800, "light", "screen"),
    ("book", "/book", 1280, 800, "light", "screen"),
    ("job", "{Rigger}/job", 1280, 800, "light", "screen"),
    ("series", "{Float}/series?ready=balance", 1280, 800, "light", "screen"),
    ("prep", "{Keel}/prep", 1280, 800, "light", "screen"),
    ("faults", "{Float}/faults?sign=border_thin&sign=tip_balls", 1280, 800, "light", "screen"),
    ("torch", "{Survey}/torch", 1280, 800, "light", "screen"),
    ("calibration", "/shop/machines/2/coupons", 1280, 800, "light", "screen"),
    ("day", "{Deck}/day", 1280, 800, "light", "screen"),
    ("tune", "{Float}/tune", 1280, 800, "light", "screen"),
    ("map", "{Float}/map", 1280, 800, "light", "screen"),
    ("part", "{Float}/part?preset=box_panel", 1280, 900, "light", "screen"),
    ("trace", "/shop/machines/4/trace", 1280, 800, "light", "screen"),
    ("practice", "/practice?job=10&mode=hold", 1280, 800, "light", "screen"),
    ("machine", "/shop/machines/4", 1280, 800, "light", "screen"),
    ("photograph", "{Float}/photographs/1", 1280, 800, "light", "screen"),
    ("coupon", "{Float}/coupon", 1280, 800, "light", "screen"),
    ("read", "{Float}/read", 1280, 800, "light", "screen"),
    ("card-print", "{Float}/card", 794, 1123, "light", "print"),
]


def main() -> None:
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    with tempfile.TemporaryDirectory() as folder:
        environment = os.environ | {"ANVILSONG_DATA": f"{folder}/demo.sqlite", "ANVILSONG_PORT": str(port)}
        server = subprocess.Popen(
            [str(Path(sys.executable).with_name("anvilsong")), "demo"],
            env=environment,
            stdout=subprocess.DEVNULL,
        )
        try:
            _wait(f"http://127.0.0.1:{port}/healthz")
            _run_days(f"http://127.0.0.1:{port}", _jobs(f"{folder}/demo.sqlite")["Deck"])
            _take(f"http://127.0.0.1:{port}", _jobs(f"{folder}/demo.sqlite"))
        finally:
            server.terminate()
            server.wait(10)


def _wait(address: str) -> None:
    for _ in range(200):
        try:
            urllib.request.urlopen(address).close()
            return
        except OSError:
            time.sleep(0.1)


def _jobs(data: str) -> dict[str, str]:
    """The address of each demo job, by the first word of its title."""
    with closing(sqlite3.connect(data)) as connection:
        return {
            title.split()[0]: f"/jobs/{found}"
            for title, found in connection.execute("SELECT title, id FROM jobs")
        }


# Bead, border left, border right and seconds of the same run on nine mornings; the gas was short on the last.
MORNINGS = (
    (7.1, 1.2, 1.1, 27.0), (6.9, 1.1, 1.2, 26.5), (7.3, 1.3, 1.1, 27.8), (7.0, 1.2, 1.2, 27.1),
    (7.2, 1.1, 1.0, 26.9), (6.8, 1.2, 1.3, 27.3), (7.1, 1.3, 1.2, 27.5), (7.0, 1.1, 1.1, 26.8),
    (7.2, 0.4, 0.5, 27.2),
)  # fmt: skip


def _run_days(address: str, job: str) -> None:
    """Record the day's check of some mornings, as a person would."""
    for bead, left, right, seconds in MORNINGS:
        fields = {"bead_width_mm": bead, "border_left_mm": left, "border_right_mm": right, "seconds": seconds}
        form = urllib.parse.urlencode({**fields, "length_mm": 100})
        urllib.request.urlopen(f"{address}{job}/coupon", form.encode()).close()


def _take(address: str, jobs: dict[str, str]) -> None:
    TARGET.mkdir(parents=True, exist_ok=True)
    only = set(sys.argv[1:])
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(
            executable_path=shutil.which("chromium") or shutil.which("chromium-browser"), args=ARGS
        )
        for name, path, width, height, scheme, medium in VIEWS:
            if only and name not in only:
                continue
            page = browser.new_page(viewport={"width": width, "height": height}, color_scheme=scheme)
            page.emulate_media(media=medium)
            page.goto(address + path.format(**jobs))
            page.wait_for_timeout(300)
            if name == "part":
                _weld(page)
            if name == "trace":
                _trace(page)
            if name == "practice":
                _press(page)
            page.screenshot(path=TARGET / f"{name}.png")
            page.close()
        browser.close()


def _weld(page: Page) -> None:
    """Weld the part, and stop its film half way."""
    page.click("#weld")
    page.wait_for_selector("#film-bar:not([hidden])", timeout=120_000)
    page.evaluate("scrub.value = 90; scrub.dispatchEvent(new Event('input', {bubbles: true}))")
    page.wait_for_timeout(300)


def _trace(page: Page) -> None:
    """Send a trace of a simulated clamp, with what the panel showed."""
    recording = recorded(Wave(118.0, 0.27, 92.0, -0.1, "soft", "soft"), Probe(noise_a=1.5), 1.0, 0.1, 1)
    rate = recording.rate_hz
    rows = "\n".join(f"{place / rate:.6f},{amps:.2f}" for place, amps in enumerate(recording.amps))
    table = f"time (s),clamp (A)\n{rows}".encode()
    page.set_input_files("#file", {"name": "float-tank.csv", "mimeType": "text/csv", "buffer": table})
    page.fill("#amps_set", "98")
    page.fill("#ep_share", "9:30")
    page.fill("#frequency_hz", "12:00")
    page.click("text=What flows?")
    page.wait_for_selector("#told")
    page.wait_for_timeout(300)


def _press(page: Page) -> None:
    """Weld with the pedal for a while."""
    page.click("#start")
    page.wait_for_selector("#pedal-run[data-state='ready']", timeout=60_000)
    page.keyboard.press("End")
    page.wait_for_selector("#pedal-run[data-state='moves']", timeout=60_000)
    for _ in range(4):
        page.keyboard.press("ArrowDown")
    page.wait_for_timeout(14_000)


if __name__ == "__main__":
    main()
