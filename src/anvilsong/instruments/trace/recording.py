"""A recording of the current: samples at a steady rate, in amps where file or person says how many."""

from __future__ import annotations

import io
import re
import wave
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from anvilsong.core.errors import CannotRead
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.instruments.limits import MOST_SAMPLES, TRACE_BYTES
from anvilsong.instruments.trace.table_file import Table, read_table_file

SECONDS = {
    "s": 1.0,
    "sec": 1.0,
    "second": 1.0,
    "seconds": 1.0,
    "ms": 1e-3,
    "us": 1e-6,
    "µs": 1e-6,
    "ns": 1e-9,
}
AMPS = {"A": 1.0, "mA": 1e-3, "kA": 1e3, "amp": 1.0, "amps": 1.0, "ampere": 1.0, "amperes": 1.0}
VOLTS = {"V": 1.0, "mV": 1e-3, "kV": 1e3, "uV": 1e-6, "µV": 1e-6, "volt": 1.0, "volts": 1.0}
UNEVEN, LEAST_SAMPLES, MOST_NUMBER = 0.02, 200, 1e12
_TIME = re.compile(r"^(time|t|zeit|temps|x|x-axis|sec(ond)?s?|timestamp|abscissa)\b", re.IGNORECASE)
_COUNT = re.compile(r"^(index|sample|n|no|nr|#|point|count)\b", re.IGNORECASE)
_CURRENT = re.compile(r"(^|[^a-z])(i|cur(rent)?|amps?|strom|courant|clamp)([^a-z]|$)", re.IGNORECASE)
_VOLTAGE = re.compile(r"(^|[^a-z])(u|volt(age)?s?|spannung|tension|v)([^a-z]|$)", re.IGNORECASE)
_RATE = re.compile(
    r"(?:sampl\w*|rate|freq\w*|fs)\b[^\d+-]*([\d.,]+(?:e[+-]?\d+)?)\s*([kM]?)\s*(?:S/s|Sa/s|Hz|sps|samples)?",
    re.IGNORECASE,
)
_STEP = re.compile(
    r"(?:interval|increment|step|dt|period|delta\w*)\b[^\d+-]*([\d.,]+(?:e[+-]?\d+)?)\s*(ns|us|µs|ms|s)?\b",
    re.IGNORECASE,
)


@dataclass(frozen=True)
class Recording:
    """The current, sample by sample. ``amps`` are amps where ``is_scaled``, else the file's own numbers;
    ``volts`` where a voltage was recorded too. ``said``: what was taken for granted.
    """

    rate_hz: float
    amps: NDArray[np.float64]
    is_scaled: bool
    volts: NDArray[np.float64] | None = None
    dropped: int = 0
    said: tuple[Words, ...] = ()
    amps_per_number: float = 1.0
    """Amps for 1 of the file's own numbers."""

    @property
    def seconds(self) -> float:
        """How long it is."""
        return len(self.amps) / self.rate_hz


def open_recording(
    data: bytes, amps_per_unit: float | None = None, rate_hz: float | None = None
) -> Recording:
    """The recording in a file of a scope or logger: a table in text, or a WAV.

    Parameters
    ----------
    amps_per_unit : amps for 1 of the file's own numbers; else by its units, where they are amps
    rate_hz : samples a second, where the file says no time

    Raises
    ------
    CannotRead : it is no table, has no time, or is larger than may be
    """
    if data[:4] == b"RIFF":
        return _of_wave(data, amps_per_unit)
    return _of_table(read_table_file(data), amps_per_unit, rate_hz)


def _cannot(why: Words) -> CannotRead:
    return CannotRead("The trace", why)


def _of_wave(data: bytes, amps_per_unit: float | None) -> Recording:
    if len(data) > TRACE_BYTES:
        raise _cannot(sentence("instruments.trace_too_large", megabytes=TRACE_BYTES / 1e6))
    try:
        with wave.open(io.BytesIO(data)) as file:
            channels, width, rate = file.getnchannels(), file.getsampwidth(), file.getframerate()
            raw = file.readframes(min(file.getnframes(), MOST_SAMPLES))
    except (wave.Error, EOFError, ValueError, OverflowError):
        raise _cannot(sentence("instruments.trace_no_wave")) from None
    if not 1 <= channels <= 8 or width not in (1, 2, 3, 4) or not 100 <= rate <= 10_000_000:
        raise _cannot(sentence("instruments.trace_no_wave"))
    whole = len(raw) // (channels * width) * channels * width
    samples = _of_width(raw[:whole], width).reshape(-1, channels)[:, 0]
    if len(samples) < LEAST_SAMPLES:
        raise _cannot(sentence("instruments.trace_no_wave"))
    factor = amps_per_unit or 1.0
    return Recording(float(rate), samples * factor, amps_per_unit is not None, amps_per_number=factor)


