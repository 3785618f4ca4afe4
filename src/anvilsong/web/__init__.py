"""The web floor: pages, JSON, drawings."""
