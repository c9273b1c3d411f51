"""Two bones whose joints turn within ranges: where the bend that is asked for lies beyond them, the nearest there is.

The end lies at R(d0) (a + M R(d1) b), as in `two_bones`. Within a box of turns it is nearest to its goal either inside,
where the ranges have no say, or at an edge: with the second joint at an end the first points the end at the goal, with
the first at an end the end runs along an ellipse, of which the nearest points are sought.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from jointed_crane.core.constraints.reaching.two_bones import Bones, asked_half, every_bend, is_even, two_bones
from jointed_crane.core.geometry.plane import Floats, angle_of, applied, length_of, shortest, square_to, turned
from jointed_crane.core.geometry.trigonometric import Places, Which, derivative, rises, squared_length

#: Turns beyond a range by so little are at its end, radians.
_NEAR = 1e-12


def ranged_bones(bones: Bones, low: Floats, high: Floats) -> Floats:
    """How far the two joints turn within ranges for the end to be as near its goal as they let it, radians, shape (2,
    points). They bend to the side asked for wherever their ranges leave any of that.

    Parameters
    ----------
    bones : a, M, b, the goal seen from the first joint, and the side of the bend, as `two_bones` takes them
    low, high : arrays, shape (2, points), radians; 0 lies within
    """
    half = asked_half(bones)
    best, least = np.zeros(low.shape), np.full(low.shape[1], np.inf)

    def look(at: Places, least_second: Floats, most_second: Floats, both_sides: bool) -> None:
        """Take the best turns of some points, the second joint's between other ends, where they are better."""
        some = (bones[0][:, at], bones[1][:, :, at], bones[2][:, at], bones[3][:, at], bones[4][at])
        sides = (some[4], -some[4]) if both_sides else (some[4],)
        lowest, highest = np.stack([low[0], least_second])[:, at], np.stack([high[0], most_second])[:, at]
        turns, miss = _nearest_in(some, lowest, highest, sides)
        is_nearer = miss < least[at]
        best[:, at[is_nearer]], least[at[is_nearer]] = turns[:, is_nearer], miss[is_nearer]

    for more in (0.0, 2 * np.pi, -2 * np.pi):
        own, ends = np.maximum(low[1], half + more), np.minimum(high[1], half + more + np.pi)
        at = np.flatnonzero(ends - own > _NEAR)
        if len(at):
            look(at, own, ends, both_sides=False)
    left = np.flatnonzero(np.isinf(least))
    if len(left):
        look(left, low[1], high[1], both_sides=True)
    return best


def _nearest_in(bones: Bones, low: Floats, high: Floats, sides: tuple[Floats, ...]) -> tuple[Floats, Floats]:
    """The turns in a box that bring the end nearest, and how far from its goal it is then, px."""
    first, above, second, towards, _ = bones
    best = np.minimum(np.maximum(np.zeros(low.shape), low), high)
    least = _miss(bones, best)
    worth = 1e-9 * (length_of(first) + length_of(applied(above, second)))  # what is nearer by less is no nearer

    def offer(turns: Floats, is_there: Which) -> None:
        """Take turns where they bring the end nearer."""
        miss = np.where(is_there, _miss(bones, turns), np.inf)
        is_nearer = miss < least - worth
        best[:, is_nearer], least[is_nearer] = turns[:, is_nearer], miss[is_nearer]

    every = np.ones(low.shape[1], dtype=np.bool_)
    for side in sides:
        asked = (first, above, second, towards, side)
        others = () if is_even(above).all() else every_bend(*asked)
        for turns, counts in ((two_bones(*asked), every), *others):
            turns, is_there = _within(turns, low, high)
            offer(turns, counts & is_there[0] & is_there[1])
    for turns, counts in _edges(bones, low, high):
        offer(turns, counts)
    return best, least


def _edges(bones: Bones, low: Floats, high: Floats) -> Iterator[tuple[Floats, Which]]:
    """The best turns at each edge of the ranges, and where there is such an edge."""
    first, above, second, towards, _ = bones
    for ends in (low, high):
        has_end = np.isfinite(ends)
        of_second = np.where(has_end[1], ends[1], 0.0)
        heading = angle_of(towards) - angle_of(first + applied(above, turned(second, of_second)))
        pointing, is_there = _within(heading, low[0], high[0])
        for of_first, counts in ((pointing, is_there), (low[0], np.isfinite(low[0])), (high[0], np.isfinite(high[0]))):
            yield np.stack([np.where(counts, of_first, 0.0), of_second]), has_end[1] & counts
        of_first = np.where(has_end[0], ends[0], 0.0)
        for turn, counts in _nearest(bones, of_first):
            of_second, is_there = _within(turn, low[1], high[1])
            yield np.stack([of_first, of_second]), has_end[0] & counts & is_there


def _nearest(bones: Bones, of_first: Floats) -> Iterator[tuple[Floats, Which]]:
    """The second joint's turns at which the end is nearer than just beside with the first one's known, and where there
    are such: |p + cos d1 x + sin d1 y| is least, with p from the goal to the end of the first bone.
    """
    first, above, second, towards, _ = bones
    gap = first - turned(towards, -of_first)
    along, across = applied(above, second), applied(above, square_to(second))
    for begin, sign in ((0.0, 1.0), (np.pi, -1.0)):
        for turn, is_there in rises(derivative(squared_length(gap, sign * along, sign * across))):
            yield begin + turn, is_there


def _within(turns: Floats, low: Floats, high: Floats) -> tuple[Floats, Which]:
    """Turns by whole turns less or more so that they lie in their ranges, and whether any does."""
    found = shortest(turns)
    is_there = (found >= low - _NEAR) & (found <= high + _NEAR)
    for more in (2 * np.pi, -2 * np.pi):
        other = shortest(turns) + more
        fits = ~is_there & (other >= low - _NEAR) & (other <= high + _NEAR)
        found, is_there = np.where(fits, other, found), is_there | fits
    return np.clip(found, low, high), is_there


def _miss(bones: Bones, turns: Floats) -> Floats:
    """How far the end is from its goal, px."""
    first, above, second, towards, _ = bones
    return length_of(turned(first + applied(above, turned(second, turns[1])), turns[0]) - towards)
