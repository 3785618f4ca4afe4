"""Five hundred current traces by a second generator, written otherwise than the reader; a hundred files that
are no trace; a hundred machines whose way of counting amps is found, and ten knobs; and what a million rows
take against pandas. Exit 1 where one falls short.

What must hold: frequency within 0.5 %, EP share within a point, each half's amps within 2 %, a pulse's rate
within 2 %, shapes right in 95 % of those told and told in 85 %; nothing wrong that was told as sure; and a
hundred refusals.
"""

from __future__ import annotations

import io
import resource
import sys
import time
from dataclasses import replace

import numpy as np

from _second_probe import SHAPES, Truth, as_file, as_wave, current_of, recorded, some_truth
from anvilsong.core.errors import AnvilsongError
from anvilsong.core.flow import Found, Shown, TraceReading, how_counted, point_of, with_points
from anvilsong.core.machine import BASES, Control, Scale, to_canonical
from anvilsong.core.trials.traces import NOTHING_SET
from anvilsong.instruments.trace import open_recording, read_trace

TRACES = int(sys.argv[1]) if len(sys.argv) > 1 else 500
SEED, NO_TRACES, ROWS = 28_000, 100, 1_000_000
F, SHARE, AMPS, RATE = 0.005, 0.010, 0.02, 0.02
SHAPES_RIGHT, SHAPES_TOLD = 0.95, 0.85
MOST_AGAINST_PANDAS, MOST_MB = 3.0, 300.0
MACHINES, KNOBS, KNOB, WAYS = 100, 10, 0.03, BASES["amps_set"]
MILLIVOLTS = 1  # the kind of file whose numbers are mV


def _far(found: Found | None, true: float, allowed: float, by_ratio: bool = True) -> bool:
    """Whether a figure was not told, or is further off than it may be."""
    return found is None or abs(found.value - true) > allowed * (true if by_ratio else 1.0)


def wrong_in(truth: Truth, reading: TraceReading) -> list[str]:
    """What of a reading is further off than it may be, or was not told."""
    wrong = [
        name
        for name, is_far in (
            ("frequency", _far(reading.frequency_hz, truth.frequency_hz, F)),
            ("share", _far(reading.ep_share, truth.ep_share, SHARE, by_ratio=False)),
            ("en", _far(reading.en_a, truth.en_a, AMPS)),
            ("ep", _far(reading.ep_a, truth.ep_a, AMPS)),
        )
        if is_far
    ]
    if (truth.pulse is None) != (reading.pulse is None):
        wrong.append("pulse")
    elif truth.pulse and reading.pulse and _far(reading.pulse.rate_hz, truth.pulse[0], RATE):
        wrong.append("pulse rate")
    if (truth.mix is None) != (reading.mix is None):
        wrong.append("mix")
    return wrong


def read_all() -> bool:
    wrong: dict[str, int] = {}
    told = right = shapes = sure_and_wrong = untold = 0
    for number in range(TRACES):
        rng = np.random.default_rng([SEED, number])
        truth = some_truth(rng)
        times, volts = recorded(truth, rng)
        per_unit = truth.amps_per_volt
        if number % 12 == 5 and 4000 < truth.rate_hz < 400_000:
            data, full = as_wave(truth, volts)
            per_unit *= full
        else:
            data = as_file(truth, times, volts)
            per_unit *= 1e-3 if truth.head == MILLIVOLTS else 1.0
        reading = read_trace(open_recording(data, per_unit))
        found = wrong_in(truth, reading)
        for name in found:
            wrong[name] = wrong.get(name, 0) + 1
        pairs = [(reading.shape_en, truth.shape_en), (reading.shape_ep, truth.shape_ep)]
        shapes += len(pairs)
        told += sum(said is not None for said, _ in pairs)
        right += sum(said == true for said, true in pairs)
        badly = found or any(said not in (None, true) for said, true in pairs)
        sure_and_wrong += bool(reading.sure and badly)
        untold += not reading.sure
    print(f"traces read: {TRACES - len(wrong) if not wrong else TRACES - max(wrong.values())} of {TRACES}")
    for name in ("frequency", "share", "en", "ep", "pulse", "pulse rate", "mix"):
        print(f"{name} off or not told: {wrong.get(name, 0)} of {TRACES}")
    print(f"shapes told: {100 * told / shapes:.1f} % (wanted {100 * SHAPES_TOLD:.0f})")
    print(f"shapes right of those told: {100 * right / max(told, 1):.1f} % (wanted {100 * SHAPES_RIGHT:.0f})")
    print(f"wrong and told as sure: {sure_and_wrong} of {TRACES - untold} sure")
    is_good = right >= SHAPES_RIGHT * told and told >= SHAPES_TOLD * shapes
    return is_good and not wrong and not sure_and_wrong