def _of_width(raw: bytes, width: int) -> NDArray[np.float64]:
    """Samples of so many bytes, from -1 to 1."""
    if width == 1:
        return (np.frombuffer(raw, np.uint8).astype(float) - 128) / 128
    if width == 3:
        three = np.frombuffer(raw, np.uint8).reshape(-1, 3)
        four = np.zeros((len(three), 4), np.uint8)
        four[:, 1:] = three
        return four.view("<i4")[:, 0].astype(float) / 2**31
    kind = "<i2" if width == 2 else "<i4"
    return np.frombuffer(raw, kind).astype(float) / 2.0 ** (8 * width - 1)


def _of_table(table: Table, amps_per_unit: float | None, rate_hz: float | None) -> Recording:
    said: list[Words] = []
    time_at = _time_column(table)
    rest = [
        place for place in range(table.values.shape[1]) if place != time_at and not _is_counted(table, place)
    ]
    if not rest:
        raise _cannot(sentence("instruments.trace_no_current"))
    rate = rate_hz or _rate_of(table, time_at)
    current = _best(table, rest, AMPS, _CURRENT)
    others = [place for place in rest if place != current]
    voltage = _voltage_column(table, others)
    raw = table.values[:, current]
    good = np.abs(np.nan_to_num(raw, nan=np.inf)) < MOST_NUMBER
    if good.sum() < LEAST_SAMPLES:
        raise _cannot(sentence("instruments.trace_too_short", least=LEAST_SAMPLES))
    if not good.all():
        raw = np.interp(np.arange(len(raw)), np.flatnonzero(good), raw[good])
    unit = table.units[current]
    factor = amps_per_unit or AMPS.get(unit, 1.0)
    is_scaled = amps_per_unit is not None or unit in AMPS
    if len(rest) > 1 and not is_scaled and not _CURRENT.search(table.names[current]):
        said.append(sentence("instruments.trace_first_column", name=table.names[current] or str(current + 1)))
    volts = None
    if voltage is not None:
        volts = table.values[:, voltage] * VOLTS.get(table.units[voltage], 1.0)
    return Recording(rate, raw * factor, is_scaled, volts, int((~good).sum()), tuple(said), factor)


def _is_counted(table: Table, place: int) -> bool:
    """Whether a column only counts the rows."""
    if table.values.shape[1] == 1:
        return False
    steps = np.diff(np.clip(table.values[:1000, place], -MOST_NUMBER, MOST_NUMBER))
    return bool(len(steps) and np.all(steps == 1.0)) or bool(_COUNT.match(table.names[place].strip()))


def _time_column(table: Table) -> int | None:
    """The column of times: by its unit, by its name, or because it goes up in even steps."""
    for place, (name, unit) in enumerate(zip(table.names, table.units, strict=True)):
        if (unit in SECONDS or _TIME.match(name.strip())) and _goes_up(table.values[:, place]):
            return place
    first = table.values[:, 0]
    if table.values.shape[1] > 1 and _goes_up(first) and not _is_counted(table, 0):
        return 0
    return None


def _goes_up(values: NDArray[np.float64]) -> bool:
    steps = np.diff(values[np.isfinite(values)])
    return bool(len(steps)) and bool(np.mean(steps >= 0) > 0.999) and float(values[-1]) > float(values[0])


def _rate_of(table: Table, time_at: int | None) -> float:
    """Samples a second: by the times, else by what the head says."""
    if time_at is not None:
        times = table.values[:, time_at]
        times = times[np.isfinite(times)] * SECONDS.get(table.units[time_at], 1.0)
        span = float(times[-1] - times[0])
        rate = (len(times) - 1) / span if span > 0 else 0.0
        # Times are often rounded; that their whole goes up evenly is what counts.
        straight = np.linspace(times[0], times[-1], len(times))
        if rate <= 0 or np.abs(times - straight).max() > max(UNEVEN * span, 3 / rate):
            raise _cannot(sentence("instruments.trace_uneven"))
        return rate
    for line in table.head:
        step = _STEP.search(line)
        if step:
            found = _figure(step[1]) * SECONDS.get((step[2] or "s").replace("μ", "µ"), 1.0)
            if 1e-8 < found < 1:
                return 1 / found
        rate_said = _RATE.search(line)
        if rate_said:
            found = _figure(rate_said[1]) * {"": 1.0, "k": 1e3, "M": 1e6}.get(rate_said[2], 1.0)
            if 10 <= found <= 1e9:
                return found
    raise _cannot(sentence("instruments.trace_no_time"))


def _figure(text: str) -> float:
    try:
        return float(
            text.replace(",", ".") if text.count(",") == 1 and "." not in text else text.replace(",", "")
        )
    except ValueError:
        return 0.0


def _best(table: Table, places: list[int], units: dict[str, float], named: re.Pattern[str]) -> int:
    by_unit = [place for place in places if table.units[place] in units]
    by_name = [place for place in places if named.search(table.names[place])]
    volts_at = [place for place in places if _VOLTAGE.search(table.names[place]) and place not in by_name]
    left = [place for place in places if place not in volts_at] or places
    return (by_unit or by_name or left)[0]


def _voltage_column(table: Table, places: list[int]) -> int | None:
    """The voltage beside the current, where there is one that says so."""
    named = [place for place in places if _VOLTAGE.search(table.names[place].split("(")[0])]
    return named[0] if named else None
