"""Pictures that move, as references to be copied frame by frame: GIF, animated WebP and PNG, WebM and MP4 films,
numbered pictures.
"""

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
#: The one reader that a film is given to, by how its file begins: others of that library would open further files.
_FILMS = ((0, b"\x1a\x45\xdf\xa3", "matroska"), (4, b"ftyp", "mov"))


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
    film = next((reader for place, sign, reader in _FILMS if data[place:].startswith(sign)), None)
    if film is None and not data.startswith((b"GIF8", b"RIFF", b"\x89PNG")):
        return MovingPicture(read_artwork(data, name, AS_ONE), None)
    pictures, starts = [], [0.0]
    for picture, seconds in _limited(_film_frames(data, film) if film else _frames(data), data, name):
        pictures.append(picture)
        starts.append(starts[-1] + seconds)
    if film is None and len(pictures) == 1 and not data.startswith(b"GIF8"):
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


def _limited(
    frames: Iterator[tuple[Image.Image, float]], data: bytes, name: str
) -> Iterator[tuple[Image.Image, float]]:
    """Frames as they are read, as long as they are not too many. Raises ArtworkError with a sentence."""
    if len(data) > MOST_BITMAP_BYTES:
        raise ArtworkError(
            f"{name} has {len(data) / 1e6:.0f} MB; a picture may have {MOST_BITMAP_BYTES // 1_000_000} MB."
        )
    count = pixels = 0
    try:
        for picture, seconds in frames:
            count, pixels = count + 1, pixels + picture.width * picture.height
            if count > MOST_PICTURES or pixels > MOST_MOVING_PIXELS:
                raise ArtworkError(
                    f"{name} moves on over more than {MOST_PICTURES} pictures, or {MOST_MOVING_PIXELS // 10**6} "
                    "million pixels in all. Nothing was brought in; make it shorter or smaller."
                )
            yield picture, seconds
    except ArtworkError:
        raise
    except Image.DecompressionBombError:
        raise ArtworkError(
            f"{name} has more pixels than can be read. Nothing was brought in; make it smaller."
        ) from None
    except UNREADABLE:
        count = 0
    if not count:
        raise ArtworkError(f"{name} cannot be read as a moving picture. Nothing was brought in; save it anew.")


def _frames(data: bytes) -> Iterator[tuple[Image.Image, float]]:
    """Each picture of a file, whole, and how long it is shown."""
    with Image.open(io.BytesIO(data), formats=list(_MOVING)) as moving:
        for frame in ImageSequence.Iterator(moving):
            if frame.width * frame.height > MOST_MOVING_PIXELS:
                raise Image.DecompressionBombError
            picture = frame.convert("RGBA")  # which reads it, and with it how long it is shown
            seconds = float(frame.info.get("duration") or 0) / 1000
            yield picture, seconds if seconds > 0.01 else _UNSAID


def _film_frames(data: bytes, reader: str) -> Iterator[tuple[Image.Image, float]]:
    """Each picture of a film and how long it is shown; nothing where it holds none that can be read.

    The last is shown as long as the one before, since not every film says it.
    """
    import av

    try:
        with av.open(io.BytesIO(data), "r", format=reader) as film:
            stream = film.streams.video[0]
            if stream.width * stream.height > MOST_MOVING_PIXELS:
                raise Image.DecompressionBombError
            # VP9 keeps what is clear beside its pictures, where its own decoder alone looks.
            is_clear = stream.codec_context.name == "vp9" and stream.metadata.get("alpha_mode") == "1"
            decoder = av.CodecContext.create("libvpx-vp9", "r") if is_clear else stream.codec_context
            known: Image.Image | None = None
            begun, seconds = 0.0, _UNSAID
            for packet in film.demux(stream):
                for frame in decoder.decode(packet):
                    time = begun + seconds if frame.time is None else frame.time
                    if known is not None:
                        seconds = time - begun if time > begun else _UNSAID
                        yield known, seconds
                    known, begun = Image.fromarray(frame.to_ndarray(format="rgba")), time
            if known is not None:
                yield known, seconds
    except (av.FFmpegError, IndexError, ValueError):
        return


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
