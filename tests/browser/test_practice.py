"""A pedal run in a browser: by keyboard to its end, by a thumb, by a controller, by steps."""

import json
import re
import shutil
import wave
from urllib.parse import parse_qs

import numpy as np
import pytest
from playwright.sync_api import expect
from tests.conftest import CHROMIUM_ARGS, answering

PAD = """
const pad = { index: 0, axes: [-1, 0], buttons: Array.from({ length: 8 }, () => ({ value: 0 })) };
window.pad = pad;
navigator.getGamepads = () => [pad];
"""
RUN = "/practice?job=10&part=casting&welder=Bram"


def begun(page, address=RUN):
    page.goto(address)
    page.get_by_role("button", name="Start").click()
    expect(page.locator("#run-said")).to_have_text("Press the pedal: the arc starts.")


def figure(page, name):
    return float(re.match(r"[\d.]+", page.locator(f"#{name}").inner_text())[0])


def test_by_keyboard_to_the_end_and_still_there_after_a_reload(open_desk):
    page = open_desk()
    begun(page)
    expect(page.locator("#pedal")).to_be_focused()
    page.keyboard.press("End")
    expect(page.locator("#run-said")).to_have_text("Welding.")
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    expect(page.locator("#pedal-run")).to_have_attribute("data-pedal", "0.9")
    expect(page.locator("#pedal-shown")).to_have_text("90 %")
    expect(page.get_by_role("button", name="Half a second on")).to_be_disabled()
    expect(page.locator("#run-result")).to_be_visible()
    expect(page.locator("#run-result h2")).to_contain_text("Pool held")
    expect(page.locator("#run-result svg.pedal-run")).to_be_visible()
    expect(page.get_by_role("button", name="Start again")).to_be_enabled()
    page.reload()
    expect(page.locator("#practised tbody tr")).to_have_count(1)
    expect(page.locator("#practised")).to_contain_text("Even pool")
    page.get_by_label("What to practise").select_option("switch")
    expect(page.get_by_role("button", name="Torch switch")).to_be_disabled()
    page.get_by_role("button", name="Start").click()
    expect(page.locator("#run-said")).to_have_text("Press the torch switch: the arc starts.")
    page.keyboard.press("Space")
    expect(page.get_by_role("button", name="Torch switch")).to_have_attribute("aria-pressed", "true")
    expect(page.locator("#pedal-run")).to_have_attribute("data-state", re.compile("waits|moves"))
    page.get_by_role("button", name="Stop").click()
    expect(page.locator("#run-said")).to_have_text("Stopped. Nothing of it was counted.")


def test_by_a_thumb_and_by_steps(open_desk):
    page = open_desk(390, 844, has_touch=True)
    begun(page)
    box = page.locator("#pedal").bounding_box()
    page.mouse.move(box["x"] + box["width"] - 25, box["y"] + box["height"] / 2)
    page.mouse.down()
    expect(page.locator("#pedal-run")).to_have_attribute("data-pedal", re.compile(r"^(1|0\.9)"))
    expect(page.locator("#run-said")).to_have_text("Welding.")
    page.mouse.up()  # a pedal comes up by itself
    expect(page.locator("#run-said")).to_have_text("The arc is out: the pool freezes.")
    expect(page.locator("#pedal")).to_have_value("0")
    page.get_by_label("The pedal comes up when you let go").uncheck()
    page.locator("#pedal").press("End")
    page.get_by_role("button", name="Pause").click()
    expect(page.locator("#run-said")).to_have_text("Paused.")
    before = page.locator("#time").inner_text()
    expect(page.locator("#time")).to_have_text(before)
    page.get_by_role("button", name="Half a second on").click()
    wanted = f"{float(before.split()[0]) + 0.5:.1f} s"
    expect(page.locator("#time")).to_have_text(wanted)
    page.get_by_role("button", name="Go on").click()
    expect(page.get_by_role("button", name="Pause")).to_be_enabled()
    page.get_by_role("button", name="Stop").click()
    expect(page.locator("#practised")).to_have_count(0)


@pytest.mark.parametrize("what", ["buttons[7].value = 0.8", "axes[0] = 0.6"])
def test_by_a_controller(open_desk, what):
    page = open_desk()
    page.add_init_script(PAD)
    begun(page)
    page.evaluate(f"() => {{ pad.{what}; }}")
    expect(page.locator("#pedal-run")).to_have_attribute("data-pedal", "0.8")
    expect(page.locator("#pedal-run")).to_have_attribute("data-state", re.compile("waits|moves"))
    page.get_by_role("button", name="Stop").click()


def test_taps_in_time_by_key_by_thumb_and_by_pedal(open_desk):
    page = open_desk(390, 844, has_touch=True)
    page.add_init_script(PAD)
    page.goto("/practice/rhythm?job=10&welder=Bram")
    page.get_by_role("button", name="Start").click()
    for number in range(5, 11):  # with the fifth to the tenth mark, by turns
        expect(page.locator("#tap-words")).to_have_text(f"{number} of 27")
        if number % 3 == 0:
            page.evaluate("() => { pad.axes[0] = 0.9; }")
        elif number % 3 == 1:
            page.evaluate("() => { pad.axes[0] = -1; }")
            page.keyboard.press("Space")
        else:
            page.locator("#tap").tap()
    expect(page.locator("#run-result")).to_be_visible()
    expect(page.locator("#run-result .rhythm-ripple")).to_have_count(27 + 6)
    page.get_by_role("button", name="Start").click()
    page.get_by_role("button", name="Stop").click()
    expect(page.locator("#run-said")).to_have_text("Stopped. Nothing of it was counted.")


