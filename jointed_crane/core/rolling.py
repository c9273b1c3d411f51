"""How a body tumbles over the corners of its outline: which corner it stands on, and how far it turns about it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

Floats = npt.NDArray[np.float64]

#: Corners closer to each other or to the ground than this share of the body's size are one, or lie on it.
_CLOSE = 1e-9


@dataclass(frozen=True)
class Tumble:
    """One tumble: the corner that is stood on (its place among the corners given), and the turn about it in radians."""

    corner: int
    angle: float


def tumbles(corners: Floats, along: Floats, up: Floats, count: int) -> list[Tumble]:
    """How a convex body rolls along a ground, corner after corner.

    Each tumble turns the body about the foremost corner that touches the ground until the edge before it lies there.

    Parameters
    ----------
    corners : array, shape (corners, 2), round the body in order (`hull_of`), where its turns are rigid
    along : array, shape (2,), the direction it rolls in, along the ground
    up : array, shape (2,), the direction away from the ground, square to it where a turn is seen as one

    Returns
    -------
    tumbles : `count` of them; the angles are all above 0
    """
    forward = along / np.hypot(*along)
    size = float(np.ptp(corners, axis=0).max())
    heights = corners @ (up / np.hypot(*up))
    low = np.flatnonzero(heights <= heights.min() + _CLOSE * size)
    at = int(low[np.argmax(corners[low] @ forward)])
    # The edge before the foremost corner is the one that rises less steeply from the ground ahead.
    step = min((1, -1), key=lambda step: _rise(corners[(at + step) % len(corners)] - corners[at], forward))
    found = []
    for _ in range(count):
        ahead = (at + step) % len(corners)
        edge = corners[ahead] - corners[at]
        found.append(Tumble(at, _rise(edge, forward)))
        # Seen from the body, the ground has come up to the edge: that is the way ahead from the next corner on.
        forward, at = edge / np.hypot(*edge), ahead
    return found


def _rise(edge: Floats, forward: Floats) -> float:
    """The angle between an edge and the way ahead, 0 to pi."""
    return float(np.arctan2(abs(forward[0] * edge[1] - forward[1] * edge[0]), edge @ forward))


def hull_of(rings: list[Floats]) -> Floats:
    """The corners of the smallest convex outline round rings, in order, shape (corners, 2)."""
    hull = shapely.convex_hull(shapely.multipoints(np.concatenate(rings)))
    return np.asarray(shapely.get_coordinates(hull)[:-1], dtype=np.float64)
