"""Edits that build boxes and prisms of panels round a helper, as templates: each face is a slot for a picture."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import LARGEST, MOST_FOLDED
from jointed_crane.core.edits.pictures.drawings import fitted
from jointed_crane.core.edits.scene.parts import AddParts
from jointed_crane.core.edits.shared.edit import Edit
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.geometry.decomposition import quaternion, rotation_about
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.model.forms import Node, Paint, PenPath, Rectangle
from jointed_crane.core.model.scene import Drawing, Part, PartKind, Scene
from jointed_crane.core.shapes.picture import shape_drawing

#: The faces of a box: its name, the axis and the degrees of its turn from the front.
_FACES = (
    ("front", (0.0, 1.0, 0.0), 0.0),
    ("right", (0.0, 1.0, 0.0), 90.0),
    ("back", (0.0, 1.0, 0.0), 180.0),
    ("left", (0.0, 1.0, 0.0), -90.0),
    ("top", (1.0, 0.0, 0.0), 90.0),
    ("bottom", (1.0, 0.0, 0.0), -90.0),
)
_PAPERS = ("#d9b06f", "#c99a53", "#cfa25f", "#bf8f49", "#e2c086", "#b5803f")


@dataclass(frozen=True)
class _Face:
    name: str
    axis: tuple[float, float, float]
    degrees: float
    away: float
    size: tuple[float, float]
    outline: tuple[tuple[float, float], ...] = ()


class _OfPanels(Edit):
    """An edit that adds a helper and faces round it; the pictures go round, and faces without one are made of paper."""

    id: str
    name: str
    at: Vector | None
    drawings: tuple[Drawing, ...]

    def faces(self) -> Iterator[_Face]:
        """The faces, each turned from the front about the middle and so far away from it, px."""
        raise NotImplementedError

    def label(self, scene: Scene) -> str:
        return f"Add {self.name}"

    def apply(self, scene: Scene) -> Scene:
        if self.id in scene.index:
            raise RuleError(f"A part with the id {self.id!r} is in the scene already. Nothing was changed.")
        at = self.at or (scene.width / 2, scene.height / 2, 0.0)
        name = free_name(self.name, (part.name for part in scene.parts))
        rest = dict(zip(("move.x", "move.y", "move.z"), at, strict=True))
        hub = Part(self.id, name, "helper", rest=rest)
        faces = [self._panel(number, face) for number, face in enumerate(self.faces())]
        return replace(AddParts((hub, *faces)).apply(scene), depth=True)

    def _panel(self, number: int, face: _Face) -> Part:
        axis = np.array(face.axis)
        turn = rotation_about(axis, face.degrees)
        place = turn @ np.array([0.0, 0.0, face.away])
        title = f"{self.name} {face.name}"
        wide, high = face.size
        bounds = (-wide / 2, -high / 2, wide / 2, high / 2)
        part_id = f"{self.id}-{number}"
        known = self.drawings[number % len(self.drawings)] if self.drawings and not face.outline else None
        drawing = (
            self._paper(part_id, title, number, face)
            if known is None
            else replace(fitted(known, bounds), id=f"{part_id}-1")
        )
        rest = dict(zip(("move.x", "move.y", "move.z"), place.tolist(), strict=True))
        kind: PartKind = "drawing" if drawing.shape is None else "shape"
        slots = {"picture": title[:80]}
        return Part(part_id, title, kind, self.id, (drawing,), orientation=quaternion(turn), rest=rest, slots=slots)

    def _paper(self, part_id: str, title: str, number: int, face: _Face) -> Drawing:
        paint = Paint(fill=_PAPERS[number % len(_PAPERS)])
        wide, high = face.size
        if face.outline:
            nodes = tuple(Node(point=corner) for corner in face.outline)
            return shape_drawing(f"{part_id}-1", title, PenPath(contours=(nodes,), paint=paint))
        return shape_drawing(f"{part_id}-1", title, Rectangle((-wide / 2, -high / 2, wide / 2, high / 2), paint=paint))


@dataclass(frozen=True)
class AddBox(_OfPanels, kind="add_box"):
    """Add a box of six panels round a helper in its middle, of one picture, of six (front, right, back, left, top,
    bottom), or of paper. Its size is width, height and depth, px.
    """

    id: str
    name: str = "Box"
    size: Vector = (200.0, 200.0, 200.0)
    at: Vector | None = None
    drawings: tuple[Drawing, ...] = ()

    def faces(self) -> Iterator[_Face]:
        wide, high, deep = self.size
        if not all(0.01 <= side <= LARGEST for side in self.size):
            raise RuleError("The sides of a box are longer than 0.01 px. Nothing was changed.")
        aways = {"front": deep, "back": deep, "right": wide, "left": wide, "top": high, "bottom": high}
        sizes = {"right": (deep, high), "left": (deep, high), "top": (wide, deep), "bottom": (wide, deep)}
        for name, axis, degrees in _FACES:
            yield _Face(name, axis, degrees, aways[name] / 2, sizes.get(name, (wide, high)))


@dataclass(frozen=True)
class AddPrism(_OfPanels, kind="add_prism"):
    """Add a prism of panels round an upright axis: so many sides, each `wide` and `high` px; many make a cylinder. With
    `closed` it has a floor and a lid.
    """

    id: str
    name: str = "Prism"
    sides: int = 6
    wide: float = 120.0
    high: float = 240.0
    closed: bool = True
    at: Vector | None = None
    drawings: tuple[Drawing, ...] = ()

    def faces(self) -> Iterator[_Face]:
        if not 3 <= self.sides <= MOST_FOLDED - 2:
            raise RuleError(f"A prism has 3 to {MOST_FOLDED - 2} sides. Nothing was changed.")
        if not (0.01 <= self.wide <= LARGEST and 0.01 <= self.high <= LARGEST):
            raise RuleError("The sides of a prism are longer than 0.01 px. Nothing was changed.")
        away = self.wide / 2 / np.tan(np.pi / self.sides)
        for number in range(self.sides):
            name = f"side {number + 1}"
            yield _Face(name, (0.0, 1.0, 0.0), 360.0 * number / self.sides, float(away), (self.wide, self.high))
        if self.closed:
            reach = self.wide / 2 / np.sin(np.pi / self.sides)
            for name, sign in (("top", 1.0), ("bottom", -1.0)):
                # A corner lies half a side beside the middle of the front.
                angles = np.pi / self.sides * (2 * np.arange(self.sides) + 1)
                corners = np.stack([np.sin(angles), sign * np.cos(angles)], axis=1) * reach
                outline = tuple((float(x), float(y)) for x, y in corners)
                yield _Face(name, (1.0, 0.0, 0.0), sign * 90.0, self.high / 2, (2 * reach, 2 * reach), outline)
