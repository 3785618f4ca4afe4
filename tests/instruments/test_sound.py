"""The sound of an arc: what sounds is heard from every kind of file, past hum and fans, and what is no arc is not."""

import contextlib
import io
import json
import subprocess
import sys
import tracemalloc
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
import soundfile
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from anvilsong.core.arc.waveform import SHAPES, Wave
from anvilsong.core.errors import AnvilsongError, CannotRead
from anvilsong.core.said import in_units
from anvilsong.instruments.sound import Sound, open_sound, read_sound
from anvilsong.instruments.sound.loudness import loudness_of, stretches
from anvilsong.instruments.sound.microphone import Room, arc_sound, recorded

COMMAND = str(Path(sys.executable).with_name("anvilsong"))
AC = Wave(110.0, 0.3, 96.0, -0.1, "square", "square")


def coded(sound, kind="WAV", **more):
    file = io.BytesIO()
    soundfile.write(file, sound.samples, int(sound.rate_hz), format=kind, **more)
    return file.getvalue()


def said(reading):
    return " ".join(map(in_units, reading.said))


@pytest.fixture(scope="module")
def shop():
    """Six seconds of arc after half a second without, with hum and a fan about."""
    return recorded(AC, Room(noise=0.2, hum=0.3, mains_hz=50.0, fan=0.2), 6.0, 0.5, (), 4)


def test_frequency_balance_and_when_it_lit_are_heard_over_hum_and_fan(shop):
    reading = read_sound(shop)
    assert reading.frequency_hz.value == pytest.approx(96, rel=0.002)
    assert reading.frequency_hz.low < 96 < reading.frequency_hz.high
    assert reading.ep_share.value == pytest.approx(0.3, abs=0.02)
    assert reading.sure
    assert [event.kind for event in reading.events] == ["lit"]
    assert reading.events[0].at_s == pytest.approx(0.5, abs=0.1)
    assert reading.arc_s == pytest.approx(6.0, abs=0.2)
    assert (reading.pulse, reading.dabs, reading.en_a, reading.shape_en) == (None, None, None, None)
    assert reading.mains_hz == 50
    assert "shorter half is taken as EP" in said(reading)


