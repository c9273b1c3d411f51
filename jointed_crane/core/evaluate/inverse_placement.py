"""The placement formula backwards: the motion values of a part, in the plane, that put it where it is seen."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.evaluate.evaluation import evaluate
from jointed_crane.core.evaluate.footholds import stands_of
from jointed_crane.core.evaluate.values import motion_values
from jointed_crane.core.geometry.decomposition import angle_about_z
from jointed_crane.core.model.scene import Part, Scene

Floats = npt.NDArray[np.float64]
#: The channels that place a part in the plane, and the ends of their values.
PLACING = ("move.x", "move.y", "turn.z", "scale.x", "scale.y", "shear.xy")

_IN_DEPTH = "{} lies in depth, which no keys in the plane follow. Nothing was changed."
#: What leaves the plane of what it hangs on by less lies in it, px and shares.
_IN_PLANE = 1e-9


def refuse_depth(part: Part) -> None:
    """RuleError where a part lies in depth, or links have a say in where it lies."""
    if part.is_deep:
        raise RuleError(_IN_DEPTH.format(part.name))
    if part.links:
        raise RuleError(f"Links drive {part.name} as well. Nothing was changed; take them off first.")


def placing_values(scene: Scene, part: Part, frames: Floats) -> dict[str, Floats]:
    """The motion values of PLACING that put a part where the scene has it, its slide and spin going on as they are, and
    its foothold being its pivot. Turns are between -180 and 180 degrees.

    local = inverse(parent) world = T(q) A T(-p) ...; A = R(o + turn) K S is split by QR. What a part takes over of its
    parent is seen on another child with nothing of its own; where its pivot lies goes by all of the parent, if at all.
    """
    probe = Part(f"{part.id} above", "", "helper", parent=part.parent, inherits=part.inherits)
    pose = evaluate(replace(scene, parts=(*scene.parts, probe)), frames)
    world, pivot = pose.world[pose.index[part.id]], pose.pivot[pose.index[part.id]]
    taken = pose.world[pose.index[probe.id]]
    above = pose.world[pose.index[part.parent]] if part.parent and part.inherits.position else np.eye(4)
    above = np.broadcast_to(above, world.shape)
    with np.errstate(all="ignore"):
        determinants = np.linalg.det(np.stack([taken, above])[..., :2, :2])
    if not (np.abs(determinants) > 1e-12).all():
        raise RuleError(f"A part above {part.name} has no size at some frame. Nothing was changed.")
    if _leaves_plane(world, taken) or _leaves_plane(np.stack([pivot], axis=-1), above, above[:, :3, 3:]):
        raise RuleError(_IN_DEPTH.format(part.name))
    inverse = np.linalg.inv(above[:, :2, :2])
    spin = np.deg2rad(part.rest_value("spin.z") + motion_values(part, "spin.z", frames))
    on_stage = world[:, :2, :2] @ _rotations(-spin)
    linear = np.linalg.inv(taken[:, :2, :2]) @ on_stage
    off = np.einsum("fij,fj->fi", on_stage, np.array(part.pivot[:2]) - _standing(part, frames))
    place = np.einsum("fij,fj->fi", inverse, pivot[:, :2] + off - above[:, :2, 3])
    own_axes = angle_about_z(part.orientation)
    rest_turn = own_axes + np.deg2rad(part.rest_value("turn.z"))
    slide = np.stack(
        [part.rest_value(name) + motion_values(part, name, frames) for name in ("slide.x", "slide.y")], axis=-1
    )
    shift = slide @ _rotations(np.array([own_axes]))[0].T
    sign = -1.0 if part.rest_value("scale.x") < 0 else 1.0
    angle = np.arctan2(sign * linear[:, 1, 0], sign * linear[:, 0, 0])
    upper = _rotations(-angle) @ linear
    with np.errstate(divide="ignore", invalid="ignore"):
        shear = np.where(upper[:, 1, 1] != 0, upper[:, 0, 1] / upper[:, 1, 1], 0.0)
        scale = [upper[:, axis, axis] / part.rest_value(f"scale.{'xy'[axis]}") for axis in range(2)]
    if not np.isfinite(scale).all():
        raise RuleError(f"{part.name} has no size at rest. Nothing was changed.")
    return {
        "move.x": place[:, 0] - shift[:, 0] - part.rest_value("move.x"),
        "move.y": place[:, 1] - shift[:, 1] - part.rest_value("move.y"),
        "turn.z": np.rad2deg(np.remainder(angle - rest_turn + np.pi, 2 * np.pi) - np.pi),
        "scale.x": scale[0],
        "scale.y": scale[1],
        "shear.xy": shear - part.rest_value("shear.xy"),
    }


def _leaves_plane(there: Floats, above: Floats, origin: Floats | float = 0.0) -> bool:
    """Whether directions, or points from an origin, lie off the plane of what they hang on: the first two columns of
    arrays, shape (frames, 3 or more, n), and matrices, shape (frames, 4, 4).
    """
    columns = there[:, :3, :2] - origin
    normal = np.cross(above[:, :3, 0], above[:, :3, 1])
    off = np.abs(np.einsum("fi,fij->fj", normal, columns))
    size = np.linalg.norm(normal, axis=-1)[:, None] * np.maximum(1.0, np.linalg.norm(columns, axis=1))
    return bool((off > _IN_PLANE * size).any())


def _rotations(angle: Floats) -> Floats:
    cosine, sine = np.cos(angle), np.sin(angle)
    return np.stack([np.stack([cosine, -sine], -1), np.stack([sine, cosine], -1)], -2)


def _standing(part: Part, frames: Floats) -> Floats:
    """The point of the art that the part stands on, shape (frames, 2)."""
    holds, points = stands_of(part)
    result: Floats = points[np.searchsorted(holds, frames, side="right"), :2]
    return result
