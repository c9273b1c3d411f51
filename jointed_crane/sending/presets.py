"""Choices under a name of their own: those that come with the app, and those that people keep."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any


@dataclass(frozen=True)
class Preset:
    """A way out with choices, under a name."""

    name: str
    way: str
    choices: Mapping[str, Any] = field(default_factory=dict)


#: Those that come with the app.
SHIPPED = (
    Preset("Film, 1080 lines", "mp4", {"height": 1080}),
    Preset("Loop for a page", "webm", {"see_through": True}),
    Preset("Sticker, see-through", "webp", {"see_through": True, "height": 512}),
    Preset("Pictures for a compositor", "png", {"see_through": True}),
)
