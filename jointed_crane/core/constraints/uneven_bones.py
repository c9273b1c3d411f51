"""Two bones that reach where the second turns below an unevenly scaled part: one angle is left to be found.

The end lies at R(d0) w, w = a + M R(d1) b. Bent by an angle t from where M R(d1) b lies along a, that is

    w = (1 + k cos t) a + sin t y,   |w|^2 = A (1 + k cos t)^2 + 2 B (1 + k cos t) sin t + C sin(t)^2

and the t at which |w| is the distance of the goal is found on the side that is asked for, first between two looks, then
by Newton's method kept within them; d0 is then the angle between w and the goal. All arrays are over points.
"""

from __future__ import annotations

from dataclasses import dataclass, fields

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.placed import Floats, angle_of, length_of, shortest

#: A bend is first looked for at so many places of its half circle, then refined so many times at most.
_LOOKS, _REFINED = 12, 60
_PLACES = np.arange(_LOOKS + 1)[:, None]
_COSINES, _SINES = np.cos(np.pi * _PLACES / _LOOKS), np.sin(np.pi * _PLACES / _LOOKS)
#: Newton's method ends where its last step was this small, radians: the next would be its square.
_SETTLED = 1e-9


@dataclass(frozen=True)
class _Distance:
    """How far the end is by the bend, squared: A, B, C and k, and what is wanted; each of shape (points,)."""

    square: Floats
    skew: Floats
    width: Floats
    share: Floats
    wanted: Floats

    def at(self, points: npt.NDArray[np.intp]) -> _Distance:
        """Some of the points."""
        return _Distance(*(getattr(self, field.name)[points] for field in fields(self)))

    def squares(self, cosine: Floats, sine: Floats) -> Floats:
        """|w|^2 at bends of these cosines and sines."""
        along = 1 + self.share * cosine
        return along * (self.square * along + 2 * self.skew * sine) + self.width * sine**2

    def missing(self, bend: Floats) -> tuple[Floats, Floats]:
        """Half of what |w|^2 is short of what is wanted, and its rate."""
        cosine, sine = np.cos(bend), np.sin(bend)
        return (self.wanted - self.squares(cosine, sine)) / 2, -self._rise(cosine, sine)

    def slope(self, bend: Floats) -> tuple[Floats, Floats]:
        """Half of how fast |w|^2 grows, and its rate."""
        c, s = np.cos(bend), np.sin(bend)
        along, turn = 1 + self.share * c, -self.share * s
        curve = self.square * (turn**2 - self.share * c * along) + self.width * (c * c - s * s)
        curve += self.skew * (2 * turn * c - self.share * c * s - along * s)
        return self._rise(c, s), curve

    def _rise(self, cosine: Floats, sine: Floats) -> Floats:
        along = 1 + self.share * cosine
        turning = self.share * sine * (self.square * along + self.skew * sine)
        return cosine * (self.skew * along + self.width * sine) - turning


def uneven_bones(first: Floats, above: Floats, second: Floats, towards: Floats, bends: Floats) -> Floats:
    """How far the two joints turn, d0 and d1, radians, shape (2, points).

    Parameters
    ----------
    first, second : arrays, shape (points, 2), a and b
    above : array, shape (points, 2, 2), M
    towards : array, shape (points, 2), the goal seen from the first joint
    bends : array, shape (points,), 1 where the joint lies clockwise of the line to the goal, else -1
    """
    x, y = above[:, :, 0], above[:, :, 1]
    sign = np.where(_cross(x, y) < 0, -1.0, 1.0)
    straight, sense = angle_of(np.stack([_cross(first, y), _cross(x, first)], axis=-1) * sign[:, None]), -bends * sign
    size = length_of(second)
    cosine, sine = (size * np.cos(straight))[:, None], (size * np.sin(straight))[:, None]
    along, across = cosine * x + sine * y, sense[:, None] * (cosine * y - sine * x)
    square = _dot(first, first)
    with np.errstate(divide="ignore", invalid="ignore"):
        share = np.where(square > 0, _dot(along, first) / square, 0.0)
    distance = _Distance(square, _dot(first, across), _dot(across, across), share, _dot(towards, towards))
    bend = _found(distance)
    end = (1 + share * np.cos(bend))[:, None] * first + np.sin(bend)[:, None] * across
    unturned = first + above[:, :, 0] * second[:, :1] + above[:, :, 1] * second[:, 1:]
    goal = np.where(distance.wanted > 0, angle_of(towards), angle_of(unturned))
    return np.stack([shortest(goal - angle_of(end)), shortest(straight + sense * bend - angle_of(second))])


