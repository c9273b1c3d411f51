"""Artwork as every reader hands it over: pieces that become parts, and notes for the user."""

from __future__ import annotations

import hashlib
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.geometry.coordinates import Bounds, Ring
from jointed_crane.core.model.scene import Drawing, PartKind, Source


class ArtworkError(RuleError):
    """A file that cannot be brought in; the message names what is wrong with it and what to do."""


#: Where the zero of a part's art is put on the way in; "cross:name" is a register cross, an element inside the art that
#: is not drawn.
Registration = str


def title_of(file_name: str, otherwise: str) -> str:
    """A file's name as a title: without folders, ending and underscores; `otherwise` where nothing is left."""
    return file_name.rsplit("/", 1)[-1].rsplit(".", 1)[0].replace("_", " ").strip() or otherwise


@dataclass(frozen=True)
class Piece:
    """One picture that becomes one part.

    Attributes
    ----------
    media_type : of `data`, which is what is stored and shown
    box : left, top, right, bottom of the whole picture; art space is the file's own px
    bounds, outline : of what is painted, px in art space
    path : place among the layers of all files read together, such as "0/3.1": file 0, layer 3, its element 1
    layer, layer_id : the name it has in its file, and its id there, if any
    inner : names of the groups inside that could become parts of their own
    crosses : named elements inside that could be the registration, its register cross
    file, page : the file's name, and the size of its page in px
    cross, cross_point : the one that was taken out as the registration, and where its middle lies in the file
    """

    name: str
    kind: PartKind
    media_type: str
    data: bytes
    box: Bounds
    bounds: Bounds
    outline: tuple[Ring, ...]
    is_shown: bool = True
    path: str = "0"
    layer: str = ""
    layer_id: str = ""
    inner: tuple[str, ...] = ()
    crosses: tuple[str, ...] = ()
    cross: str = ""
    cross_point: tuple[float, float] | None = None
    file: str = ""
    page: tuple[float, float] | None = None

    @property
    def content_hash(self) -> str:
        """The name under which the art is stored."""
        return hashlib.sha256(self.data).hexdigest()


#: The path of a file's whole picture as one piece.
WHOLE = "whole"
#: How a file comes in: its whole picture as one part, its layers under a helper named after it, or its layers loose.
Coming = Literal["part", "helper", "layers"]


@dataclass(frozen=True)
class Reading:
    """How the layers of one file are read.

    Attributes
    ----------
    coming : None is as one part where no layer has a name, else loose
    opened : paths of layers that become many pieces, one for each element inside
    crosses : by path, the name of an element inside a layer that is its registration and is not drawn
    fused : groups of paths; what lies at them becomes one piece
    """

    coming: Coming | None = "layers"
    opened: Collection[str] = ()
    crosses: Mapping[str, str] = field(default_factory=dict)
    fused: Collection[Collection[str]] = ()


AS_LAYERS, AS_ONE, BY_ITSELF = Reading(), Reading("part"), Reading(None)


@dataclass(frozen=True)
class FileRead:
    """One file that was read: how it comes in, how many layers it has, and the size of its page, px."""

    name: str
    coming: Coming
    layers: int
    width: float
    height: float


@dataclass(frozen=True)
class Artwork:
    """A file read: its page size in px, its pieces from back to front, and what the user should know. Of several files
    it is the size of the largest, and each is named.
    """

    width: float
    height: float
    pieces: tuple[Piece, ...]
    notes: tuple[str, ...] = field(default=())
    file: str = ""
    files: tuple[FileRead, ...] = ()


def together(artworks: Sequence[Artwork]) -> Artwork:
    """Several files as one artwork, later files in front; paths begin with the file's number."""
    return Artwork(
        max(artwork.width for artwork in artworks),
        max(artwork.height for artwork in artworks),
        tuple(
            replace(piece, path=f"{number}/{piece.path}", file=artwork.file, page=(artwork.width, artwork.height))
            for number, artwork in enumerate(artworks)
            for piece in artwork.pieces
        ),
        tuple(note for artwork in artworks for note in artwork.notes),
        artworks[0].file,
        tuple(file for artwork in artworks for file in artwork.files),
    )


def drawing_of(piece: Piece, artwork: Artwork, drawing_id: str, registration: Registration = "zero") -> Drawing:
    """The drawing that a piece becomes, its art zero where the registration says."""
    drawing = Drawing(
        drawing_id,
        piece.name[:100],
        piece.content_hash,
        piece.box,
        piece.bounds,
        outline=piece.outline,
        source=Source(
            (piece.file or artwork.file)[:200],
            (piece.layer or piece.name)[:200],
            piece.cross,
            piece.layer_id[:200],
            piece.path.rpartition("/")[2],
        ),
    )
    return drawing.with_zero_moved(_zero(piece, artwork, registration))


def _zero(piece: Piece, artwork: Artwork, registration: Registration) -> tuple[float, float]:
    left, top, right, bottom = piece.bounds
    if registration.startswith("cross:"):
        if piece.cross_point is None:
            raise ArtworkError(f"{piece.name} has no element called {registration[6:66]!r}. Nothing was brought in.")
        return piece.cross_point
    width, height = piece.page or (artwork.width, artwork.height)
    places = {
        "zero": (0.0, 0.0),
        "page": (width / 2, height / 2),
        "centre": ((left + right) / 2, (top + bottom) / 2),
        "lower middle": ((left + right) / 2, bottom),
    }
    if registration not in places:
        raise ArtworkError(f"There is no registration called {registration[:40]!r}. Nothing was brought in.")
    return places[registration]
