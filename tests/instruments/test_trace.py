"""A current trace: what was set is read back from every kind of file, and what is none is refused with its reason."""

import contextlib
import io
import json
import subprocess
import sys
import wave
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from anvilsong.core.arc.waveform import SHAPES, Wave, cycle_means
from anvilsong.core.errors import AnvilsongError, CannotRead
from anvilsong.core.said import in_units
from anvilsong.instruments.trace import open_recording, read_trace
from anvilsong.instruments.trace.probe import Probe, current_of, recorded

COMMAND = str(Path(sys.executable).with_name("anvilsong"))
AC = Wave(120.0, 0.3, 110.0, -0.1, "square", "soft")


def reading_of(wave_form, probe=None, seconds=0.6, seed=1):
    return read_trace(recorded(wave_form, probe or Probe(), seconds, 0.06, seed))


def table(times, amps, separator=",", head="time (s),current (A)\n", comma=False):
    lines = (f"{t:.7f}{separator}{a:.4f}" for t, a in zip(times, amps, strict=True))
    text = "\n".join(line.replace(".", ",") if comma else line for line in lines)
    return (head + text + "\n").encode()


@pytest.fixture(scope="module")
def samples():
    times = np.arange(8000) / 20_000 - 0.05
    return times + 0.05, current_of(AC, times)


def agrees(reading, wave_form, amps=0.02):
    assert reading.frequency_hz.value == pytest.approx(wave_form.frequency_hz, rel=0.005)
    assert reading.ep_share.value == pytest.approx(wave_form.ep_share, abs=0.01)
    assert reading.en_a.value == pytest.approx(wave_form.amps, rel=amps)
    assert reading.ep_a.value == pytest.approx(wave_form.ep_amps, rel=amps)
    for found, true in (
        (reading.frequency_hz, wave_form.frequency_hz),
        (reading.ep_share, wave_form.ep_share),
        (reading.en_a, wave_form.amps),
        (reading.ep_a, wave_form.ep_amps),
    ):
        assert found.low <= found.value <= found.high
        assert found.low - 0.01 * true <= true <= found.high + 0.01 * true


@pytest.mark.parametrize("shape_en", SHAPES)
@pytest.mark.parametrize("shape_ep", SHAPES)
def test_every_pair_of_shapes_is_told_with_share_and_amps(shape_en, shape_ep):
    wave_form = Wave(140.0, 0.34, 90.0, 0.15, shape_en, shape_ep)
    reading = reading_of(wave_form)
    agrees(reading, wave_form)
    assert (reading.shape_en, reading.shape_ep) == (shape_en, shape_ep)
    assert reading.sure
    assert reading.said == ()


