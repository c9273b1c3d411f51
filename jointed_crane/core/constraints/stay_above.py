"""Stay above: points do not go through a line."""

from __future__ import annotations

import numpy as np

from jointed_crane.core.constraints.placed_parts import Floats, Placed


def lifted(placed: Placed, points: Floats, line: Floats, direction: Floats, by: Floats) -> Placed:
    """The parts lifted until none of their points lies below a line.

    Seen along its direction what is above the line lies on its left: above a level line that runs to the right is up
    on the screen.

    Parameters
    ----------
    points : array, shape (2, points, parts, frames), px on the stage; one that is no number counts for nothing
    line : array, shape (2, parts, frames), a point of the line, px
    direction, by : arrays, radians; the weight of the constraint
    """
    up = np.stack([np.sin(direction), -np.cos(direction)])
    height = (points[0] - line[0]) * up[0] + (points[1] - line[1]) * up[1]
    lowest = np.fmin.reduce(height, axis=0, initial=0.0)
    return placed.moved(-by * lowest * up)
