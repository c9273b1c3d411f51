"""Artwork as every reader hands it over: pieces that become parts, and notes for the user."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.geometry.coordinates import Bounds, Ring
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.model.scene import Drawing, Part, PartKind, Source


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


@dataclass(frozen=True)
class Artwork:
    """A file read: its page size in px, its pieces from back to front, and what the user should know."""

    width: float
    height: float
    pieces: tuple[Piece, ...]
    notes: tuple[str, ...] = field(default=())
    file: str = ""


@dataclass(frozen=True)
class LayerChoice:
    """What is chosen for one layer; an empty registration is the one chosen for all."""

    take: bool = True
    registration: Registration = ""


@dataclass(frozen=True)
class Choices:
    """What is chosen on the way in.

    Attributes
    ----------
    opened : paths of layers that come in as many parts, one for each group inside
    layers : by path; a layer that is not named is taken
    scale, place : the whole artwork is scaled about its page's upper left corner, which comes to `place`, px
    """

    opened: tuple[str, ...] = ()
    registration: Registration = "zero"
    scale: float = 1.0
    place: tuple[float, float] = (0.0, 0.0)
    layers: Mapping[str, LayerChoice] = field(default_factory=dict)

    def registration_of(self, path: str) -> Registration:
        """What is chosen as the zero of one layer."""
        return self.layers.get(path, LayerChoice()).registration or self.registration

    def crosses(self) -> dict[str, str]:
        """The element taken out as the register cross, by layer."""
        chosen = {path: self.registration_of(path) for path in self.layers}
        return {path: name.removeprefix("cross:") for path, name in chosen.items() if name.startswith("cross:")}

    def for_file(self, number: int) -> tuple[frozenset[str], dict[str, str]]:
        """Opened layers and register crosses of one file, by their paths within it."""
        start = f"{number}/"
        opened = frozenset(path.removeprefix(start) for path in self.opened if path.startswith(start))
        crosses = {path.removeprefix(start): name for path, name in self.crosses().items() if path.startswith(start)}
        return opened, crosses


def together(found: Sequence[Artwork]) -> Artwork:
    """Several files as one artwork, later files in front; paths begin with the file's number."""
    return Artwork(
        max(artwork.width for artwork in found),
        max(artwork.height for artwork in found),
        tuple(
            replace(piece, path=f"{number}/{piece.path}", file=artwork.file, page=(artwork.width, artwork.height))
            for number, artwork in enumerate(found)
            for piece in artwork.pieces
        ),
        tuple(note for artwork in found for note in artwork.notes),
        found[0].file,
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


def parts_of(artwork: Artwork, ids: Sequence[str], choices: Choices | None = None) -> tuple[Part, ...]:
    """A part for each piece that is taken, lying where the file shows it, its pivot in the middle of its box.

    Names are unique among the parts; `ids` gives each its id.
    """
    choices = choices or Choices()
    if not (0 < choices.scale <= 1000 and all(abs(value) < 1e6 for value in choices.place)):
        raise ArtworkError("The scale is above 0 and at most 1000, the place within a million px. Nothing came in.")
    taken = [piece for piece in artwork.pieces if choices.layers.get(piece.path, LayerChoice()).take]
    if not taken:
        raise ArtworkError("No layer is taken. Nothing was brought in; take at least one.")
    made: list[Part] = []
    for piece, part_id in zip(taken, ids, strict=False):
        left, top, right, bottom = piece.bounds
        middle = ((left + right) / 2, (top + bottom) / 2)
        rest = {f"move.{axis}": choices.place[i] + choices.scale * middle[i] for i, axis in enumerate("xy")}
        if choices.scale != 1:
            rest |= {"scale.x": choices.scale, "scale.y": choices.scale}
        if not piece.is_shown:
            rest["shown"] = 0.0
        drawing = drawing_of(piece, artwork, f"{part_id}-1", choices.registration_of(piece.path))
        name = free_name(drawing.name, (part.name for part in made))
        pivot = (middle[0] - drawing.registration[0], middle[1] - drawing.registration[1], 0.0)
        made.append(
            Part(
                id=part_id, name=name, kind=piece.kind, drawings=(replace(drawing, name=name),), pivot=pivot, rest=rest
            )
        )
    return tuple(made)
