"""A changed file beside the scene it came into before: which layers are new, changed, gone or the same."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from jointed_crane.core.scene import Drawing, Scene, Source
from jointed_crane.formats.artwork import Artwork, Piece, drawing_of


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
        made = drawing_of(self.piece, artwork, known.id, f"mark:{self.piece.mark}" if self.piece.mark else "zero")
        return made if self.piece.mark else made.with_zero_moved(known.registration)


def known_layers(scene: Scene, file: str) -> dict[str, list[tuple[str, Drawing]]]:
    """Drawings of a scene by the layer they came from, with their part; those of this file where it is known."""
    found: dict[str, list[tuple[str, Drawing]]] = {}
    files = {drawing.source.file for part in scene.parts for drawing in part.drawings if drawing.source}
    for part in scene.parts:
        for drawing in part.drawings:
            if drawing.source is not None and (drawing.source.file == file or file not in files):
                found.setdefault(drawing.source.layer, []).append((part.id, drawing))
    return found


def sources(scene: Scene, file: str) -> dict[str, Source]:
    """Where the drawings of a file came from, by layer."""
    return {
        layer: known[0][1].source
        for layer, known in known_layers(scene, file).items()
        if known[0][1].source is not None
    }


def compared(scene: Scene, artwork: Artwork) -> list[LayerChange]:
    """Every layer of the file, and those that were in it before."""
    known = known_layers(scene, artwork.file)
    found = []
    for piece in artwork.pieces:
        before = tuple(known.pop(piece.layer or piece.name, ()))
        is_same = all(drawing.art == piece.content_hash for _, drawing in before)
        found.append(LayerChange(piece.name, ("same" if is_same else "changed") if before else "new", piece, before))
    return found + [LayerChange(layer, "gone", None, tuple(before)) for layer, before in known.items()]
