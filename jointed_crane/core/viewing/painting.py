"""In which order a view paints the parts of a pose, and which piece of each where planes cut each other."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.evaluate.pose import Pose
from jointed_crane.core.geometry.nine_points import box_corners
from jointed_crane.core.model.scene import Drawing, Part, Scene
from jointed_crane.core.viewing.order import PaintedLayer, PaintedPiece, painted
from jointed_crane.core.viewing.projection import carried, linear_of, origin_of, plane_maps, seen_from
from jointed_crane.core.viewing.seeing import near_enough, through
from jointed_crane.core.viewing.view import View

Floats = npt.NDArray[np.float64]
#: By how much a piece that is painted before another of its plane reaches over their common line, px of the view: else
#: both edges, each smoothed, would let what is behind shine through.
_OVERLAP = 1.0
#: A hull of more corners than these counts as its box.
_MOST_CORNERS = 12
_AROUND: Memory[Floats] = Memory()
#: How far a piece reaches beyond the box of its picture, so that no smoothed edge is cut off, px of the art.
_ROOM = 4.0


@dataclass(frozen=True, eq=False)
class PaintedPart:
    """A part, or a piece of it.

    Attributes
    ----------
    clip : array, shape (corners, 2), what of the picture is painted, px in art space; None paints all of it
    """

    part_id: str
    clip: Floats | None = None


def painting(scene: Scene, pose: Pose, view: View, column: int = 0, without: Collection[str] = ()) -> list[PaintedPart]:
    """What shows a picture at one frame of a pose, from back to front as a view sees it.

    Without depth the order is that of the list, with it what is nearer is painted over what is farther, but for what
    hangs on parts that are painted by the list; what lies in one plane keeps the order of the list.

    Parameters
    ----------
    without : ids of parts that are not looked at
    """
    order = [part_id for part_id in pose.painting(column) if part_id not in without]
    parts = [scene.part(part_id) for part_id in order]
    if not scene.depth:
        return [PaintedPart(part.id) for part in parts]
    seen = [part for part in parts if _is_seen(pose, part.id, column)]
    boxes = [_around(part, int(pose.drawing[pose.index[part.id], column])) for part in seen]
    worlds = [pose.world_of(part.id, column) for part in seen]
    if _are_flat(worlds) and view.focal is None:
        return [PaintedPart(part.id) for part in seen]
    corners = [_before_camera(box, world, view) for box, world in zip(boxes, worlds, strict=True)]
    polygons = [
        carried(world, np.column_stack([own, np.zeros(len(own))])) for own, world in zip(corners, worlds, strict=True)
    ]
    layers = _layers(scene, pose, [part.id for part in seen], column)
    pieces = _joined(painted(polygons, view, layers), polygons, view)
    whole = [len(own) == len(box) and bool((own == box).all()) for own, box in zip(corners, boxes, strict=True)]
    result, last = [], {piece.row: number for number, piece in enumerate(pieces)}
    for number, piece in enumerate(pieces):
        part, world, box = seen[piece.row], worlds[piece.row], boxes[piece.row]
        clip = None
        if not (piece.is_whole and whole[piece.row]):
            clip = _with_room(
                _on_art(piece.corners, world), box, plane_maps(world, view), is_last=last[piece.row] == number
            )
        result.append(PaintedPart(part.id, clip))
    return result


def _is_seen(pose: Pose, part_id: str, column: int) -> bool:
    row = pose.index[part_id]
    return bool(pose.shown[row, column] and pose.opacity[row, column] > 0 and pose.drawing[row, column] >= 0)


def _around(part: Part, number: int) -> Floats:
    """A convex polygon round what a part shows, px in art space: its outline's hull where that has few corners, else
    its box.
    """
    drawing = part.drawings[min(number, len(part.drawings) - 1)]
    return _AROUND.of(drawing, lambda: _hull(drawing))


def _hull(drawing: Drawing) -> Floats:
    if drawing.outline:
        hull = shapely.MultiPoint([point for ring in drawing.outline for point in ring]).convex_hull
        if hull.geom_type == "Polygon" and len(hull.exterior.coords) <= _MOST_CORNERS + 1:
            return np.array(hull.exterior.coords, dtype=np.float64)[:-1]
    return box_corners(drawing.bounds)


def _are_flat(worlds: list[Floats]) -> bool:
    """Whether all lie in the plane of the stage."""
    return not worlds or not np.abs(np.stack(worlds)[:, 2][:, [0, 1, 3]]).max() > 1e-9


def _before_camera(box: Floats, world: Floats, view: View) -> Floats:
    if view.focal is None:
        return box
    return near_enough(box, view.depths @ world[:, [0, 1, 3]], view.near)


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


def _joined(pieces: list[PaintedPiece], polygons: list[Floats], view: View) -> list[PaintedPiece]:
    """The pieces with planes whole again that are cut for nothing: where all pieces of one can be painted together,
    none of them coming past something that is seen over it.
    """
    of: dict[int, list[int]] = {}
    for number, piece in enumerate(pieces):
        of.setdefault(piece.row, []).append(number)
    cut = [row for row, numbers in of.items() if len(numbers) > 1]
    if not cut:
        return pieces
    whole = [PaintedPiece(row, polygons[row], True) for row in cut]
    boxes = _seen_boxes([piece.corners for piece in (*pieces, *whole)], view)
    reach = (boxes[:, None, :2] < boxes[None, :, 2:]).all(axis=-1)
    over: npt.NDArray[np.bool_] = np.logical_and(reach, reach.T)
    every, order = [*pieces, *whole], list(range(len(pieces)))
    for number, row in enumerate(cut, start=len(pieces)):
        places = [place for place, piece in enumerate(order) if every[piece].row == row]
        first, last = places[0], places[-1]
        between = np.array(order[first : last + 1])
        is_other = np.array([every[piece].row != row for piece in between.tolist()])
        meets = over[np.ix_(between[[place - first for place in places]], between)] & is_other
        # How many things seen over each piece lie up to each place: as many at both ends, and it may go there.
        counts = np.concatenate([np.zeros((len(places), 1), dtype=int), np.cumsum(meets, axis=1)], axis=1)
        own = counts[np.arange(len(places)), [place - first for place in places]]
        joins = next((place for place in places if (counts[:, place - first] == own).all()), None)
        if joins is not None:
            kept = set(places) - {joins}
            order = [number if place == joins else piece for place, piece in enumerate(order) if place not in kept]
    return [every[piece] for piece in order]


def _seen_boxes(pieces: list[Floats], view: View) -> Floats:
    """Left, top, right, bottom of what is seen of each piece, px of the view, shape (pieces, 4)."""
    starts = np.cumsum([0, *(len(corners) for corners in pieces[:-1])])
    places = seen_from(np.concatenate(pieces), view)
    return np.concatenate([np.minimum.reduceat(places, starts), np.maximum.reduceat(places, starts)], axis=1)


def _on_art(corners: Floats, world: Floats) -> Floats:
    """Places in the plane of a picture as points of it, shape (corners, 2)."""
    x, y = linear_of(world)[:, 0], linear_of(world)[:, 1]
    xx, xy, yy = float(x @ x), float(x @ y), float(y @ y)
    ways = np.stack([yy * x - xy * y, xx * y - xy * x]) / (xx * yy - xy * xy)
    return np.asarray((corners - origin_of(world)) @ ways.T)


def _with_room(corners: Floats, box: Floats, map_: Floats, is_last: bool) -> Floats:
    """A convex piece with each edge moved outwards: those on the box by some room, those of a cut by an overlap
    unless the piece is painted after all others of its plane.
    """
    around = np.roll(corners, -1, axis=0) - corners
    lengths = np.sqrt((around * around).sum(axis=1))
    kept = lengths > 1e-9 * max(float(lengths.max(initial=0.0)), 1e-12)
    if not kept.all():
        corners = corners[kept]
        around = np.roll(corners, -1, axis=0) - corners
        lengths = np.sqrt((around * around).sum(axis=1))
    if len(corners) < 3 or not lengths.all():
        return corners
    outwards = np.stack([around[:, 1], -around[:, 0]], axis=1) / lengths[:, None]
    if ((corners - corners.mean(axis=0)) * outwards).sum() < 0:
        outwards = -outwards
    ends = corners + around
    # Those that lie on a side of the whole; the others are cuts.
    sides = np.roll(box, -1, axis=0) - box
    sizes = np.sqrt((sides * sides).sum(axis=1))
    square = np.stack([-sides[:, 1], sides[:, 0]], axis=1) / np.maximum(sizes, 1e-30)[:, None]
    beside = (square * box).sum(axis=1)
    off = (np.abs(points @ square.T - beside) for points in (corners, ends))
    on_box = (np.maximum(*off) < 1e-7 * max(float(sizes.max()), 1.0)).any(axis=1)
    by = np.where(on_box, _ROOM, 0.0)
    if not is_last:
        by = np.where(on_box, _ROOM, _OVERLAP / _px_seen(corners + around / 2, outwards, around, map_))
    # Each corner goes to where the two edges beside it, as moved, meet.
    far = (outwards * corners).sum(axis=1) + by
    before, far_before = np.roll(outwards, 1, axis=0), np.roll(far, 1)
    area = before[:, 0] * outwards[:, 1] - before[:, 1] * outwards[:, 0]
    flat = np.abs(area) < 1e-9
    area = np.where(flat, 1.0, area)
    met = np.stack([
        (far_before * outwards[:, 1] - far * before[:, 1]) / area,
        (far * before[:, 0] - far_before * outwards[:, 0]) / area,
    ], axis=1)  # fmt: skip
    return np.asarray(np.where(flat[:, None], corners + outwards * by[:, None], met))


def _px_seen(points: Floats, outwards: Floats, along: Floats, map_: Floats) -> Floats:
    """How far from an edge one px of the art is seen beyond it, px of the view, about the middle of each edge: a plane
    that is seen at a slant is seen narrower across than along.
    """
    small = 1e-3
    at = through(map_, points)
    across, ahead = through(map_, points + outwards * small) - at, through(map_, points + along * small) - at
    lengths = np.sqrt((ahead * ahead).sum(axis=1))
    with np.errstate(divide="ignore", invalid="ignore"):
        away = np.abs(across[:, 0] * ahead[:, 1] - across[:, 1] * ahead[:, 0]) / lengths / small
    return np.where(np.isfinite(away) & (away > 1e-3), away, 1.0)
