"""What constraints take of the art of their own parts: directions, held points, corners."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.geometry.fields import Column, unstacked_column
from jointed_crane.core.model.constraints import Constraint, PointAt, Span, StayAbove
from jointed_crane.core.model.scene import Part

Floats = npt.NDArray[np.float64]


def art_of(constraints: Sequence[Constraint], parts: Iterable[Part]) -> tuple[Column, ...]:
    """What constraints of one kind that act together take of their parts' art: for each so many vectors, px in art
    space, the first ones together as entries of shape (parts, 1), the second ones and so on. Where one has fewer than
    another, the last ones are no numbers.
    """
    vectors = [_vectors(one, part) for one, part in zip(constraints, parts, strict=True)]
    found = np.full((max(map(len, vectors)), len(vectors), 3), np.nan)
    for place, own in enumerate(vectors):
        found[: len(own), place] = np.array(own).reshape(-1, 3)
    return tuple(unstacked_column(each[:, None]) for each in found)


def _vectors(one: Constraint, part: Part) -> Sequence[Vector]:
    if isinstance(one, PointAt):
        return (_direction(one, part),)
    if isinstance(one, Span):
        return one.points
    return _corners(one, part) if isinstance(one, StayAbove) else ()


def _direction(one: PointAt, part: Part) -> Vector:
    """The direction of the art that points."""
    if one.along == "x":
        return (1.0, 0.0, 0.0)
    if one.along == "y":
        return (0.0, 1.0, 0.0)
    (x, y, z), (of_x, of_y, of_z) = one.along, part.pivot
    return (x - of_x, y - of_y, z - of_z)


def _corners(one: StayAbove, part: Part) -> Sequence[Vector]:
    """The points that stay above."""
    if one.point is not None:
        return (one.point,)
    rings = part.drawing.outline if part.drawing is not None else ()
    return [(x, y, 0.0) for ring in rings for x, y in ring] or [part.pivot]
