"""Two bones whose end is to come to a goal. All arrays are over points, vectors with their components first.

Where the second bone turns below a part that keeps angles the law of cosines says all. Below an unevenly scaled part
one angle is left to be found. The end lies at R(d0) w, w = a + M R(d1) b. Bent by an angle t from where M R(d1) b lies
along a, that is

    w = (1 + k cos t) a + sin t y,   |w|^2 = A (1 + k cos t)^2 + 2 B (1 + k cos t) sin t + C sin(t)^2

and the t at which |w| is the distance of the goal is found on the side that is asked for, first between two looks, then
by Halley's method kept within them; d0 is then the angle between w and the goal. What is sought is u = tan(t / 4), of
which sine and cosine are fractions.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.plane import Floats, angle_of, applied, cross, dot, length_of, shortest

Places = npt.NDArray[np.intp]
#: a, M, b, the goal seen from the first joint, and the side of the bend.
Bones = tuple[Floats, Floats, Floats, Floats, Floats]

#: A bend is first looked for at so many places of its half circle, then refined so many times at most.
_LOOKS, _REFINED = 12, 60
_ANGLES = np.pi / _LOOKS * np.arange(_LOOKS + 1)
_SOUGHT = np.tan(_ANGLES / 4)
_WAVES = np.stack(
    [2 * np.sin(_ANGLES), 2 * np.cos(_ANGLES), -np.cos(2 * _ANGLES), np.sin(2 * _ANGLES), np.ones(_LOOKS + 1)], axis=-1
)
_RISES = np.stack(
    [np.cos(_ANGLES), -np.sin(_ANGLES), np.sin(2 * _ANGLES), np.cos(2 * _ANGLES), np.zeros(_LOOKS + 1)], axis=-1
)
_PLACES = np.arange(_LOOKS + 1)[:, None]
#: Halley's method takes so many steps alone. It ends where its last step was this small, the next being its cube.
_ALONE, _SETTLED = 4, 2.5e-6
#: Halves and whatever else is no step of that method go on to this.
_ENCLOSED = 1e-9


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
    found = np.empty((2, len(even)))
    for at, solve in ((even, _even_bones), (~even, _uneven_bones)):
        found[:, at] = solve(*(of[..., at] for of in bones))
    return found


def asked_half(bones: Bones) -> Floats:
    """The turn of the second joint, radians, from which on it bends to the side asked for, as far as half a turn."""
    first, above, second, _, bends = bones
    way = _way(first, above, second, bends)
    return np.where(way.sense > 0, way.straight, way.straight - np.pi)


def every_bend(
    first: Floats, above: Floats, second: Floats, towards: Floats, bends: Floats
) -> Iterator[tuple[Floats, npt.NDArray[np.bool_]]]:
    """All turns on the side asked for that bring the end to its goal or as far as it comes thereabouts, and the points
    for which they are there: an uneven part leaves up to four.
    """
    way = _way(first, above, second, bends)
    distance = _Distance(way.terms, dot(towards, towards))
    squares = distance.looks()
    for end in (0.0, 1.0):  # straight and folded
        yield way.turns(np.full(squares.shape[1], end), towards), np.ones(squares.shape[1], dtype=np.bool_)
    slopes = _RISES @ distance.terms
    for states, seen, find in (
        (squares > distance.wanted, squares, _crossed),
        (slopes > 0, slopes, _turned_back),
    ):
        changes = states[1:] != states[:-1]
        count = changes.cumsum(axis=0)
        for number in range(1, int(count.max(initial=0)) + 1):
            at = changes & (count == number)
            look, is_there = at.argmax(axis=0), at.any(axis=0)
            sign = np.where(states[look, np.arange(len(look))], 1.0, -1.0)
            with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
                yield way.turns(find(distance, seen, look, sign), towards), is_there


def is_even(linear: Floats) -> npt.NDArray[np.bool_]:
    """Whether linear parts keep angles, mirrored or not, within what their digits can tell."""
    (a, b), (c, d) = linear
    size = a * a + b * b + c * c + d * d
    off = np.minimum((a - d) ** 2 + (b + c) ** 2, (a + d) ** 2 + (b - c) ** 2)
    return np.asarray(off <= 1e-26 * size, dtype=np.bool_)


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
    is_flat = (away >= most) | (away <= least)
    # Folded, the longer bone points at the goal and the shorter one back.
    is_folded = is_flat & (away < most)
    is_shorter = long < short
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
    found: Floats = np.arctan2(np.sqrt(np.maximum(area, 0)), a * a + b * b - opposite * opposite)
    return found


@np.errstate(divide="ignore", invalid="ignore", over="ignore")
def _uneven_bones(first: Floats, above: Floats, second: Floats, towards: Floats, bends: Floats) -> Floats:
    """By the bend that is found."""
    way = _way(first, above, second, bends)
    return way.turns(_found(_Distance(way.terms, dot(towards, towards))), towards)


@dataclass(frozen=True)
class _Way:
    """Where the end comes as the second joint bends: w = (1 + k cos t) a + sin t y.

    Attributes
    ----------
    first, across : arrays, shape (2, points), a and y
    share : array, k
    unturned : array, shape (2, points), the end as hands turned it
    straight, sense : arrays, the turn of the second joint at which t is 0, radians, and the sense in which t turns it
    terms : what the distance is made of, as `_Distance` has it
    """

    first: Floats
    across: Floats
    share: Floats
    unturned: Floats
    straight: Floats
    sense: Floats
    terms: Floats

    def turns(self, sought: Floats, towards: Floats) -> Floats:
        """How far the two joints turn for a bend."""
        cosine, sine = _cosine_and_sine(sought)
        end = (1 + self.share * cosine) * self.first + sine * self.across
        goal = angle_of(towards)
        is_there = dot(towards, towards) == 0
        if is_there.any():  # any direction will do
            goal = np.where(is_there, angle_of(self.unturned), goal)
        return shortest(np.stack([goal - angle_of(end), self.straight + self.sense * 4 * np.arctan(sought)]))


def _way(first: Floats, above: Floats, second: Floats, bends: Floats) -> _Way:
    x, y = above[:, 0], above[:, 1]
    sense = cross(x, y)
    sign = np.where(sense < 0, -1.0, 1.0)
    # Where the second bone points for M to carry it along the first one.
    straight = np.stack([cross(first, y), cross(x, first)]) * sign
    size, length = length_of(straight), length_of(second)
    with np.errstate(divide="ignore", invalid="ignore"):
        unit = straight / size
        share = length * np.abs(sense) / size  # M carries what points straight on to |det M| a
    if not size.all():
        unit[:, size == 0], share[size == 0] = np.array([[1.0], [0.0]]), 0.0
    sense = -bends * sign
    across = sense * length * (unit[0] * y - unit[1] * x)
    square = dot(first, first)
    skew, pull = dot(first, across), share * square
    difference, mean = dot(across, across) - share * pull, square + share * pull
    terms = np.stack([skew, pull, difference / 2, share * skew, mean + difference / 2])
    return _Way(
        first, across, share, first + applied(above, second), angle_of(straight) - angle_of(second), sense, terms
    )


def _cosine_and_sine(sought: Floats) -> tuple[Floats, Floats]:
    """Cosine and sine of the bend t by u = tan(t / 4)."""
    by = 1 / (1 + sought * sought)
    half_sine = 2 * sought * by
    half_cosine = 2 * by - 1
    return 1 - 2 * half_sine * half_sine, 2 * half_sine * half_cosine


_Course = Callable[["_Distance", Floats], tuple[Floats, Floats, Floats]]


@dataclass(frozen=True)
class _Distance:
    """How far the end is by the bend, squared, as sums of sines and cosines of t and 2 t.

    Attributes
    ----------
    terms : array, shape (5, points), b = B, c = k A, q = (C - k^2 A) / 2, r = k B and the mean: half of |w|^2 rises by
        b cos t - c sin t + q sin 2t + r cos 2t
    wanted : array, shape (points,), |w|^2 as it is wanted
    """

    terms: Floats
    wanted: Floats

    def at(self, points: Places) -> _Distance:
        """Some of the points."""
        return _Distance(self.terms.take(points, axis=1), self.wanted.take(points))

    def looks(self) -> Floats:
        """|w|^2 at all looks, shape (looks, points)."""
        return np.asarray(_WAVES @ self.terms)

    def missing(self, sought: Floats) -> tuple[Floats, Floats, Floats]:
        """Half of what |w|^2 is short of what is wanted, with its first two derivatives by the bend."""
        (rise, rise_twice), (height, height_twice) = self._waves(sought)
        short = (self.wanted - self.terms[4] + height_twice) / 2 - height
        return short, -rise - rise_twice, height - 2 * height_twice

    def slope(self, sought: Floats) -> tuple[Floats, Floats, Floats]:
        """Half of how fast |w|^2 grows by the bend, with its first two derivatives."""
        (rise, rise_twice), (height, height_twice) = self._waves(sought)
        return rise + rise_twice, 2 * height_twice - height, -rise - 4 * rise_twice

    def _waves(self, sought: Floats) -> tuple[tuple[Floats, Floats], tuple[Floats, Floats]]:
        """b cos t - c sin t and q sin 2t + r cos 2t, b sin t + c cos t and q cos 2t - r sin 2t."""
        cosine, sine = _cosine_and_sine(sought)
        cosine_twice, sine_twice = 1 - 2 * sine * sine, 2 * sine * cosine
        b, c, q, r, _ = self.terms
        rises = b * cosine - c * sine, q * sine_twice + r * cosine_twice
        return rises, (b * sine + c * cosine, q * cosine_twice - r * sine_twice)


def _found(distance: _Distance) -> Floats:
    """The bend at which the end is as far as wanted, below the farthest bend if it can be; else the farthest or nearest
    there is.
    """
    squares = distance.looks()
    most = squares.max(axis=0)
    is_out = distance.wanted >= most
    # Straight bones are as far as they come where any bend brings the end nearer.
    is_bent = (distance.terms[0] + distance.terms[3] > 0) | (most > squares[0])
    sought = np.zeros(len(is_out))
    for points, find in ((np.flatnonzero(is_out & is_bent), _farthest), (np.flatnonzero(~is_out), _met)):
        if len(points):
            sought[points] = find(distance.at(points), squares.take(points, axis=1))
    return sought


def _met(distance: _Distance, squares: Floats) -> Floats:
    """The bend at which the end is as far as wanted, or the nearest where it never is."""
    farthest, is_near = squares.argmax(axis=0), squares <= distance.wanted
    begin = np.where(is_near & (farthest < _PLACES), _PLACES, _LOOKS + 1).min(axis=0) - 1
    is_before = begin == _LOOKS
    if is_before.any():
        before = np.where(is_near & (farthest > _PLACES), _PLACES, -1).max(axis=0)
        begin = np.where(is_before, before, begin)
    sign = np.where(is_before, -1.0, 1.0)
    never, met = np.flatnonzero(begin < 0), np.flatnonzero(begin >= 0)
    if not len(never):
        return _crossed(distance, squares, begin, sign)
    sought = np.empty(len(begin))
    nearest = squares.take(never, axis=1)
    sought[never] = _extreme(distance.at(never), nearest, nearest.argmin(axis=0), 1.0)
    if len(met):
        sought[met] = _crossed(distance.at(met), squares.take(met, axis=1), begin[met], sign[met])
    return sought


def _crossed(distance: _Distance, squares: Floats, look: Places, sign: Floats) -> Floats:
    """The bend between a look and the next at which the end is as far as wanted."""
    middle, at, slope, curve = _parabola(look, squares)
    at -= distance.wanted
    root = np.sqrt(np.maximum(slope * slope - 2 * curve * at, 0.0))
    against = -slope - np.copysign(root, slope)
    here, there = middle + 2 * at / against, middle + against / curve
    start = np.where((here >= look) & (here <= look + 1), here, there)
    return _rising(distance, _Distance.missing, sign, _SOUGHT[look], _SOUGHT[look + 1], _between_looks(start))


def _turned_back(distance: _Distance, slopes: Floats, look: Places, sign: Floats) -> Floats:
    """The farthest bend between a look and the next, or with the sign -1 the nearest."""
    here, there = (slopes[look + more, np.arange(len(look))] for more in (0, 1))
    start = _between_looks(look + here / (here - there))
    return _rising(distance, _Distance.slope, -sign, _SOUGHT[look], _SOUGHT[look + 1], start)


def _farthest(distance: _Distance, squares: Floats) -> Floats:
    return _extreme(distance, squares, squares.argmax(axis=0), -1.0)


def _extreme(distance: _Distance, squares: Floats, look: Places, sign: float) -> Floats:
    """The bend about a look at which the end is nearest, or farthest with the sign -1; but where what is wanted lies
    between two looks after all, the bend that meets it.
    """
    low, high = _SOUGHT[np.maximum(look - 1, 0)], _SOUGHT[np.minimum(look + 1, _LOOKS)]
    middle, _, slope, curve = _parabola(look, squares)
    start = middle - slope / curve
    # It may also lie at an end.
    sought = _rising(distance, _Distance.slope, np.full(len(look), sign), low, high, _between_looks(start))
    short = sign * distance.missing(sought)[0]
    met = np.flatnonzero(short > 0)
    if len(met):
        ends = (sought, high) if sign < 0 else (low, sought)
        begin, until = (end[met] for end in ends)
        alike = np.ones(len(met))
        sought[met] = _rising(distance.at(met), _Distance.missing, alike, begin, until, (begin + until) / 2)
    return sought


def _parabola(look: Places, squares: Floats) -> tuple[Floats, Floats, Floats, Floats]:
    """The parabola through what is seen at a look and those beside it: its middle look, and its value, slope and second
    derivative there.
    """
    middle = np.minimum(np.maximum(look, 1), _LOOKS - 1)
    flat = middle * squares.shape[1] + np.arange(squares.shape[1])
    before, at, after = (squares.reshape(-1).take(flat + by * squares.shape[1]) for by in (-1, 0, 1))
    return middle.astype(np.float64), at, (after - before) / 2, before - 2 * at + after


def _between_looks(place: Floats) -> Floats:
    """What is sought at a look, or near enough to begin with."""
    found: Floats = np.tan(np.pi / (4 * _LOOKS) * np.minimum(np.maximum(place, 0), _LOOKS))
    return found


def _rising(distance: _Distance, course: _Course, sign: Floats, low: Floats, high: Floats, start: Floats) -> Floats:
    """Between two bends the one where a course, times a sign, rises through 0; where it does not, an end."""
    now = np.minimum(np.maximum(start, low), high)
    for _ in range(_ALONE):
        values = course(distance, now)
        before, now = now, np.minimum(np.maximum(_stepped(now, *values), low), high)
        is_settled = np.abs(now - before) <= _SETTLED
        if is_settled.all():
            break
    value, rate, _ = values
    rises_inside = (now > low) & (now < high) & (sign * rate > 0)
    is_settled &= rises_inside | np.where(sign * value < 0, now == high, now == low)
    left = np.flatnonzero(~is_settled)
    if len(left):
        now[left] = _enclosed(distance.at(left), course, sign[left], low[left], high[left])
    return now


def _enclosed(distance: _Distance, course: _Course, sign: Floats, low: Floats, high: Floats) -> Floats:
    """The same by steps that never leave what is known to enclose it."""
    at_low, at_high = (sign * course(distance, end)[0] for end in (low, high))
    low, high = np.where(at_high < 0, high, low), np.where(at_low > 0, low, high)
    found = (low + high) / 2
    left, now = np.arange(len(found)), found
    for _ in range(_REFINED):
        values = course(distance, now)
        is_low = sign * values[0] < 0
        low, high = np.where(is_low, now, low), np.where(is_low, high, now)
        following = _stepped(now, *values)
        # Bones that are straight lie at an end itself, or the last digit beyond it.
        is_near = (following >= low - _ENCLOSED) & (following <= high + _ENCLOSED)
        inner = np.minimum(np.maximum(following, low), high)
        after = np.where(is_near, inner, (low + high) / 2)
        on = np.flatnonzero(np.abs(after - now) > _ENCLOSED)
        found[left] = after
        if not len(on):
            break
        distance, left, now, sign, low, high = distance.at(on), left[on], after[on], sign[on], low[on], high[on]
    return found


def _stepped(now: Floats, value: Floats, rate: Floats, curve: Floats) -> Floats:
    """One step of Halley's method by the bend, taken by the tangents of a sum; where it is none, to no number."""
    by = value * rate / (2 * value * curve - 4 * rate * rate)
    return np.asarray((now + by) / (1 - now * by))
