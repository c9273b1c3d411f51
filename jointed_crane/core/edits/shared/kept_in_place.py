"""Keeping a part where it is shown while what places it changes."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.shown_values import driven_values
from jointed_crane.core.evaluate.inheritance import inherited_linear
from jointed_crane.core.evaluate.placement import Setting, Values, linear_part, rotation
from jointed_crane.core.evaluate.pose_at_frame import shown_pivot, shown_world
from jointed_crane.core.geometry.decomposition import quaternion, rotation_matrices, rotation_shear_scale
from jointed_crane.core.geometry.fields import Matrix, product, stacked, unstacked
from jointed_crane.core.geometry.nine_points import at_fraction
from jointed_crane.core.geometry.projection import in_art, linear_of, origin_of
from jointed_crane.core.hierarchy.dependencies import dependencies_of, reached
from jointed_crane.core.hierarchy.tree import descendants
from jointed_crane.core.model.scene import Inherits, Part, Scene

Floats = npt.NDArray[np.float64]
#: How a point on a part is given: px in the art, a fraction of the art's box, or px on the stage.
PointUnit = Literal["art", "fraction", "stage"]
#: What stays on the stage while a part's own coordinates change.
Staying = Literal["art", "pivot"]
#: Parts that lie closer to their place than this share of their size have not moved.
_STILL = 1e-12


def parent_linear(scene: Scene, part: Part, frame: float | None) -> Floats:
    """The linear part that a part takes over from its parent, shape (3, 3)."""
    parent = linear_of(shown_world(scene, part.parent, frame))
    if part.inherits.turn and part.inherits.scale:
        return parent
    return inherited_linear(parent, plain_rotation(scene, part.parent, frame), part.inherits)


def plain_rotation(scene: Scene, part_id: str | None, frame: float | None) -> Floats:
    """The rotation of a part as shown, shape (3, 3): its turns and spins and those above, free of scale and shear."""
    found = np.eye(3)
    while part_id is not None:
        part = scene.part(part_id)
        values = driven_values(scene, part, frame)
        turn, spin = (rotation(values, name, part.turn_order) for name in ("turn", "spin"))
        found = stacked(product(product(_orientation(part), turn), spin), ()) @ found
        if not part.inherits.turn:
            break
        part_id = part.parent
    return found


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
    alone = tuple(replace(one, parent=None, constraints=()) for one in scene.parts if one.id in names)
    return shown_pivot(Scene("own", "Own", parts=alone), part.id, frame)


def inverse_of(linear: Floats, part: Part) -> Floats:
    """The inverse of a linear part, shape (3, 3); RuleError where something is scaled to nothing."""
    with np.errstate(all="ignore"):
        sizes = np.linalg.svd(linear, compute_uv=False)
    if not sizes[-1] > 1e-9 * max(sizes[0], 1.0):
        raise RuleError(
            f"{part.name} or a part above it is scaled to nothing here, so its place cannot be computed. "
            "Nothing was changed; go to a frame where it has a size."
        )
    return np.asarray(np.linalg.inv(linear), dtype=np.float64)


def in_art_space(world: Floats, place: Floats, part: Part) -> Floats:
    """The point of art space that lies at a place in space, px, shape (3,): the inverse of `carried`; RuleError, with
    the part's name, where it is scaled to nothing.
    """
    return np.asarray(inverse_of(linear_of(world), part) @ (place - origin_of(world)), dtype=np.float64)


def art_point(
    scene: Scene, part: Part, point: tuple[float, float], unit: PointUnit, frame: float | None
) -> tuple[float, float]:
    """A point given as px in the art, as a fraction of the art's box or as px on the stage, in px of the art.

    A point on the stage means the art point seen there.
    """
    if unit == "art":
        return point
    if unit == "fraction":
        if part.bounds is None:
            raise RuleError(f"{part.name} has no picture, so there is no box to take a fraction of; give px.")
        return at_fraction(part.bounds, point)
    x, y = in_art(shown_world(scene, part.id, frame), np.array(point, dtype=np.float64), part.name)
    return (float(x), float(y))


def in_parent(scene: Scene, part: Part, step: Floats, frame: float | None) -> Floats:
    """A step on the stage, px, as the step of the part's own place that shows it, shape (3,)."""
    if part.parent is None or not part.inherits.position:
        return step
    return inverse_of(linear_of(shown_world(scene, part.parent, frame)), part) @ step


def brought_back(before: Scene, after: Scene, part_id: str, frame: float | None, kept: Staying = "art") -> Part:
    """The part of `after` with its rest place corrected so that its art zero, or the point it turns about, lies where
    `before` shows it.
    """
    if kept == "art":
        off = origin_of(shown_world(before, part_id, frame)) - origin_of(shown_world(after, part_id, frame))
    else:
        off = shown_pivot(before, part_id, frame) - shown_pivot(after, part_id, frame)
    part = after.part(part_id)
    return part.with_rest_moved(in_parent(after, part, off, frame))


def rejoined(scene: Scene, part_id: str, parent_id: str | None, frame: float | None) -> Scene:
    """The part on another parent, lying exactly where it is shown, and all that hangs on it too.

    Parts below that take only some of a placement would notice how their parent's rotation and scale were taken
    apart; they are laid anew where they were.
    """
    after = _laid(scene, scene.with_parts([replace(scene.part(part_id), parent=parent_id, seat=None)]), part_id, frame)
    return with_partial_laid(scene, after, part_id, frame)


def with_partial_laid(before: Scene, after: Scene, part_id: str, frame: float | None) -> Scene:
    """`after` with the parts below one that inherit partly lying where `before` shows them."""
    if all(part.inherits == Inherits() for part in after.parts):
        return after
    for below in descendants(after, part_id):
        if after.part(below).inherits != Inherits():
            was, now = shown_world(before, below, frame), shown_world(after, below, frame)
            if np.abs(was - now).max() > _STILL * max(1.0, float(np.abs(was).max())):
                after = _laid(before, after, below, frame)
    return after


def _laid(before: Scene, after: Scene, part_id: str, frame: float | None) -> Scene:
    """`after` with one part lying where `before` shows it: local' = inverse(new parent world) world.

    The new local linear part is split by QR into rotation (which goes into O), shear and scale (into their rest
    values). The motion scale is left out of the split on both sides, so that a part keyed to nothing keeps its rest.
    """
    part, moved = before.part(part_id), after.part(part_id)
    values = driven_values(before, part, frame)
    for axis in "xyz":
        values[f"scale.{axis}"] = part.rest_value(f"scale.{axis}")
    turn = rotation(values, "turn", part.turn_order)
    own = own_linear(part, values)
    to_new_parent = inverse_of(parent_linear(after, moved, frame), part)
    linear = to_new_parent @ parent_linear(before, part, frame) @ own
    inverse_of(linear, part)
    signs = np.sign([part.rest_value(f"scale.{axis}") for axis in "xyz"])
    turned, shear, scale = rotation_shear_scale(linear, signs)
    rest = {f"scale.{axis}": scale[i] for i, axis in enumerate("xyz")}
    for i, name in enumerate(("shear.xy", "shear.xz", "shear.yz")):
        rest[name] = shear[i] - (values[name] - part.rest_value(name))
    moved = replace(moved, orientation=quaternion(turned @ stacked(turn, ()).T)).with_rest(rest)
    after = after.with_parts([moved])
    return after.with_parts([brought_back(before, after, part_id, frame)])
