"""Stay above: points do not go through a line, or through a plane in space."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from jointed_crane.core.constraints.constraint import (
    Body,
    Constraint,
    Given,
    Goal,
    Number,
    choice_field,
    goal_field,
    point_field,
    side_field,
)
from jointed_crane.core.constraints.placements import Floats, PlacedParts
from jointed_crane.core.geometry.bearings import bearings_of
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.geometry.plane import angle_of


@dataclass(frozen=True, kw_only=True)
class StayAbove(Constraint):
    """A point of the art, or its whole outline, does not go through a line, or the plane of what has the line's point.

    Attributes
    ----------
    line : a point of the line
    towards : a second point; without one the direction is a number, degrees on the stage
    point : px in art space; None is the whole outline
    side : 1 is above where the line runs to the right on the screen, or on the face of what has the plane, -1 below it
    plane : whether it is not the line, but the plane in which the picture of what has its point lies
    """

    line: Goal = goal_field("line", spots=("lowest",))
    towards: Goal | None = goal_field("towards", default=None)
    point: Vector | None = point_field(
        "Keeps above", label="What {name} keeps above", default=None, others={"its whole outline": None}
    )
    side: Literal[-1, 1] = side_field("Other side")
    plane: bool = choice_field("the plane it lies in", False, is_deep=True)
    kind: Literal["stay above"] = "stay above"

    WITHOUT = "no longer stays above"
    NUMBERS = (Number("direction", "Direction", unit="deg", mirror="xy", is_on_stage=True),)
    MIRRORS_GOALS = True
    STOPS = True

    ACT = "Stay above the part or mark picked before"

    def art(self, body: Body) -> Sequence[Vector]:
        """The points that stay above."""
        if self.point is not None:
            return (self.point,)
        return [(x, y, 0.0) for ring in body.outline for x, y in ring] or [body.pivot]

    @property
    def heading(self) -> int | None:
        return None if self.plane else 2

    def mirrored(self) -> StayAbove:
        return self if self.plane else super().mirrored()  # a mirrored picture shows its face on the same side

    def there(self, placed: PlacedParts, given: Given) -> PlacedParts:
        up, line = self._up(given), given.points[0]
        if self.plane:
            if given.places is None:
                return placed
            line = given.places[0]
        corners = np.stack([placed.carried(corner, len(up)) for corner in given.art], axis=1)
        for place, one in enumerate(given.constraints):
            shown = given.outline(place) if one.point is None else None
            if shown is not None:
                own = placed.of_rows(slice(place, place + 1))
                above = up[:, min(place, up.shape[1] - 1)]
                corners = _with(corners, place, lowest_points(own, *shown, above))
        return lifted(placed, corners, line, up, given.numbers["weight"])

    def _up(self, given: Given) -> Floats:
        """Which way is above, of length 1, shape (2, parts, frames) on the stage or (3, parts, frames) in space."""
        if self.plane and given.places is not None:
            return bearings_of(given.linears(0))[:, 2] * self.side
        direction = np.deg2rad(given.numbers["direction"])
        if self.towards is not None:
            direction = angle_of(given.points[1] - given.points[0])
        return np.stack([np.sin(direction), -np.cos(direction)]) * self.side


def lowest_points(placed: PlacedParts, corners: Floats, reach: Floats, up: Floats) -> Floats:
    """Where the corners of one part lie, lowered by how far a round line reaches beyond them: a circle of the art is an
    ellipse there, which reaches as far down as the art's axes lean that way.

    Parameters
    ----------
    corners, reach : arrays, shapes (frames, corners, 2) and (frames,), px in art space
    up : array, shape (size, frames) or (size, 1), of length 1; a size of 2 is the stage, one of 3 is space

    Returns
    -------
    points : array, shape (size, corners, frames), px
    """
    points = placed.carried([corners[..., 0].T, corners[..., 1].T, 0.0], len(up))
    axes = (placed.along(axis, len(up)) for axis in ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0)))
    leans = [sum(own * way for own, way in zip(axis, up, strict=True)) for axis in axes]
    return np.asarray(points - (reach * np.hypot(*leans)) * up[:, None])


def _with(corners: Floats, place: int, points: Floats) -> Floats:
    """Corners of parts, shape (size, corners, parts, frames), with those of one part others."""
    counts = max(corners.shape[1], points.shape[1]), corners.shape[2], max(corners.shape[3], points.shape[2])
    result = np.full((len(corners), *counts), np.nan)
    result[:, : corners.shape[1]] = corners
    result[:, :, place] = np.nan
    result[:, : points.shape[1], place] = points
    return result


def lifted(placed: PlacedParts, points: Floats, line: Floats, up: Floats, by: Floats) -> PlacedParts:
    """The parts lifted until none of their points lies below a line on the stage, or a plane in space.

    Parameters
    ----------
    points : array, shape (size, points, parts, frames), px; one that is no number counts for nothing
    line : array, shape (size, parts, frames), a point of the line or the plane, px
    up : array, shape (size, parts, frames) or (size, parts, 1), of length 1: of a line its left, seen along its
        direction, so that above a level line that runs to the right is up on the screen
    by : array, the weight of the constraint
    """
    height = sum((points[axis] - line[axis]) * up[axis] for axis in range(len(up)))
    lowest = np.fmin.reduce(np.asarray(height), axis=0, initial=0.0)
    return placed.moved(-by * lowest * up)
