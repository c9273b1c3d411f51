"""Artwork on its way into a scene: what is chosen for it, and the parts that it makes."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from jointed_crane.core.geometry.coordinates import Bounds
from jointed_crane.core.geometry.side_by_side import Lay, side_by_side
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.model.scene import Part
from jointed_crane.formats.artwork import (
    Artwork,
    ArtworkError,
    Coming,
    Piece,
    Reading,
    Registration,
    drawing_of,
    title_of,
)


@dataclass(frozen=True)
class LayerChoice:
    """What is chosen for one layer; an empty registration is the one chosen for all, an empty name its own."""

    take: bool = True
    registration: Registration = ""
    name: str = ""


@dataclass(frozen=True)
class Choices:
    """What is chosen on the way in.

    Attributes
    ----------
    opened : paths of layers that come in as many parts, one for each group inside
    layers : by path; a layer that is not named is taken
    scale, place : the whole artwork is scaled about its page's upper left corner, which comes to `place`, px
    coming, files : how files come in, all of them, and single ones by their numbers from "0"; where nothing is chosen
        each of several files is one part, and one is its layers if any of them has a name
    fused : groups of paths that become one part each
    middle : where the middle of several files lies, px on the stage; by default that of the stage
    """

    opened: tuple[str, ...] = ()
    registration: Registration = "zero"
    scale: float = 1.0
    place: tuple[float, float] = (0.0, 0.0)
    layers: Mapping[str, LayerChoice] = field(default_factory=dict)
    coming: Coming | None = None
    files: Mapping[str, Coming] = field(default_factory=dict)
    fused: tuple[tuple[str, ...], ...] = ()
    middle: tuple[float, float] | None = None

    def registration_of(self, path: str) -> Registration:
        """What is chosen as the zero of one layer."""
        return self.layers.get(path, LayerChoice()).registration or self.registration

    def crosses(self) -> dict[str, str]:
        """The element taken out as the register cross, by layer."""
        chosen = {path: self.registration_of(path) for path in self.layers}
        return {path: name.removeprefix("cross:") for path, name in chosen.items() if name.startswith("cross:")}

    def reading(self, number: int, count: int) -> Reading:
        """How one of so many files is read; the paths are those within it."""
        start = f"{number}/"

        def within(paths: Iterable[str]) -> tuple[str, ...]:
            return tuple(path.removeprefix(start) for path in paths if path.startswith(start))

        return Reading(
            self.files.get(str(number), self.coming) or ("part" if count > 1 else None),
            frozenset(within(self.opened)),
            {path.removeprefix(start): name for path, name in self.crosses().items() if path.startswith(start)},
            tuple(group for group in map(within, self.fused) if len(group) > 1),
        )


def taken(artwork: Artwork, choices: Choices) -> list[Piece]:
    """The pieces that come in, under the names that were chosen for them."""
    pieces = []
    for piece in artwork.pieces:
        chosen = choices.layers.get(piece.path, LayerChoice())
        if chosen.take:
            pieces.append(replace(piece, name=chosen.name.strip()[:100] or piece.name))
    return pieces


def lays_of(
    artwork: Artwork, pieces: Sequence[Piece], choices: Choices, stage: tuple[float, float] | None
) -> dict[int, Lay]:
    """Where the page of each file comes to lie, by its number: one as it is drawn, several beside each other on a
    stage of this size; then all are scaled and placed as chosen.
    """
    boxes: dict[int, list[Bounds]] = defaultdict(list)
    for piece in pieces:
        boxes[file_number(piece)].append(piece.bounds)
    lays = [Lay()] * len(boxes)
    if len(boxes) > 1 and stage is not None:
        wholes = [_together(each) for each in boxes.values()]
        lays = side_by_side(wholes, stage, choices.middle)
    scale, (x, y) = choices.scale, choices.place
    placed = (Lay(scale * lay.scale, scale * lay.x + x, scale * lay.y + y) for lay in lays)
    return dict(zip(boxes, placed, strict=True))


def file_number(piece: Piece) -> int:
    """The number of the file that a piece was read from, from 0."""
    number, slash, _ = piece.path.partition("/")
    return int(number) if slash else 0


def _together(boxes: Sequence[Bounds]) -> Bounds:
    lefts, tops, rights, bottoms = zip(*boxes, strict=True)
    return min(lefts), min(tops), max(rights), max(bottoms)


def parts_of(
    artwork: Artwork,
    new_id: Callable[[], str],
    choices: Choices | None = None,
    stage: tuple[float, float] | None = None,
) -> tuple[Part, ...]:
    """A part for each piece that is taken, lying where the file shows it, or, of several files, beside those of others;
    its pivot in the middle of its box. What comes under a helper hangs on one in the middle of its file.

    Names are unique among the parts.
    """
    choices = choices or Choices()
    if not (0 < choices.scale <= 1000 and all(abs(value) < 1e6 for value in (*choices.place, *(choices.middle or ())))):
        raise ArtworkError("The scale is above 0 and at most 1000, the place within a million px. Nothing came in.")
    pieces = taken(artwork, choices)
    if not pieces:
        raise ArtworkError("No layer is taken. Nothing was brought in; take at least one.")
    lays = lays_of(artwork, pieces, choices, stage)
    made: list[Part] = []
    names: set[str] = set()
    helpers: dict[int, Part] = {}
    for piece in pieces:
        number = file_number(piece)
        if number < len(artwork.files) and artwork.files[number].coming == "helper" and number not in helpers:
            own = [each.bounds for each in pieces if file_number(each) == number]
            helpers[number] = _helper(new_id(), artwork.files[number].name, _middle(_together(own)), lays[number])
            made.append(_named(helpers[number], names))
        made.append(_named(_part(piece, artwork, new_id(), choices, lays[number], helpers.get(number)), names))
    return tuple(made)


def _named(part: Part, names: set[str]) -> Part:
    """A part under a name that is in none of those, to which it is added."""
    name = free_name(part.name, names)
    names.add(name)
    return replace(part, name=name, drawings=tuple(replace(drawing, name=name) for drawing in part.drawings))


def _middle(box: Bounds) -> tuple[float, float]:
    left, top, right, bottom = box
    return (left + right) / 2, (top + bottom) / 2


def _helper(part_id: str, file: str, middle: tuple[float, float], lay: Lay) -> Part:
    """The helper that holds the layers of one file together."""
    x, y = lay.of(middle)
    return Part(id=part_id, name=title_of(file, "Drawing")[:100], kind="helper", rest={"move.x": x, "move.y": y})


def _part(piece: Piece, artwork: Artwork, part_id: str, choices: Choices, lay: Lay, helper: Part | None) -> Part:
    middle = _middle(piece.bounds)
    x, y = lay.of(middle)
    if helper is not None:
        x, y = x - helper.rest["move.x"], y - helper.rest["move.y"]
    rest = {"move.x": x, "move.y": y}
    if lay.scale != 1:
        rest |= {"scale.x": lay.scale, "scale.y": lay.scale}
    if not piece.is_shown:
        rest["shown"] = 0.0
    drawing = drawing_of(piece, artwork, f"{part_id}-1", choices.registration_of(piece.path))
    pivot = (middle[0] - drawing.registration[0], middle[1] - drawing.registration[1], 0.0)
    return Part(
        id=part_id,
        name=drawing.name,
        kind=piece.kind,
        parent=None if helper is None else helper.id,
        drawings=(drawing,),
        pivot=pivot,
        rest=rest,
    )
