"""How far reading or writing a file has come; whoever waits for it sets `listener`."""

from __future__ import annotations

from collections.abc import Callable

#: Called with how many of how many things are done, and what they are called.
listener: Callable[[int, int, str], None] | None = None


def tell(done: int, of: int, what: str) -> None:
    """Say how far it has come."""
    if listener is not None:
        listener(done, of, what)
