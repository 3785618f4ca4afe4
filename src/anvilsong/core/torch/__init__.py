"""Torch: tungsten load and tip, cup, gas."""
