"""The sound of an arc on the pages of a machine: heard, set beside the panel, compared with the usual; refusals."""

import io
import re
from functools import cache

import numpy as np
import pytest
import soundfile
from tests.web.test_trace import form_on, machine, words_of

from anvilsong.core.arc.waveform import Wave
from anvilsong.core.flow import BANDS_HZ, Dabs, Found, Otherwise, SoundReading, sounds_otherwise
from anvilsong.core.said import in_units
from anvilsong.instruments.sound.microphone import Room, recorded
from anvilsong.store import bench_trials
from anvilsong.web.sound_words import dabs_against

KNOB, DIGITS = "/shop/machines/4", "/shop/machines/1"
AC = Wave(110.0, 0.3, 97.0, -0.1, "square", "square")


@cache
def sound_file(wave=AC, seed=1, seconds=4.0, dabs=(), kind="WAV"):
    sound = recorded(wave, Room(noise=0.15, hum=0.2), seconds, 0.4, dabs, seed)
    file = io.BytesIO()
    soundfile.write(file, sound.samples, int(sound.rate_hz), format=kind)
    return file.getvalue()


def send(client, at, data, name="arc.wav", **panel):
    form = form_on(client.get(f"{at}/sound"), f"{at}/sound") | panel
    return client.post(f"{at}/sound", data=form, files={"file": (name, data)})


def test_what_is_heard_corrects_the_frequency_knob(client, make_session):
    own = (
        send(client, KNOB, sound_file(kind="OGG"), frequency_hz="12:00", ep_share="9:30")
        .headers["location"]
        .partition("#")[0]
    )
    page = client.get(own)
    said = words_of(page)
    assert re.search(r"AC frequency (96\.9|97\.\d) Hz", said)
    assert re.search(r"AC frequency Slow … fast: 12:00 o’clock 85 Hz 97 Hz 14 % more than set", said)
    assert re.search(r"AC balance Deep … clean: 9:30 o’clock 20 % EP (29|30|31) % EP", said)
    assert "The frequency is sure" in said
    assert "A sound tells no amps" in said
    assert "Three earlier recordings" in said
    assert (
        page.text.count(f'action="{own}/point"') == 1
    )  # balance is told, and not so well that a knob could go by it
    answer = client.post(f"{own}/point", data=form_on(page, f"{own}/point"))
    assert answer.headers["location"] == own
    assert dict(machine(make_session, "Plover 200").control("frequency_hz").scale.points)[
        12
    ] == pytest.approx(97, rel=0.005)
    assert "97 Hz 97 Hz as set" in words_of(client.get(own))


def test_dabs_and_when_it_lit_are_told_and_an_unsure_sound_moves_no_knob(client):
    dabs = tuple(np.cumsum(0.8 * (1 + 0.04 * np.random.default_rng(1).normal(0, 1, 12))).tolist())
    own = (
        send(client, DIGITS, sound_file(dabs=dabs, seconds=11.0), frequency_hz="97")
        .headers["location"]
        .partition("#")[0]
    )
    said = words_of(client.get(own))
    assert re.search(r"Dabs a second 1\.2\d", said)
    assert re.search(r"Their rhythm ± [2-7] % even", said)
    assert "lights" in said
    assert "Frequency AC rate" not in said
    none = np.random.default_rng(1).normal(0, 0.1, 96_000)
    file = io.BytesIO()
    soundfile.write(file, none, 48_000, format="WAV")
    own = send(client, DIGITS, file.getvalue(), frequency_hz="97").headers["location"].partition("#")[0]
    said = words_of(client.get(own))
    assert "No arc is heard in it" in said
    assert "Against the panel" not in said
    point = form_on(client.get(own), f"{own}/counts") | {"uid": ""}
    assert client.post(f"{own}/point", data=point).status_code == 422


def test_today_against_the_usual(client):
    for seed in range(4):
        own = send(client, DIGITS, sound_file(seed=seed)).headers["location"].partition("#")[0]
    assert "It sounds as usual" in words_of(client.get(own))
    page = client.get(own)
    other = next(each for each in re.findall(rf"{DIGITS}/sound/\d+(?=/counts)", page.text) if each != own)
    client.post(f"{other}/counts", data=form_on(page, f"{other}/counts"))
    assert "Three earlier recordings" in words_of(client.get(own))


