"""Variants of a scene from a table: a rig as a template.

A column has the name of slots, which are named in the scene. Or it speaks of a part by its name: the words of a text,
the value of a lever, the picture of anything else. Behind a colon it says which thing of the part is meant: "Plate:
fill", "Plate: stroke", "Hand: drawing", "Door: picture".
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Any

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits import Edit, changed_by
from jointed_crane.core.edits.pictures.drawings import Fit, ReplaceDrawing
from jointed_crane.core.edits.pictures.making_shapes import SetShape
from jointed_crane.core.edits.placing.poses import SetValues
from jointed_crane.core.model.forms import Shape, Text
from jointed_crane.core.model.scene import Drawing, Part, Scene
from jointed_crane.core.model.slots import SLOTTED, Slotted, slots_for
from jointed_crane.core.shapes.picture import made_art
from jointed_crane.formats.svg.stored_art import ArtSource

#: What is read of a picture file: the drawing that it becomes, and its art.
Pictures = Callable[[str], tuple[Drawing, tuple[str, bytes]]]


@dataclass(frozen=True)
class Slot:
    """What a column of a table fills: a thing of a part."""

    part: str
    what: Slotted


def slots_of(scene: Scene, column: str) -> list[Slot]:
    """What a column fills: the slots of its name, else the part that it names; RuleError where it says nothing that
    the scene has.
    """
    column = column.strip()
    named = [Slot(part.id, what) for part in scene.parts for what in SLOTTED if part.slots.get(what) == column]
    if named:
        return named
    name, colon, word = (piece.strip() for piece in column.rpartition(":"))
    part = next((part for part in scene.parts if part.name == column), None)
    if part is not None:
        usual = slots_for(part)[:1]
        if not usual:
            raise RuleError(f"{part.name} has nothing that a table could fill. Nothing was sent; name another part.")
        return [Slot(part.id, usual[0])]
    part = next((part for part in scene.parts if colon and part.name == name), None)
    if part is None:
        raise RuleError(
            f"The column {column[:60]!r} names no slot and no part of {scene.name}. Nothing was sent; name one."
        )
    what = next((known for known in slots_for(part) if known == word), None)
    if what is None:
        raise RuleError(
            f"{part.name} has no {word[:40]!r} that a table could fill. Nothing was sent; "
            f"{', '.join(slots_for(part)) or 'nothing'} can be."
        )
    return [Slot(part.id, what)]


def columns_of(scene: Scene) -> list[str]:
    """The names of a scene's slots, each once, parts from back to front."""
    return list(dict.fromkeys(part.slots[what] for part in scene.parts for what in SLOTTED if what in part.slots))


def fillable(scene: Scene) -> list[str]:
    """All names that a column may have: those of slots, then of parts, alone and with what of them is meant."""
    result = columns_of(scene)
    for part in scene.parts:
        whats = slots_for(part) if part.is_sent or part.lever is not None else ()
        result += [part.name, *(f"{part.name}: {what}" for what in whats)][: len(whats) + 1 if whats else 0]
    return list(dict.fromkeys(result))


@dataclass(frozen=True)
class Variant:
    """A scene with its slots filled, and the art that came with it."""

    scene: Scene
    art: ArtSource


def variant(
    scene: Scene,
    art: ArtSource,
    row: Mapping[str, str],
    outlined: Callable[[list[Edit]], list[Edit]],
    pictures: Pictures,
    fit: Fit = "registration",
) -> Variant:
    """The scene with a row of a table in its slots; an empty cell leaves what is there.

    `outlined` draws the letters of texts that edits bring, `pictures` reads files; pictures are laid registration on
    registration, or stretched to the old box, by `fit`. RuleError with the column where a cell cannot be taken.
    """
    brought: dict[str, tuple[str, bytes]] = {}
    edits: list[Edit] = []
    for column, cell in row.items():
        if not cell.strip():
            continue
        for slot in slots_of(scene, column):
            part = scene.part(slot.part)
            edits += _edits(part, slot.what, cell.strip(), column, partial(_read, pictures, brought), fit)
    change = changed_by(scene, outlined(edits)) if edits else None
    if change is None:
        return Variant(scene, art)
    for drawing in change.drawings:
        if drawing.shape is not None:
            brought[drawing.art] = ("image/svg+xml", made_art(drawing))
    return Variant(change.after, lambda name: brought[name] if name in brought else art(name))


def _read(pictures: Pictures, brought: dict[str, tuple[str, bytes]], cell: str) -> Drawing:
    drawing, art = pictures(cell)
    brought[drawing.art] = art
    return drawing


def _edits(
    part: Part, what: Slotted, cell: str, column: str, read: Callable[[str], Drawing], fit: Fit
) -> Sequence[Edit]:
    if what == "value":
        return [SetValues((part.id,), {"lever.x": _number(cell, column)})]
    if what == "drawing":
        names = [drawing.name for drawing in part.drawings]
        if cell not in names:
            raise RuleError(f"{column}: {part.name} has no drawing called {cell[:60]!r}; it has {', '.join(names)}.")
        return [SetValues((part.id,), {"drawing": float(names.index(cell))})]
    if what == "picture":
        shown = part.drawing
        assert shown is not None
        return [ReplaceDrawing(part.id, shown.id, read(cell), fit)]
    result = []
    for drawing in part.drawings:
        shape = drawing.shape
        if shape is None or (what == "words" and not isinstance(shape, Text)):
            continue
        if isinstance(shape, Text) and what == "words":
            filled: Shape = replace(shape, words=cell)
        else:
            filled = _painted(shape, {what: cell.lower()})
        result.append(SetShape(part.id, drawing.id, filled))
    return result


def _painted(shape: Any, colours: Mapping[str, Any]) -> Shape:
    """A shape, all kinds of which are frozen values, in other colours."""
    result: Shape = replace(shape, paint=replace(shape.paint, **colours))
    return result


def _number(cell: str, column: str) -> float:
    try:
        return float(cell.replace(",", "."))
    except ValueError:
        raise RuleError(f"{column}: {cell[:60]!r} is no number. Nothing was sent.") from None
