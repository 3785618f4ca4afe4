"""The arc read by its sound: a recording of a phone or microphone, and what is heard in it."""

from anvilsong.instruments.sound.reading import read_sound
from anvilsong.instruments.sound.recording import Sound, open_sound

__all__ = ["Sound", "open_sound", "read_sound"]
