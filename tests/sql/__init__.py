"""The engine compared with an independent one: the same questions in SQLite's SQL."""
