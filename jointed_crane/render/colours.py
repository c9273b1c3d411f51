"""Colours of the app's own as the rasteriser takes them."""

from __future__ import annotations

import skia

from jointed_crane.formats.svg.display import colours


def colour_of(text: str) -> int | None:
    """A colour in sRGB; None where it cannot be read."""
    colour = colours.colour_of(text)
    return None if colour is None else int(skia.Color4f(*colour).toColor())