def _found(distance: _Distance) -> Floats:
    """The bend at which the end is as far as wanted, below the farthest bend if it can be; else the farthest or nearest
    there is.
    """
    squares, wanted = distance.squares(_COSINES, _SINES), distance.wanted
    points = np.arange(len(wanted))
    farthest = squares.argmax(axis=0)
    is_near = squares <= wanted
    after = np.where(is_near & (farthest < _PLACES), _PLACES, _LOOKS + 1).min(axis=0)
    before = np.where(is_near & (farthest > _PLACES), _PLACES, -1).max(axis=0)
    is_out, is_before = wanted >= squares[farthest, points], after > _LOOKS
    begin = np.where(is_before, before, after - 1)
    bend = np.zeros(len(wanted))
    is_extreme = is_out | (begin < 0)
    met = np.flatnonzero(~is_extreme)
    if len(met):
        low, high = begin[met], begin[met] + 1
        near, far = squares[low, met], squares[high, met]
        with np.errstate(divide="ignore", invalid="ignore"):
            start = low + (near - wanted[met]) / (near - far)
        sign = np.where(is_before[met], -1.0, 1.0)
        bend[met] = _refined(distance.at(met), False, sign, *(np.pi / _LOOKS * of for of in (low, high, start)))
    beyond = np.flatnonzero(is_extreme)
    if len(beyond):
        bend[beyond] = _extreme(distance.at(beyond), squares[:, beyond], is_out[beyond])
    return bend


def _extreme(distance: _Distance, squares: Floats, is_out: npt.NDArray[np.bool_]) -> Floats:
    """The farthest bend where the goal is out, else the nearest; but where what is wanted lies between two looks after
    all, the bend that meets it.
    """
    look = np.where(is_out, squares.argmax(axis=0), squares.argmin(axis=0))
    low, high = (np.pi / _LOOKS * np.clip(look + by, 0, _LOOKS) for by in (-1, 1))
    sign = np.where(is_out, -1.0, 1.0)
    # Seen from below an extreme its slope rises through 0; it may also lie at an end.
    at_low, at_high = (sign * distance.slope(end)[0] for end in (low, high))
    begin, until = np.where(at_high < 0, high, low), np.where(at_low > 0, low, high)
    bend = _refined(distance, True, sign, begin, until, (begin + until) / 2)
    short = distance.missing(bend)[0]
    met = np.flatnonzero(np.where(is_out, short < 0, short > 0))
    if len(met):
        ends = np.where(is_out, bend, low)[met], np.where(is_out, high, bend)[met]
        bend[met] = _refined(distance.at(met), False, np.ones(len(met)), *ends, (ends[0] + ends[1]) / 2)
    return bend


def _refined(distance: _Distance, is_extreme: bool, sign: Floats, low: Floats, high: Floats, start: Floats) -> Floats:
    """Between two bends the one where what is looked for, times a sign, rises through 0."""
    low, high = low.astype(np.float64), high.astype(np.float64)
    bend = np.where(np.isfinite(start), start, (low + high) / 2)
    left = np.arange(len(bend))
    for _ in range(_REFINED):
        now, of = bend[left], distance.at(left)
        value, rate = of.slope(now) if is_extreme else of.missing(now)
        is_low = sign[left] * value < 0
        low[left], high[left] = np.where(is_low, now, low[left]), np.where(is_low, high[left], now)
        with np.errstate(divide="ignore", invalid="ignore"):
            following = now - value / rate
        # Bones that are straight lie at an end itself, or the last digit beyond it.
        is_near = (following >= low[left] - _SETTLED) & (following <= high[left] + _SETTLED)
        inner = np.minimum(np.maximum(following, low[left]), high[left])
        bend[left] = np.where(is_near, inner, (low[left] + high[left]) / 2)
        left = left[np.abs(bend[left] - now) > _SETTLED]
        if not len(left):
            break
    return bend


def _cross(a: Floats, b: Floats) -> Floats:
    found: Floats = a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0]
    return found


def _dot(a: Floats, b: Floats) -> Floats:
    found: Floats = a[..., 0] * b[..., 0] + a[..., 1] * b[..., 1]
    return found
