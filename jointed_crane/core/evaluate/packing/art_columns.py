"""What constraints take of the art of their own parts: directions, held points, corners."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.constraint import Constraint
from jointed_crane.core.geometry.fields import Column, unstacked_column
from jointed_crane.core.model.scene import Part

Floats = npt.NDArray[np.float64]


def art_of(constraints: Sequence[Constraint], parts: Iterable[Part]) -> tuple[Column, ...]:
    """What constraints of one kind that act together take of their parts' art: for each so many vectors, px in art
    space, the first ones together as entries of shape (parts, 1), the second ones and so on. Where one has fewer than
    another, the last ones are no numbers.
    """
    vectors = [one.art(part) for one, part in zip(constraints, parts, strict=True)]
    result = np.full((max(map(len, vectors)), len(vectors), 3), np.nan)
    for place, own in enumerate(vectors):
        result[: len(own), place] = np.array(own).reshape(-1, 3)
    return tuple(unstacked_column(each[:, None]) for each in result)
