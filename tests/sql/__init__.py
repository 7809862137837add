"""The engine beside an independent one: the same questions put to SQLite's SQL."""
