"""Where parts lie while their constraints act on them one after the other.

Everything is over parts and frames, vectors in the plane with their two components first. What turns about z alone
leaves what lies in depth as it is.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.bearings import are_level, back, bearings_of, by_a_share
from jointed_crane.core.geometry.bearings import product as product_of_bearings
from jointed_crane.core.geometry.fields import (
    IDENTITY,
    Column,
    Entry,
    Matrix,
    Rows,
    applied,
    columns_of_rows,
    matrices_of_rows,
    minus,
    of_rows,
    plus,
    product,
    rotation,
    with_rows,
)
from jointed_crane.core.geometry.plane import angle_of, shortest

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class PlacedParts:
    """Parts on the stage. Entries are plain numbers or arrays that stand for the shape (parts, frames).

    Attributes
    ----------
    place : where each pivot lies, px
    linear : A on the stage, about the pivot
    spin : what turns the art about its own centre below that
    tail : and where that puts the art's zero, px
    turned : how far constraints have turned the part about z so far, radians
    rotated : what they have turned it by in all, where that was not about z alone
    """

    place: Column
    linear: Matrix
    spin: Matrix
    tail: Column
    turned: Entry
    rotated: Matrix | None = None

    def of_rows(self, rows: Rows) -> PlacedParts:
        """Some of the parts."""
        return PlacedParts(
            columns_of_rows(self.place, rows),
            matrices_of_rows(self.linear, rows),
            matrices_of_rows(self.spin, rows),
            columns_of_rows(self.tail, rows),
            of_rows(self.turned, rows),
            None if self.rotated is None else matrices_of_rows(self.rotated, rows),
        )

    def with_rows(self, rows: Rows, others: PlacedParts, shape: tuple[int, int]) -> PlacedParts:
        """So many parts over so many frames, some of them placed, sized and turned as others."""
        place = [with_rows(self.place[i], rows, others.place[i], shape) for i in range(3)]
        linear = [[with_rows(self.linear[i][j], rows, others.linear[i][j], shape) for j in range(3)] for i in range(3)]
        rotated = self.rotated
        if others.rotated is not None or rotated is not None:
            own, news = self.rotation, others.rotation
            rotated = [[with_rows(own[i][j], rows, news[i][j], shape) for j in range(3)] for i in range(3)]
        turned = with_rows(self.turned, rows, others.turned, shape)
        return replace(self, place=place, linear=linear, turned=turned, rotated=rotated)

    def moved(self, by: Floats) -> PlacedParts:
        """The parts elsewhere: by px on the stage, shape (2, parts, frames), or in space, (3, parts, frames)."""
        moved = [own + step for own, step in zip(self.place, by, strict=False)]
        return replace(self, place=[*moved, *self.place[len(moved) :]])

    def moved_to(self, points: Floats, by: Floats) -> PlacedParts:
        """The parts with their pivots a share of the way to points, px, shape (3, parts, frames) in space or (2, parts,
        frames) on the stage, where how deep they lie stays.
        """
        moved = [part_way(own, there, by) for own, there in zip(self.place, points, strict=False)]
        return replace(self, place=[*moved, *self.place[len(moved) :]])

    def turned_by(self, angle: Floats) -> PlacedParts:
        """The parts turned about their pivots in the plane of the stage, radians."""
        turn = rotation(2, angle)
        rotated = None if self.rotated is None else product(turn, self.rotated)
        return replace(self, linear=product(turn, self.linear), turned=plus(self.turned, angle), rotated=rotated)

    def aimed_by(self, turn: Floats, tipped: Matrix, axis: int = 2) -> PlacedParts:
        """The parts turned about an axis of the stage, radians, and then tipped (`geometry.aiming`)."""
        if axis == 2:
            return self.turned_by(turn).rotated_by(tipped)
        return self.rotated_by(product(tipped, rotation(axis, turn)))

    def brought_to(self, bearings: Floats, by: Floats) -> PlacedParts:
        """The parts turned by a share of the shortest way to bearings in space, shape (3, 3, parts, frames)."""
        return self.turned_in_space(product_of_bearings(bearings, back(bearings_of(self.linear_in_space))), by)

    def turned_in_space(self, rotations: Floats, by: Floats) -> PlacedParts:
        """The parts turned by a share of rotations, shape (3, 3, parts, frames), the shortest way; what turns about z
        alone counts its turns.
        """
        heading = shortest(angle_of(rotations[:, 0])) * by
        level, flat = are_level(rotations), rotation(2, heading)
        whole = by_a_share(rotations, by)
        turn: Matrix = [[np.where(level, flat[i][j], whole[i, j]) for j in range(3)] for i in range(3)]
        after = self.rotated_by(turn)
        return replace(after, turned=plus(self.turned, np.where(level, heading, 0.0)))

    @property
    def linear_in_space(self) -> Floats:
        """What carries the art to the stage, shape (3, 3, parts, frames)."""
        entries = np.broadcast_arrays(*(value for row in self.art for value in row), np.zeros((1, 1)))[:-1]
        return np.stack(entries).reshape(3, 3, *entries[0].shape)

    def rotated_by(self, turn: Matrix) -> PlacedParts:
        """The parts turned about their pivots by rotations in space."""
        return replace(self, linear=product(turn, self.linear), rotated=product(turn, self.rotation))

    def scaled(self, x: Floats, y: Floats) -> PlacedParts:
        """The parts scaled along the axes of their art about their pivots."""
        art: Matrix = [[row[0] * x, row[1] * y, row[2]] for row in self.art]
        if self.spin is not IDENTITY:
            art = product(art, [list(column) for column in zip(*self.spin, strict=True)])
        return replace(self, linear=art)

    @property
    def rotation(self) -> Matrix:
        """What constraints have turned the parts by so far."""
        return rotation(2, np.asarray(self.turned)) if self.rotated is None else self.rotated

    @cached_property
    def stands_at(self) -> Floats:
        """Where each pivot, or what else a part stands on, lies in the plane, px, shape (2, parts, frames)."""
        return stacked_first(self.place, 2)

    @cached_property
    def art(self) -> Matrix:
        """The linear parts that carry the art to the stage."""
        return product(self.linear, self.spin)

    @cached_property
    def origin(self) -> Column:
        """Where the art's zero lies, px."""
        return [plus(*pair) for pair in zip(self.place, applied(self.linear, self.tail), strict=True)]

    @property
    def heading(self) -> Floats:
        """The direction of the art's own x on the stage, radians; 0 for one without length."""
        return np.arctan2(self.art[1][0], self.art[0][0])

    @property
    def sizes(self) -> tuple[Floats, Floats]:
        """How long a pixel of the art is in space along its own x and y."""
        (a, c, _), (b, d, _), (e, f, _) = self.art
        return np.sqrt(plus(a * a + b * b, _squared(e))), np.sqrt(plus(c * c + d * d, _squared(f)))

    def along(self, direction: Sequence[Entry], size: int = 2) -> Column:
        """A direction of the art, three entries, as it lies on the stage, px, x and y, or in space."""
        return applied(self.art, list(direction))[:size]

    def carried(self, point: Sequence[Entry], size: int = 2) -> Floats:
        """Where a point of the art, three entries, lies on the stage or, with a `size` of 3, in space, px, shape (size,
        parts, frames).
        """
        about = applied(self.art, list(point))
        return stacked_first([plus(*pair) for pair in zip(self.origin, about, strict=True)], size)

    def lever(self, pivot: Sequence[Entry], centre: Sequence[Entry], size: int = 2) -> Floats:
        """From what each part stands on to its pivot, px on the stage, shape (size, parts, frames): A (p - p_k),
        whatever its art, which spins about its centre, shows there; p - p_k = tail + R(spin) c + p - c.
        """
        spun = applied(self.spin, list(centre))
        beside = [plus(minus(turned, at), own) for turned, at, own in zip(spun, centre, pivot, strict=True)]
        return stacked_first(applied(self.linear, [plus(*pair) for pair in zip(self.tail, beside, strict=True)]), size)


def _squared(value: Entry) -> Entry:
    return value if isinstance(value, float) and value == 0.0 else value * value


def part_way(own: Entry, other: Entry, by: Floats) -> Entry:
    """A share of the way from one value to another; the whole of it ends right there."""
    if (isinstance(other, float) and other == own) or (by == 1).all():
        return other
    return own + by * (other - own)


def stacked_first(column: Column, size: int) -> Floats:
    """The first entries of a column as one array, shape (size, parts, frames), or (size, 1, 1) where none differ."""
    *entries, _ = np.broadcast_arrays(*column[:size], np.zeros((1, 1)))
    return np.stack(entries)
