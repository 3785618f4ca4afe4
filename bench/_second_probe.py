"""A second generator of current traces, written otherwise than the product's reader: the current as a list
of corners in time, a clamp with its own bandwidth, noise, offset and steps, and files as twelve kinds of
instrument write them.
"""

from __future__ import annotations

import io
import math
import wave
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
SHAPES = ("square", "soft", "trapezoid", "sine", "triangle")
HEADS = 12


@dataclass(frozen=True)
class Truth:
    """What flows, and how it is recorded."""

    frequency_hz: float
    ep_share: float
    en_a: float
    ep_a: float
    shape_en: str
    shape_ep: str
    pulse: tuple[float, float, float] | None
    mix: tuple[float, float, float] | None
    rate_hz: float
    seconds: float
    noise_db: float
    bits: int
    offset: float
    bandwidth_hz: float
    jitter: float
    amps_per_volt: float
    head: int


def some_truth(rng: np.random.Generator) -> Truth:
    """A trace as a shop might take it; the rate is one that can see its shorter half."""
    frequency, share = float(np.exp(rng.uniform(np.log(20), np.log(400)))), float(rng.uniform(0.10, 0.60))
    least = max(2e3, 14 * frequency / min(share, 1 - share))
    rate = float(np.exp(rng.uniform(np.log(least), np.log(1e6))))
    amps = float(rng.uniform(30, 300))
    pulse = mix = None
    kind = rng.random()
    if kind < 0.25:
        most = frequency * 0.3 / 2
        pulse_hz = float(np.exp(rng.uniform(np.log(0.5), np.log(max(min(most, 20.0), 0.6)))))
        pulse = (pulse_hz, float(rng.uniform(0.3, 0.6)), float(rng.uniform(0.25, 0.7)))
    elif kind < 0.4:
        mix = (
            float(rng.uniform(0.3, 0.8)),
            float(rng.uniform(max(0.1, 14 / frequency), max(0.8, 24 / frequency))),
            float(rng.uniform(0.5, 0.9)),
        )
    slow = 1 / pulse[0] if pulse else mix[1] if mix else 0.0
    seconds = max(5.5 * slow, 25 / frequency, 0.3) + 0.1
    rate = min(rate, 500_000 / seconds)
    rate = max(rate, least)
    return Truth(
        frequency_hz=frequency,
        ep_share=share,
        en_a=amps,
        ep_a=amps * float(rng.uniform(0.6, 1.4)),
        shape_en=str(rng.choice(SHAPES)),
        shape_ep=str(rng.choice(SHAPES)),
        pulse=pulse,
        mix=mix,
        rate_hz=rate,
        seconds=seconds,
        noise_db=float(rng.uniform(20, 40)),
        bits=int(rng.integers(8, 17)),
        offset=float(rng.uniform(-0.15, 0.15)),
        bandwidth_hz=float(max(rng.uniform(1e3, 1e5), 25 * frequency)),
        jitter=float(rng.uniform(0, 0.1)),
        amps_per_volt=float(rng.choice([1.0, 10.0, 100.0, 1000.0])),
        head=int(rng.integers(0, HEADS)),
    )


def _half(shape: str, amps: float, start: float, length: float) -> list[tuple[float, float]]:
    """The corners of a half wave: times and amps."""
    if shape == "square":
        return [(start, amps), (start + length, amps)]
    if shape == "triangle":
        return [(start, 0.0), (start + length / 2, amps), (start + length, 0.0)]
    if shape == "trapezoid":
        rise = length / 4
        return [(start, 0.0), (start + rise, amps), (start + length - rise, amps), (start + length, 0.0)]
    if shape == "sine":
        steps = [n / 40 for n in range(41)]
        return [(start + x * length, amps * math.sin(math.pi * x)) for x in steps]
    rise, corners = 0.15 * length, []
    for n in range(13):
        corners.append((start + rise * n / 12, amps * (1 - math.cos(math.pi * n / 12)) / 2))
    return corners + [(2 * start + length - t, a) for t, a in reversed(corners)]


def current_of(truth: Truth, rng: np.random.Generator) -> tuple[Floats, Floats]:
    """Times and amps as the clamp sees them, before its steps: 60 ms of nothing, then the arc."""
    quiet = 0.06
    count = int((truth.seconds + quiet) * truth.rate_hz)
    times = np.arange(count) / truth.rate_hz
    if truth.jitter:
        times = times + rng.normal(0, truth.jitter / truth.rate_hz / 3, count)
    corners: list[tuple[float, float]] = [(-1.0, 0.0), (quiet, 0.0)]
    period, at = 1 / truth.frequency_hz, quiet
    phase = rng.random()
    while at < quiet + truth.seconds + 2 * period:
        if truth.mix and ((at - quiet) / truth.mix[1] + phase) % 1 >= truth.mix[0]:
            rest = (1 - ((at - quiet) / truth.mix[1] + phase) % 1) * truth.mix[1]
            level = -truth.mix[2] * truth.en_a
            corners += [(at, level), (at + rest, level)]
            at += rest + 1e-7  # past the end of the DC
            continue
        ep, en = truth.ep_share * period, (1 - truth.ep_share) * period
        corners += _half(truth.shape_ep, truth.ep_a, at, ep)
        corners += _half(truth.shape_en, -truth.en_a, at + ep, en)
        at += period
    where, amps = np.array(corners).T
    current = np.interp(times, where, amps)
    if truth.pulse:
        rate, share, low = truth.pulse
        on = ((times - quiet) * rate + phase) % 1 < share
        current = current * np.where(on, 1.0, low)
    # One pole after the other, as a clamp and its amplifier are.
    for corner in (truth.bandwidth_hz, 3 * truth.bandwidth_hz):
        keep = math.exp(-2 * math.pi * corner / truth.rate_hz)
        current = _lagged(current, keep)
    return np.arange(count) / truth.rate_hz, current


