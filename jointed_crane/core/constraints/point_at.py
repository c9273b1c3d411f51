"""Point at: a direction of the part points at a goal."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jointed_crane.core.constraints.placed import Floats, Placed
from jointed_crane.core.geometry.fields import Entry
from jointed_crane.core.geometry.plane import angle_of, shortest


def pointed(placed: Placed, own: Sequence[Entry], goal: Floats, offset: Floats, by: Floats) -> Placed:
    """The parts turned about their pivots so that a direction of their own points at a goal; one that lies on the pivot
    gives no direction and turns nothing.

    Parameters
    ----------
    own : three entries, the direction in art space
    goal : array, shape (2, parts, frames), px
    offset, by : arrays, radians beyond the goal's direction; the weight of the constraint
    """
    now, towards = placed.along(own), placed.towards(goal)
    turn = shortest(angle_of(towards) + offset - angle_of(now))
    has_direction = towards.any(axis=0) & now.any(axis=0)
    return placed.turned_by(np.where(has_direction, by * turn, 0.0))
