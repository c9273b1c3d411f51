"""What shows a picture at one frame of a pose, laid out in space: the same for every view that looks at it."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import numpy.typing as npt
import shapely

from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.evaluate.pose import Pose
from jointed_crane.core.geometry.nine_points import box_corners
from jointed_crane.core.model.forms import Shape, contours_of, is_closed, sides
from jointed_crane.core.model.scene import Drawing, Part, Scene
from jointed_crane.core.viewing.clips import Edge, edges_of
from jointed_crane.core.viewing.pieces import Pieces, in_pieces
from jointed_crane.core.viewing.planes import PaintedLayer, PaintedPiece, Planes
from jointed_crane.core.viewing.projection import linear_of, origin_of

Floats = npt.NDArray[np.float64]
#: A hull of more corners than these counts as its box.
_MOST_CORNERS = 12
_AROUND: Memory[Floats] = Memory()
_SHAPES: Memory[dict[str, list[Shape | None]]] = Memory()


@dataclass(frozen=True, eq=False)
class Shown:
    """Parts in the order of the list, from back to front, and where they lie if the scene has depth.

    Attributes
    ----------
    outlines : arrays of shape (corners, 2), a convex polygon round each picture, px in art space
    worlds : array, shape (parts, 4, 4)
    layers : by place the layer of each part that is painted by the list, if it is
    """

    part_ids: list[str]
    has_depth: bool = False
    outlines: list[Floats] = field(default_factory=list)
    worlds: Floats = field(default_factory=lambda: np.zeros((0, 4, 4)))
    layers: dict[int, PaintedLayer] = field(default_factory=dict)
    _edges: dict[PaintedPiece, list[Edge]] = field(default_factory=dict)

    @cached_property
    def is_flat(self) -> bool:
        """Whether all lies in the plane of the stage."""
        return not len(self.worlds) or not np.abs(self.worlds[:, 2][:, [0, 1, 3]]).max() > 1e-9

    @cached_property
    def starts(self) -> npt.NDArray[np.intp]:
        """Where the corners of each part begin in a row of all, and where the last one's end, shape (parts + 1,)."""
        return np.cumsum([0, *(len(outline) for outline in self.outlines)])

    @cached_property
    def corners(self) -> Floats:
        """All corners one part after the other, px in art space, shape (corners, 2)."""
        return np.concatenate(self.outlines) if self.outlines else np.zeros((0, 2))

    @cached_property
    def planes(self) -> Planes:
        """Where the outlines lie in space."""
        worlds = self.each_corner(self.worlds)
        places = (linear_of(worlds)[..., :2] @ self.corners[..., None])[..., 0] + origin_of(worlds)
        bounds = self.starts.tolist()
        polygons = [places[first:last] for first, last in zip(bounds, bounds[1:], strict=False)]
        return Planes(polygons, self.layers)

    @cached_property
    def pieces(self) -> Pieces:
        """The same, cut where they go through each other."""
        return in_pieces(self.planes)

    @cached_property
    def onto_art(self) -> list[list[list[float]]]:
        """From places in the plane of each part to points of its art: the pseudo-inverses of the ways of x and y, each
        (x, y, z, shift) of both; nothing sensible where a plane has no area.
        """
        x, y = (linear_of(self.worlds)[..., axis] for axis in (0, 1))
        xx, xy, yy = ((a * b).sum(axis=-1)[:, None] for a, b in ((x, x), (x, y), (y, y)))
        with np.errstate(divide="ignore", invalid="ignore"):
            ways = np.stack([yy * x - xy * y, xx * y - xy * x], axis=1) / (xx * yy - xy * xy)[..., None]
        return np.concatenate([ways, -ways @ origin_of(self.worlds)[..., None]], axis=-1).tolist()  # type: ignore[no-any-return]

    def edges(self, piece: PaintedPiece) -> list[Edge]:
        """The edges of a piece in its art."""
        if piece not in self._edges:
            row = piece.row
            self._edges[piece] = edges_of(piece.corners, self.onto_art[row], self.outlines[row])
        return self._edges[piece]

    def each_corner(self, of_parts: Floats) -> Floats:
        """What holds for parts, for the corners of each."""
        return np.asarray(np.repeat(of_parts, np.diff(self.starts), axis=0))


