"""Scenes in SQLite: rows, journal, art by content hash."""
