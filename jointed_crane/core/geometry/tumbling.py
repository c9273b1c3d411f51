"""How a body tumbles over the corners of its outline: which corner it stands on, and how far it turns about it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

Floats = npt.NDArray[np.float64]

#: Corners closer to each other or to the ground than this share of the body's size are one, or lie on it.
_CLOSE = 1e-9
#: An edge longer than this share of the whole way round is a side; a corner rounded off farther than that stays round.
_LONG, _ROUNDED = 0.08, 0.06


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
    result = []
    for _ in range(count):
        ahead = (at + step) % len(corners)
        edge = corners[ahead] - corners[at]
        result.append(Tumble(at, _rise(edge, forward)))
        # Seen from the body, the ground has come up to the edge: that is the way ahead from the next corner on.
        forward, at = edge / np.hypot(*edge), ahead
    return result


def _rise(edge: Floats, forward: Floats) -> float:
    """The angle between an edge and the way ahead, 0 to pi."""
    return float(np.arctan2(abs(forward[0] * edge[1] - forward[1] * edge[0]), edge @ forward))


def hull_of(rings: list[Floats]) -> Floats:
    """The corners of the smallest convex outline round rings, in order, shape (corners, 2).

    Where small edges round a corner off between two long ones, it is the corner that these would make: a crate with
    rounded edges has four.
    """
    hull = shapely.convex_hull(shapely.multipoints(np.concatenate(rings)))
    points = np.asarray(shapely.get_coordinates(hull)[:-1], dtype=np.float64)
    edges = np.roll(points, -1, axis=0) - points
    lengths = np.hypot(*edges.T)
    long = np.flatnonzero(lengths > _LONG * lengths.sum())
    if len(long) < 3:
        return points
    result: list[Floats] = []
    for before, after in zip(long, np.roll(long, -1), strict=True):
        between = (after - before - 1) % len(points)
        run = points[(before + 1 + np.arange(between + 1)) % len(points)]
        corner = _meeting(points[before], edges[before], points[after], edges[after]) if between > 1 else None
        is_near = corner is not None and np.hypot(*(run - corner).T).max() < _ROUNDED * lengths.sum()
        result += [corner] if corner is not None and is_near else list(run)
    return np.array(result)


def _meeting(a: Floats, along_a: Floats, b: Floats, along_b: Floats) -> Floats | None:
    """Where two lines meet; None where they run alike."""
    across = along_a[0] * along_b[1] - along_a[1] * along_b[0]
    if abs(across) < _CLOSE * np.hypot(*along_a) * np.hypot(*along_b):
        return None
    share = ((b - a)[0] * along_b[1] - (b - a)[1] * along_b[0]) / across
    return np.asarray(a + share * along_a, dtype=np.float64)
