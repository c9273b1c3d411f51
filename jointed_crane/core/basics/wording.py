"""Counts as people say them."""

from __future__ import annotations


def counted(count: int, noun: str) -> str:
    """A number with its noun: "1 key", "3 keys"."""
    return f"{count} {noun}" if count == 1 else f"{count} {noun}s"
