"""Pages: one module a station."""
