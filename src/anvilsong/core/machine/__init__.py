"""Machines: limits, panels and their dialects."""
