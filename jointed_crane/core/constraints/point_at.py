"""Point at: a direction of the part points at a goal."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Literal

import numpy as np

from jointed_crane.core.constraints.constraint import Body, Constraint, Given, Goal, Number, goal_field, point_field
from jointed_crane.core.constraints.placed_parts import Floats, PlacedParts
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.geometry.fields import Entry
from jointed_crane.core.geometry.plane import shortest


@dataclass(frozen=True, kw_only=True)
class PointAt(Constraint):
    """A direction of the part points at a goal: its own x or y, or from the pivot to a point of its art."""

    goal: Goal = goal_field("at", spots=(120.0,))
    along: Literal["x", "y"] | Vector = point_field(
        "Points by",
        label="What of it points for {name}",
        default="x",
        others={"its x axis": "x", "its y axis": "y"},
        has_pivot=False,
    )
    kind: Literal["point at"] = "point at"

    NUMBERS = (Number("offset", "Offset", unit="deg", mirror=-1),)

    MOVES = False
    BACK = MappingProxyType({"turn": ("offset",)})
    ACT = "Point at the part picked before"

    def art(self, body: Body) -> Sequence[Vector]:
        """The direction of the art that points."""
        if isinstance(self.along, str):
            return ((1.0, 0.0, 0.0),) if self.along == "x" else ((0.0, 1.0, 0.0),)
        (x, y, z), (of_x, of_y, of_z) = self.along, body.pivot
        return ((x - of_x, y - of_y, z - of_z),)

    def there(self, placed: PlacedParts, given: Given) -> PlacedParts:
        numbers = given.numbers
        return pointed(placed, given.art[0], given.points[0], np.deg2rad(numbers["offset"]), numbers["weight"])


def pointed(placed: PlacedParts, own: Sequence[Entry], goal: Floats, offset: Floats, by: Floats) -> PlacedParts:
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
