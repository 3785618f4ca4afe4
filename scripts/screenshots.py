"""Take the pictures of docs/screenshots from a fresh workshop."""

from __future__ import annotations

import os
import shutil
import socket
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from playwright.sync_api import sync_playwright

TARGET = Path("docs/screenshots")
ARGS = ["--no-sandbox", "--disable-background-networking", "--disable-component-update", "--disable-sync", "--no-first-run"]
# name, address, width, height, scheme, medium
VIEWS = [
    ("book", "/book", 1280, 800, "light", "screen"),
    ("job", "/jobs/4/job", 1280, 800, "light", "screen"),
    ("refused", "/jobs/2/job", 1280, 800, "light", "screen"),
    ("prep", "/jobs/5/prep", 1280, 800, "light", "screen"),
    ("torch", "/jobs/5/torch", 1280, 800, "light", "screen"),
    ("tune", "/jobs/7/tune", 1280, 800, "light", "screen"),
    ("tune-dark", "/jobs/5/tune", 1280, 800, "dark", "screen"),
    ("tune-narrow", "/jobs/7/tune", 390, 844, "light", "screen"),
    ("coupon", "/jobs/7/coupon", 1280, 800, "light", "screen"),
    ("read", "/jobs/7/read", 1280, 800, "light", "screen"),
    ("card-print", "/jobs/7/card", 794, 1123, "light", "print"),
    ("shop", "/shop", 1280, 800, "light", "screen"),
]


def main() -> None:
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    with tempfile.TemporaryDirectory() as folder:
        environment = os.environ | {"ANVILSONG_DATA": f"{folder}/demo.sqlite", "ANVILSONG_PORT": str(port)}
        server = subprocess.Popen([str(Path(sys.executable).with_name("anvilsong")), "demo"], env=environment, stdout=subprocess.DEVNULL)
        try:
            _wait(f"http://127.0.0.1:{port}/healthz")
            _take(f"http://127.0.0.1:{port}")
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


def _take(address: str) -> None:
    TARGET.mkdir(parents=True, exist_ok=True)
    only = set(sys.argv[1:])
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=shutil.which("chromium") or shutil.which("chromium-browser"), args=ARGS)
        for name, path, width, height, scheme, medium in VIEWS:
            if only and name not in only:
                continue
            page = browser.new_page(viewport={"width": width, "height": height}, color_scheme=scheme)
            page.emulate_media(media=medium)
            page.goto(address + path)
            page.wait_for_timeout(300)
            page.screenshot(path=TARGET / f"{name}.png")
            page.close()
        browser.close()


if __name__ == "__main__":
    main()
