"""Two bones whose joints turn within ranges: where the bend that is asked for lies beyond them, the nearest there is.

The end lies at R(d0) (a + M R(d1) b), as in `two_bones`. Within a box of turns it is nearest to its goal either inside,
where the ranges have no say, or at an edge: with the second joint at an end the first points the end at the goal, with
the first at an end the end runs along an ellipse, of which the nearest points are sought. What is nearest is said by
the stage: what the first joint hangs on may make it uneven, and then "points at the goal" is an ellipse as well.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from jointed_crane.core.constraints.reaching.nearest_on_stage import nearest_turns
from jointed_crane.core.constraints.reaching.two_bones import Bones, asked_half, every_bend, is_even, two_bones
from jointed_crane.core.geometry.plane import Floats, angle_of, applied, length_of, product, shortest, turned
from jointed_crane.core.geometry.trigonometric import Places, Which

#: Turns beyond a range by so little are at its end, radians.
_NEAR = 1e-12


def ranged_bones(bones: Bones, low: Floats, high: Floats, seen: Floats | None = None) -> Floats:
    """How far the two joints turn within ranges for the end to be as near its goal as they let it, radians, shape (2,
    points). They bend to the side asked for wherever their ranges leave any of that.

    Parameters
    ----------
    bones : a, M, b, the goal seen from the first joint, and the side of the bend, as `two_bones` takes them
    low, high : arrays, shape (2, points), radians; 0 lies within
    seen : array, shape (2, 2, points), what makes the stage uneven, about as large as 1; None where it is even
    """
    half = asked_half(bones)
    best, least = np.zeros(low.shape), np.full(low.shape[1], np.inf)

    def look(at: Places, least_second: Floats, most_second: Floats, both_sides: bool) -> None:
        """Take the best turns of some points, the second joint's between other ends, where they are better."""
        some = (bones[0][:, at], bones[1][:, :, at], bones[2][:, at], bones[3][:, at], bones[4][at])
        sides = (some[4], -some[4]) if both_sides else (some[4],)
        lowest, highest = np.stack([low[0], least_second])[:, at], np.stack([high[0], most_second])[:, at]
        turns, miss = _nearest_in(some, lowest, highest, sides, None if seen is None else seen[:, :, at])
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


def _nearest_in(
    bones: Bones, low: Floats, high: Floats, sides: tuple[Floats, ...], seen: Floats | None
) -> tuple[Floats, Floats]:
    """The turns in a box that bring the end nearest, and how far from its goal it is then, px."""
    first, above, second, towards, _ = bones
    best = np.minimum(np.maximum(np.zeros(low.shape), low), high)
    least = _miss(bones, best, seen)
    worth = 1e-9 * (length_of(first) + length_of(applied(above, second)))  # what is nearer by less is no nearer

    def offer(turns: Floats, is_there: Which) -> None:
        """Take turns where they bring the end nearer."""
        miss = np.where(is_there, _miss(bones, turns, seen), np.inf)
        is_nearer = miss < least - worth
        best[:, is_nearer], least[is_nearer] = turns[:, is_nearer], miss[is_nearer]

    every = np.ones(low.shape[1], dtype=np.bool_)
    for side in sides:
        asked = (first, above, second, towards, side)
        others = () if is_even(above).all() else every_bend(*asked)
        for result, counts in ((two_bones(*asked), every), *others):
            turns, is_there = within(result, low, high)
            offer(turns, counts & is_there[0] & is_there[1])
            if seen is not None:
                for heading, points in _headings(bones, result[1], seen):
                    turns, is_there = within(np.stack([heading, result[1]]), low, high)
                    offer(turns, counts & points & is_there[0] & is_there[1])
    for turns, counts in _edges(bones, low, high, seen):
        offer(turns, counts)
    return best, least


def _edges(bones: Bones, low: Floats, high: Floats, seen: Floats | None) -> Iterator[tuple[Floats, Which]]:
    """The best turns at each edge of the ranges, and where there is such an edge."""
    for ends in (low, high):
        has_end = np.isfinite(ends)
        of_second = np.where(has_end[1], ends[1], 0.0)
        for heading, points in _headings(bones, of_second, seen):
            pointing, is_there = within(heading, low[0], high[0])
            yield np.stack([pointing, of_second]), has_end[1] & points & is_there
        for of_first, counts in ((low[0], np.isfinite(low[0])), (high[0], np.isfinite(high[0]))):
            yield np.stack([np.where(counts, of_first, 0.0), of_second]), has_end[1] & counts
        of_first = np.where(has_end[0], ends[0], 0.0)
        for turn, counts in _nearest(bones, of_first, seen):
            of_second, is_there = within(turn, low[1], high[1])
            yield np.stack([of_first, of_second]), has_end[0] & counts & is_there


def _headings(bones: Bones, of_second: Floats, seen: Floats | None) -> Iterator[tuple[Floats, Which]]:
    """The first joint's turns that bring the end nearest with the second one's known, and where there are such."""
    first, above, second, towards, _ = bones
    end = first + applied(above, turned(second, of_second))
    if seen is None:
        yield angle_of(towards) - angle_of(end), np.ones(len(of_second), dtype=np.bool_)
    else:
        yield from nearest_turns(seen, end, applied(seen, towards))


def _nearest(bones: Bones, of_first: Floats, seen: Floats | None) -> Iterator[tuple[Floats, Which]]:
    """The second joint's turns at which the end is nearer than just beside with the first one's known, and where there
    are such: |p + cos d1 x + sin d1 y| is least, with p from the goal to the end of the first bone.
    """
    first, above, second, towards, _ = bones
    gap = first - turned(towards, -of_first)
    if seen is not None:
        shown = product(seen, turned(np.eye(2)[..., None], of_first))
        gap, above = applied(shown, gap), product(shown, above)
    yield from nearest_turns(above, second, -gap)


def within(turns: Floats, low: Floats, high: Floats) -> tuple[Floats, Which]:
    """Turns by whole turns less or more so that they lie in their ranges, or as near them as they come, and whether
    they do.
    """
    result = shortest(turns)
    away = _beyond(result, low, high)
    for more in (2 * np.pi, -2 * np.pi):
        other = shortest(turns) + more
        beyond = _beyond(other, low, high)
        is_nearer = beyond < away - _NEAR
        result, away = np.where(is_nearer, other, result), np.where(is_nearer, beyond, away)
    return np.clip(result, low, high), away <= _NEAR


def _beyond(turns: Floats, low: Floats, high: Floats) -> Floats:
    return np.asarray(np.maximum(np.maximum(low - turns, turns - high), 0.0))


def _miss(bones: Bones, turns: Floats, seen: Floats | None) -> Floats:
    """How far the end is from its goal, px."""
    first, above, second, towards, _ = bones
    off = turned(first + applied(above, turned(second, turns[1])), turns[0]) - towards
    return length_of(off if seen is None else applied(seen, off))
