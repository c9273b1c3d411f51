"""Bitmaps in: PNG, JPEG and WebP with transparency, each one piece."""

from __future__ import annotations

import io
import warnings

import numpy as np
from PIL import Image, ImageOps

from jointed_crane.core.basics.limits import MOST_BITMAP_BYTES, MOST_PIXELS
from jointed_crane.core.geometry.coordinates import Bounds, Ring
from jointed_crane.core.outlines.tracing import traced_rings
from jointed_crane.formats.artwork import Artwork, ArtworkError, FileRead, Piece, title_of

_FORMATS = {"PNG": "image/png", "JPEG": "image/jpeg", "WEBP": "image/webp"}
#: The EXIF tag that notes an orientation beside the pixels.
_ORIENTATION = 0x0112
#: What the decoders raise on bytes that only look like a picture.
UNREADABLE = (ArithmeticError, AttributeError, EOFError, LookupError, OSError, SyntaxError, TypeError, ValueError)
#: Outlines are traced on a mask no larger than this on its longer side.
_MASK = 512


def read_bitmap(data: bytes, name: str) -> Artwork:
    """Read a bitmap. Art space is its pixels. Raises ArtworkError with a sentence.

    The picture is stored as it came, unless its orientation is only noted beside the pixels.
    """
    if len(data) > MOST_BITMAP_BYTES:
        raise ArtworkError(
            f"{name} has {len(data) / 1e6:.0f} MB; a bitmap may have {MOST_BITMAP_BYTES // 1_000_000} MB."
        )
    picture, data, media_type = _upright(data, name)
    width, height = map(float, picture.size)
    bounds, outline = _outline(picture)
    box = (0.0, 0.0, width, height)
    piece = Piece(title_of(name, "Bitmap"), "bitmap", media_type, data, box, bounds, outline)
    return Artwork(width, height, (piece,), (), name, (FileRead(name, "part", 1, width, height),))


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
    except UNREADABLE:
        raise ArtworkError(
            f"{name} is not a PNG, JPEG or WebP picture that can be read. Nothing was brought in; save it anew."
        ) from None


def _outline(picture: Image.Image) -> tuple[Bounds, tuple[Ring, ...]]:
    """Bounds of the pixels that are not fully transparent, and the line between them and the rest."""
    width, height = picture.size
    corners = (0.0, 0.0, float(width), float(height))
    whole = (((0.0, 0.0), (corners[2], 0.0), (corners[2], corners[3]), (0.0, corners[3])),)
    if picture.mode not in ("RGBA", "LA", "PA") and "transparency" not in picture.info:
        return corners, whole
    alpha = (picture if picture.mode in ("RGBA", "LA") else picture.convert("RGBA")).getchannel("A")
    extent = alpha.getbbox()
    if extent is None or alpha.histogram()[0] == 0:
        return corners, whole
    shrink = max(1, -(-max(picture.size) // _MASK))
    mask = np.asarray(alpha.reduce(shrink) if shrink > 1 else alpha, dtype=float) / 255
    left, top, right, bottom = map(float, extent)
    return (left, top, right, bottom), traced_rings(mask, float(shrink), (0.0, 0.0)) or whole
