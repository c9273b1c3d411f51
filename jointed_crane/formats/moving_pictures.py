"""Pictures that move, as references to be copied frame by frame: GIF, animated WebP and PNG, numbered pictures."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from PIL import Image, ImageSequence

from jointed_crane.core.basics.limits import MOST_BITMAP_BYTES, MOST_MOVING_PIXELS, MOST_PICTURES
from jointed_crane.formats.artwork import AS_ONE, Artwork, ArtworkError, Piece, title_of
from jointed_crane.formats.bitmap import UNREADABLE
from jointed_crane.formats.bring_in import read_artwork

_MOVING = ("GIF", "WEBP", "PNG")
#: A picture that names no duration, or next to none, is shown so long, seconds (common practice, no source).
_UNSAID = 0.1


@dataclass(frozen=True)
class MovingPicture:
    """Pictures in the order of time. `starts` are the seconds at which each begins, one more at the end of the last;
    None where each is a frame of the scene, whatever its rate.
    """

    artwork: Artwork
    starts: tuple[float, ...] | None


def read_moving(files: Sequence[tuple[bytes, str]]) -> MovingPicture:
    """Read one file, or numbered pictures by the numbers in their names. Raises ArtworkError with a sentence."""
    if len(files) > MOST_PICTURES:
        raise ArtworkError(
            f"A reference has at most {MOST_PICTURES} pictures, not {len(files)}. Nothing was brought in."
        )
    if len(files) > 1:
        return MovingPicture(
            _joined([read_artwork(data, name, AS_ONE) for data, name in sorted(files, key=_number)]), None
        )
    (data, name), *_ = files
    if not data.startswith((b"GIF8", b"RIFF", b"\x89PNG")):
        return MovingPicture(read_artwork(data, name, AS_ONE), None)
    pictures, starts = [], [0.0]
    for picture, seconds in _frames(data, name):
        pictures.append(picture)
        starts.append(starts[-1] + seconds)
    if len(pictures) == 1 and not data.startswith(b"GIF8"):
        return MovingPicture(read_artwork(data, name, AS_ONE), None)
    return MovingPicture(_artwork(pictures, name), tuple(starts))


def _number(file: tuple[bytes, str]) -> list[tuple[int, str]]:
    """Names in the order in which people count: 2 before 10."""
    return [(int(digits or 0), words) for words, digits in re.findall(r"(\D*)(\d*)", file[1])]


def _joined(artworks: list[Artwork]) -> Artwork:
    pieces = tuple(piece for artwork in artworks for piece in artwork.pieces)
    width, height = max(artwork.width for artwork in artworks), max(artwork.height for artwork in artworks)
    return Artwork(
        width, height, pieces, tuple(note for artwork in artworks for note in artwork.notes), artworks[0].file
    )


def _frames(data: bytes, name: str) -> Iterator[tuple[Image.Image, float]]:
    """Each picture of a file, whole, and how long it is shown."""
    if len(data) > MOST_BITMAP_BYTES:
        raise ArtworkError(
            f"{name} has {len(data) / 1e6:.0f} MB; a picture may have {MOST_BITMAP_BYTES // 1_000_000} MB."
        )
    pixels = count = 0
    try:
        with Image.open(io.BytesIO(data), formats=list(_MOVING)) as moving:
            for frame in ImageSequence.Iterator(moving):
                count, pixels = count + 1, pixels + frame.width * frame.height
                if count > MOST_PICTURES or pixels > MOST_MOVING_PIXELS:
                    raise ArtworkError(
                        f"{name} moves on over more than {MOST_PICTURES} pictures, or {MOST_MOVING_PIXELS // 10**6} "
                        "million pixels in all. Nothing was brought in; make it shorter or smaller."
                    )
                picture = frame.convert("RGBA")  # which reads it, and with it how long it is shown
                seconds = float(frame.info.get("duration") or 0) / 1000
                yield picture, seconds if seconds > 0.01 else _UNSAID
    except ArtworkError:
        raise
    except Image.DecompressionBombError:
        raise ArtworkError(
            f"{name} has more pixels than can be read. Nothing was brought in; make it smaller."
        ) from None
    except UNREADABLE:
        raise ArtworkError(
            f"{name} cannot be read as a moving picture. Nothing was brought in; save it anew."
        ) from None


def _artwork(pictures: list[Image.Image], name: str) -> Artwork:
    width, height = map(float, pictures[0].size)
    box = (0.0, 0.0, width, height)
    ring = ((0.0, 0.0), (width, 0.0), (width, height), (0.0, height))
    pieces = []
    for number, picture in enumerate(pictures, start=1):
        stream = io.BytesIO()
        picture.save(stream, "PNG")
        title = f"{title_of(name, 'Reference')} {number}"
        pieces.append(Piece(title, "bitmap", "image/png", stream.getvalue(), box, box, (ring,)))
    return Artwork(width, height, tuple(pieces), file=name)
