"""Carry: one part after the other takes a part along from where it lies."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from jointed_crane.core.constraints.constraint import Constraint, Given, Goal, changes_field
from jointed_crane.core.constraints.placements import Floats, PlacedParts, part_way
from jointed_crane.core.geometry.bearings import back, bearings_of
from jointed_crane.core.geometry.bearings import product as product_of_bearings
from jointed_crane.core.geometry.fields import (
    Column,
    Matrix,
    applied,
    plus,
    product,
    rotation,
    unstacked,
    unstacked_column,
)
from jointed_crane.core.geometry.plane import shortest


@dataclass(frozen=True)
class Hold:
    """From `frame` on a part is carried by another, by its id, or by none."""

    frame: float
    part: str | None


@dataclass(frozen=True, kw_only=True)
class Carry(Constraint):
    """One part after the other takes the part along, each from where it lies when it is taken.

    With less than its whole weight a share of the turn since then is taken the shortest way: where that passes half a
    turn the part changes sides, as it would for a hand that sees no frame but this one.
    """

    holds: tuple[Hold, ...] = changes_field()
    kind: Literal["carry"] = "carry"

    WITHOUT = "is no longer carried"
    HAS_POINTS = False
    TAKES_ALONG = True

    def every_goal(self) -> tuple[Goal, ...]:
        """Those who carry."""
        return tuple(Goal(part=hold.part) for hold in self.holds if hold.part is not None)

    def with_goals(self, changed: Callable[[Goal], Goal]) -> Carry:
        """Others who carry."""
        parts = (hold.part and changed(Goal(part=hold.part)).part for hold in self.holds)
        return replace(self, holds=tuple(Hold(hold.frame, part) for hold, part in zip(self.holds, parts, strict=True)))

    def unchanged(self) -> Hold:
        return Hold(0.0, None)

    def without(self, is_lost: Callable[[Goal], bool]) -> Carry | None:
        """A part that somebody no longer carries stays where it was put down."""
        if not self.loses(is_lost):
            return self
        left = (hold.part if hold.part and not is_lost(Goal(part=hold.part)) else None for hold in self.holds)
        holds = tuple(replace(hold, part=part) for hold, part in zip(self.holds, left, strict=True))
        return replace(self, holds=holds) if any(hold.part for hold in holds) else None

    def there(self, placed: PlacedParts, given: Given) -> PlacedParts:
        result = [displacement(self._carriers(one, given), given.frame_count) for one in given.constraints]
        linear, shift = (np.stack(each) for each in zip(*result, strict=True))
        by = given.numbers["weight"]
        if given.places is not None:
            return carried_in_space(placed, linear, shift, by)
        return carried(placed, unstacked(linear), unstacked_column(shift), by)

    @staticmethod
    def _carriers(one: Carry, given: Given) -> Iterable[Carrier]:
        for hold in one.holds:
            where = (None, None) if hold.part is None else given.lies(hold.part)
            yield Carrier(given.column(hold.frame), *where)


@dataclass(frozen=True)
class Carrier:
    """Who carries a part from a frame on.

    Attributes
    ----------
    column : the place among the frames at which it takes the part
    linear, origin : arrays, shapes (frames, 3, 3) and (frames, 3), where the carrier lies on the stage; None for none
    """

    column: int
    linear: Floats | None = None
    origin: Floats | None = None


def displacement(carriers: Iterable[Carrier], frame_count: int) -> tuple[Floats, Floats]:
    """What carriers one after the other make of a place on the stage, G(f), linear and shift.

    From F_k on carrier C_k takes along what it finds: G_k(f) = C_k(f) inverse(C_k(F_k)) G_(k-1)(F_k), so that at F_k
    nothing jumps. Without a carrier the part stays where G_(k-1)(F_k) left it. One of no size carries nothing.

    Returns
    -------
    linear, shift : arrays, shapes (frames, 3, 3) and (frames, 3)
    """
    linear, shift = np.broadcast_to(np.eye(3), (frame_count, 3, 3)).copy(), np.zeros((frame_count, 3))
    for carrier in carriers:
        at = carrier.column
        taken, by = linear[at].copy(), shift[at].copy()
        linear[at:], shift[at:] = taken, by
        if carrier.linear is None or carrier.origin is None or not abs(np.linalg.det(carrier.linear[at])) > 0:
            continue
        since = carrier.linear[at:] @ np.linalg.inv(carrier.linear[at])
        linear[at:] = since @ taken
        shift[at:] = since @ (by - carrier.origin[at]) + carrier.origin[at:]
        linear[at], shift[at] = taken, by  # to the last digit
    return linear, shift


def carried(placed: PlacedParts, linear: Matrix, shift: Column, by: Floats) -> PlacedParts:
    """The parts taken along by a share of the way: turned by so much of the turn, and the rest of the change mixed.

    Parameters
    ----------
    linear, shift : what carries them
    by : array, the weight of the constraint
    """
    turn = np.arctan2(linear[1][0], linear[0][0])
    share = by * shortest(turn)
    stretch = product(rotation(2, -turn), linear)
    mixed: Matrix = [[part_way(float(i == j), stretch[i][j], by) for j in range(3)] for i in range(3)]
    return _moved_and_mixed(placed, mixed, linear, shift, by).turned_by(share)


def carried_in_space(placed: PlacedParts, linear: Floats, shift: Floats, by: Floats) -> PlacedParts:
    """The same by a share of a turn in space, the shortest way.

    Parameters
    ----------
    linear, shift : arrays, shapes (parts, frames, 3, 3) and (parts, frames, 3)
    """
    whole = np.moveaxis(linear, (-2, -1), (0, 1))
    turn = bearings_of(whole)
    stretch = product_of_bearings(back(turn), whole)
    mixed: Matrix = [[float(i == j) + by * (stretch[i, j] - float(i == j)) for j in range(3)] for i in range(3)]
    taken = _moved_and_mixed(placed, mixed, unstacked(linear), unstacked_column(shift), by)
    return taken.turned_in_space(turn, by)


def _moved_and_mixed(placed: PlacedParts, mixed: Matrix, linear: Matrix, shift: Column, by: Floats) -> PlacedParts:
    """The parts a share of the way to where they are carried, with what is left of the change beside its turn."""
    there = [plus(*pair) for pair in zip(applied(linear, placed.place), shift, strict=True)]
    place = [part_way(own, other, by) for own, other in zip(placed.place, there, strict=True)]
    return replace(placed, place=place, linear=product(mixed, placed.linear))
