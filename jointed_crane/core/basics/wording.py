"""Counts and lists as people say them."""

from __future__ import annotations

from collections.abc import Sequence


def counted(count: int, noun: str) -> str:
    """A number with its noun: "1 key", "3 keys"."""
    return f"{count} {noun}" if count == 1 else f"{count} {noun}s"


def listed(names: Sequence[str], most: int = 3) -> str:
    """Names in a sentence: "A", "A and B", "A, B, C and 2 more"."""
    if len(names) > most:
        return f"{', '.join(names[:most])} and {len(names) - most} more"
    return " and ".join(filter(None, (", ".join(names[:-1]), names[-1])))
