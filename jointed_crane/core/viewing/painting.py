"""In which order a view paints the parts of a pose, and which piece of each where planes cut each other."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from jointed_crane.core.evaluate.pose import Pose
from jointed_crane.core.geometry.nine_points import box_corners
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.viewing.order import PaintedLayer, PaintedPiece, painted
from jointed_crane.core.viewing.projection import carried, linear_of, origin_of, plane_maps
from jointed_crane.core.viewing.seeing import near_enough, through
from jointed_crane.core.viewing.view import View

Floats = npt.NDArray[np.float64]
#: By how much a piece that is painted before another of its plane reaches over their common line, px of the view: else
#: both edges, each smoothed, would let what is behind shine through.
_OVERLAP = 0.6
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
    boxes = [_box(part, int(pose.drawing[pose.index[part.id], column])) for part in seen]
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
            clip = _with_room(_on_art(piece.corners, world), box, world, view, is_last=last[piece.row] == number)
        result.append(PaintedPart(part.id, clip))
    return result


def _is_seen(pose: Pose, part_id: str, column: int) -> bool:
    row = pose.index[part_id]
    return bool(pose.shown[row, column] and pose.opacity[row, column] > 0 and pose.drawing[row, column] >= 0)


def _box(part: Part, drawing: int) -> Floats:
    return box_corners(part.drawings[min(drawing, len(part.drawings) - 1)].bounds)


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
    """The pieces with those of one plane painted whole where nothing between them is seen over it."""
    of: dict[int, list[int]] = {}
    for number, piece in enumerate(pieces):
        of.setdefault(piece.row, []).append(number)
    cut = {row: numbers for row, numbers in of.items() if len(numbers) > 1}
    if not cut:
        return pieces
    boxes = np.array([_seen_box(piece.corners, view) for piece in pieces])
    gone: set[int] = set()
    whole: dict[int, PaintedPiece] = {}
    for row, numbers in cut.items():
        low, high = boxes[numbers, :2].min(axis=0), boxes[numbers, 2:].max(axis=0)
        between = [number for number in range(numbers[0], numbers[-1]) if pieces[number].row != row]
        over = (boxes[between, :2] < high).all(axis=1) & (boxes[between, 2:] > low).all(axis=1)
        if not over.any():
            whole[numbers[0]] = PaintedPiece(row, polygons[row], True)
            gone.update(numbers[1:])
    return [whole.get(number, piece) for number, piece in enumerate(pieces) if number not in gone]


def _seen_box(corners: Floats, view: View) -> Floats:
    seen = corners @ view.matrix[:, :3].T + view.matrix[:, 3]
    places = seen[:, :2] / seen[:, 2:]
    return np.concatenate([places.min(axis=0), places.max(axis=0)])


def _on_art(corners: Floats, world: Floats) -> Floats:
    """Places in the plane of a picture as points of it, shape (corners, 2)."""
    return np.asarray(np.linalg.lstsq(linear_of(world)[:, :2], (corners - origin_of(world)).T, rcond=None)[0].T)


def _with_room(corners: Floats, box: Floats, world: Floats, view: View, is_last: bool) -> Floats:
    """A convex piece with each edge moved outwards: those on the box by some room, those of a cut by an overlap
    unless the piece is painted after all others of its plane.
    """
    around = np.roll(corners, -1, axis=0) - corners
    lengths = np.hypot(*around.T)
    kept = lengths > 1e-9 * max(float(lengths.max(initial=0.0)), 1e-12)
    corners, around, lengths = corners[kept], around[kept], lengths[kept]
    if len(corners) < 3:
        return corners
    middle = corners.mean(axis=0)
    outwards = np.stack([around[:, 1], -around[:, 0]], axis=1) / lengths[:, None]
    outwards *= np.where(((corners - middle) * outwards).sum(axis=1) < 0, -1.0, 1.0)[:, None]
    ends = corners + around
    low, high = box.min(axis=0), box.max(axis=0)
    near = 1e-7 * np.maximum(high - low, 1.0)
    on_box = (
        ((np.abs(corners - low) < near) & (np.abs(ends - low) < near))
        | ((np.abs(corners - high) < near) & (np.abs(ends - high) < near))
    ).any(axis=1)
    by = np.where(on_box, _ROOM, 0.0 if is_last else _OVERLAP / _px_seen(middle, world, view))
    # Each corner goes to where the two edges beside it, as moved, meet.
    far = (outwards * corners).sum(axis=1) + by
    before = np.roll(outwards, 1, axis=0)
    rows = np.stack([before, outwards], axis=1)
    flat = np.abs(np.linalg.det(rows)) < 1e-9
    rows[flat] = np.eye(2)
    result = np.linalg.solve(rows, np.stack([np.roll(far, 1), far], axis=1)[..., None])[..., 0]
    return np.asarray(np.where(flat[:, None], corners + outwards * by[:, None], result))


def _px_seen(point: Floats, world: Floats, view: View) -> float:
    """How many px of the view one px of the art is seen as about a point, its sides taken together; 1 where edge-on."""
    around = point + np.array([[0.0, 0.0], [1e-3, 0.0], [0.0, 1e-3]])
    at, along_x, along_y = through(plane_maps(world, view), around)
    area = abs(float(np.linalg.det(np.stack([along_x - at, along_y - at])))) * 1e6
    return float(np.sqrt(area)) if area > 1e-6 else 1.0
