"""Two bones whose end is to come to a goal. All arrays are over points, vectors with their components first.

Where the second bone turns below a part that keeps angles the law of cosines says all. Below an unevenly scaled part
one angle is left to be found. The end lies at R(d0) w, w = a + M R(d1) b. Bent by an angle t from where M R(d1) b lies
along a, that is

    w = a + cos t x + sin t y

with x along a, and the t at which |w| is the distance of the goal is found on the side that is asked for, first between
two looks, then by steps from there; d0 is then the angle between w and the goal.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.plane import (
    Floats,
    angle_between,
    angle_of,
    applied,
    cosine_and_sine,
    cross,
    dot,
    length_of,
    shortest,
)
from jointed_crane.core.geometry.trigonometric import (
    ANGLES,
    SHARES,
    Places,
    Which,
    between_looks,
    derivative,
    looked,
    rises,
    rising,
    squared_length,
    values,
)

#: a, M, b, the goal seen from the first joint, and the side of the bend.
Bones = tuple[Floats, Floats, Floats, Floats, Floats]

#: What rounding may leave of a distance, as a share of the bones' length.
_LAST_DIGITS = 4e-15
_PLACES = np.arange(SHARES + 1, dtype=np.int8)[:, None]
_LEFT = SHARES + 1 - _PLACES


def two_bones(first: Floats, above: Floats, second: Floats, towards: Floats, bends: Floats) -> Floats:
    """How far two joints turn for their end to come to its goal, or as near as it can, d0 and d1, radians, shape (2,
    points).

    Parameters
    ----------
    first, second : arrays, shape (2, points), a and b
    above : array, shape (2, 2, points), M
    towards : array, shape (2, points), the goal seen from the first joint
    bends : array, shape (points,), 1 where the joint lies clockwise of the line to the goal, else -1
    """
    bones = (first, above, second, towards, bends)
    even = is_even(above)
    if even.all():
        return _even_bones(*bones)
    if not even.any():
        return _uneven_bones(*bones)
    result = np.empty((2, len(even)))
    for at, solve in ((even, _even_bones), (~even, _uneven_bones)):
        result[:, at] = solve(*(of[..., at] for of in bones))
    return result


def asked_half(bones: Bones) -> Floats:
    """The turn of the second joint, radians, from which on it bends to the side asked for, as far as half a turn."""
    first, above, second, _, bends = bones
    way = _way(first, above, second, bends)
    return np.where(way.sense > 0, way.straight, way.straight - np.pi)


def every_bend(
    first: Floats, above: Floats, second: Floats, towards: Floats, bends: Floats
) -> Iterator[tuple[Floats, Which]]:
    """All turns on the side asked for that bring the end to its goal or as far as it comes thereabouts, and the points
    for which they are there: an uneven part leaves up to four.
    """
    way = _way(first, above, second, bends)
    wanted = dot(towards, towards)
    pointing = _pointing(first, above, second, towards, wanted)
    for end in (0.0, np.pi):  # straight and folded
        yield way.turns(np.full(len(wanted), end), pointing), np.ones(len(wanted), dtype=np.bool_)
    off = way.terms.copy()
    off[0] -= wanted
    for terms in (off, derivative(way.terms)):
        for sign in (1.0, -1.0):
            for bend, is_there in rises(sign * terms):
                yield way.turns(bend, pointing), is_there


def is_even(linear: Floats) -> Which:
    """Whether linear parts keep angles, mirrored or not, within what their digits can tell."""
    (a, b), (c, d) = linear
    turned = np.square(a + d) + np.square(b - c)
    mirrored = np.square(a - d) + np.square(b + c)
    return np.asarray(np.minimum(turned, mirrored) <= 5e-27 * np.maximum(turned, mirrored), dtype=np.bool_)


def _even_bones(first: Floats, above: Floats, second: Floats, towards: Floats, bends: Floats) -> Floats:
    """By the law of cosines; M keeps angles.

    Its angles come by the area of the triangle (W. Kahan 1986, from memory), which stay exact where it is nearly flat.
    A goal out of reach leaves the bones straight, or folded, and pointing at it.
    """
    sense = np.where(cross(above[0], above[1]) < 0, -1.0, 1.0)
    second = applied(above, second)
    long, short, away = length_of(first), length_of(second), length_of(towards)
    least, most = np.abs(long - short), long + short
    distance = np.clip(away, least, most)
    direction = np.where(away > 0, angle_of(towards), angle_of(first + second))
    # A goal that lies at either end but for the last digits is there: near the ends those would bend by their root.
    is_folded = (away <= least + _LAST_DIGITS * most) & (away < most)
    is_flat = is_folded | (away >= most - _LAST_DIGITS * most)
    is_shorter = long < short  # folded, the longer bone points at the goal and the shorter one back
    at_first = np.where(is_flat, np.where(is_folded & is_shorter, np.pi, 0.0), _angle(long, distance, short))
    at_goal = np.where(is_flat, np.where(is_folded & ~is_shorter, np.pi, 0.0), _angle(short, distance, long))
    turn = shortest(direction + bends * at_first - angle_of(first))
    of_second = shortest(direction - bends * at_goal - angle_of(second))
    return np.stack([turn, sense * shortest(of_second - turn)])


def _angle(a: Floats, b: Floats, opposite: Floats) -> Floats:
    """The angle between two sides of a triangle, radians."""
    low, high = np.minimum(a, b), np.maximum(a, b)
    least, most = np.minimum(low, opposite), np.maximum(high, opposite)
    middle = np.maximum(low, np.minimum(high, opposite))
    area = (most + (middle + least)) * (least - (most - middle)) * (least + (most - middle)) * (most + (middle - least))
    result: Floats = np.arctan2(np.sqrt(np.maximum(area, 0)), a * a + b * b - opposite * opposite)
    return result


def _uneven_bones(first: Floats, above: Floats, second: Floats, towards: Floats, bends: Floats) -> Floats:
    """By the bend that is found."""
    way = _way(first, above, second, bends)
    wanted = dot(towards, towards)
    return way.turns(_bend_for(way.terms, wanted), _pointing(first, above, second, towards, wanted))


def _pointing(first: Floats, above: Floats, second: Floats, towards: Floats, wanted: Floats) -> Floats:
    """Where ends are to point; any direction will do, as hands turned it, where the goal is at the first joint."""
    if wanted.all():
        return towards
    return np.where(wanted == 0, first + applied(above, second), towards)


@dataclass(frozen=True)
class _Way:
    """Where the end comes as the second joint bends: w = a + cos t x + sin t y.

    Attributes
    ----------
    first, along, across : arrays, shape (2, points), a, x and y
    straight, sense : arrays, the turn of the second joint at which t is 0, radians, and the sense in which t turns it
    terms : array, shape (5, points), |w|^2 as a trigonometric polynomial
    """

    first: Floats
    along: Floats
    across: Floats
    straight: Floats
    sense: Floats
    terms: Floats

    def turns(self, bend: Floats, towards: Floats) -> Floats:
        """How far the two joints turn for a bend that points the end somewhere."""
        cosine, sine = cosine_and_sine(bend)
        end = self.first + cosine * self.along + sine * self.across
        return np.array([angle_between(end, towards), shortest(self.straight + self.sense * bend)])


def _way(first: Floats, above: Floats, second: Floats, bends: Floats) -> _Way:
    x, y = above[:, 0], above[:, 1]
    sense = cross(x, y)
    sign = np.copysign(1.0, sense)
    # Where the second bone points for M to carry it along the first one.
    straight = sign * np.array([cross(first, y), cross(x, first)])
    size = length_of(straight)
    carried = np.abs(sense) * first  # M carries what points straight on to |det M| a
    is_lost = size == 0
    if is_lost.any():
        straight = np.where(is_lost, _farthest(first, x, y), straight)
        size, carried = length_of(straight), np.where(is_lost, applied(above, straight), carried)
    longer, turns = length_of(second) / size, -bends * sign
    along = longer * carried
    across = turns * longer * (straight[0] * y - straight[1] * x)
    terms = squared_length(first, along, across)
    return _Way(first, along, across, angle_between(second, straight), turns, terms)


def _farthest(first: Floats, x: Floats, y: Floats) -> Floats:
    """Where second bones point to come farthest: along first ones, or where those have no say, by the longer axis of
    what M makes of a circle.
    """
    pulled = np.array([dot(x, first), dot(y, first)])
    axis = np.array(cosine_and_sine(np.arctan2(2 * dot(x, y), dot(x, x) - dot(y, y)) / 2))
    return np.where(length_of(pulled) == 0, axis, pulled)


def _bend_for(terms: Floats, wanted: Floats) -> Floats:
    """The bend, radians, at which the end is as far as wanted, squared, below the farthest bend if it can be; else the
    farthest or nearest there is.
    """
    squares = looked(terms)
    most = squares.max(axis=0)
    is_farthest, is_out = squares == most, most <= wanted
    result = np.zeros(len(wanted))
    # Straight bones are as far as they come where any bend brings the end nearer.
    bent = np.flatnonzero(~(is_out & is_farthest[0] & (terms[1] + 2 * terms[3] <= 0)))
    if not len(bent):
        return result
    look, sign, is_met = _looked(squares, wanted, is_farthest, is_out)
    look, sign, is_met = look.take(bent), sign.take(bent), is_met.take(bent)
    own = terms.take(bent, axis=1)
    slope, own[0] = derivative(own), own[0] - wanted.take(bent)
    at = between_looks(sign * np.where(is_met, own, slope), look - ~is_met, look + 1)
    # Beyond a place where the distance turns back folded bones may do better.
    last = np.flatnonzero(~is_met & (look == SHARES))
    if len(last):
        terms_there, folded = own[:, last], np.full(len(last), np.pi)
        gain = sign[last] * (values(terms_there, at[last]) - values(terms_there, folded))
        at[last] = np.where(gain > 0, folded, at[last])
    # What is wanted may lie between two looks after all.
    missed = np.flatnonzero(~is_met & (sign * values(own, at) < 0))
    if len(missed):
        beyond = ANGLES.take((look - sign.astype(np.intp))[missed], mode="clip")
        ends = np.sort([at[missed], beyond], axis=0)
        at[missed] = rising(-own[:, missed], *ends)
    result[bent] = at
    return result


def _looked(squares: Floats, wanted: Floats, is_farthest: Which, is_out: Which) -> tuple[Places, Floats, Which]:
    """Where to seek bends: a look, whether the distance grows (1) or shrinks (-1) there, and whether it is as wanted
    before the next look; where it is not, it is nearest (1) or farthest (-1) about the look.
    """
    is_near, farthest = squares <= wanted, _first(is_farthest)
    after = _first(is_near & (farthest < _PLACES))
    look, sign, is_met = np.where(is_out, farthest, after - 1), np.full(len(is_out), -1.0), ~is_out
    others = np.flatnonzero(is_met & (after > SHARES))
    if len(others):
        before = SHARES - _first((is_near & (farthest > _PLACES))[::-1, others])
        is_met[others] = before >= 0
        look[others] = np.where(before >= 0, before, squares[:, others].argmin(axis=0))
        sign[others] = 1.0
    return look.astype(np.intp), sign, is_met


def _first(seen: Which) -> npt.NDArray[np.int8]:
    """The first look at which something is seen, shape (points,); one more than there are where it is at none."""
    result: npt.NDArray[np.int8] = SHARES + 1 - (seen * _LEFT).max(axis=0)
    return result