def test_a_band_that_is_louder_is_named_and_the_whole_being_louder_is_not():
    def heard(levels, hz=97.0):
        return SoundReading(frequency_hz=Found.within(hz, 0.1), bands_db=levels)

    usual = (0.0, 1.0, 2.0, 0.0, -1.0, -2.0, 0.0)
    before = [heard(tuple(level + 0.2 * n * (-1) ** k for k, level in enumerate(usual))) for n in range(4)]
    hiss = tuple(level + (7.0 if BANDS_HZ[k] == 4000 else 0) for k, level in enumerate(usual))
    assert sounds_otherwise(heard(hiss), before) == [Otherwise(4000.0, pytest.approx(7, abs=1))]
    assert sounds_otherwise(heard(tuple(level + 9 for level in usual)), before) == []
    assert sounds_otherwise(heard(usual), before[:2]) is None
    assert sounds_otherwise(heard(usual, 120.0), before) is None
    assert sounds_otherwise(SoundReading(), before) is None


@pytest.mark.parametrize(
    ("name", "data", "more", "why"),
    [
        ("notes.wav", b"no sound " * 90, {}, "no sound file that can be read"),
        ("", b"", {}, "record it here, or choose a file"),
        ("arc.wav", None, {"frequency_hz": "900"}, "AC rate"),
    ],
)
def test_a_refusal_says_why_and_what_was_typed_stays(client, make_session, name, data, more, why):
    answer = send(client, DIGITS, sound_file() if data is None else data, name, ep_share="33", **more)
    assert (answer.status_code, why in words_of(answer)) == (422, True)
    assert form_on(answer, f"{DIGITS}/sound")["ep_share"] == "33"
    with make_session() as session:
        assert bench_trials.newest_sounds(session, "Curlew 220", 9) == []


def test_a_recording_belongs_to_its_machine_and_comes_along_with_the_logbook(client):
    own = send(client, DIGITS, sound_file(), frequency_hz="97").headers["location"].partition("#")[0]
    trial = own.rpartition("/")[2]
    assert client.get(f"{KNOB}/sound/{trial}").status_code == 404
    assert client.get(f"{DIGITS}/trace/{trial}").status_code == 404
    told = [each["document"] for each in client.get("/book/export.json").json()["machine_trials"]]
    heard = next(each for each in told if each["kind"] == "sound")
    assert heard["panel"] == {"frequency_hz": 97.0}
    assert "samples" not in heard["reading"]


def test_dabs_are_set_against_those_of_the_job(client):
    page = client.get("/jobs/8/coupon")
    at = re.search(r'href="(/shop/machines/\d+/sound\?job=8)"', page.text)[1]
    typed = form_on(client.get(at), at.partition("?")[0])
    assert typed["job"] == "8"
    assert float(typed["frequency_hz"]) == pytest.approx(110)  # as the job's panel shows
    dabs = tuple(np.cumsum(1.6 * (1 + 0.04 * np.random.default_rng(2).normal(0, 1, 9))).tolist())
    file = {"file": ("arc.wav", sound_file(dabs=dabs, seconds=14.5))}
    own = client.post(at.partition("?")[0], data=typed, files=file).headers["location"]
    assert own.endswith("?job=8#told")
    said = words_of(client.get(own.partition("#")[0]))
    told = re.search(
        r"0\.6 dabs a second, ([\d.]+) planned: at the planned travel speed ripples of ([\d.]+) mm instead of ([\d.]+) mm",
        said,
    )
    assert float(told[1]) > 0.7
    assert float(told[2]) / float(told[3]) == pytest.approx(float(told[1]) * 1.6, rel=0.1)
    assert "Practise this rhythm" in said
    at_job, plain = own.partition("#")[0], own.partition("?")[0]
    left_out = client.post(f"{plain}/counts", data=form_on(client.get(at_job), f"{plain}/counts"))
    assert left_out.headers["location"] == at_job  # the job goes along
    assert "dabs a second," not in words_of(client.get(own.partition("?")[0]))


def test_dabs_are_as_planned_slower_or_faster():
    def words(per_s):
        heard = Dabs(per_s=Found.within(per_s, 0.05), spread=0.05, count=9)
        return in_units(dabs_against(heard, 1.25, 2.5)[0])

    assert words(1.3) == "1.3 dabs a second, as planned: ripples of 1.9 mm."
    assert (
        "1.0 dabs a second, 1.2 planned: at the planned travel speed ripples of 2.5 mm instead of 2.0 mm"
        in words(1.0)
    )
    assert "more filler rod than the joint takes" in words(2.0)
