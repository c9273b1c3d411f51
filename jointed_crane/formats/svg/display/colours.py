"""Colours as drawings say them (CSS Color 4)."""

from __future__ import annotations

import math
from functools import lru_cache

from tinycss2.color4 import parse_color

from jointed_crane.formats.svg.display.nodes import Colour


@lru_cache(maxsize=4096)
def colour_of(text: str, current: str = "black") -> Colour | None:
    """A colour in sRGB, `current` being what `currentColor` is; None where it cannot be read."""
    colour = parse_color(text)
    if colour == "currentcolor":
        colour = parse_color(current)
    if colour is None or isinstance(colour, str):
        return None
    channels = [*colour.to("srgb").coordinates, 1.0 if colour.alpha is None else colour.alpha]
    # What CSS calls missing counts as nothing; what lies outside the gamut is brought to its edge.
    red, green, blue, alpha = (
        0.0 if value is None or math.isnan(value) else min(max(float(value), 0.0), 1.0) for value in channels
    )
    return (red, green, blue, alpha)
