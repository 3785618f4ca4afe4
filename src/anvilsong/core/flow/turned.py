"""A trace whose clamp sat the other way round: what was taken for EP is EN."""

from __future__ import annotations

from anvilsong.core.flow.reading import Found, TracePicture, TraceReading


def turned_reading(reading: TraceReading) -> TraceReading:
    """What flowed, with the halves changed over: shares to 1 less them, amps, shapes and what is missing from
    one half to the other, the DC part to its opposite. Pulse, slopes and power stay.
    """
    share = reading.ep_share
    return reading.model_copy(
        update={
            "ep_share": None
            if share is None
            else Found(value=1 - share.value, low=1 - share.high, high=1 - share.low),
            "en_a": reading.ep_a,
            "ep_a": reading.en_a,
            "shape_en": reading.shape_ep,
            "shape_ep": reading.shape_en,
            "missing_en": reading.missing_ep,
            "missing_ep": reading.missing_en,
            "dc_a": None if reading.dc_a is None else -reading.dc_a,
            "zero_a": -reading.zero_a,
        }
    )


def turned_picture(picture: TracePicture, before: TraceReading) -> TracePicture:
    """What a page draws of it: upside down, each cycle beginning with the half that now is EP. ``before`` is
    the reading as it was.
    """
    share = 0.0 if before.ep_share is None else before.ep_share.value
    period = 0.0 if before.frequency_hz is None else 1 / before.frequency_hz.value
    cycle = sorted(((place - share) % 1.0, -amps) for place, amps in picture.cycle)
    return picture.model_copy(
        update={
            "lows": tuple(-high for high in picture.highs),
            "highs": tuple(-low for low in picture.lows),
            "cycle": tuple(cycle),
            "begins_s": tuple(begin + share * period for begin in picture.begins_s),
        }
    )
