"""Directions in space by how they head about an axis of the stage and how far they rise towards it, for many at once.

About z, heading is the direction in the plane of the stage, and what lies in that plane does not rise. Components come
first, as in `plane`.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.fields import IDENTITY, Matrix
from jointed_crane.core.geometry.plane import cosine_and_sine

Floats = npt.NDArray[np.float64]
#: The two axes that a turn about x, y or z leads from and to (`fields.rotation`).
_ACROSS = ((1, 2), (2, 0), (0, 1))


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
