"""Edits of the shapes and texts that the app makes itself."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.pictures.drawings import exchanged, known_drawing
from jointed_crane.core.edits.placing.pivots import MovePivot
from jointed_crane.core.edits.scene.parts import AddParts
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.edits.shared.places import PointUnit, art_point
from jointed_crane.core.edits.shared.values_on_screen import added_by_links, with_value
from jointed_crane.core.model.forms import Node, PenPath, Shape, Text, ensure_drawable
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.shapes.picture import shape_drawing
from jointed_crane.core.shapes.reshaping import is_alike, numbers_of_shape, shape_at
from jointed_crane.core.viewing.view import STAGE, View

#: Numbers closer than this are the same.
_SAME = 1e-9


@dataclass(frozen=True)
class AddShape(Edit, kind="add_shape"):
    """Add a part that shows a shape or a text, in front of all others; its coordinates are px on the stage.

    Its pivot comes to the middle of its box. Registration is the shape's own zero, moved to the same point for shapes
    and to the beginning of the first baseline for text.
    """

    id: str
    shape: Shape
    name: str = "Shape"
    place: tuple[float, float] = (0.0, 0.0)

    def label(self, scene: Scene) -> str:
        return f"Add {self.name}"

    def apply(self, scene: Scene) -> Scene:
        drawing = shape_drawing(f"{self.id}-1", self.name, self.shape)
        left, top, right, bottom = drawing.bounds
        pivot = ((left + right) / 2, (top + bottom) / 2)
        part = Part(
            self.id,
            self.name,
            "text" if self.shape.form == "text" else "shape",
            drawings=(drawing,),
            pivot=(*pivot, 0.0),
            rest={"move.x": pivot[0] + self.place[0], "move.y": pivot[1] + self.place[1]},
        )
        return AddParts((part,)).apply(scene)


@dataclass(frozen=True)
class SetShape(Edit, kind="set_shape"):
    """Change a shape or text that a drawing was made from: its form, words, fill, stroke.

    The pivot stays; that of a text keeps its share of the box of the words, where it lay within.
    """

    part: str
    drawing: str
    shape: Shape

    def label(self, scene: Scene) -> str:
        return f"Change shape of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        known = known_drawing(part, self.drawing)
        if known.shape is None:
            raise RuleError(f"{part.name} shows art from a file, not a shape of the app's own. Nothing was changed.")
        after = exchanged(
            scene, part, self.drawing, lambda known: shape_drawing(known.id, known.name, self.shape, known.registration)
        )
        if not (isinstance(known.shape, Text) and isinstance(self.shape, Text) and len(part.drawings) == 1):
            return after
        left, top, right, bottom = known.bounds
        if not (left < right and top < bottom and left <= part.pivot[0] <= right and top <= part.pivot[1] <= bottom):
            return after
        share = (part.pivot[0] - left) / (right - left), (part.pivot[1] - top) / (bottom - top)
        try:
            return MovePivot(part.id, share, "fraction").apply(after)
        except RuleError:  # what places the part says where its pivot lies; its words may change all the same
            return after


@dataclass(frozen=True)
class KeyShape(Edit, kind="key_shape"):
    """Let a drawing show a shape at a frame of the motion: each number that differs from what it shows there gets a
    key, and nothing else. Form, words and how many nodes there are do not move; they are set with `SetShape`.
    """

    KEYS_VALUES = True

    part: str
    drawing: str
    shape: Shape
    frame: float

    def label(self, scene: Scene) -> str:
        return f"Shape {scene.part(self.part).name} at frame {self.frame:g}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        known = known_drawing(part, self.drawing)
        added = added_by_links(scene, part, self.frame)
        shown = shape_at(part, part.drawings.index(known), self.frame, added)
        if known.shape is None or shown is None:
            raise RuleError(f"{part.name} shows art from a file, not a shape of the app's own. Nothing was changed.")
        ensure_drawable(self.shape)
        rest, now, wanted = map(numbers_of_shape, (known.shape, shown, self.shape))
        if not is_alike(known.shape, self.shape):
            raise RuleError(
                f"The numbers of the shape of {part.name} move, its form, words and nodes do not. Nothing was changed; "
                "go to Rest to change those."
            )
        for name, value in wanted.items():
            if abs(value - now[name]) > _SAME:
                part = with_value(part, name, value - rest[name] - added.get(name, 0.0), self.frame)
        return scene.with_parts([part])


@dataclass(frozen=True)
class MoveNode(Edit, kind="move_node"):
    """Move a node of a pen path, or one of its handles, to a point: px in the art, or of a view (the stage's own).

    `contour` and `node` count from 0. A handle that is moved takes the one across along, so that the path stays smooth
    there; `breaks` leaves it alone. The pivot and everything else of the part stay. At a frame of the motion what
    moves gets keys; at rest, where `frame` is None, the path itself changes.
    """

    KEYS_VALUES = True

    part: str
    drawing: str
    contour: int
    node: int
    point: tuple[float, float]
    which: Literal["point", "handle_in", "handle_out"] = "point"
    breaks: bool = False
    unit: PointUnit = "stage"
    frame: float | None = None
    view: View = STAGE

    def label(self, scene: Scene) -> str:
        return f"Move a node of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        drawing = known_drawing(part, self.drawing)
        added = added_by_links(scene, part, self.frame)
        # In Rest the shape itself is changed, to which links add as before.
        shape = shape_at(part, part.drawings.index(drawing), self.frame, added if self.frame is not None else {})
        if not isinstance(shape, PenPath):
            raise RuleError(f"{part.name} shows no pen path, so it has no nodes. Nothing was changed.")
        if not (0 <= self.contour < len(shape.contours) and 0 <= self.node < len(shape.contours[self.contour])):
            raise RuleError(f"{part.name} has no such node. Nothing was changed.")
        x, y = art_point(scene, part, self.point, self.unit, self.frame, self.view)
        in_shape = (x + drawing.registration[0], y + drawing.registration[1])
        if self.frame is None and self.which == "point":
            number = sum(map(len, shape.contours[: self.contour])) + self.node
            in_shape = (in_shape[0] - added.get(f"node.{number}.x", 0), in_shape[1] - added.get(f"node.{number}.y", 0))
        nodes = list(shape.contours[self.contour])
        nodes[self.node] = self._moved(nodes[self.node], in_shape)
        contours = list(shape.contours)
        contours[self.contour] = tuple(nodes)
        moved = replace(shape, contours=tuple(contours))
        if self.frame is None:
            return SetShape(self.part, self.drawing, moved).apply(scene)
        return KeyShape(self.part, self.drawing, moved, self.frame).apply(scene)

    def _moved(self, node: Node, to: tuple[float, float]) -> Node:
        if self.which == "point":
            return replace(node, point=to)
        offset = (to[0] - node.point[0], to[1] - node.point[1])
        across = (-offset[0], -offset[1])
        is_in = self.which == "handle_in"
        if self.breaks:
            return replace(node, handle_in=offset) if is_in else replace(node, handle_out=offset)
        return replace(node, handle_in=offset if is_in else across, handle_out=across if is_in else offset)
