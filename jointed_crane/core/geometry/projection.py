"""From art to stage and back: how the plane of a picture is seen from the front, along z.

Every edit, snap, answer and writer that asks where a point of the art is seen, or what is seen at a place, asks here.
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
    world : array, shape (4, 4)
    points : array, shape (..., 3), px in art space

    Returns
    -------
    places : array, shape (..., 3), px
    """
    return np.asarray(points @ world[:3, :3].T + world[:3, 3], dtype=np.float64)


def on_stage(world: Floats, points: Floats) -> Floats:
    """Where points of the picture are seen on the stage, shape (..., 2) in and out; they lie in the plane z = 0 of
    the art.
    """
    return np.asarray(points @ world[:2, :2].T + world[:2, 3], dtype=np.float64)


def in_art(world: Floats, places: Floats, name: str) -> Floats:
    """The points of the picture that are seen at places of the stage: where the view ray along z meets its plane.

    The inverse of `on_stage`, shape (..., 2) in and out. RuleError, with the part's `name`, where the plane is seen
    edge-on or scaled to nothing.
    """
    seen = world[:2, :2]
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
