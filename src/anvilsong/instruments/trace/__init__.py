"""The arc read by its current: a table or a sound file of a scope or logger, and what flows in it."""

from anvilsong.instruments.trace.reading import drawn_trace, read_trace
from anvilsong.instruments.trace.recording import Recording, open_recording

__all__ = ["Recording", "drawn_trace", "open_recording", "read_trace"]