@settings(max_examples=12, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(
    st.floats(22, 390), st.floats(0.12, 0.45), st.sampled_from(SHAPES), st.floats(0.02, 0.3),
    st.sampled_from([16_000.0, 44_100.0, 48_000.0]), st.integers(0, 99),
)  # fmt: skip
def test_whatever_frequency_sounds_is_heard_or_not_told(frequency, share, shape, noise, rate, seed):
    wave = Wave(100.0, share, frequency, -0.2, shape, shape)
    reading = read_sound(recorded(wave, Room(noise=noise, rate_hz=rate), 4.0, 0.3, (), seed))
    if reading.frequency_hz is None:
        assert said(reading)
    else:
        assert reading.frequency_hz.value == pytest.approx(frequency, rel=0.01)


@pytest.mark.parametrize(
    ("kind", "more"),
    [("WAV", {}), ("WAV", {"subtype": "PCM_U8"}), ("FLAC", {}), ("OGG", {}), ("MP3", {}), ("AIFF", {})],
)
def test_every_kind_of_file_sounds_the_same(shop, kind, more):
    reading = read_sound(open_sound(coded(shop, kind, **more)))
    assert reading.frequency_hz.value == pytest.approx(96, rel=0.003)
    assert reading.sure


def test_the_louder_channel_is_heard_and_numbers_that_are_none_are_silence(shop):
    both = np.column_stack([0.01 * np.random.default_rng(1).normal(0, 1, len(shop.samples)), shop.samples])
    both[5000:5100, 1] = np.nan
    both[6000, 1] = np.inf
    heard = open_sound(coded(Sound(shop.rate_hz, both.astype(np.float32)), subtype="FLOAT"))
    assert np.isfinite(heard.samples).all()
    assert np.corrcoef(heard.samples[10_000:], shop.samples[10_000:])[0, 1] > 0.99
    assert read_sound(heard).frequency_hz.value == pytest.approx(96, rel=0.003)


@pytest.mark.parametrize("pulse", [(1.4, 0.4, 0.35), (3.2, 0.5, 0.4), (0.8, 0.45, 0.5)])
def test_a_machines_pulse_is_heard(pulse):
    reading = read_sound(recorded(replace(AC, pulse=pulse), Room(noise=0.1), 9.0, 0.3, (), 2))
    assert reading.pulse.rate_hz.value == pytest.approx(pulse[0], rel=0.01)
    assert reading.pulse.peak_share is None or reading.pulse.peak_share.value == pytest.approx(
        pulse[1], abs=0.08
    )
    assert reading.dabs is None


@pytest.mark.parametrize(("apart_s", "uneven"), [(0.6, 0.08), (0.9, 0.2), (1.3, 0.12)])
def test_dabs_are_heard_with_how_even_they_are(apart_s, uneven):
    rng = np.random.default_rng(3)
    times = np.cumsum(apart_s * (1 + uneven * rng.normal(0, 1, int(13 / apart_s))))
    reading = read_sound(recorded(AC, Room(noise=0.15), 14.0, 0.4, times.tolist(), 3))
    gaps = np.diff(times)
    assert reading.dabs.count == pytest.approx(len(times), abs=1)
    assert reading.dabs.per_s.value == pytest.approx(1 / gaps.mean(), rel=0.08)
    assert reading.dabs.spread == pytest.approx(gaps.std() / gaps.mean(), abs=0.05)
    assert reading.pulse is None


def test_an_arc_that_goes_out_and_lights_again_and_gets_louder_is_told():
    rate = 48_000
    first = recorded(AC, Room(noise=0.02), 4.0, 0.5, (), 6).samples
    gap = 0.02 * first.std() * np.random.default_rng(2).normal(0, 1, rate // 2)
    reading = read_sound(Sound(rate, np.concatenate([first, gap, first[rate // 2 :]]).astype(np.float32)))
    assert [event.kind for event in reading.events] == ["lit", "out", "lit"]
    assert [event.at_s for event in reading.events] == pytest.approx([0.5, 4.5, 5.0], abs=0.12)
    louder = np.concatenate([first[rate // 2 :], 1.6 * first[rate // 2 :]]).astype(np.float32)
    assert [event.kind for event in read_sound(Sound(rate, louder)).events] == ["louder"]
    quieter = np.concatenate([first[rate // 2 :], 0.6 * first[rate // 2 :]]).astype(np.float32)
    assert [event.kind for event in read_sound(Sound(rate, quieter)).events] == ["quieter"]


def chord(times):
    rng, out = np.random.default_rng(8), np.zeros(len(times))
    for begin in np.arange(0, times[-1], 0.5):
        on = (times >= begin) & (times < begin + 0.5)
        for step in (0, 4, 7):
            hz = 130 * 2 ** ((rng.integers(0, 12) + step) / 12)
            out[on] += sum(np.sin(2 * np.pi * n * hz * times[on]) / n for n in range(1, 8))
    return out


@pytest.mark.parametrize(
    "made",
    [
        lambda times: np.random.default_rng(1).normal(0, 1, len(times)),
        lambda times: np.sin(2 * np.pi * 440 * times) + 0.01 * np.random.default_rng(1).normal(0, 1, len(times)),
        chord,
        lambda times: sum(np.sin(2 * np.pi * 50 * n * times) / n for n in (1, 2, 3, 4, 6, 8)) + 0.02 * np.random.default_rng(1).normal(0, 1, len(times)),
        lambda times: 0 * times,
    ],
)  # fmt: skip
def test_noise_a_tone_music_hum_and_silence_are_no_arc(made):
    times = np.arange(6 * 44_100) / 44_100
    reading = read_sound(Sound(44_100.0, (0.1 * made(times)).astype(np.float32)))
    assert reading.frequency_hz is None
    assert not reading.sure
    assert "No arc is heard" in said(reading)


def test_equal_halves_are_never_sure_of_their_octave():
    equal = Wave(100.0, 0.5, 80.0, 0.0, "sine", "sine")
    reading = read_sound(recorded(equal, Room(noise=0.05), 5.0, 0.3, (), 5))
    heard = 0 if reading.frequency_hz is None else reading.frequency_hz.value
    assert heard == pytest.approx(80, rel=0.01) or not reading.sure


def test_a_clipped_recording_says_so_and_is_not_sure(shop):
    most = float(np.abs(shop.samples).max())
    clipped = Sound(shop.rate_hz, np.clip(4 * shop.samples, -most, most))
    reading = read_sound(clipped)
    assert "clipped" in said(reading)
    assert not reading.sure


def test_what_the_arc_sounds_of_has_its_turns_twice_a_cycle():
    times = np.arange(96_000) / 96_000
    pressure = arc_sound(replace(AC, frequency_hz=100.0, ep_share=0.3), times)
    sharp = np.abs(np.diff(pressure, append=pressure[0])).reshape(100, -1).mean(axis=0)
    peaks = sorted(np.argsort(sharp)[-12:] / len(sharp))
    assert min(peaks[0], 1 - peaks[-1]) < 0.03
    assert min(abs(peak - 0.3) for peak in peaks) < 0.03
    assert pressure.std() == pytest.approx(1, rel=0.05)


def test_level_is_in_decibels_over_whole_cycles(shop):
    loudness = loudness_of(shop, 96.0)
    twice = loudness_of(Sound(shop.rate_hz, 2 * shop.samples), 96.0)
    assert np.median(twice.db - loudness.db) == pytest.approx(6.02, abs=0.01)
    assert stretches(np.array([0, 1, 1, 0, 1], bool)) == [(1, 3), (4, 5)]
    assert loudness.burns[150:].all()


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (b"", "no sound file"), (b"RIFF" + bytes(300), "no sound file"), (b"time,current\n1,2\n" * 90, "no sound file"),
        (b"fLaC" + bytes(4000), "no sound file"), (b"ID3" + b"\xff\xfb\x90\x00" * 900, "."), (b"OggS" + bytes(4000), "no sound file"),
    ],
)  # fmt: skip
def test_what_is_no_sound_is_refused_with_its_reason(data, why):
    with pytest.raises(CannotRead, match=why):
        open_sound(data)


def test_too_short_too_slow_and_what_lies_of_its_length(shop):
    with pytest.raises(CannotRead, match="shorter than"):
        open_sound(coded(Sound(48_000.0, shop.samples[:20_000])))
    with pytest.raises(CannotRead, match="too slowly"):
        open_sound(coded(Sound(4000.0, shop.samples)))
    data = bytearray(coded(shop))
    data[40:44] = (2**32 - 100).to_bytes(4, "little")  # four gigabytes of samples, it says
    data[4:8] = (2**32 - 64).to_bytes(4, "little")
    assert len(open_sound(bytes(data)).samples) <= len(shop.samples) + 64


def test_a_small_file_of_much_silence_takes_little():
    file, rate = io.BytesIO(), 192_000
    with soundfile.SoundFile(file, "w", rate, 8, format="FLAC") as out:
        for _ in range(100):  # a hundred seconds of eight channels, in under 200 kB: 600 MB were it all taken
            out.write(np.zeros((rate, 8), np.float32))
    assert len(file.getvalue()) < 500_000
    tracemalloc.start()
    sound = open_sound(file.getvalue())
    most = tracemalloc.get_traced_memory()[1]
    tracemalloc.stop()
    assert len(sound.samples) == 16_000_000  # the most there is of one
    assert most < 250e6
    assert read_sound(sound).frequency_hz is None


@settings(max_examples=60, deadline=None)
@given(st.binary(max_size=2000), st.sampled_from([b"RIFF", b"fLaC", b"OggS", b"FORM", b"caff", b""]))
def test_no_bytes_do_more_than_be_refused(data, head):
    with contextlib.suppress(AnvilsongError):
        read_sound(open_sound(head + data * 20))


def test_from_the_command_line(shop, tmp_path):
    file = tmp_path / "arc.ogg"
    file.write_bytes(coded(shop, "OGG"))
    ran = subprocess.run([COMMAND, "sound", str(file)], capture_output=True, text=True, check=True)
    told = json.loads(ran.stdout)
    assert told["frequency_hz"]["low"] < 96 < told["frequency_hz"]["high"]
    assert (told["en_a"], told["ep_a"], told["mix"], told["shape_ep"], told["sure"]) == (
        None,
        None,
        None,
        None,
        True,
    )
    file.write_bytes(coded(Sound(44_100.0, np.zeros(90_000, np.float32))))
    told = json.loads(
        subprocess.run([COMMAND, "sound", str(file)], capture_output=True, text=True, check=True).stdout
    )
    assert (told["frequency_hz"], told["sure"], len(told["said"])) == (None, False, 1)
    file.write_text("no sound at all")
    for given_file in (file, tmp_path / "none.wav"):
        refused = subprocess.run(
            [COMMAND, "sound", str(given_file)], capture_output=True, text=True, check=False
        )
        assert (refused.returncode, refused.stderr.count("\n")) == (2, 1)