@settings(max_examples=8, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(
    st.floats(25, 350), st.floats(0.12, 0.58), st.floats(-0.4, 0.4), st.floats(20, 300), st.sampled_from(SHAPES),
    st.floats(-0.2, 0.2),
)  # fmt: skip
def test_whatever_flows_is_read_back_past_an_offset(frequency, share, trim, amps, shape, offset):
    wave_form = Wave(amps, share, frequency, trim, shape, "square")
    probe = Probe(60_000.0, 30_000.0, 0.02 * amps, offset * amps, 3 * amps, 12)
    reading = reading_of(wave_form, probe, max(0.2, 20 / frequency))
    agrees(reading, wave_form)
    assert reading.zero_a == pytest.approx(offset * amps, abs=0.012 * amps)


def test_mean_and_rms_are_those_of_the_whole_arc():
    means = cycle_means(AC)
    reading = reading_of(AC, Probe(noise_a=0.1))
    assert reading.mean_a == pytest.approx(float(means.both), rel=0.01)
    assert reading.rms_a == pytest.approx(float(means.rms), rel=0.01)
    assert (reading.starts_s, reading.ends_s) == (
        pytest.approx(0.06, abs=0.006),
        pytest.approx(0.66, abs=0.006),
    )


@pytest.mark.parametrize("pulse", [(1.5, 0.4, 0.35), (12.0, 0.5, 0.6), (2.2, 0.33, 0.25)])
def test_a_pulse_is_read_with_the_amps_of_its_peak(pulse):
    wave_form = replace(AC, pulse=pulse)
    reading = reading_of(wave_form, seconds=max(0.8, 6 / pulse[0]))
    agrees(reading, wave_form)
    found = reading.pulse
    assert found.rate_hz.value == pytest.approx(pulse[0], rel=0.02)
    assert found.peak_share.value == pytest.approx(pulse[1], abs=0.02)
    assert found.base_share.value == pytest.approx(pulse[2], abs=0.02)
    assert reading.mix is None


@pytest.mark.parametrize("mix", [(0.7, 0.5, 0.65), (0.45, 0.8, 0.9)])
def test_ac_mixed_with_dc_is_told_from_a_pulse(mix):
    reading = reading_of(replace(AC, mix=mix), seconds=6 * mix[1])
    agrees(reading, AC)
    assert reading.pulse is None
    assert reading.mix.ac_share.value == pytest.approx(mix[0], abs=0.02)
    assert reading.mix.cycle_s.value == pytest.approx(mix[1], rel=0.02)
    assert reading.mix.dc_level.value == pytest.approx(mix[2], abs=0.03)


@pytest.mark.parametrize(
    ("name", "made"),
    [
        ("plain", lambda t, a: table(t, a)),
        ("semicolons and commas", lambda t, a: table(t * 1e3, a, ";", "Zeit (ms);Strom (A)\n", True)),
        ("tabs, no names", lambda t, a: table(t, a, "\t", "")),
        ("spaces", lambda t, a: table(t, a, "   ", "t i\n")),
        ("units below", lambda t, a: table(t, a, ",", "Time,CH1\ns,A\n")),
        ("a long head", lambda t, a: table(t, a, ",", "".join(f"# {n}, set: {n}\n" for n in range(3000)) + "time,i\n")),
        ("utf-16", lambda t, a: table(t, a).decode().encode("utf-16")),
        ("utf-16 without a mark", lambda t, a: table(t, a).decode().encode("utf-16-le")),
        ("a mark of utf-8", lambda t, a: b"\xef\xbb\xbf" + table(t, a)),
        ("old lines", lambda t, a: table(t, a).replace(b"\n", b"\r")),
        ("a foot", lambda t, a: table(t, a) + b"# end\n\n"),
        ("a comma at the end", lambda t, a: table(t, a).replace(b"\n", b",\n")),
        ("quotes", lambda t, a: "\n".join(["time,i", *(f'"{x:.7f}","{y:.3f}"'.replace(".", ",") for x, y in zip(t, a, strict=True))]).encode()),
        ("counted, with a rate", lambda t, a: table(np.arange(len(a)), a, ",", "Sample rate: 20 kS/s\nindex,amps\n")),
        ("with an interval", lambda t, a: ("Interval,5.0e-5\n\n" + "\n".join(f"{y:.4f}" for y in a)).encode()),
        ("milliamps", lambda t, a: table(t, 1e3 * a, ",", "time (s),clamp (mA)\n")),
        ("holes", lambda t, a: b"\n".join(line.split(b",")[0] + b"," if n % 97 == 50 else line for n, line in enumerate(table(t, a).split(b"\n")))),
        ("the voltage first", lambda t, a: b"t (s),volts (V),current (A)\n" + b"\n".join(b"%.7f,%.2f,%.4f" % (x, 14.2, y) for x, y in zip(t, a, strict=True))),
    ],
)  # fmt: skip
def test_every_kind_of_file_gives_the_same(name, made, samples):
    recording = open_recording(made(*samples))
    assert recording.rate_hz == pytest.approx(20_000, rel=1e-3), name
    reading = read_trace(recording)
    agrees(reading, AC)
    assert (recording.dropped > 0) == (name == "holes")
    assert (recording.volts is not None) == (name == "the voltage first")


def test_a_wave_file_and_what_the_clamp_gives(samples):
    _, amps = samples
    for width, kind in ((2, "<i2"), (4, "<i4"), (1, np.uint8)):
        whole = amps / 200.0
        stored = whole * 127 + 128 if width == 1 else whole * (2 ** (8 * width - 1) - 1)
        file = io.BytesIO()
        with wave.open(file, "wb") as out:
            out.setparams((1, width, 20_000, 0, "NONE", ""))
            out.writeframes(np.round(stored).astype(kind).tobytes())
        agrees(read_trace(open_recording(file.getvalue(), amps_per_unit=200.0)), AC, 0.03)
        unscaled = read_trace(open_recording(file.getvalue()))
        assert not unscaled.is_scaled
        assert not unscaled.sure
        assert "how many amps" in " ".join(map(in_units, unscaled.said))
        assert unscaled.ep_a.value / unscaled.en_a.value == pytest.approx(0.9, rel=0.03)
    with pytest.raises(CannotRead):
        open_recording(file.getvalue()[:60])


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (b"", "no table"),
        (b"time,current\n1,2\n", "no table"),
        (b"once upon a time, " * 500, "no table"),
        (bytes(5000), "no table"),
        (b"RIFF" + bytes(200), "no WAV"),
        (("\n".join(f"{n % 7 - 3}" for n in range(5000))).encode(), "no times"),
        (("\n".join(f"{(n // 2) ** 2 / 1e3},{n % 9 - 4}" for n in range(900))).encode(), "evenly"),
    ],
)  # fmt: skip
def test_what_is_no_trace_is_refused_with_its_reason(data, why):
    with pytest.raises(AnvilsongError, match=why):
        open_recording(data)


