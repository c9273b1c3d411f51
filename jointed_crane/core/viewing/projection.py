"""From art to view and back: where the plane of a picture is seen, by the stage's own camera or by another view.

Every edit, snap, check, answer and writer that asks where a point of the art is seen, or what is seen at a place, asks
here; nothing but the evaluation itself cuts a world matrix. Places of the stage's own view are places on the stage.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.model.scene import Part
from jointed_crane.core.viewing.view import STAGE, View

Floats = npt.NDArray[np.float64]

#: A plane whose area shrinks below this share of its longer side squared is seen edge-on.
_EDGE_ON = 1e-9
#: A line of sight that falls this little towards the stage's plane sees it edge-on.
_STEEP = 1e-3


def carried(world: Floats, points: Floats) -> Floats:
    """Where art points lie in space.

    Parameters
    ----------
    world : array, shape (..., 4, 4)
    points : array, shape (points, 3) or (3,), px in art space; the same points under every matrix

    Returns
    -------
    places : array, shape (..., points, 3) or (..., 3), px
    """
    return _moved(linear_of(world), origin_of(world), points)


def in_space(world: Floats, points: Floats) -> Floats:
    """Where points of the picture lie: as `carried`, with points of two numbers in the plane z = 0 of the art."""
    return carried(world, np.column_stack([points, np.zeros(len(points))]))


def on_stage(world: Floats, points: Floats, view: View = STAGE) -> Floats:
    """Where points of the picture are seen: as `carried`, with points of two numbers that lie in the plane z = 0 of the
    art, px of the view.
    """
    if view == STAGE:
        return _moved(seen_linear_of(world), world[..., :2, 3], points)
    maps = plane_maps(world, view)
    return _divided(_moved(maps[..., :2], maps[..., 2], points))


def plane_maps(world: Floats, view: View) -> Floats:
    """The maps from (x, y, 1) of the art to the view, times the third number, shape (..., 3, 3)."""
    return np.asarray(view.matrix @ world[..., [0, 1, 3]], dtype=np.float64)


def seen_from(places: Floats, view: View) -> Floats:
    """Where places in space are seen, px of the view, shape (..., 3) in and (..., 2) out."""
    if view == STAGE:
        return places[..., :2]
    return _divided(places @ view.matrix[:, :3].T + view.matrix[:, 3])


def steps_in_space(by: tuple[float, float], at: Floats, view: View) -> Floats:
    """The step in space, px, shape (3,), that is seen as a step in the view by what stands at a place: in the plane of
    the view, as far as its depth asks. RuleError where that place is behind the camera.
    """
    if view == STAGE:
        return np.array([*by, 0.0])
    across, down, _ = view.axes.T
    px = 1.0 / view.scale if view.focal is None else float(view.depths[:3] @ at + view.depths[3]) / view.focal
    if not px > 0:
        raise RuleError("That lies behind this view, so it cannot be moved in it. Nothing was changed; use another.")
    return np.asarray((across * by[0] + down * by[1]) * px, dtype=np.float64)


def on_ground(place: tuple[float, float], view: View) -> Floats:
    """Where the line of sight through a place of the view meets the plane of the stage, shape (3,); seen edge-on, the
    plane through the stage's middle that faces the view.
    """
    if view == STAGE:
        return np.array([*place, 0.0])
    start, way = view.line_of_sight(place)
    plane = np.array([0.0, 0.0, 1.0]) if abs(way[2]) > _STEEP else view.axes[:, 2]
    return np.asarray(start - way * (plane @ start) / (plane @ way), dtype=np.float64)


def linear_of(world: Floats) -> Floats:
    """How directions of the art lie in space: the linear part of world matrices, shape (..., 3, 3)."""
    return world[..., :3, :3]


def seen_linear_of(world: Floats) -> Floats:
    """How directions of the picture are seen on the stage, shape (..., 2, 2)."""
    return world[..., :2, :2]


def origin_of(world: Floats) -> Floats:
    """Where the zero of the art lies in space, px, shape (..., 3)."""
    return world[..., :3, 3]


def _moved(linear: Floats, origin: Floats, points: Floats) -> Floats:
    shift = origin if points.ndim == 1 else origin[..., None, :]
    return np.asarray(points @ linear.swapaxes(-1, -2) + shift, dtype=np.float64)


def _divided(places: Floats) -> Floats:
    with np.errstate(divide="ignore", invalid="ignore"):
        return np.asarray(places[..., :2] / places[..., 2:], dtype=np.float64)


def in_art(world: Floats, places: Floats, name: str, view: View = STAGE) -> Floats:
    """The points of the picture that are seen at places of the view: where the line of sight meets its plane.

    The inverse of `on_stage` for one world matrix, shape (..., 2) in and out. RuleError, with the part's `name`, where
    the plane is seen edge-on or scaled to nothing, or where it lies behind the camera.
    """
    if view != STAGE:
        return _in_art_of(plane_maps(world, view), places, name)
    seen = seen_linear_of(world)
    if not abs(np.linalg.det(seen)) > _EDGE_ON * float(np.abs(seen).max(initial=0.0)) ** 2:
        raise _edge_on(name)
    return np.asarray(np.linalg.solve(seen, (places - world[:2, 3]).T).T, dtype=np.float64)


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


def space_to_art(world: Floats, part: Part) -> Floats:
    """The inverse of a world matrix, shape (4, 4); RuleError, with the part's name, where it is scaled to nothing."""
    result = np.eye(4)
    result[:3, :3] = inverse_of(linear_of(world), part)
    result[:3, 3] = -result[:3, :3] @ origin_of(world)
    return result


def in_art_space(world: Floats, place: Floats, part: Part) -> Floats:
    """The point of art space that lies at a place in space, px, shape (3,): the inverse of `carried`; RuleError, with
    the part's name, where it is scaled to nothing.
    """
    return np.asarray(inverse_of(linear_of(world), part) @ (place - origin_of(world)), dtype=np.float64)


def planar(world: Floats) -> Floats:
    """World matrices of shape (..., 4, 4) as they are seen: a b c d e f of matrix() in the plane, shape (..., 6)."""
    return world[..., :2, [0, 1, 3]].swapaxes(-1, -2).reshape(*world.shape[:-2], 6)


def _in_art_of(map_: Floats, places: Floats, name: str) -> Floats:
    sizes = np.linalg.norm(map_, axis=0)
    if not abs(np.linalg.det(map_)) > _EDGE_ON * float(sizes.prod()):
        raise _edge_on(name)
    points = np.linalg.solve(map_, np.column_stack([places.reshape(-1, 2), np.ones(places.size // 2)]).T).T
    if not (points[:, 2] > 0).all():
        raise RuleError(f"{name} does not lie there in this view. Nothing was changed; point at where it is seen.")
    return np.asarray(points[:, :2] / points[:, 2:], dtype=np.float64).reshape(places.shape)


def _edge_on(name: str) -> RuleError:
    return RuleError(
        f"{name} is seen edge-on or scaled to nothing here, so no point of it can be told from the stage. "
        "Nothing was changed; go to a frame, or a view, where it shows its face."
    )
