"""Frames as PNG files: single ones and an animated one (PNG 3, W3C 2025)."""

from __future__ import annotations

import struct
import zlib
from collections.abc import Iterable, Iterator
from fractions import Fraction
from typing import BinaryIO

import numpy as np
import skia

from jointed_crane.render.frames import Pixels

_SIGNATURE = b"\x89PNG\r\n\x1a\n"
#: Chunks that hold the picture, and that belong before it and are alike in all frames.
_PICTURE, _HEADS = b"IDAT", (b"IHDR", b"sRGB", b"gAMA", b"cHRM", b"iCCP")


def straight(pixels: Pixels) -> Pixels:
    """A frame with its colours no longer multiplied by alpha, as files hold them."""
    height, width, _ = pixels.shape
    result: Pixels = np.empty_like(pixels)
    _image(pixels).readPixels(_info(width, height, skia.kUnpremul_AlphaType), result, width * 4, 0, 0)
    return result


def over(pixels: Pixels, ground: tuple[int, int, int]) -> Pixels:
    """A frame laid over one colour, shape (height, width, 3)."""
    clear = 255 - pixels[..., 3:].astype(np.uint16)
    result: Pixels = (pixels[..., :3] + (np.array(ground, np.uint16) * clear + 127) // 255).astype(np.uint8)
    return result


def rgb(colour: str) -> tuple[int, int, int]:
    """Red, green and blue of "#rrggbb", 0 to 255."""
    red, green, blue = bytes.fromhex(colour.removeprefix("#"))
    return red, green, blue


def png(pixels: Pixels) -> bytes:
    """A frame as a PNG: straight alpha, 8 bits, marked sRGB (section 11.3.2.5)."""
    return bytes(_image(pixels).encodeToData(skia.EncodedImageFormat.kPNG, 100))


def animated(frames: Iterable[Pixels], count: int, rate: Fraction, loops: int, file: BinaryIO) -> None:
    """Write frames as one animated PNG (section 4.9), each shown for one frame of the rate; 0 loops never end."""
    sequence = 0
    for place, pixels in enumerate(frames):
        height, width, _ = pixels.shape
        chunks = list(_chunks(png(pixels)))
        if not place:
            file.write(_SIGNATURE)
            for kind, data in chunks:
                if kind in _HEADS:
                    file.write(_chunk(kind, data))
                if kind == b"IHDR":
                    file.write(_chunk(b"acTL", struct.pack(">II", count, loops)))
        delay = (rate.denominator, rate.numerator)
        file.write(_chunk(b"fcTL", struct.pack(">IIIIIHHBB", sequence, width, height, 0, 0, *delay, 0, 0)))
        sequence += 1
        for kind, data in chunks:
            if kind != _PICTURE:
                continue
            if not place:
                file.write(_chunk(kind, data))
            else:
                file.write(_chunk(b"fdAT", struct.pack(">I", sequence) + data))
                sequence += 1
    file.write(_chunk(b"IEND", b""))


def _info(width: int, height: int, alpha: skia.AlphaType) -> skia.ImageInfo:
    return skia.ImageInfo.Make(width, height, skia.kRGBA_8888_ColorType, alpha, skia.ColorSpace.MakeSRGB())


def _image(pixels: Pixels) -> skia.Image:
    height, width, _ = pixels.shape
    return skia.Image.MakeRasterCopy(skia.Pixmap(_info(width, height, skia.kPremul_AlphaType), pixels, width * 4))


def _chunks(data: bytes) -> Iterator[tuple[bytes, bytes]]:
    place = len(_SIGNATURE)
    while place < len(data):
        (length,) = struct.unpack_from(">I", data, place)
        yield data[place + 4 : place + 8], data[place + 8 : place + 8 + length]
        place += length + 12


def _chunk(kind: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
