"""A file from outside as it is handed to a worker."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from dataclasses import dataclass, field


@dataclass(frozen=True)
class ForeignFile:
    """One file: its bytes, its name, and how its layers are to be read."""

    data: bytes
    name: str
    opened: Collection[str] = ()
    crosses: Mapping[str, str] = field(default_factory=dict)
