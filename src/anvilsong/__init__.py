"""Anvilsong: settings for AC TIG welding of aluminium, worked out, predicted, recorded and corrected."""

__version__ = "0.1.0"
