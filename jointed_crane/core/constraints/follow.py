"""Follow: position, turn and scale of a goal, with an offset."""

from __future__ import annotations

from jointed_crane.core.constraints.between import by_a_share
from jointed_crane.core.constraints.placed_parts import Floats, Placed
from jointed_crane.core.geometry.plane import angle_of, length_of, shortest

Pair = tuple[Floats, Floats]


def following_position(placed: Placed, goal: Floats, linear: Floats, offset: Pair, by: Floats) -> Placed:
    """The pivots at an offset from goals.

    Parameters
    ----------
    goal : array, shape (2, parts, frames), px
    linear : array, shape (2, 2, parts, frames), of the part that has the goal
    offset : along x and y, px in the art space of that part
    by : array, the weight of the constraint
    """
    there = goal + linear[:, 0] * offset[0] + linear[:, 1] * offset[1]
    return placed.moved_to(there, by)


def following_turn(placed: Placed, linear: Floats, offset: Floats, by: Floats) -> Placed:
    """The parts turned as goals are, radians beyond them."""
    return placed.turned_by(by * shortest(angle_of(linear[:, 0]) + offset - placed.heading))


def following_scale(placed: Placed, linear: Floats, offset: Pair, by: Floats) -> Placed:
    """The parts as large as goals are along their own x and y, times an offset along each."""
    wanted = (length_of(linear[:, axis]) * offset[axis] for axis in range(2))
    x, y = (by_a_share(*pair, by) for pair in zip(placed.sizes, wanted, strict=True))
    return placed.scaled(x, y)
