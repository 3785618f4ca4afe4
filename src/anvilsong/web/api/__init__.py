"""JSON answers."""
