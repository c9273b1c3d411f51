"""Encoded pictures as the rasteriser draws them."""

from __future__ import annotations

import skia

#: Smooth where pictures are drawn smaller, so that they do not shimmer while they move.
SMOOTH = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)
#: Each pixel a square, for art that asks for it.
IN_PIXELS = skia.SamplingOptions(skia.FilterMode.kNearest)


def decoded(data: bytes) -> skia.Image | None:
    """A PNG, JPEG, WebP or GIF; None where it cannot be read.

    It is decoded here and now: the rasteriser would do it when it draws, from bytes that may be gone by then.
    """
    image = skia.Image.MakeFromEncoded(data)
    return None if image is None else image.makeRasterImage()
