"""Directions in space by how they head about an axis of the stage and how far they rise towards it, for many at once.

About z, heading is the direction in the plane of the stage, and what lies in that plane does not rise. Components come
first, as in `plane`.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.fields import IDENTITY, Matrix
from jointed_crane.core.geometry.plane import angle_of, cosine_and_sine, length_of, shortest

Floats = npt.NDArray[np.float64]
#: The two axes that a turn about x, y or z leads from and to (`fields.rotation`).
_ACROSS = ((1, 2), (2, 0), (0, 1))
#: What lies across the axis by less than this share of it has no heading.
_UPRIGHT = 1e-12


def level_of(vectors: Floats, axis: int) -> Floats:
    """Vectors, shape (3, ...), across the axis: the two components that heading goes by, shape (2, ...)."""
    first, second = _ACROSS[axis]
    return np.stack([vectors[first], vectors[second]])


def rise_of(vectors: Floats, axis: int) -> Floats:
    """How far vectors, shape (3, ...), rise from across the axis towards it, radians from -pi / 2 to pi / 2."""
    result: Floats = np.arctan2(vectors[axis], np.hypot(*level_of(vectors, axis)))
    return result


def raised(heading: Floats, by: Floats, axis: int) -> Matrix:
    """The rotation that raises what heads so towards the axis, radians: in the plane of h, which lies across the axis
    and heads so, and of the axis c, R = I + sin(by) (c h^T - h c^T) + (cos(by) - 1) (h h^T + c c^T), which is
    Rodrigues' formula about h x c.
    """
    first, second = _ACROSS[axis]
    across, along = cosine_and_sine(heading)
    less, sine = cosine_and_sine(by)
    less = less - 1
    result = [list(row) for row in IDENTITY]
    h = {first: across, second: along}
    for i, own in h.items():
        for j, other in h.items():
            result[i][j] = float(i == j) + less * own * other
        result[axis][i] = sine * own
        result[i][axis] = -sine * own
    result[axis][axis] = 1 + less
    return result


def aimed(own: Floats, sight: Floats, offset: Floats, by: Floats, axis: int) -> tuple[Floats, Matrix]:
    """How directions come by a share of the way to others: the turn about the axis, radians, and the rotation that tips
    them towards it after that. What has no length gives no direction, and what is upright is only tipped.

    Parameters
    ----------
    own, sight : arrays, shape (3, parts, frames)
    offset : radians beyond where the others head
    by : the share
    """
    level, to_level = level_of(own, axis), level_of(sight, axis)
    is_upright = length_of(level) <= _UPRIGHT * np.abs(own[axis])
    heading, wanted = angle_of(level), angle_of(to_level)
    has_heading = (length_of(to_level) > 0) & ~is_upright
    turn = np.where(has_heading, by * shortest(wanted + offset - heading), 0.0)
    has_none = (own == 0).all(axis=0) | (sight == 0).all(axis=0)
    tip = np.where(has_none, 0.0, by * (rise_of(sight, axis) - rise_of(own, axis)))
    return turn, raised(np.where(is_upright, wanted, heading + turn), tip, axis)
