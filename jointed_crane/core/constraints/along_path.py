"""Along a path: the pivot at a length of a way, turned with it or not."""

from __future__ import annotations

import numpy as np

from jointed_crane.core.constraints.placed_parts import Floats, Placed
from jointed_crane.core.geometry.plane import angle_of, length_of, shortest, square_to


def placed_along(placed: Placed, points: Floats, directions: Floats, turns: bool, numbers: dict[str, Floats]) -> Placed:
    """The pivots on points of paths, "beside" px to the right of where the path goes as seen on the screen, and the
    parts turned as the path goes, "turn" degrees beyond it.

    Parameters
    ----------
    points, directions : arrays, shape (2, parts, frames), px; a path that goes nowhere turns nothing
    numbers : arrays by name
    """
    by = numbers["weight"]
    length = length_of(directions)
    goes = length > 0
    with np.errstate(divide="ignore", invalid="ignore"):
        right = np.where(goes, square_to(directions) / length, 0.0)
    after = placed.moved_to(points + numbers["beside"] * right, by)
    if not turns:
        return after
    turn = shortest(angle_of(directions) + np.deg2rad(numbers["turn"]) - placed.heading)
    return after.turned_by(np.where(goes, by * turn, 0.0))


def length_along(length: Floats, is_closed: bool, numbers: dict[str, Floats]) -> Floats:
    """How far along its path a part is, px: "along" is a share of the length, "ahead" px beyond that. Closed paths run
    round, open ones end.
    """
    wanted = numbers["along"] * length + numbers["ahead"]
    if not is_closed:
        return np.clip(wanted, 0.0, length)
    with np.errstate(divide="ignore", invalid="ignore"):
        found = wanted - np.floor(wanted / length) * length
    return np.where(length > 0, np.clip(found, 0.0, length), 0.0)
