"""The nine points of a box, places given as fractions of it, and the nearest of them."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.coordinates import Bounds

Floats = npt.NDArray[np.float64]

#: Names of the nine points, row by row from the upper left.
NAMES = (
    "upper left corner",
    "upper middle",
    "upper right corner",
    "left middle",
    "centre",
    "right middle",
    "lower left corner",
    "lower middle",
    "lower right corner",
)


def nine_points(bounds: Bounds) -> Floats:
    """Corners, edge middles and centre of a box, row by row from the upper left.

    Returns
    -------
    points : array, shape (9, 2), px in art space
    """
    left, top, right, bottom = bounds
    xs, ys = (left, (left + right) / 2, right), (top, (top + bottom) / 2, bottom)
    return np.array([(x, y) for y in ys for x in xs])


def box_corners(bounds: Bounds) -> Floats:
    """The four corners of a box, round it from the upper left, shape (4, 2)."""
    left, top, right, bottom = bounds
    return np.array([(left, top), (right, top), (right, bottom), (left, bottom)])


def at_fraction(bounds: Bounds, fraction: tuple[float, float]) -> tuple[float, float]:
    """The point at a fraction of a box: (0, 0) is the upper left corner, (1, 1) the lower right, px in art space."""
    left, top, right, bottom = bounds
    return (left + fraction[0] * (right - left), top + fraction[1] * (bottom - top))


def fraction_of(bounds: Bounds, point: tuple[float, float]) -> tuple[float, float]:
    """The inverse of `at_fraction`; a box without width or height reads 0.5 in that direction."""
    left, top, right, bottom = bounds
    width, height = right - left, bottom - top
    return (
        (point[0] - left) / width if width else 0.5,
        (point[1] - top) / height if height else 0.5,
    )


def box_to_box(before: Bounds, after: Bounds) -> Callable[[tuple[float, float]], tuple[float, float]]:
    """The stretch that carries one box onto another; a box without width or height is only shifted that way."""

    def stretched(point: tuple[float, float]) -> tuple[float, float]:
        result = []
        for axis in (0, 1):
            size = before[axis + 2] - before[axis]
            factor = (after[axis + 2] - after[axis]) / size if size else 1.0
            result.append(after[axis] + (point[axis] - before[axis]) * factor)
        return (result[0], result[1])

    return stretched
