"""Point at: a direction of the part points at a goal, in the plane of the stage or in space."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any, Literal

import numpy as np

from jointed_crane.core.constraints.constraint import Body, Constraint, Given, Goal, Number, goal_field, point_field
from jointed_crane.core.constraints.placements import Floats, PlacedParts, stacked_first
from jointed_crane.core.geometry.aiming import aimed
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.geometry.fields import IDENTITY, Entry, Matrix, applied, product, rotation
from jointed_crane.core.geometry.plane import angle_between, cross, dot, length_of, shortest, turned

#: A lever below this share of what it is measured between is none.
_NO_LEVER = 1e-12
#: More steps than Newton's method takes.
_STEPS = 60
#: What of the art points, by what people say; the sight is that of a camera, which looks along its own -z.
_ALONG: dict[str, Vector] = {
    "x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "front": (0.0, 0.0, 1.0), "sight": (0.0, 0.0, -1.0)
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class PointAt(Constraint):
    """A direction of the part points at a goal: its own x or y, from the pivot to a point of its art, where its front
    faces, or, like a camera, where that looks from behind.

    In space it turns about the stage's z, and then tips out of the stage's plane as far as the goal lies off it. Front
    and sight turn about the stage's y first, so that what stands upright keeps standing upright.
    """

    goal: Goal = goal_field("at", spots=(120.0,))
    along: Literal["x", "y", "front", "sight"] | Vector = point_field(
        "Points by",
        label="What of it points for {name}",
        default="x",
        others={"its x axis": "x", "its y axis": "y", "its front": "front", "its sight": "sight"},
        has_pivot=False,
        deep=("front", "sight"),
        camera="sight",
    )
    kind: Literal["point at"] = "point at"

    WITHOUT = "no longer points"
    NUMBERS = (Number("offset", "Offset", unit="deg", mirror="xy"),)

    MOVES = False
    BACK = MappingProxyType({"turn": ("offset",)})
    ACT = "Point at the part picked before"

    def art(self, body: Body) -> Sequence[Vector]:
        """The direction of the art that points, the pivot that it points from, and what the art spins about."""
        if isinstance(self.along, str):
            return (_ALONG[self.along], body.pivot, body.centre)
        (x, y, z), (of_x, of_y, of_z) = self.along, body.pivot
        return ((x - of_x, y - of_y, z - of_z), body.pivot, body.centre)

    def back(self, aspect: str) -> tuple[str, ...]:
        """What turns about y first is turned about z by its own turn, as a camera is rolled."""
        return () if self.heading == 1 else super().back(aspect)

    def leaves_plane(self) -> bool:
        return self.heading == 1 or super().leaves_plane()

    @property
    def heading(self) -> int:
        """What it turns about before it tips: y for what stands upright, else z."""
        return 1 if self.along in ("front", "sight") else 2

    def manner(self) -> tuple[Any, ...]:
        return (*super().manner(), self.heading)

    def there(self, placed: PlacedParts, given: Given) -> PlacedParts:
        numbers = given.numbers
        own, pivot, centre = given.art
        if given.places is not None:
            arm = placed.lever(pivot, centre, 3) if given.stands else None
            offset, weight = np.deg2rad(numbers["offset"]), numbers["weight"]
            return pointed_in_space(placed, own, arm, given.places[0], offset, weight, self.heading)
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
    return placed.turned_by(_turn(placed, own, lever, goal, offset, by))


def _turn(
    placed: PlacedParts, own: Sequence[Entry], lever: Floats | None, goal: Floats, offset: Floats, by: Floats
) -> Floats:
    """The turns of `pointed`, radians."""
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
    return np.asarray(np.where(has_none, 0.0, turn) if has_none.any() else turn)


def pointed_in_space(
    placed: PlacedParts, own: Sequence[Entry], arm: Floats | None, goal: Floats, offset: Floats, by: Floats, axis: int
) -> PlacedParts:
    """The same in space: turned about an axis of the stage as the goal heads about it, and tipped as it rises towards
    that axis, each by a share. Where nothing rises that is what `pointed` does.

    Parameters
    ----------
    arm : array, shape (3, parts, frames), px, as `lever` above; how the part tips as its pivot comes to where it points
        from, and how it turns about y, is found by going on from each to the next, which does as long as the goal is
        farther away than it
    goal : array, shape (3, parts, frames), px
    axis : 1 for y, 2 for z
    """
    direction, place = stacked_first(applied(placed.art, list(own)), 3), stacked_first(placed.place, 3)
    turn, tipped = aimed(direction, goal - place - (0.0 if arm is None else arm), offset, by, axis)
    if arm is not None:
        for _ in range(_STEPS):
            gone = _gone(arm, turn, tipped, axis)
            found, tipped = aimed(direction, goal - place - gone, offset, by, axis)
            if axis == 2:  # as in the plane, beside what tipping makes of where its pivot comes to
                beside = gone[:2] - _gone(arm, turn, IDENTITY, axis)[:2]
                found = _turn(placed, own, arm[:2], goal[:2] - beside, offset, by)
            turn = found
    return placed.aimed_by(turn, tipped, axis)


def _gone(arm: Floats, turn: Floats, tipped: Matrix, axis: int) -> Floats:
    """Where an arm comes to that is turned about an axis and then tipped, px, shape (3, parts, frames)."""
    return stacked_first(applied(product(tipped, rotation(axis, turn)), list(arm)), 3)


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
