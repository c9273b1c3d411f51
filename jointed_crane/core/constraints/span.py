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

    def led(self, frame: float | None) -> tuple[Goal, ...]:
        return self.first, self.second

    def art(self, body: Body) -> Sequence[Vector]:
        return self.points

    def there(self, placed: PlacedParts, given: Given) -> PlacedParts:
        return spanned(placed, given.art, given.points, given.numbers)


def spanned(
    placed: PlacedParts, points: Sequence[Sequence[Entry]], goals: Sequence[Floats], numbers: Mapping[str, Floats]
) -> PlacedParts:
    """The parts with their first point on the first goal and their second on the second, within their ranges.

    Along the line between the points the part is scaled by k, within "shortest" and "longest"; across it by k to the
    power of minus "area", within "thinnest" and "thickest": where all of the area is kept that is 1 / k, so that what
    is painted keeps its size. Where k meets the end of its range, "yields" says how much of what is missing the second
    goal has to give; 0 leaves it all to the first.

    Parameters
    ----------
    points : two points of three entries, px in art space
    goals : two arrays, shape (2, parts, frames), px
    numbers : arrays by name
    """
    first, second = (placed.carried(point) for point in points)
    own, wanted = second - first, goals[1] - goals[0]
    length, distance = length_of(own), length_of(wanted)
    with np.errstate(divide="ignore", invalid="ignore"):
        along = _within(np.where(length > 0, distance / length, 1.0), numbers["shortest"], numbers["longest"])
        across = _within(along ** -numbers["area"], numbers["thinnest"], numbers["thickest"])
    direction = angle_of(own)
    turn = np.where((length > 0) & (distance > 0), shortest(angle_of(wanted) - direction), 0.0)
    weight = numbers["weight"]
    along, across = 1 + weight * (along - 1), 1 + weight * (across - 1)
    lying = product(rotation(2, -direction), placed.linear)
    sized: Matrix = [[along * value for value in lying[0]], [across * value for value in lying[1]], lying[2]]
    turned = replace(placed, linear=product(rotation(2, direction), sized)).turned_by(weight * turn)
    with np.errstate(divide="ignore", invalid="ignore"):
        # Where both goals are one the piece lies as it would by itself.
        towards = np.where(distance > 0, wanted / distance, np.where(length > 0, own / length, 0.0))
    missing = towards * (distance - along * length)
    begins = goals[0] + (1 - numbers["yields"]) * missing
    return turned.moved(weight * (begins - turned.carried(points[0])))


def _within(values: Floats, least: Floats, most: Floats) -> Floats:
    return np.minimum(np.maximum(values, least), np.maximum(least, most))
