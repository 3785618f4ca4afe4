"""Arc: waveform, heat split, cleaned border, frequency."""