@pytest.mark.parametrize(
    ("amps", "why"),
    [
        (lambda t, rng: np.full(len(t), 120.0) + rng.normal(0, 2, len(t)), "AC"),
        (lambda t, rng: rng.normal(0, 40, len(t)), "No arc"),
        (lambda t, rng: 0 * t, "No arc"),
        (lambda t, rng: current_of(replace(AC, frequency_hz=3000.0), t), "."),
    ],
)
def test_what_cannot_be_told_is_not_told(amps, why):
    times = np.arange(6000) / 20_000
    reading = read_trace(open_recording(table(times, amps(times, np.random.default_rng(1)))))
    assert reading.frequency_hz is None
    assert not reading.sure
    assert why in " ".join(map(in_units, reading.said))


def test_too_few_samples_a_half_are_said_and_the_frequency_is_told_all_the_same():
    slow = Wave(120.0, 0.15, 60.0)
    reading = reading_of(slow, Probe(rate_hz=3_000.0, bandwidth_hz=1_500.0), seconds=1.0)
    assert "8 samples a half wave: at least 10" in " ".join(map(in_units, reading.said))
    assert reading.frequency_hz.value == pytest.approx(60, rel=0.005)
    assert (reading.ep_share, reading.en_a, reading.shape_en, reading.sure) == (None, None, None, False)


def test_without_a_still_part_the_files_own_zero_is_taken_and_that_is_said():
    recording = recorded(AC, Probe(offset_a=0.0), 0.5, 0.0, 3)
    reading = read_trace(recording)
    agrees(reading, AC)
    assert not reading.sure
    assert "never lies still" in " ".join(map(in_units, reading.said))
    shifted = replace(recording, amps=recording.amps + 25)
    agrees(read_trace(shifted, zero=25.0), AC)


@settings(max_examples=60, deadline=None)
@given(st.binary(max_size=3000))
def test_no_bytes_do_more_than_be_refused(data):
    with contextlib.suppress(AnvilsongError):
        read_trace(open_recording(data * 8))


@settings(max_examples=40, deadline=None)
@given(st.text('0123456789.,;\t -+eE\n"naif', min_size=200, max_size=3000))
def test_no_figures_do_more_than_be_refused(text):
    with contextlib.suppress(AnvilsongError):
        read_trace(open_recording(text.encode()))


def test_numbers_past_any_current_are_holes():
    times = np.arange(4000) / 20_000
    amps = [f"{a:.3f}" if n % 50 else "1e308" for n, a in enumerate(current_of(AC, times - 0.05))]
    data = "time (s),current (A)\n" + "\n".join(f"{t:.6f},{a}" for t, a in zip(times, amps, strict=True))
    recording = open_recording(data.encode())
    assert recording.dropped == 80
    agrees(read_trace(recording), AC)


