"""Stay above: points do not go through a line."""

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
    goal_field,
    point_field,
    side_field,
)
from jointed_crane.core.constraints.placements import Floats, PlacedParts
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

    WITHOUT = "no longer stays above"
    NUMBERS = (Number("direction", "Direction", unit="deg", mirror=-1, is_on_stage=True),)
    MIRRORS_GOALS = True
    STOPS = True

    ACT = "Stay above the part or mark picked before"

    def art(self, body: Body) -> Sequence[Vector]:
        """The points that stay above."""
        if self.point is not None:
            return (self.point,)
        return [(x, y, 0.0) for ring in body.outline for x, y in ring] or [body.pivot]

    def there(self, placed: PlacedParts, given: Given) -> PlacedParts:
        direction = np.deg2rad(given.numbers["direction"])
        if self.towards is not None:
            direction = angle_of(given.points[1] - given.points[0])
        up = np.stack([np.sin(direction), -np.cos(direction)]) * self.side
        corners = np.stack([placed.carried(corner) for corner in given.art], axis=1)
        for place, one in enumerate(given.constraints):
            shown = given.outline(place) if one.point is None else None
            if shown is not None:
                own = placed.of_rows(slice(place, place + 1))
                corners = _with(corners, place, lowest_points(own, *shown, up[:, min(place, up.shape[1] - 1)]))
        return lifted(placed, corners, given.points[0], up, given.numbers["weight"])


def lowest_points(placed: PlacedParts, corners: Floats, reach: Floats, up: Floats) -> Floats:
    """Where the corners of one part lie on the stage, lowered by how far a round line reaches beyond them: a circle of
    the art is an ellipse there, which reaches as far down as the art's axes lean that way.

    Parameters
    ----------
    corners, reach : arrays, shapes (frames, corners, 2) and (frames,), px in art space
    up : array, shape (2, frames) or (2, 1), of length 1

    Returns
    -------
    points : array, shape (2, corners, frames), px
    """
    points = placed.carried([corners[..., 0].T, corners[..., 1].T, 0.0])
    axes = (placed.along(axis) for axis in ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0)))
    leans = [x * up[0] + y * up[1] for x, y in axes]
    return np.asarray(points - (reach * np.hypot(*leans)) * up[:, None])


def _with(corners: Floats, place: int, points: Floats) -> Floats:
    """Corners of parts, shape (2, corners, parts, frames), with those of one part others."""
    result = np.full(
        (2, max(corners.shape[1], points.shape[1]), corners.shape[2], max(corners.shape[3], points.shape[2])), np.nan
    )
    result[:, : corners.shape[1]] = corners
    result[:, :, place] = np.nan
    result[:, : points.shape[1], place] = points
    return result


def lifted(placed: PlacedParts, points: Floats, line: Floats, up: Floats, by: Floats) -> PlacedParts:
    """The parts lifted until none of their points lies below a line.

    Parameters
    ----------
    points : array, shape (2, points, parts, frames), px on the stage; one that is no number counts for nothing
    line : array, shape (2, parts, frames), a point of the line, px
    up : array, shape (2, parts, frames) or (2, parts, 1), of length 1: seen along the line's direction its left, so
        that above a level line that runs to the right is up on the screen
    by : array, the weight of the constraint
    """
    height = (points[0] - line[0]) * up[0] + (points[1] - line[1]) * up[1]
    lowest = np.fmin.reduce(height, axis=0, initial=0.0)
    return placed.moved(-by * lowest * up)