def _lagged(values: Floats, keep: float) -> Floats:
    from scipy.signal import lfilter

    return np.asarray(lfilter([1 - keep], [1, -keep], values))


def recorded(truth: Truth, rng: np.random.Generator) -> tuple[Floats, Floats]:
    """Times and volts as they are stored: with noise, offset and the steps of so many bits."""
    times, current = current_of(truth, rng)
    rms = float(np.sqrt((current**2).mean()))
    noisy = (
        current + rng.normal(0, rms * 10 ** (-truth.noise_db / 20), len(current)) + truth.offset * truth.en_a
    )
    full = 1.3 * max(truth.en_a, truth.ep_a) + abs(truth.offset) * truth.en_a
    step = 2 * full / 2**truth.bits
    return times, np.clip(np.round(noisy / step) * step, -full, full) / truth.amps_per_volt


def as_file(truth: Truth, times: Floats, volts: Floats) -> bytes:
    """The file that an instrument of one of twelve kinds would write."""
    n = len(times)

    def rows(
        separator: str, columns: list[Floats], formats: list[str], comma: bool = False, end: str = "\n"
    ) -> str:
        file = io.StringIO()
        np.savetxt(file, np.column_stack(columns), delimiter="\x00", fmt=formats, newline="\n")
        text = file.getvalue()
        text = text.replace(".", ",") if comma else text
        return text.replace("\x00", separator).replace("\n", end)

    count = np.arange(n, dtype=float)
    match truth.head:
        case 0:
            text = "Time,CH1\ns,V\n" + rows(",", [times, volts], ["%.8e", "%.6e"])
        case 1:
            text = "time (ms);CH1 (mV)\r\n" + rows(
                ";", [times * 1e3, volts * 1e3], ["%.6f", "%.4f"], True, "\r\n"
            )
        case 2:
            text = f"Record Length,{n}\nSample Interval,{1 / truth.rate_hz:.9e}\nVertical Units,V\n\n" + rows(
                ",", [volts], ["%.6f"]
            )
        case 3:
            head = "\n".join(f"# line {k} of the set-up: probe x{k}" for k in range(30))
            text = f"{head}\nt [s]\tU1 [V]\tI clamp [V]\n" + rows(
                "\t", [times, 24 + 0 * volts, volts], ["%.8f", "%.2f", "%.6f"]
            )
        case 4:
            text = '\ufeff"Time","Channel A"\n"(ms)","(V)"\n' + rows(
                ",", [times * 1e3, volts], ["%.8f", "%.8f"]
            )
        case 5:
            text = f"Sampling rate: {truth.rate_hz / 1e3:.6f} kHz\nindex,clamp\n" + rows(
                ",", [count, volts], ["%d", "%.6f"]
            )
        case 6:
            text = rows(" ", [times, volts], ["%16.9f", "%14.6f"])
        case 7:
            text = "Zeit in s;Strom (V)\n" + rows(";", [times, volts], ["%.8f", "%.6f"], True)
        case 8:
            text = (
                "time_us,current_V,\n"
                + rows(",", [times * 1e6, volts], ["%.3f", "%.6f"], False, ",\n")
                + "\n\n"
            )
        case 9:
            text = '"x-axis";"1"\n"second";"Volt"\n' + rows(";", [times, volts], ["%.8E", "%.5E"], True)
        case 10:
            text = "time_s|clamp_V\n" + rows("|", [times, volts], ["%.9f", "%.7f"]) + "# end of record\n"
        case _:
            text = "Time\tVoltage clamp\ns\tV\n" + rows("\t", [times, volts], ["%.8f", "%.6f"])
            return b"\xff\xfe" + text.encode("utf-16-le")
    return text.encode("utf-8")


def as_wave(truth: Truth, volts: Floats) -> tuple[bytes, float]:
    """The same as a WAV of 16 bits; and the volts of its full scale."""
    full = float(np.abs(volts).max()) * 1.01
    file = io.BytesIO()
    with wave.open(file, "wb") as out:
        out.setparams((1, 2, round(truth.rate_hz), 0, "NONE", ""))
        out.writeframes(np.round(volts / full * 32767).astype("<i2").tobytes())
    return file.getvalue(), full
