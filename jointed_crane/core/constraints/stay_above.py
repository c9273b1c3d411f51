"""Stay above: points do not go through a line."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from jointed_crane.core.constraints.constraint import (
    Body,
    Constraint,
    Given,
    Goal,
    Number,
    goal_field,
    point_field,
    side_field,
)
from jointed_crane.core.constraints.placed_parts import Floats, PlacedParts
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.geometry.plane import angle_of


@dataclass(frozen=True, kw_only=True)
class StayAbove(Constraint):
    """A point of the art, or its whole outline, does not go through a line.

    Attributes
    ----------
    line : a point of the line
    towards : a second point; without one the direction is a number, degrees on the stage
    point : px in art space; None is the whole outline
    side : 1 is above where the line runs to the right on the screen, -1 below it
    """

    line: Goal = goal_field("line", spots=("lowest",))
    towards: Goal | None = goal_field("towards", default=None)
    point: Vector | None = point_field(
        "Keeps above", label="What {name} keeps above", default=None, others={"its whole outline": None}
    )
    side: Literal[-1, 1] = side_field("Other side")
    kind: Literal["stay above"] = "stay above"

    NUMBERS = (Number("direction", "Direction", unit="deg"),)

    ACT = "Stay above the part or mark picked before"

    def art(self, body: Body) -> Sequence[Vector]:
        """The points that stay above."""
        if self.point is not None:
            return (self.point,)
        return [(x, y, 0.0) for ring in body.outline for x, y in ring] or [body.pivot]

    def mirrored(self, copied: Collection[str]) -> StayAbove:
        """On the other side of a line that was mirrored too."""
        return replace(self, side=-self.side) if self.line.part in copied else self

    def there(self, placed: PlacedParts, given: Given) -> PlacedParts:
        direction = np.deg2rad(given.numbers["direction"])
        if self.towards is not None:
            direction = angle_of(given.points[1] - given.points[0])
        corners = np.stack([placed.carried(corner) for corner in given.art], axis=1)
        up = direction if self.side > 0 else direction + np.pi
        return lifted(placed, corners, given.points[0], up, given.numbers["weight"])


def lifted(placed: PlacedParts, points: Floats, line: Floats, direction: Floats, by: Floats) -> PlacedParts:
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
