"""Colours as drawings say them (CSS Color 4), as the rasteriser takes them."""

from __future__ import annotations

import math
from functools import lru_cache

import skia
from tinycss2.color4 import parse_color


@lru_cache(maxsize=4096)
def colour_of(text: str, current: str = "black", opacity: float = 1.0) -> int | None:
    """A colour in sRGB, its alpha times an opacity, `current` being what `currentColor` is; None where it cannot be
    read.
    """
    colour = parse_color(text)
    if colour == "currentcolor":
        colour = parse_color(current)
    if colour is None or isinstance(colour, str):
        return None
    alpha = 1.0 if colour.alpha is None else colour.alpha
    channels = [*colour.to("srgb").coordinates, alpha * opacity]
    # What CSS calls missing counts as nothing; what lies outside the gamut is brought to its edge.
    red, green, blue, share = (
        0.0 if value is None or math.isnan(value) else min(max(value, 0.0), 1.0) for value in channels
    )
    return int(skia.Color4f(red, green, blue, share).toColor())
