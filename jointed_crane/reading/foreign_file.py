"""A file from outside as it is handed to a worker."""

from __future__ import annotations

from dataclasses import dataclass

from jointed_crane.formats.artwork import BY_ITSELF, Reading


@dataclass(frozen=True)
class ForeignFile:
    """One file: its bytes, its name, and how its layers are to be read."""

    data: bytes
    name: str
    reading: Reading = BY_ITSELF
