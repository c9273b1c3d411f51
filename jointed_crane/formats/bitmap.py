"""Bitmaps in: PNG, JPEG and WebP with transparency, each one piece."""

from __future__ import annotations

import io
import warnings
from typing import cast

import contourpy
import numpy as np
from PIL import Image, ImageOps
from shapely.geometry import Polygon
from shapely.geometry import box as rectangle

from jointed_crane.core.geometry.outlines import rings_of
from jointed_crane.core.scene import Bounds, Ring
from jointed_crane.formats.artwork import Artwork, ArtworkError, Piece, title_of

MOST_PIXELS = 64_000_000
MOST_BYTES = 48_000_000
_FORMATS = {"PNG": "image/png", "JPEG": "image/jpeg", "WEBP": "image/webp"}
#: The EXIF tag that notes an orientation beside the pixels.
_ORIENTATION = 0x0112
#: What the decoders raise on bytes that only look like a picture.
_UNREADABLE = (ArithmeticError, AttributeError, EOFError, LookupError, OSError, SyntaxError, TypeError, ValueError)
#: Outlines are traced on a mask no larger than this on its longer side.
_MASK = 512


def read_bitmap(data: bytes, name: str) -> Artwork:
    """Read a bitmap. Art space is its pixels. Raises ArtworkError with a sentence.

    The picture is stored as it came, unless its orientation is only noted beside the pixels.
    """
    if len(data) > MOST_BYTES:
        raise ArtworkError(f"{name} has {len(data) / 1e6:.0f} MB; a bitmap may have {MOST_BYTES // 1_000_000} MB.")
    picture, data, media_type = _upright(data, name)
    width, height = map(float, picture.size)
    bounds, outline = _outline(picture)
    box = (0.0, 0.0, width, height)
    piece = Piece(title_of(name, "Bitmap"), "bitmap", media_type, data, box, bounds, outline)
    return Artwork(width, height, (piece,), file=name)


def _upright(data: bytes, name: str) -> tuple[Image.Image, bytes, str]:
    """The picture the right way up, with the bytes to store and their kind."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            picture = Image.open(io.BytesIO(data), formats=list(_FORMATS))
            if picture.width * picture.height > MOST_PIXELS:
                raise Image.DecompressionBombError
            picture.load()
            if picture.getexif().get(_ORIENTATION, 1) == 1:
                return picture, data, _FORMATS[picture.format or ""]
            turned = ImageOps.exif_transpose(picture)
            stream = io.BytesIO()
            turned.save(stream, "PNG")
            return turned, stream.getvalue(), "image/png"
    except Image.DecompressionBombError:
        raise ArtworkError(
            f"{name} has more than {MOST_PIXELS // 10**6} million pixels. Nothing was brought in; make it smaller."
        ) from None
    except _UNREADABLE:
        raise ArtworkError(
            f"{name} is not a PNG, JPEG or WebP picture that can be read. Nothing was brought in; save it anew."
        ) from None


def _outline(picture: Image.Image) -> tuple[Bounds, tuple[Ring, ...]]:
    """Bounds of the pixels that are not fully transparent, and the line between them and the rest."""
    whole = rectangle(0, 0, *picture.size)
    alpha = picture.convert("RGBA").getchannel("A")
    extent = alpha.getbbox()
    corners = (0.0, 0.0, float(picture.width), float(picture.height))
    if extent is None or alpha.histogram()[0] == 0:
        return corners, rings_of(whole)
    shrink = max(1, -(-max(picture.size) // _MASK))
    mask = np.asarray(alpha.reduce(shrink) if shrink > 1 else alpha, dtype=float)
    lines = cast(list[np.ndarray], contourpy.contour_generator(z=np.pad(mask, 1)).lines(127.5))
    areas = [Polygon((line - 0.5) * shrink).buffer(0) for line in lines if len(line) > 3]
    solid = whole
    if areas:
        solid = areas[0]
        for area in areas[1:]:
            solid = solid.symmetric_difference(area)
    left, top, right, bottom = map(float, extent)
    return (left, top, right, bottom), rings_of(solid.intersection(whole)) or rings_of(whole)
