"""What workers do: each function reads foreign bytes and gives values; it runs in a process of its own."""

from __future__ import annotations

from collections.abc import Sequence

from jointed_crane.core.basics import progress
from jointed_crane.core.model.forms import Text
from jointed_crane.core.model.scene import Drawing
from jointed_crane.formats.artwork import AS_ONE, Artwork
from jointed_crane.formats.bring_in import read_again, read_artwork
from jointed_crane.formats.bundle import Bundle, read_bundle
from jointed_crane.formats.comparing import Origin
from jointed_crane.formats.lettering import FONT_TYPE, font_name, lettered
from jointed_crane.formats.lottie_in.document import read_lottie
from jointed_crane.formats.moving_pictures import MovingPicture, read_moving
from jointed_crane.formats.svg.pieces import Cut, pieces_of
from jointed_crane.formats.tables.tracks import Track, read_tracks
from jointed_crane.formats.tables.variants import variant_rows
from jointed_crane.formats.zipped_drawings import drawings_in, holds_drawings_alone
from jointed_crane.reading.foreign_file import ForeignFile


def artwork(files: Sequence[ForeignFile]) -> list[Artwork]:
    """Artwork files, each by itself."""
    result = []
    for number, file in enumerate(files, start=1):
        if len(files) > 1:
            progress.tell(number, len(files), "files")
        result.append(read_artwork(file.data, file.name, file.reading))
    return result


def one_piece(file: ForeignFile) -> Artwork:
    """A file as one piece."""
    return read_artwork(file.data, file.name, AS_ONE)


def unpacked(file: ForeignFile) -> list[tuple[str, bytes]]:
    """The drawings and pictures in a zip, by name."""
    return drawings_in(file.data, file.name)


def artwork_again(file: ForeignFile, known: Sequence[Origin]) -> Artwork:
    """A changed file, read as it was read before."""
    return read_again(file.data, file.name, known)


def bundle(file: ForeignFile) -> Bundle | None:
    """A scene zip; None for a zip of drawings."""
    return None if holds_drawings_alone(file.data) else read_bundle(file.data, file.name)


def vector_animation(file: ForeignFile) -> Bundle:
    """Vector animation, as a scene."""
    return read_lottie(file.data, file.name)


def pieces(data: bytes, whole: Drawing, id_prefix: str) -> list[Cut]:
    """The pieces of a drawing whose stored picture is given."""
    return pieces_of(data, whole, id_prefix)


def font(file: ForeignFile) -> str:
    """The name a font gives itself."""
    return font_name(file.data, file.name)


def letters(text: Text, data: bytes) -> Text:
    """A text with its outlines, drawn from the bytes of an uploaded font."""
    return lettered(text, lambda _: (FONT_TYPE, data))


def tracks(file: ForeignFile) -> list[Track]:
    """The points that were followed."""
    return read_tracks(file.data, file.name)


def table(file: ForeignFile) -> list[dict[str, str]]:
    """The rows of a table of variants."""
    return variant_rows(file.data, file.name)


def moving(files: Sequence[ForeignFile]) -> MovingPicture:
    """One picture that moves, or numbered ones."""
    return read_moving([(file.data, file.name) for file in files])