def test_from_the_command_line(tmp_path, samples):
    file = tmp_path / "arc.csv"
    file.write_bytes(table(*samples))
    ran = subprocess.run([COMMAND, "trace", str(file)], capture_output=True, text=True, check=True)
    told = json.loads(ran.stdout)
    assert told["frequency_hz"]["value"] == pytest.approx(110, rel=0.005)
    assert told["frequency_hz"]["low"] <= told["frequency_hz"]["value"] <= told["frequency_hz"]["high"]
    assert (told["shape_en"], told["shape_ep"], told["pulse"], told["mix"], told["sure"]) == (
        "square",
        "soft",
        None,
        None,
        True,
    )
    doubled = subprocess.run(
        [COMMAND, "trace", str(file), "--amps-per-unit", "2"], capture_output=True, text=True, check=True
    )
    assert json.loads(doubled.stdout)["en_a"]["value"] == pytest.approx(240, rel=0.02)
    file.write_bytes(table(samples[0], np.full(len(samples[0]), 80.0)))
    still = subprocess.run([COMMAND, "trace", str(file)], capture_output=True, text=True, check=True)
    assert json.loads(still.stdout)["sure"] is False
    assert json.loads(still.stdout)["said"]
    file.write_text("no trace at all")
    for given_file in (file, tmp_path / "none.csv"):
        refused = subprocess.run(
            [COMMAND, "trace", str(given_file)], capture_output=True, text=True, check=False
        )
        assert refused.returncode == 2
        assert refused.stderr.count("\n") == 1


def run_of(change, seconds=2.0, quiet_s=0.1, rate=20_000.0, noise=0.8):
    """A recording of an arc whose current somebody changes, after and before a moment of none."""
    times = np.arange(int((seconds + 2 * quiet_s) * rate)) / rate - quiet_s
    lit = (times >= 0) & (times < seconds)
    amps = np.where(lit, change(times, current_of(AC, times)), 0.0)
    volts = np.where(lit, np.sign(amps) * (10 + 0.02 * np.abs(amps) + 0.8 * (3.5 - 2)), 0.0)
    noisy = amps + np.random.default_rng(3).normal(0, noise, len(times))
    return replace(recorded(AC, Probe(), 0.2, 0.05, 1), rate_hz=rate, amps=noisy, volts=volts)


def test_slopes_at_either_end_are_read():
    def sloped(times, amps):
        up = np.clip(0.3 + 0.7 * times / 0.5, 0, 1)
        down = np.clip(0.2 + 0.8 * (2.4 - times) / 0.6, 0, 1)
        return amps * np.minimum(up, down)

    reading = read_trace(run_of(sloped, 2.4))
    agrees(reading, AC)
    assert reading.rise.seconds == pytest.approx(0.5, rel=0.1)
    assert reading.rise.amps == pytest.approx(0.3 * 120, rel=0.15)
    assert reading.fall.seconds == pytest.approx(0.6, rel=0.1)
    assert reading.fall.amps == pytest.approx(0.2 * 120, rel=0.2)
    at_once = read_trace(run_of(lambda times, amps: amps))
    assert (at_once.rise, at_once.fall, at_once.went_out, at_once.missing_ep) == (None, None, 0, 0.0)


def test_halves_that_are_missing_are_counted_and_said():
    def rectifying(times, amps):
        cycle = np.floor(times * 110).astype(int)
        missed = np.isin(cycle % 10, (3, 7))
        return np.where(missed & (amps > 0), 0.0, amps)

    reading = read_trace(run_of(rectifying))
    assert reading.missing_ep == pytest.approx(0.2, abs=0.02)
    assert reading.missing_en == 0
    assert "In 20 % of the cycles EP hardly flows" in " ".join(map(in_units, reading.said))
    agrees(reading, AC)


def test_an_arc_that_goes_out_between_is_counted():
    gaps = ((0.5, 0.56), (1.2, 1.3))

    def stuttering(times, amps):
        out = np.any([(times >= a) & (times < b) for a, b in gaps], axis=0)
        return np.where(out, 0.0, amps)

    reading = read_trace(run_of(stuttering))
    assert reading.went_out == 2
    assert "It goes out 2 times" in " ".join(map(in_units, reading.said))
    assert reading.missing_ep < 0.01


def test_a_voltage_beside_gives_power_and_arc_length():
    reading = read_trace(run_of(lambda times, amps: amps))
    means = cycle_means(AC)
    # u = 10 + 0.02·|i| + 1.2 V, and P the mean of u·i: 11.2 of the mean of |i|, 0.02 of its square.
    assert reading.power_w == pytest.approx(11.2 * float(means.both) + 0.02 * float(means.rms) ** 2, rel=0.02)
    assert reading.arc_mm.value == pytest.approx(3.5, abs=0.1)
    assert reading.arc_mm.low <= reading.arc_mm.value <= reading.arc_mm.high
    plain = reading_of(AC)
    assert (plain.power_w, plain.arc_mm, plain.volts) == (None, None, None)
    assert plain.dc_a == pytest.approx(0.3 * 108 * 0.85 - 0.7 * 120, rel=0.02)
