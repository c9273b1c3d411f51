"""Frames as pictures that move by themselves: GIF and animated WebP."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from fractions import Fraction
from typing import Any, BinaryIO

import numpy as np
from PIL import Image

from jointed_crane.render.frames import Pixels
from jointed_crane.render.png import over, rgb, straight

#: Colours of a GIF, one of them kept for what is seen through.
_COLOURS = 255


def durations(count: int, rate: Fraction, ticks: int) -> list[int]:
    """How many ticks, so many a second, each frame is shown: whole ones that never drift from the rate."""
    ends = [round(Fraction(number * ticks) / rate) for number in range(count + 1)]
    return [end - begin for begin, end in zip(ends, ends[1:], strict=False)]


def webp(frames: Iterable[Pixels], count: int, rate: Fraction, loops: int, quality: int | None, file: BinaryIO) -> None:
    """Write an animated WebP; without a quality it is lossless, and 0 loops are without end."""
    _save(
        (Image.fromarray(straight(pixels)) for pixels in frames),
        file,
        format="WEBP",
        duration=durations(count, rate, 1000),
        loop=loops,
        lossless=quality is None,
        quality=100 if quality is None else quality,
        method=4,
    )


def gif(
    frames: Iterable[Pixels],
    count: int,
    rate: Fraction,
    loops: int,
    one_palette: bool,
    dither: bool,
    matte: str,
    file: BinaryIO,
) -> None:
    """Write a GIF; what is half clear lies over the matte colour, and what is clearer than half is seen through."""
    pictures = _in_colours(frames, one_palette, dither, matte)
    times = [10 * hundredths for hundredths in durations(count, rate, 100)]
    # GIF says how often it is shown again, Pillow how often it is shown.
    _save(
        pictures,
        file,
        format="GIF",
        duration=times,
        disposal=2,
        optimize=False,
        **({} if loops == 1 else {"loop": max(loops - 1, 0)}),
    )


def _in_colours(frames: Iterable[Pixels], one_palette: bool, dither: bool, matte: str) -> Iterator[Image.Image]:
    ground = rgb(matte)
    way = Image.Dither.FLOYDSTEINBERG if dither else Image.Dither.NONE
    known: Image.Image | None = None
    for pixels in frames:
        picture = Image.fromarray(over(pixels, ground))
        is_new = known is None or not one_palette
        if known is None or is_new:
            known = picture.quantize(_COLOURS, Image.Quantize.MEDIANCUT)
        # A picture is nearest to its own palette as it comes from it; looking colours up in another is less exact.
        result = known if is_new and not dither else picture.quantize(palette=known, dither=way)
        clear = pixels[..., 3] < 128
        if clear.any():
            places = np.asarray(result).copy()
            places[clear] = _COLOURS
            marked = Image.fromarray(places, "P")
            marked.putpalette(result.getpalette() or [])
            marked.info["transparency"] = _COLOURS
            result = marked
        yield result


def _save(pictures: Iterator[Image.Image], file: BinaryIO, **options: Any) -> None:
    next(pictures).save(file, save_all=True, append_images=pictures, **options)
