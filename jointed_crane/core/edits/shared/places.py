"""Places of parts, and between them: of one part's own, of its art and of the stage."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.values_on_screen import driven_values
from jointed_crane.core.evaluate.evaluation import stepped
from jointed_crane.core.evaluate.inheritance import inherited_linear
from jointed_crane.core.evaluate.placement import Setting, Values, linear_part, rotation
from jointed_crane.core.evaluate.pose_at_frame import pivot_at, world_at
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.geometry.decomposition import rotation_matrices
from jointed_crane.core.geometry.fields import Matrix, product, stacked, unstacked
from jointed_crane.core.geometry.nine_points import at_fraction
from jointed_crane.core.hierarchy.dependencies import dependencies_of, reached
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.viewing.projection import in_art, inverse_of, linear_of, on_stage, space_to_art
from jointed_crane.core.viewing.view import STAGE, View

Floats = npt.NDArray[np.float64]
#: A plane that a line of sight meets at less than this sine is seen edge-on.
_EDGE_ON = 0.05
#: How a point on a part is given: px in the art, a fraction of the art's box, or px on the stage.
PointUnit = Literal["art", "fraction", "stage"]


def parent_linear(scene: Scene, part: Part, frame: float | None) -> Floats:
    """The linear part that a part takes over from its parent, shape (3, 3)."""
    parent = linear_of(world_at(scene, part.parent, frame))
    if part.inherits.turn and part.inherits.scale:
        return parent
    return inherited_linear(parent, plain_rotation(scene, part.parent, frame), part.inherits)


def plain_rotation(scene: Scene, part_id: str | None, frame: float | None) -> Floats:
    """The rotation of a part as shown, shape (3, 3): its turns and spins and those above, free of scale and shear."""
    result = np.eye(3)
    while part_id is not None:
        part = scene.part(part_id)
        values = driven_values(scene, part, frame)
        turn, spin = (rotation(values, name, part.turn_order) for name in ("turn", "spin"))
        result = stacked(product(product(_orientation(part), turn), spin), ()) @ result
        if not part.inherits.turn:
            break
        part_id = part.parent
    return result


def _orientation(part: Part) -> Matrix:
    return unstacked(rotation_matrices(np.array(part.orientation)))


def own_linear(part: Part, values: Values) -> Floats:
    """A = O R K S of one part with effective values at one moment, shape (3, 3)."""
    turn = rotation(values, "turn", part.turn_order)
    return stacked(linear_part(Setting(values, _orientation(part), turn)), ())


def own_place(scene: Scene, part: Part, frame: float | None) -> Floats:
    """Where a part's own values and what drives them put its pivot in its parent, px, shape (3,): what constraints make
    of that comes after it.
    """
    drivers = dependencies_of(scene).drivers
    names = reached([part.id], lambda part_id: drivers.get(part_id, ()))
    alone = (replace(one, parent=None, constraints=(), footholds=()) for one in scene.parts if one.id in names)
    place = pivot_at(Scene("own", "Own", parts=tuple(alone)), part.id, frame)
    return place + stepped(scene, part.id, frame) if part.footholds and frame is not None else place


def art_point(
    scene: Scene, part: Part, point: tuple[float, float], unit: PointUnit, frame: float | None, view: View = STAGE
) -> tuple[float, float]:
    """A point given as px in the art, as a fraction of the art's box or as px of a view, in px of the art.

    A point of the view means the art point seen there.
    """
    if unit == "art":
        return point
    if unit == "fraction":
        if part.bounds is None:
            raise RuleError(f"{part.name} has no picture, so there is no box to take a fraction of; give px.")
        return at_fraction(part.bounds, point)
    x, y = in_art(world_at(scene, part.id, frame), np.array(point, dtype=np.float64), part.name, view)
    return (float(x), float(y))


def point_in(
    scene: Scene, part: Part, point: tuple[float, float], unit: PointUnit, frame: float | None, view: View = STAGE
) -> tuple[float, float]:
    """A point in px of the art in one of the units: the inverse of `art_point`. Along a side of no length it is in the
    middle.
    """
    if unit == "art":
        return point
    if unit == "fraction":
        left, top, right, bottom = part.bounds or (0.0, 0.0, 0.0, 0.0)
        width, height = right - left, bottom - top
        return (point[0] - left) / width if width else 0.5, (point[1] - top) / height if height else 0.5
    x, y = on_stage(world_at(scene, part.id, frame), np.array(point, dtype=np.float64), view)
    return (float(x), float(y))


def art_place(
    scene: Scene, part: Part, place: tuple[float, float], level: float, frame: float | None, view: View
) -> Vector:
    """The point of art space, px, that a hand in a view means by a place there: on the plane of the art that lies
    `level` px along its z, or where that is seen nearly edge-on, in the plane of the view through the pivot.
    """
    to_art = space_to_art(world_at(scene, part.id, frame), part)
    start, way = view.line_of_sight(place)
    from_there, along = to_art[:3, :3] @ start + to_art[:3, 3], to_art[:3, :3] @ way
    if abs(along[2]) > _EDGE_ON * np.linalg.norm(along):
        x, y, _ = from_there + along * ((level - from_there[2]) / along[2])
        return (float(x), float(y), level)
    towards = view.axes[:, 2]
    there = start + way * (towards @ (pivot_at(scene, part.id, frame) - start)) / (towards @ way)
    x, y, z = to_art[:3, :3] @ there + to_art[:3, 3]
    return (float(x), float(y), float(z))


def in_parent(scene: Scene, part: Part, step: Floats, frame: float | None) -> Floats:
    """A step on the stage, px, as the step of the part's own place that shows it, shape (3,)."""
    if part.parent is None or not part.inherits.position:
        return step
    return inverse_of(linear_of(world_at(scene, part.parent, frame)), part) @ step
