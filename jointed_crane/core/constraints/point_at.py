"""Point at: a direction of the part points at a goal."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from jointed_crane.core.constraints.placed_parts import Floats, Placed
from jointed_crane.core.geometry.fields import Entry
from jointed_crane.core.geometry.plane import shortest


def pointed(placed: Placed, own: Sequence[Entry], goal: Floats, offset: Floats, by: Floats) -> Placed:
    """The parts turned about their pivots so that a direction of their own points at a goal; one that lies on the pivot
    gives no direction and turns nothing.

    Parameters
    ----------
    own : three entries, the direction in art space
    goal : array, shape (2, parts, frames), px
    offset, by : arrays, radians beyond the goal's direction; the weight of the constraint
    """
    x, y = placed.along(own)
    to_x, to_y = goal[0] - placed.place[0], goal[1] - placed.place[1]
    across, along = x * to_y - y * to_x, x * to_x + y * to_y
    turn = by * shortest(np.arctan2(across, along) + offset)
    has_none = (across == 0) & (along == 0)
    return placed.turned_by(np.where(has_none, 0.0, turn) if has_none.any() else turn)
