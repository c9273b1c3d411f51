"""A changed file beside the scene it came into before: which layers are new, changed, gone or the same."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Hashable, Sequence
from dataclasses import dataclass
from typing import Literal

from jointed_crane.core.geometry.coordinates import Bounds
from jointed_crane.core.model.scene import Drawing, Scene, Source
from jointed_crane.formats.artwork import Artwork, Piece, drawing_of

#: Boxes that share less than this of the area they cover together are not taken for the same shape.
_LEAST_SHARED = 0.3


@dataclass(frozen=True)
class Origin:
    """A layer that came into the scene before: its source, and the drawings it became with their parts."""

    source: Source
    drawings: tuple[tuple[str, Drawing], ...]

    @property
    def box(self) -> Bounds:
        """The painted box in px of the file."""
        drawing = self.drawings[0][1]
        left, top, right, bottom = drawing.bounds
        x, y = drawing.registration
        return (left + x, top + y, right + x, bottom + y)


@dataclass(frozen=True)
class LayerChange:
    """One layer: its piece in the file (None where it is gone), and the drawings that came from it with their parts."""

    name: str
    state: Literal["new", "changed", "same", "gone"]
    piece: Piece | None
    known: tuple[tuple[str, Drawing], ...] = ()

    def drawing(self, known: Drawing, artwork: Artwork) -> Drawing:
        """The new art as a drawing with the registration of the old one: the same place in the file, or its mark."""
        assert self.piece is not None
        made = drawing_of(self.piece, artwork, known.id, f"cross:{self.piece.cross}" if self.piece.cross else "zero")
        return made if self.piece.cross else made.with_zero_moved(known.registration)


def origins(scene: Scene, file: str) -> list[Origin]:
    """The layers that drawings of a scene came from; those of this file where it is known."""
    files = {drawing.source.file for part in scene.parts for drawing in part.drawings if drawing.source}
    result: dict[Hashable, list[tuple[str, Drawing]]] = {}
    for part in scene.parts:
        for drawing in part.drawings:
            source = drawing.source
            if source is not None and (source.file == file or file not in files):
                result.setdefault((source.id, source.path, source.layer, drawing.art), []).append((part.id, drawing))
    return [Origin(known[0][1].source, tuple(known)) for known in result.values() if known[0][1].source is not None]


def matched(known: Sequence[Origin], pieces: Sequence[Piece]) -> dict[int, list[Origin]]:
    """The origins of each piece, by its place among the pieces.

    Surest first: the same id in the file; the same picture; the same name at the same place; a name that is the only
    one of its kind; at last the shape, by how much the painted boxes share. Layers with the same name, or with none,
    so never take each other's parts.
    """
    result: dict[int, list[Origin]] = {}
    waiting = list(known)

    def take(place: int, origin: Origin) -> None:
        result.setdefault(place, []).append(origin)
        waiting.remove(origin)

    def take_same(of_piece: Callable[[Piece], Hashable], of_origin: Callable[[Origin], Hashable]) -> None:
        free = [place for place in range(len(pieces)) if place not in result]
        for place in free:
            wanted = of_piece(pieces[place])
            same = [origin for origin in waiting if wanted and of_origin(origin) == wanted]
            # Of several the one at the same place in the file.
            path = _path(pieces[place])
            if same:
                take(place, next((origin for origin in same if origin.source.path == path), same[0]))

    ids = Counter(piece.layer_id for piece in pieces)
    for place, piece in enumerate(pieces):
        if piece.layer_id and ids[piece.layer_id] == 1:
            for origin in [origin for origin in waiting if origin.source.id == piece.layer_id]:
                take(place, origin)
    take_same(lambda piece: piece.content_hash, lambda origin: origin.drawings[0][1].art)
    take_same(lambda piece: (piece.layer, _path(piece)), lambda origin: (origin.source.layer, origin.source.path))
    names = Counter(pieces[place].layer for place in range(len(pieces)) if place not in result)
    old_names = Counter(origin.source.layer for origin in waiting)
    take_same(
        lambda piece: piece.layer if names[piece.layer] == 1 == old_names[piece.layer] else None,
        lambda origin: origin.source.layer,
    )
    pairs = [
        (_shared(pieces[place].bounds, origin.box), place, origin)
        for place in range(len(pieces))
        if place not in result
        for origin in waiting
        if not (pieces[place].layer_id and origin.source.id)  # two ids that differ are two layers, whatever their shape
    ]
    for share, place, origin in sorted(pairs, key=lambda pair: -pair[0]):
        if share >= _LEAST_SHARED and place not in result and origin in waiting:
            take(place, origin)
    return result


def _path(piece: Piece) -> str:
    """A piece's place in its own file."""
    return piece.path.rpartition("/")[2]


def _shared(one: Bounds, other: Bounds) -> float:
    """The area that two boxes share over the area they cover together."""
    width = min(one[2], other[2]) - max(one[0], other[0])
    height = min(one[3], other[3]) - max(one[1], other[1])
    if width <= 0 or height <= 0:
        return 0.0
    both = sum((box[2] - box[0]) * (box[3] - box[1]) for box in (one, other))
    return width * height / (both - width * height)


def compared(scene: Scene, artwork: Artwork) -> list[LayerChange]:
    """Every layer of the file, and those that were in it before."""
    known = origins(scene, artwork.file)
    partners = matched(known, artwork.pieces)
    result = []
    for place, piece in enumerate(artwork.pieces):
        before = tuple(pair for origin in partners.get(place, ()) for pair in origin.drawings)
        is_same = all(drawing.art == piece.content_hash for _, drawing in before)
        result.append(LayerChange(piece.name, ("same" if is_same else "changed") if before else "new", piece, before))
    met = {id(origin) for origins_of in partners.values() for origin in origins_of}
    gone = [origin for origin in known if id(origin) not in met]
    return result + [LayerChange(origin.source.layer, "gone", None, origin.drawings) for origin in gone]
