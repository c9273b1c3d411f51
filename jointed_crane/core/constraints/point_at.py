"""Point at: a direction of the part points at a goal."""

from __future__ import annotations

import numpy as np

from jointed_crane.core.constraints.placed import Floats, Placed, angle_of, length_of, shortest


def pointed(placed: Placed, own: Floats, goal: Floats, offset: Floats, by: Floats) -> Placed:
    """The parts turned about their pivots so that a direction of their own points at a goal; one that lies on the pivot
    gives no direction and turns nothing.

    Parameters
    ----------
    own : array, shape (parts, 3), the direction in art space
    goal : array, shape (parts, frames, 2), px
    offset, by : arrays, shape (parts, frames), radians beyond the goal's direction; the weight of the constraint
    """
    now = np.einsum("nfij,nj->nfi", placed.art[..., :2, :], own)
    towards = goal - placed.place[..., :2]
    turn = shortest(angle_of(towards) + offset - angle_of(now))
    has_direction = (length_of(towards) > 0) & (length_of(now) > 0)
    return placed.turned_by(np.where(has_direction, by * turn, 0.0))
