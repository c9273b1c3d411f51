"""Span: a soft piece held between two goals by two points of its art."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from jointed_crane.core.constraints.placed_parts import Floats, Placed
from jointed_crane.core.geometry.fields import Entry, Matrix, product, rotation
from jointed_crane.core.geometry.plane import angle_of, length_of, shortest


def spanned(
    placed: Placed, points: Sequence[Sequence[Entry]], goals: Sequence[Floats], numbers: dict[str, Floats]
) -> Placed:
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
    can_span = (length > 0) & (distance > 0)
    with np.errstate(divide="ignore", invalid="ignore"):
        along = _within(np.where(can_span, distance / length, 1.0), numbers["shortest"], numbers["longest"])
        across = _within(np.where(along > 0, along ** -numbers["area"], 1.0), numbers["thinnest"], numbers["thickest"])
    direction = angle_of(own)
    turn = np.where(can_span, shortest(angle_of(wanted) - direction), 0.0)
    weight = numbers["weight"]
    along, across = 1 + weight * (along - 1), 1 + weight * (across - 1)
    lying = product(rotation(2, -direction), placed.linear)
    sized: Matrix = [[along * value for value in lying[0]], [across * value for value in lying[1]], lying[2]]
    turned = replace(placed, linear=product(rotation(2, direction), sized)).turned_by(weight * turn)
    with np.errstate(divide="ignore", invalid="ignore"):
        missing = wanted * np.where(distance > 0, 1 - along * length / distance, 0.0)
    begins = goals[0] + (1 - numbers["yields"]) * missing
    return turned.moved(weight * (begins - turned.carried(points[0])))


def _within(values: Floats, least: Floats, most: Floats) -> Floats:
    return np.minimum(np.maximum(values, least), np.maximum(least, most))