def _lab(rng: np.random.Generator, place: int) -> Truth:
    """A trace as somebody takes it who wants to know: at 40 kS/s, 30 dB, 12 bits, with an offset."""
    ratio = (0.7, 1.0, 1.25)[place % 3] + float(rng.uniform(-0.05, 0.05))
    amps, shape = float(rng.uniform(60, 160)), SHAPES[(place + int(rng.integers(5))) % 5]
    return Truth(
        frequency_hz=float(rng.uniform(60, 140)), ep_share=float(rng.uniform(0.15, 0.45)), en_a=amps,
        ep_a=ratio * amps, shape_en=shape, shape_ep=shape, pulse=None, mix=None, rate_hz=40_000.0,
        seconds=0.5, noise_db=30.0, bits=12, offset=float(rng.uniform(-0.05, 0.05)), bandwidth_hz=20_000.0,
        jitter=0.0, amps_per_volt=100.0, head=0,
    )  # fmt: skip


def _read(truth: Truth, rng: np.random.Generator) -> TraceReading:
    times, volts = recorded(truth, rng)
    return read_trace(open_recording(as_file(truth, times, volts), truth.amps_per_volt))


def _figures(truth: Truth) -> dict[str, float]:
    """What each way of counting shows, by sums over the noiseless current."""
    clean = replace(truth, bandwidth_hz=1e7, rate_hz=1e6, seconds=1.0)
    times, current = current_of(clean, np.random.default_rng(0))
    whole = current[(times > 0.07) & (times < 0.07 + 40 / truth.frequency_hz)]
    return {
        "peak": truth.en_a,
        "both_halves": (truth.en_a + truth.ep_a) / 2,
        "mean": float(np.abs(whole).mean()),
        "rms": float(np.sqrt((whole**2).mean())),
    }


def count_all() -> bool:
    """A hundred machines that count their amps in one of four ways and are off by up to 10 %."""
    right = wrong = 0
    for number in range(MACHINES):
        rng = np.random.default_rng([SEED, 8, number])
        way, scale, shown = WAYS[number % 4], float(rng.uniform(0.9, 1.1)), []
        for place in rng.permutation(5)[:3]:
            truth = _lab(rng, int(place))
            shown.append(Shown(round(_figures(truth)[way] * scale), _read(truth, rng)))
        counted = how_counted(shown)
        told = counted.told if counted else None
        right, wrong = right + (told == way), wrong + (told not in (way, None))
    print(f"how amps are counted, found from three traces: {right} of {MACHINES}, wrong {wrong}")
    return right >= 0.95 * MACHINES and not wrong


def _hidden(turned: float, bend: float) -> float:
    """The EP share of a knob turned so far: its slope differs by up to 2.6 times from end to end."""
    return 0.12 + 0.4 * (turned + bend * turned * (1 - turned))


