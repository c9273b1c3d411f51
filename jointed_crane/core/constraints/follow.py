"""Follow: position, turn and scale of a goal, with an offset."""

from __future__ import annotations

import numpy as np

from jointed_crane.core.constraints.between import by_a_share
from jointed_crane.core.constraints.placed import Floats, Placed, angle_of, length_of, shortest


def following_position(placed: Placed, goal: Floats, linear: Floats, offset: Floats, by: Floats) -> Placed:
    """The pivots at an offset from goals.

    Parameters
    ----------
    goal : array, shape (parts, frames, 2), px
    linear : array, shape (parts, frames, 3, 3), of the part that has the goal
    offset : array, shape (parts, frames, 2), px in the art space of that part
    by : array, shape (parts, frames), the weight of the constraint
    """
    wanted = goal + np.einsum("nfij,nfj->nfi", linear[..., :2, :2], offset)
    return placed.moved(by[..., None] * (wanted - placed.place[..., :2]))


def following_turn(placed: Placed, linear: Floats, offset: Floats, by: Floats) -> Placed:
    """The parts turned as goals are, radians beyond them."""
    wanted = angle_of(linear[..., 0]) + offset
    return placed.turned_by(by * shortest(wanted - angle_of(placed.art[..., 0])))


def following_scale(placed: Placed, linear: Floats, offset: Floats, by: Floats) -> Placed:
    """The parts as large as goals are along their own x and y, times an offset, shape (parts, frames, 2)."""
    x, y = (
        by_a_share(length_of(placed.art[..., axis]), length_of(linear[..., axis]) * offset[..., axis], by)
        for axis in range(2)
    )
    return placed.scaled(x, y)
