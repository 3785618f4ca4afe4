"""A recording made in the page, from a microphone that plays a file: heard, told, and a knob put right."""

import shutil

from playwright.sync_api import expect
from tests.browser.test_access import EVERYTHING, serious
from tests.conftest import CHROMIUM_ARGS, answering
from tests.web.test_sound import AC, sound_file


def test_an_arc_recorded_in_the_page_moves_the_knob(browser, workshop_file, tmp_path):
    file = tmp_path / "arc.wav"
    file.write_bytes(sound_file(AC, 7, 6.0))
    path = shutil.which("chromium") or shutil.which("chromium-browser")
    ears = ["--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream"]
    ears.append(f"--use-file-for-fake-audio-capture={file}")
    with answering(shutil.copy(workshop_file, tmp_path / "book.sqlite")) as address:
        hearing = browser.browser_type.launch(executable_path=path, args=[*CHROMIUM_ARGS, *ears])
        try:
            page = hearing.new_context(
                base_url=address, viewport={"width": 390, "height": 844}, bypass_csp=True
            ).new_page()
            page.goto("/shop/machines/4/sound")
            page.fill("#frequency_hz", "12:00")
            page.click("text=What is heard?")
            expect(page.locator(".problem-box")).to_contain_text("record it here")
            assert page.input_value("#frequency_hz") == "12:00"
            page.click("text=Record here")
            expect(page.locator("#recorded")).to_contain_text("5.", timeout=60_000)
            page.get_by_role("button", name="Stop").click()
            expect(page.locator("#recorded")).to_contain_text("Now ask what is heard")
            page.click("text=What is heard?")
            row = page.locator('tr[data-setting="frequency_hz"]')
            expect(row).to_contain_text("97 Hz")
            expect(row).to_contain_text("14 % more than set")
            assert serious(page, EVERYTHING) == []
            assert page.evaluate("document.documentElement.scrollWidth") <= 390
            row.get_by_role("button").click()
            expect(row).to_contain_text("as set")
        finally:
            hearing.close()
