"""Drawings: functions from values to SVG, with no state."""
