"""Any artwork file in: its kind is told by its bytes, not by its name."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from jointed_crane.core.scene import Source
from jointed_crane.formats.artwork import Artwork, ArtworkError
from jointed_crane.formats.bitmap import read_bitmap
from jointed_crane.formats.svg.layers import read_svg

_BITMAPS = (b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff", b"RIFF")


def read_artwork(
    data: bytes,
    name: str,
    opened: Collection[str] = (),
    marks: Mapping[str, str] | None = None,
    is_one: bool = False,
) -> Artwork:
    """Read an SVG drawing or a bitmap. Raises ArtworkError with a sentence the user can act on.

    `opened`, `marks` and `is_one` say which layers become parts, as `svg.layers.read_svg` has them.
    """
    if not data:
        raise ArtworkError(f"{name} is empty. Nothing was brought in.")
    if data.startswith(_BITMAPS):
        return read_bitmap(data, name)
    start = data[:1024].lstrip(b"\xef\xbb\xbf\xff\xfe \t\r\n\x00")
    if start.startswith(b"<"):
        return read_svg(data, name, opened, marks, is_one)
    if data[:2] == b"\x1f\x8b":
        raise ArtworkError(f"{name} is a compressed drawing. Nothing was brought in; save it as plain SVG.")
    raise ArtworkError(f"{name} is neither an SVG drawing nor a PNG, JPEG or WebP picture. Nothing was brought in.")


def read_again(data: bytes, name: str, known: Mapping[str, Source]) -> Artwork:
    """Read a changed file as it was read before: layers that came in opened are opened, marks are taken out.

    `known` holds where the drawings of a scene came from, by the name of their layer.
    """
    opened: set[str] = set()
    while True:
        artwork = read_artwork(data, name, opened)
        more = {
            piece.path
            for piece in artwork.pieces
            if piece.layer not in known and any(inner in known for inner in piece.inner)
        }
        if not more:
            break
        opened |= more
    marks = {
        piece.path: known[piece.layer].mark
        for piece in artwork.pieces
        if piece.layer in known and known[piece.layer].mark in piece.marks
    }
    return read_artwork(data, name, opened, marks) if marks else artwork
