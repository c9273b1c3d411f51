"""Answers that take long are made a few at once, so that quick ones are answered beside them."""

from __future__ import annotations

import threading
from collections.abc import Callable
from functools import wraps
from typing import Any, TypeVar, cast

from jointed_crane.reading.reader import Busy

View = TypeVar("View", bound=Callable[..., Any])

#: So many are made at once, and so many are asked for at most, those that wait among them.
_MADE, _ASKED = threading.BoundedSemaphore(2), threading.BoundedSemaphore(8)


def a_few_at_once(view: View) -> View:
    """Have a view wait until others that take long are done; Busy where too many wait already."""

    @wraps(view)
    def limited(*given: Any, **named: Any) -> Any:
        if not _ASKED.acquire(blocking=False):
            raise Busy("Many things are being sent")
        try:
            with _MADE:
                return view(*given, **named)
        finally:
            _ASKED.release()

    return cast(View, limited)
