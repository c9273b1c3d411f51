"""Any artwork file in: its kind is told by its bytes, not by its name."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from jointed_crane.formats.artwork import AS_LAYERS, WHOLE, Artwork, ArtworkError, Piece, Reading
from jointed_crane.formats.bitmap import read_bitmap
from jointed_crane.formats.comparing import Origin, matched
from jointed_crane.formats.svg.layers import read_svg

_BITMAPS = (b"\x89PNG\r\n\x1a\n", b"\xff\xd8\xff", b"RIFF")


def read_artwork(data: bytes, name: str, reading: Reading = AS_LAYERS) -> Artwork:
    """Read an SVG drawing or a bitmap. Raises ArtworkError with a sentence the user can act on."""
    if not data:
        raise ArtworkError(f"{name} is empty. Nothing was brought in.")
    if data.startswith(_BITMAPS):
        return read_bitmap(data, name)
    start = data[:1024].lstrip(b"\xef\xbb\xbf\xff\xfe \t\r\n\x00")
    if start.startswith(b"<"):
        return read_svg(data, name, reading)
    if start.startswith(b"{"):
        raise ArtworkError(
            f"{name} is JSON. Nothing was brought in; drop vector animation on the shelf, alone, to make a scene of it."
        )
    if data[:2] == b"\x1f\x8b":
        raise ArtworkError(f"{name} is a compressed drawing. Nothing was brought in; save it as plain SVG.")
    raise ArtworkError(f"{name} is neither an SVG drawing nor a PNG, JPEG or WebP picture. Nothing was brought in.")


def read_again(data: bytes, name: str, known: Sequence[Origin]) -> Artwork:
    """Read a changed file as it was read before: as one part, with the layers opened and fused that were, and register
    crosses taken out.

    `known` holds the layers that drawings of a scene came from.
    """
    names = {origin.source.layer for origin in known}
    paths = {origin.source.path for origin in known}
    was_one = bool(known) and all(origin.source.path == WHOLE for origin in known)
    reading = Reading("part" if was_one else "layers", fused=[path.split("+") for path in paths if "+" in path])
    while True:
        artwork = read_artwork(data, name, reading)
        more = {piece.path for piece in artwork.pieces if piece.inner and _was_opened(piece, names, paths)}
        if not more or was_one:
            break
        reading = replace(reading, opened={*reading.opened, *more})
    crosses = {
        artwork.pieces[place].path: origin.source.cross
        for place, result in matched(known, artwork.pieces).items()
        for origin in result
        if origin.source.cross in artwork.pieces[place].crosses
    }
    return read_artwork(data, name, replace(reading, crosses=crosses)) if crosses else artwork


def _was_opened(piece: Piece, names: set[str], paths: set[str]) -> bool:
    """Whether a group came in before as many parts: by the places of its insides, or else by their names."""
    if piece.path in paths:
        return False
    if any(path.startswith(f"{piece.path}.") for path in paths):
        return True
    return piece.layer not in names and any(inner in names for inner in piece.inner)
