"""From art to stage and back: how the plane of a picture is seen from the front, along z.

Every edit, snap, check, answer and writer that asks where a point of the art is seen, or what is seen at a place, asks
here; nothing but the evaluation itself cuts a world matrix.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError

Floats = npt.NDArray[np.float64]

#: A plane whose area shrinks below this share of its longer side squared is seen edge-on.
_EDGE_ON = 1e-9


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


def on_stage(world: Floats, points: Floats) -> Floats:
    """Where points of the picture are seen on the stage: as `carried`, with points of two numbers that lie in the
    plane z = 0 of the art.
    """
    return _moved(seen_linear_of(world), world[..., :2, 3], points)


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


def in_art(world: Floats, places: Floats, name: str) -> Floats:
    """The points of the picture that are seen at places of the stage: where the view ray along z meets its plane.

    The inverse of `on_stage`, shape (..., 2) in and out. RuleError, with the part's `name`, where the plane is seen
    edge-on or scaled to nothing.
    """
    seen = seen_linear_of(world)
    longer = float(np.abs(seen).max(initial=0.0))
    if not abs(np.linalg.det(seen)) > _EDGE_ON * longer**2:
        raise RuleError(
            f"{name} is seen edge-on or scaled to nothing here, so no point of it can be told from the stage. "
            "Nothing was changed; go to a frame where it shows its face."
        )
    return np.asarray(np.linalg.solve(seen, (places - world[:2, 3]).T).T, dtype=np.float64)


def planar(world: Floats) -> Floats:
    """World matrices of shape (..., 4, 4) as they are seen: a b c d e f of matrix() in the plane, shape (..., 6)."""
    return world[..., :2, [0, 1, 3]].swapaxes(-1, -2).reshape(*world.shape[:-2], 6)
