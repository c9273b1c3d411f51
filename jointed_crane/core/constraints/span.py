"""Span: a soft piece held between two goals by two points of its art."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from jointed_crane.core.constraints.constraint import (
    ANY,
    Body,
    Constraint,
    Given,
    Goal,
    Number,
    goal_field,
    point_field,
)
from jointed_crane.core.constraints.placements import Floats, PlacedParts
from jointed_crane.core.geometry.aiming import aimed
from jointed_crane.core.geometry.bearings import bearings_of
from jointed_crane.core.geometry.coordinates import Vector
from jointed_crane.core.geometry.fields import Entry, Matrix, product, rotation
from jointed_crane.core.geometry.plane import angle_of, length_of, shortest


@dataclass(frozen=True, kw_only=True)
class Span(Constraint):
    """Two points of the art are held on two goals; what lies between them stretches and squashes, within ranges."""

    first: Goal = goal_field("from", spots=("first end",))
    second: Goal = goal_field("to", spots=("second end",))
    points: tuple[Vector, Vector] = point_field(
        "Held at the first by", "Held at the second by", label="End {number} of {name}"
    )
    kind: Literal["span"] = "span"

    WITHOUT = "is no longer held between its goals"
    MIRRORS_GOALS = True
    NUMBERS = (
        Number("area", "Area kept", 1.0, ends=(0.0, 1.0)),
        Number("shortest", "Shortest", 0.8, ends=(0.0, ANY)),
        Number("longest", "Longest", 1.2, ends=(0.0, ANY)),
        Number("thinnest", "Thinnest", 0.85, ends=(0.0, ANY)),
        Number("thickest", "Thickest", 1.1, ends=(0.0, ANY)),
        Number("yields", "End that yields", 1.0, ends=(0.0, 1.0)),
    )

    ACT = "Span between the two picked before"

    @property
    def heading(self) -> int:
        return 2

    def led(self, frame: float | None) -> tuple[Goal, ...]:
        return self.first, self.second

    def art(self, body: Body) -> Sequence[Vector]:
        return self.points

    def there(self, placed: PlacedParts, given: Given) -> PlacedParts:
        return spanned(placed, given.art, given.places or given.points, given.numbers)


def spanned(
    placed: PlacedParts, points: Sequence[Sequence[Entry]], goals: Sequence[Floats], numbers: Mapping[str, Floats]
) -> PlacedParts:
    """The parts with their first point on the first goal and their second on the second, within their ranges.

    Along the line between the points the part is scaled by k, within "shortest" and "longest"; across it by k to the
    power of minus "area", within "thinnest" and "thickest": where all of the area is kept that is 1 / k, so that what
    is painted keeps its size. Where k meets the end of its range, "yields" says how much of what is missing the second
    goal has to give; 0 leaves it all to the first. In space it turns about the stage's z, and then tips out of the
    stage's plane, as what points does; what lies across is in the plane of the art.

    Parameters
    ----------
    points : two points of three entries, px in art space
    goals : two arrays, shape (2, parts, frames) on the stage or (3, parts, frames) in space, px
    numbers : arrays by name
    """
    first, second = (placed.carried(point, len(goals[0])) for point in points)
    own, wanted = second - first, goals[1] - goals[0]
    length, distance = length_of(own), length_of(wanted)
    weight = numbers["weight"]
    with np.errstate(divide="ignore", invalid="ignore"):
        along = _within(np.where(length > 0, distance / length, 1.0), numbers["shortest"], numbers["longest"])
        across = _within(along ** -numbers["area"], numbers["thinnest"], numbers["thickest"])
    along, across = 1 + weight * (along - 1), 1 + weight * (across - 1)
    turned = (_turned if len(own) == 2 else _turned_in_space)(placed, own, wanted, weight, (along, across))
    with np.errstate(divide="ignore", invalid="ignore"):
        # Where both goals are one the piece lies as it would by itself.
        towards = np.where(distance > 0, wanted / distance, np.where(length > 0, own / length, 0.0))
    missing = towards * (distance - along * length)
    begins = goals[0] + (1 - numbers["yields"]) * missing
    return turned.moved(weight * (begins - turned.carried(points[0], len(own))))


def _turned(
    placed: PlacedParts, own: Floats, wanted: Floats, weight: Floats, sizes: tuple[Floats, Floats]
) -> PlacedParts:
    """The parts scaled along a way of their own and across it, and turned by a share to another, all in the plane of
    the stage.
    """
    along, across = sizes
    direction = angle_of(own)
    has_ways = (length_of(own) > 0) & (length_of(wanted) > 0)
    turn = np.where(has_ways, shortest(angle_of(wanted) - direction), 0.0)
    lying = product(rotation(2, -direction), placed.linear)
    sized: Matrix = [[along * value for value in lying[0]], [across * value for value in lying[1]], lying[2]]
    return replace(placed, linear=product(rotation(2, direction), sized)).turned_by(weight * turn)


def _turned_in_space(
    placed: PlacedParts, own: Floats, wanted: Floats, weight: Floats, sizes: tuple[Floats, Floats]
) -> PlacedParts:
    """The same in space: by I + (k - 1) u u^T + (q - 1) v v^T, where u is the way as a unit, v lies across it in the
    plane of the art.
    """
    with np.errstate(divide="ignore", invalid="ignore"):
        u = np.nan_to_num(own / length_of(own))
        v = np.cross(bearings_of(placed.linear_in_space)[:, 2], u, axis=0)
        v = np.nan_to_num(v / length_of(v))
    ways = [(u, sizes[0] - 1), (v, sizes[1] - 1)]
    sized: Matrix = [
        [float(i == j) + sum(more * way[i] * way[j] for way, more in ways) for j in range(3)] for i in range(3)
    ]
    turn, tipped = aimed(own, wanted, np.zeros(1), weight, 2)
    return replace(placed, linear=product(sized, placed.linear)).aimed_by(turn, tipped)


def _within(values: Floats, least: Floats, most: Floats) -> Floats:
    return np.minimum(np.maximum(values, least), np.maximum(least, most))
