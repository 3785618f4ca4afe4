"""The store: SQLite through SQLAlchemy, every write one transaction."""
