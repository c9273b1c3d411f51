"""Point at: a direction of the part points at a goal."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Literal

import numpy as np

from jointed_crane.core.constraints.constraint import Body, Constraint, Given, Goal, Number, goal_field, point_field
from jointed_crane.core.constraints.placements import Floats, PlacedParts
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.geometry.fields import Entry
from jointed_crane.core.geometry.plane import angle_between, cross, dot, length_of, shortest, turned

#: A lever below this share of what it is measured between is none.
_NO_LEVER = 1e-12
#: More steps than Newton's method takes.
_STEPS = 60


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

    WITHOUT = "no longer points"
    NUMBERS = (Number("offset", "Offset", unit="deg", mirror=-1),)

    MOVES = False
    BACK = MappingProxyType({"turn": ("offset",)})
    ACT = "Point at the part picked before"

    def art(self, body: Body) -> Sequence[Vector]:
        """The direction of the art that points, the pivot that it points from, and what the art spins about."""
        if isinstance(self.along, str):
            return ((1.0, 0.0, 0.0) if self.along == "x" else (0.0, 1.0, 0.0), body.pivot, body.centre)
        (x, y, z), (of_x, of_y, of_z) = self.along, body.pivot
        return ((x - of_x, y - of_y, z - of_z), body.pivot, body.centre)

    def there(self, placed: PlacedParts, given: Given) -> PlacedParts:
        numbers = given.numbers
        own, pivot, centre = given.art
        lever = placed.lever(pivot, centre) if given.stands else None
        return pointed(placed, own, lever, given.points[0], np.deg2rad(numbers["offset"]), numbers["weight"])


def pointed(
    placed: PlacedParts, own: Sequence[Entry], lever: Floats | None, goal: Floats, offset: Floats, by: Floats
) -> PlacedParts:
    """The parts turned about what they stand on so that a direction of their own, from their pivot, points at a goal;
    one without length gives no direction and turns nothing.

    The pivot goes round with the part that stands on another point. So the turn is that by which it lies when it has
    gone there: turn = by * (direction of (goal - R(turn) lever) - direction of own + offset). Whatever point the part
    stands on, the same pose fulfils it, so nothing jumps when another one takes over.

    Parameters
    ----------
    own : three entries, the direction in art space
    lever : array, shape (2, parts, frames), px on the stage from what the part stands on to its pivot; None where all
        stand on their pivots
    goal : array, shape (2, parts, frames), px
    offset, by : arrays, radians beyond the goal's direction; the weight of the constraint
    """
    x, y = placed.along(own)
    to_x, to_y = goal[0] - placed.place[0], goal[1] - placed.place[1]
    across, along = x * to_y - y * to_x, x * to_x + y * to_y
    turn = by * shortest(np.arctan2(across, along) + offset)
    has_none = (across == 0) & (along == 0)
    if lever is not None:
        to_goal, size = goal - placed.stands_at, np.hypot(x, y)
        is_elsewhere = length_of(lever) > _NO_LEVER * (length_of(to_goal) + length_of(placed.stands_at))
        own_on_stage = np.stack(np.broadcast_arrays(x, y))
        turn = np.where(is_elsewhere, _about_another_point(own_on_stage, lever, to_goal, offset, by), turn)
        has_none &= ~(is_elsewhere & (size > 0))
    return placed.turned_by(np.where(has_none, 0.0, turn) if has_none.any() else turn)


def _about_another_point(own: Floats, lever: Floats, to_goal: Floats, offset: Floats, by: Floats) -> Floats:
    """The turns of parts that stand on another point than their pivot, radians.

    With the whole weight the line through the pivot passes what the part stands on at a distance h that no turn
    changes: its direction lies asin(h / |goal|) beside the goal's. From there Newton's method finds what a share of it
    comes to. Goals nearer than that point may be pointed at in two ways; the way forward from it is taken.
    """
    aimed = turned(own, -offset)
    with np.errstate(divide="ignore", invalid="ignore"):
        beside = np.arcsin(np.clip(np.nan_to_num(cross(aimed, lever) / (length_of(own) * length_of(to_goal))), -1, 1))
    whole = shortest(angle_between(own, to_goal) + offset - beside)
    turn = by * whole
    if (by == 1).all():
        return np.asarray(turn)
    for _ in range(_STEPS):
        gone = turned(lever, turn)
        sight = to_goal - gone
        off = turn - by * (whole + shortest(angle_between(own, sight) + offset - whole))
        with np.errstate(divide="ignore", invalid="ignore"):
            slope = 1 + np.nan_to_num(by * dot(sight, gone) / dot(sight, sight))
        turn = turn - np.clip(off / np.maximum(slope, 0.2), -0.5, 0.5)
        if (np.abs(off) < 1e-13).all():
            break
    return np.asarray(turn)