def turn_knobs() -> bool:
    """Knobs of a hidden curve, five places of each traced: how far off the curve is between them."""
    far, ends = 0.0, Scale(points=((0, 0.1), (10, 0.6)), step=0.1)
    control = Control(setting="ep_share", label="Clean", scale=ends)
    for number in range(KNOBS):
        rng = np.random.default_rng([SEED, 9, number])
        bend, points = float(rng.uniform(-0.45, 0.45)), []
        for position in (0.0, 2.5, 5.0, 7.5, 10.0):
            truth = replace(_lab(rng, 1), ep_share=_hidden(position / 10, bend))
            point = point_of(_read(truth, rng), NOTHING_SET, control, position)
            points += [point] if point else []
        scale = with_points(ends, points)
        for turned in np.linspace(0, 1, 81).tolist():
            far = max(far, abs(to_canonical(scale, 10 * turned) / _hidden(turned, bend) - 1))
    print(f"a knob's curve of five traces, furthest off: {100 * far:.1f} % (at most {100 * KNOB:.0f})")
    return far <= KNOB


def no_trace(kind: int, rng: np.random.Generator) -> bytes:
    """A file of one of ten kinds that is no trace of an AC arc."""
    n = int(rng.integers(400, 6000))
    times = np.arange(n) / 20_000

    def table(values: np.ndarray[tuple[int], np.dtype[np.float64]]) -> bytes:
        file = io.StringIO()
        np.savetxt(file, np.column_stack([times, values]), delimiter=",", fmt="%.6f")
        return b"time (s),current (A)\n" + file.getvalue().encode()

    match kind:
        case 0:
            return rng.bytes(n)
        case 1:
            words = ["clamp", "torch", "rod", "cup", "gas", "bead", "border"]
            return ", ".join(str(rng.choice(words)) for _ in range(n)).encode()
        case 2:
            return b"name,amps,remark\n" + b"\n".join(b"job %d,%d,good" % (k, 100 + k) for k in range(200))
        case 3:
            return table(rng.normal(0, 40, n))
        case 4:
            return table(np.full(n, 120.0) + rng.normal(0, 2, n))
        case 5:
            return table(150 + 40 * np.sin(2 * np.pi * 100 * times))  # it never turns round
        case 6:
            return table(np.cumsum(rng.normal(0, 5, n)))
        case 7:
            return b"RIFF" + rng.bytes(n)
        case 8:
            return b"\x89PNG\r\n\x1a\n" + rng.bytes(n)
        case _:
            return b"time,current\n" + b"1;2,3\n" * 3


def refuse_all() -> bool:
    refused = 0
    for number in range(NO_TRACES):
        rng = np.random.default_rng([SEED, 7, number])
        try:
            reading = read_trace(open_recording(no_trace(number % 10, rng)))
        except AnvilsongError:
            refused += 1
            continue
        refused += reading.frequency_hz is None and not reading.sure and bool(reading.said)
    print(f"files that are no trace, refused: {refused} of {NO_TRACES}")
    return refused == NO_TRACES


def against_pandas() -> bool:
    """A million rows: the table alone, and the memory of it all."""
    import pandas

    times = np.arange(ROWS) / 200_000
    amps = np.where((times * 120) % 1 < 0.3, 120.0, -120.0) * (times > 0.1)
    file = io.StringIO()
    np.savetxt(file, np.column_stack([times, amps]), delimiter=",", fmt=["%.6f", "%.3f"])
    data = b"time (s),current (A)\n" + file.getvalue().encode()
    ours, theirs = [], []
    for _ in range(3):
        began = time.process_time()
        recording = open_recording(data)
        ours.append(time.process_time() - began)
        began = time.process_time()
        pandas.read_csv(io.BytesIO(data), engine="c")
        theirs.append(time.process_time() - began)
    ratio = min(ours) / min(theirs)
    print(
        f"a million rows: {min(ours):.2f} s CPU "
        f"(ratio to pandas' C reader: {ratio:.2f}, at most {MOST_AGAINST_PANDAS})"
    )
    began = time.process_time()
    read_trace(recording)
    whole = (time.process_time() - began + min(ours)) / min(theirs)
    print(f"and what flows in them: (ratio to pandas' C reader: {whole:.2f})")
    return ratio <= MOST_AGAINST_PANDAS


if __name__ == "__main__":
    good = [read_all(), refuse_all(), count_all(), turn_knobs(), against_pandas()]
    most = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    print(f"most memory, with the generator and pandas: {most:.0f} MB")
    sys.exit(0 if all(good) else 1)