def shown(scene: Scene, pose: Pose, column: int = 0, without: Collection[str] = ()) -> Shown:
    """What shows a picture at one frame of a pose.

    Parameters
    ----------
    without : ids of parts that are not looked at
    """
    order = [part_id for part_id in pose.painting(column) if part_id not in without]
    if not scene.depth:
        return Shown(order)
    rows = np.array([pose.index[part_id] for part_id in order], dtype=np.intp)
    is_seen = pose.shown[rows, column] & (pose.opacity[rows, column] > 0) & (pose.drawing[rows, column] >= 0)
    rows = rows[is_seen]
    part_ids = [pose.part_ids[row] for row in rows.tolist()]
    numbers = pose.drawing[rows, column].astype(int).tolist()
    shapes = _SHAPES.of(pose, pose.shapes) if pose.shaped else {}
    outlines = []
    for part_id, number in zip(part_ids, numbers, strict=True):
        part, shape = scene.part(part_id), shapes[part_id][column] if part_id in shapes else None
        outlines.append(_around(part, number) if shape is None else _around_shape(shape, part.drawings[number]))
    return Shown(part_ids, True, outlines, pose.world[rows, column], _layers(scene, pose, part_ids, column))


def _around(part: Part, number: int) -> Floats:
    """A convex polygon round what a part shows, px in art space: its outline's hull where that has few corners, else
    its box.
    """
    drawing = part.drawings[min(number, len(part.drawings) - 1)]
    return _AROUND.of(drawing, lambda: _hull(drawing))


def _around_shape(shape: Shape, drawing: Drawing) -> Floats:
    """A box round a shape as it has become; its curves lie within the hull of what they are drawn by."""
    contours = [sides(contour, is_closed(shape)).reshape(-1, 2) for contour in contours_of(shape)]
    points = np.concatenate([np.zeros((0, 2)), *contours])
    if not len(points):
        return box_corners(drawing.bounds)
    room = shape.paint.width / 2 if shape.paint.stroke else 0.0
    low, high = (points.min(axis=0) - room, points.max(axis=0) + room) - np.array(drawing.registration)
    return box_corners((*low.tolist(), *high.tolist()))


def _hull(drawing: Drawing) -> Floats:
    if drawing.outline:
        hull = shapely.MultiPoint([point for ring in drawing.outline for point in ring]).convex_hull
        if hull.geom_type == "Polygon" and len(hull.exterior.coords) <= _MOST_CORNERS + 1:
            return np.array(hull.exterior.coords, dtype=np.float64)[:-1]
    return box_corners(drawing.bounds)


def _layers(scene: Scene, pose: Pose, part_ids: list[str], column: int) -> dict[int, PaintedLayer]:
    """The layers of what hangs on parts that are painted by the list, by place in `part_ids`: of several such parts
    above each other the uppermost counts.
    """
    known: dict[str, PaintedLayer | None] = {}
    result = {}
    for place, part_id in enumerate(part_ids):
        top = _painted_by_list(scene, part_id)
        if top is None:
            continue
        if top not in known:
            known[top] = _layer(len(known), pose.world_of(top, column))
        layer = known[top]
        if layer is not None:
            result[place] = layer
    return result


def _painted_by_list(scene: Scene, part_id: str) -> str | None:
    result, at = None, scene.part(part_id)
    while True:
        if at.painted_by == "list":
            result = at.id
        if at.parent is None:
            return result
        at = scene.part(at.parent)


def _layer(number: int, world: Floats) -> PaintedLayer | None:
    """The plane of a part's own art as that of a layer; None where it is scaled to nothing."""
    normal = np.cross(linear_of(world)[:, 0], linear_of(world)[:, 1])
    length = float(np.linalg.norm(normal))
    if not length > 1e-12:
        return None
    normal = normal / length
    return PaintedLayer(number, np.array([*normal, -float(normal @ origin_of(world))]))
