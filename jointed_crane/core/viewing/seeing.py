"""What a view sees of a pose: for each part the map from its plane, which face is seen, and what lies near enough."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from jointed_crane.core.evaluate.pose import Pose
from jointed_crane.core.viewing.view import STAGE, View

Floats = npt.NDArray[np.float64]

#: A plane whose area is seen smaller than this share of its longer side squared is seen edge-on.
_EDGE_ON = 1e-9


@dataclass(frozen=True)
class Seen:
    """A pose as a view sees it, parts and frames as in the pose.

    Attributes
    ----------
    maps : array, shape (parts, frames, 3, 3), from (x, y, 1) of the art to the view, times the third number
    depths : array, shape (parts, frames, 3), the depth of (x, y, 1) of the art before the camera, px
    faces : array, shape (parts, frames), 1 where the face is seen, -1 where the back is, 0 edge-on
    near : the depth before which nothing is seen; minus infinity for a parallel view
    """

    maps: Floats
    depths: Floats
    faces: npt.NDArray[np.int8]
    near: float


def seen(pose: Pose, view: View = STAGE) -> Seen:
    """The pose as a view sees it. The stage's own camera sees the world as it is, number for number."""
    # The images of x, of y and of the zero in one long row: one product of matrices instead of one for each plane.
    planes = np.concatenate([pose.world[..., None, :, column] for column in (0, 1, 3)], axis=-2)
    rows = planes.reshape(-1, 4)
    maps = planes[..., [0, 1, 3]] if view == STAGE else (rows @ view.matrix.T).reshape(*planes.shape[:-1], 3)
    depths = (rows @ view.depths).reshape(planes.shape[:-1])
    near = -np.inf if view.focal is None else view.near
    return Seen(maps.swapaxes(-1, -2), depths, _faces(pose.world, view), near)


def _faces(world: Floats, view: View) -> npt.NDArray[np.int8]:
    """Which side of each plane the camera is on: that of the art's own z, or the other. A mirror within the plane turns
    no face away.
    """
    x, y, z, origin = (np.moveaxis(world[..., :3, column], -1, 0) for column in range(4))
    towards = view.axes[:, 2] if view.focal is None else np.array(view.place)[:, None, None] - origin
    facing = _determinant(x, y, towards)
    level = _EDGE_ON * np.sqrt(_square(x) * _square(y) * _square(towards))
    facing = np.where(_determinant(x, y, z) < 0, -facing, facing)
    return (facing > level).astype(np.int8) - (facing < -level).astype(np.int8)


def _determinant(a: Floats, b: Floats, c: Floats) -> Floats:
    """Of three columns, their components first."""
    (ax, ay, az), (bx, by, bz), (cx, cy, cz) = a, b, c
    result: Floats = (ay * bz - az * by) * cx + (az * bx - ax * bz) * cy + (ax * by - ay * bx) * cz
    return result


def _square(a: Floats) -> Floats:
    """The square of the length, components first."""
    x, y, z = a
    result: Floats = x * x + y * y + z * z
    return result


def through(maps: Floats, points: Floats) -> Floats:
    """Where points of the art are seen, px in the view.

    Parameters
    ----------
    maps : array, shape (..., 3, 3)
    points : array, shape (points, 2), px in art space, none of them behind the camera

    Returns
    -------
    places : array, shape (..., points, 2)
    """
    places = points @ maps[..., :2].swapaxes(-1, -2) + maps[..., None, :, 2]
    return np.asarray(places[..., :2] / places[..., 2:])


def back_through(maps: Floats, places: Floats) -> Floats:
    """The points of the art that are seen at places of the view; infinite where a plane is seen edge-on or never meets
    the line of sight. The inverse of `through`, shape (..., points, 2).
    """
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        # The adjugate instead of the inverse: the same up to a factor, which the last division takes out again.
        rows = np.stack([np.cross(maps[..., 1, :], maps[..., 2, :]), np.cross(maps[..., 2, :], maps[..., 0, :]),
                         np.cross(maps[..., 0, :], maps[..., 1, :])], axis=-1)  # fmt: skip
        points = places @ rows[..., :2].swapaxes(-1, -2) + rows[..., None, :, 2]
        return np.asarray(points[..., :2] / points[..., 2:])


def near_enough(corners: Floats, depths: Floats, near: float) -> Floats:
    """What of a convex polygon on a plane lies at least so deep before the camera: cut exactly, never flipped.

    Parameters
    ----------
    corners : array, shape (corners, 2), px in art space
    depths : array, shape (3,), the depth of (x, y, 1)

    Returns
    -------
    kept : array, shape (corners, 2), none where nothing is left (Sutherland and Hodgman 1974, for one plane)
    """
    deep = corners @ depths[:2] + depths[2] - near
    if (deep >= 0).all():
        return corners
    result: list[Floats] = []
    for place, (corner, its) in enumerate(zip(corners, deep, strict=True)):
        before, its_before = corners[place - 1], deep[place - 1]
        if (its >= 0) != (its_before >= 0):
            share = its_before / (its_before - its)
            result.append(before + share * (corner - before))
        if its >= 0:
            result.append(corner)
    return np.array(result).reshape(-1, 2)
