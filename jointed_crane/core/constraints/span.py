"""Span: a soft piece held between two goals by two points of its art."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from jointed_crane.core.constraints.placed import Floats, Placed, angle_of, length_of, rotated, shortest


def spanned(placed: Placed, points: Floats, goals: Floats, numbers: dict[str, Floats]) -> Placed:
    """The parts with their first point on the first goal and their second on the second, within their ranges.

    Along the line between the points the part is scaled by k, within "shortest" and "longest"; across it by k to the
    power of minus "area", within "thinnest" and "thickest": where all of the area is kept that is 1 / k, so that what
    is painted keeps its size. Where k meets the end of its range, "yields" says how much of what is missing the second
    goal has to give; 0 leaves it all to the first.

    Parameters
    ----------
    points : array, shape (2, parts, 3), px in art space
    goals : array, shape (2, parts, frames, 2), px
    numbers : arrays, shape (parts, frames)
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
    lying = rotated(placed.linear, -direction)
    lying[..., 0, :] *= along[..., None]
    lying[..., 1, :] *= across[..., None]
    turned = replace(placed, linear=rotated(lying, direction)).turned_by(weight * turn)
    with np.errstate(divide="ignore", invalid="ignore"):
        missing = wanted * np.where(distance > 0, 1 - along * length / distance, 0.0)[..., None]
    begins = goals[0] + (1 - numbers["yields"])[..., None] * missing
    return turned.moved(weight[..., None] * (begins - turned.carried(points[0])))


def _within(values: Floats, least: Floats, most: Floats) -> Floats:
    return np.minimum(np.maximum(values, least), np.maximum(least, most))
