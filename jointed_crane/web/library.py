"""The library that the running application serves."""

from __future__ import annotations

from collections.abc import Callable
from typing import cast

from flask import current_app

from jointed_crane.store.library import Library


def examples() -> Callable[[Library], list[str]] | None:
    """What puts example scenes on the shelf, where the application was given it."""
    return cast("Callable[[Library], list[str]] | None", current_app.extensions["examples"])


def library() -> Library:
    """The library of the current application."""
    return cast(Library, current_app.extensions["library"])
