"""The trade, computed. No web, no database, no files but its own data."""