def test_a_coupon_is_judged_by_thumb(open_desk):
    page = open_desk(390, 844, has_touch=True)
    page.goto("/practice/eye?job=10&welder=Bram&level=1")
    picture = page.locator(".coupon-picture")
    expect(picture).to_have_js_property("complete", True)
    assert picture.evaluate("image => image.naturalWidth") == 880
    assert page.evaluate("() => document.documentElement.scrollWidth <= innerWidth")
    causes = page.locator('[data-of-sign="soot"]')
    expect(page.locator("[data-of-sign]:visible")).to_have_count(0)
    page.locator(".sign-grid label", has_text="Border too wide").tap()
    page.locator(".sign-grid label", has_text="Soot").tap()
    expect(page.locator("[data-of-sign]:visible")).to_have_count(1)
    page.get_by_role("button", name="See what is right").tap()
    expect(page.locator("#what-is-wrong")).to_be_visible()
    expect(causes).to_be_visible()  # the sign stays chosen, its causes stand there
    for place in range(2):
        causes.locator("fieldset").nth(place).locator("label").first.tap()
    page.locator('label:has(input[name="change"])').first.tap()
    page.get_by_role("button", name="See what is right").tap()
    result = page.locator("#run-result")
    expect(result).to_contain_text("What each change would have done")
    expect(result.locator("tbody").nth(1).locator("tr")).to_have_count(7)
    page.locator("#choose-kind").select_option("two")
    page.wait_for_url("**kind=two**")
    page.locator(".coupon-choice").last.tap()
    page.get_by_role("button", name="See what is right").tap()
    expect(page.locator("#run-result")).to_contain_text("You said coupon 2")
    assert "welder=Bram" in page.url


def test_tips_and_lengths_by_keyboard_and_counted_in_progress(open_desk):
    page = open_desk()
    page.goto("/practice/eye?kind=tip&job=10&welder=Bram&level=1")
    page.get_by_label("Over: it melts away").focus()
    page.keyboard.press("Space")
    page.keyboard.press("ArrowDown")
    expect(page.get_by_label("Right", exact=True)).to_be_checked()
    page.keyboard.press("Enter")
    expect(page.locator("#run-result")).to_contain_text("You said: right.")
    page.goto("/practice/eye?kind=size&job=10&welder=Bram&level=1")
    page.locator("#border_mm").fill("1")
    page.keyboard.press("Tab")
    page.keyboard.type("wide")
    page.keyboard.press("Enter")
    expect(page.locator("#what-is-wrong")).to_contain_text("“wide” cannot be used")
    expect(page.locator("#border_mm")).to_have_value("1")
    page.locator("#bead_mm").fill("6")
    page.keyboard.press("Enter")
    expect(page.locator("#run-result tbody tr")).to_have_count(2)
    page.get_by_role("link", name="Progress").click()
    expect(page.locator("tr", has=page.get_by_role("rowheader", name="Eye"))).to_contain_text("2")
    page.reload()
    expect(page.locator("tr", has=page.get_by_role("rowheader", name="Eye"))).to_contain_text("2")


def tapped(file, beat_s):
    """Ten seconds of a bench being tapped every beat, with mains hum, as WAV."""
    rate = 48_000
    times = np.arange(round(15 * beat_s * rate)) / rate  # played again and again
    since = times % beat_s
    taps = 0.5 * np.exp(-since / 0.004) * np.sin(2 * np.pi * 2500 * since)
    sound = taps + 0.02 * np.sin(2 * np.pi * 50 * times)
    with wave.open(str(file), "wb") as written:
        written.setparams((1, 2, rate, 0, "NONE", ""))
        written.writeframes((32767 * sound).astype("<i2").tobytes())
    return file


def test_taps_heard_by_the_microphone(browser, workshop_file, tmp_path):
    """A browser of its own, whose microphone hears a bench being tapped as often as the beats."""
    path = shutil.which("chromium") or shutil.which("chromium-browser")
    with answering(shutil.copy(workshop_file, tmp_path / "book.sqlite")) as address:
        page = browser.new_context(base_url=address).new_page()
        page.goto("/practice/rhythm?job=10&welder=Bram")
        beat_s = float(page.locator("#rhythm-form").get_attribute("data-beat"))
        page.context.close()
        sound = tapped(tmp_path / "taps.wav", beat_s)
        ears = ["--use-fake-ui-for-media-stream", "--use-fake-device-for-media-stream"]
        ears.append(f"--use-file-for-fake-audio-capture={sound}")
        hearing = browser.browser_type.launch(executable_path=path, args=[*CHROMIUM_ARGS, *ears])
        try:
            page = hearing.new_context(base_url=address).new_page()
            page.goto("/practice/rhythm?job=10&welder=Bram")
            page.get_by_label("A soft click").check()
            page.get_by_label("Hear my taps").check()
            expect(page.get_by_label("A soft click")).not_to_be_checked()
            with page.expect_request(lambda asked: asked.method == "POST", timeout=120_000) as sent:
                page.get_by_role("button", name="Start").click()
            heard = json.loads(parse_qs(sent.value.post_data)["taps"][0])
            expect(page.locator("#run-result")).to_contain_text("In time")
        finally:
            hearing.close()
    # One a beat, where the file begins anew too: whatever their lateness, which hangs on when it began.
    assert len(heard) == pytest.approx(27, abs=3)
    assert np.median(np.diff(heard)) == pytest.approx(beat_s, rel=0.02)
    assert np.std(np.diff(heard)) < 0.1 * beat_s
