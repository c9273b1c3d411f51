"""Keeping a part where it is shown while what places it changes."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
import numpy.typing as npt

from jointed_crane.core.edits.values import effective_values, motion_value
from jointed_crane.core.errors import RuleError
from jointed_crane.core.evaluate import inherited_linear
from jointed_crane.core.geometry.decomposition import quaternion, rotation_matrices, rotation_shear_scale
from jointed_crane.core.geometry.fields import stacked, unstacked
from jointed_crane.core.geometry.nine_points import at_fraction
from jointed_crane.core.placement import linear_part, rotation
from jointed_crane.core.scene import Part, Scene
from jointed_crane.core.shown import shown_world

Floats = npt.NDArray[np.float64]
#: How a point on a part is given: px in the art, a fraction of the art's box, or px on the stage.
PointUnit = Literal["art", "fraction", "stage"]


def parent_linear(scene: Scene, part: Part, frame: float | None) -> Floats:
    """The linear part that a part takes over from its parent, shape (3, 3)."""
    return inherited_linear(shown_world(scene, part.parent, frame)[:3, :3], part.inherits)


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


def art_point(
    scene: Scene, part: Part, point: tuple[float, float], unit: PointUnit, frame: float | None
) -> tuple[float, float]:
    """A point given as px in the art, as a fraction of the art's box or as px on the stage, in px of the art.

    A point on the stage means the art point shown there.
    """
    if unit == "art":
        return point
    if unit == "fraction":
        if part.bounds is None:
            raise RuleError(f"{part.name} has no picture, so there is no box to take a fraction of; give px.")
        return at_fraction(part.bounds, point)
    world = shown_world(scene, part.id, frame)
    x, y, _ = inverse_of(world[:3, :3], part) @ (np.array([*point, 0.0]) - world[:3, 3])
    return (float(x), float(y))


def brought_back(before: Scene, after: Scene, part_id: str, frame: float | None) -> Part:
    """The part of `after` with its rest place corrected so that its art zero lies where `before` shows it."""
    part = after.part(part_id)
    off = shown_world(before, part_id, frame)[:3, 3] - shown_world(after, part_id, frame)[:3, 3]
    if part.inherits.position:
        off = inverse_of(shown_world(after, part.parent, frame)[:3, :3], part) @ off
    return part.with_rest_moved(off)


def rejoined(scene: Scene, part_id: str, parent_id: str | None, frame: float | None) -> Scene:
    """The part on another parent, lying exactly where it is shown: local' = inverse(new parent world) world.

    The new local linear part is split by QR into rotation (which goes into O), shear and scale (into their rest
    values). The motion scale is left out of the split on both sides, so that a part keyed to nothing keeps its rest.
    """
    part = scene.part(part_id)
    values = effective_values(part, frame)
    for axis in "xyz":
        values[f"scale.{axis}"] = part.rest_value(f"scale.{axis}")
    turn = stacked(rotation(values, "turn", part.turn_order), ())
    orientation = unstacked(rotation_matrices(np.array(part.orientation)))
    own = stacked(linear_part(values, orientation, unstacked(turn)), ())
    moved = replace(part, parent=parent_id, seat=None)
    to_new_parent = inverse_of(parent_linear(scene, moved, frame), part)
    linear = to_new_parent @ parent_linear(scene, part, frame) @ own
    inverse_of(linear, part)
    signs = np.sign([part.rest_value(f"scale.{axis}") for axis in "xyz"])
    turned, shear, scale = rotation_shear_scale(linear, signs)
    rest = {f"scale.{axis}": scale[i] for i, axis in enumerate("xyz")}
    for i, name in enumerate(("shear.xy", "shear.xz", "shear.yz")):
        rest[name] = shear[i] - (0.0 if frame is None else motion_value(part, name, frame))
    moved = replace(moved, orientation=quaternion(turned @ turn.T)).with_rest(rest)
    after = scene.with_parts([moved])
    return after.with_parts([brought_back(scene, after, part_id, frame)])
