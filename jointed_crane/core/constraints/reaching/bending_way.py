"""The way of a chain of three or more joints: one pose for each distance of its end, from straight to bent.

A way leads through a pose that the chain was given. From there its bends go up the gradient of the end's distance from
the first joint until the chain is straight, or as far as it comes, and down to where the end is nearest. No bend
changes its side or leaves its range, and the distance only falls, so each distance names one pose.

Where the end is led a step, no nearer to the first joint than a tenth of the chain's length L, no joint goes farther
than 6 sqrt(step L): straight bones bend by the root of what the goal comes nearer, those of two joints too. (Of 500
random chains of two to eight bones, half of them with ranges, the farthest went 1.8 times that root; of 600 others one
went 4.5 times it, where a folded chain begins to bend on. Of 60 chains of three to eight, 12 could come nearer to their
base than their way does by more than a hundredth of their length, one by 0.31 of it: SciPy's least squares, from six
beginnings each.)

A way is found step by step for one chain, in numbers of Python: arrays so small take ten times as long.
"""

from __future__ import annotations

from cmath import rect
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from jointed_crane.core.constraints.reaching.limb import Limb
from jointed_crane.core.geometry.plane import Floats

#: The longest step of a bend, the shortest one with which the end of a way is sought, radians, and how many at most.
_STEP, _LEAST, _MOST_STEPS = 0.05, 1e-6, 400
#: A step that changes the distance by less than this share of what the gradient says is taken half as long.
_WORTH = 0.5
#: A joint that the given pose leaves straight bends by this share of the one that is bent most.
_LEAST_SHARE = 0.1
#: A way ends where the distance falls by less than this a radian, as a share of the length: folded chains would turn
#: far for next to nothing.
_WORTH_GOING = 0.02
#: Where no bend changes the distance by more than this, a radian, the way goes on beside, by so much, radians.
_STILL, _BESIDE = 1e-7, 0.02

Bends = list[float]


@dataclass(frozen=True, eq=False)
class BendingWay:
    """Poses of a chain of length 1.

    Attributes
    ----------
    bends : array, shape (poses, joints - 1), radians from straight
    distances : array, shape (poses,), how far the end lies from the first joint, falling
    """

    bends: Floats
    distances: Floats


def bending_way(limb: Limb, through: Floats, sides: Floats, low: Floats, high: Floats) -> BendingWay:
    """The way of one chain.

    Parameters
    ----------
    limb : the chain straight and of length 1, for one point
    through : array, shape (joints - 1,), the bends of the given pose, radians
    sides : array, shape (joints - 1,), in which sense each joint bends, 1 or -1
    low, high : arrays, shape (joints - 1,), the least and greatest bends, radians
    """
    most = float(np.abs(through).max())
    shares = np.maximum(np.abs(through) / most, _LEAST_SHARE) if most > 0 else np.ones(len(through))
    chain = _Chain(*(each[:, 0].tolist() for each in (limb.bones, limb.keeping, limb.mirroring)))
    course = _Course(chain, low.tolist(), high.tolist(), shares.tolist())
    given, beside = course.clipped(through.tolist()), (_BESIDE * sides * shares).tolist()
    distance, rates = chain.lies(given)
    is_still = all(abs(rate) <= _STILL for rate in rates)
    up, down = (course.clipped(_sum(given, beside, sense)) if is_still else given for sense in (-1.0, 1.0))
    way = _falling([*course.followed(up, 1.0)[::-1], (distance, given), *course.followed(down, -1.0)])
    if way[-1][1] is given:
        # What leads only up, as straight chains below uneven parts may, comes down on the far side.
        top = way[0]
        other = _falling([top, *course.followed(course.clipped(_sum(top[1], beside, 1.0)), -1.0)])
        if other[-1][0] < way[-1][0]:
            way = other
    way = _worth_going(way, given)
    return BendingWay(np.array([bends for _, bends in way]), np.array([distance for distance, _ in way]))


Pose = tuple[float, Bends]


def _falling(poses: Sequence[Pose]) -> list[Pose]:
    """Poses in a row without those that lie no nearer than one before."""
    result = [poses[0]]
    for pose in poses[1:]:
        if pose[0] < result[-1][0]:
            result.append(pose)
    return result


def _worth_going(way: list[Pose], given: Bends) -> list[Pose]:
    """A way without the end along which the distance hardly falls, as far as the given pose."""
    end = len(way)
    while end > 2 and way[end - 1][1] is not given:
        (before, bends), (distance, after) = way[end - 2 : end]
        turned = max(abs(new - old) for new, old in zip(after, bends, strict=True))
        if before - distance > _WORTH_GOING * turned:
            break
        end -= 1
    return way[:end]


def _sum(bends: Bends, others: Bends, times: float) -> Bends:
    return [one + times * other for one, other in zip(bends, others, strict=True)]


@dataclass(frozen=True)
class _Chain:
    """A limb for one point: b_k, p_k and q_k."""

    bones: list[complex]
    keeping: list[complex]
    mirroring: list[complex]

    def lies(self, bends: Bends) -> tuple[float, Bends]:
        """How far the end lies from the first joint, and how fast that grows with each bend: what `Limb.end` and
        `Limb.rates` say.
        """
        turns = [rect(1.0, bend) for bend in bends]
        end = turns[-1] * self.bones[-1]
        ends = [end]
        for place in range(len(bends) - 1, 0, -1):
            carried = self.keeping[place] * end + self.mirroring[place] * end.conjugate()
            end = turns[place - 1] * (self.bones[place] + carried)
            ends.append(end)
        end = self.bones[0] + self.keeping[0] * end + self.mirroring[0] * end.conjugate()
        distance = abs(end)
        if distance == 0.0:
            return 0.0, [0.0] * len(bends)
        pull, rates, turn = end / distance, [], 1.0 + 0.0j
        for keeping, mirroring, following in zip(self.keeping, self.mirroring, turns, strict=True):
            pull *= turn.conjugate()
            pull = keeping.conjugate() * pull + mirroring * pull.conjugate()
            rates.append((pull * ends.pop().conjugate()).imag)
            turn = following
        return distance, rates


@dataclass(frozen=True)
class _Course:
    """A chain, between what bends it stays, and how eagerly they go."""

    chain: _Chain
    low: Bends
    high: Bends
    shares: Bends

    def clipped(self, bends: Bends) -> Bends:
        """Bends, or the ends that they lie beyond."""
        pairs = zip(self.low, bends, self.high, strict=True)
        return [low if bend < low else high if bend > high else bend for low, bend, high in pairs]

    def followed(self, start: Bends, sense: float) -> list[Pose]:
        """The start and the poses along the gradient from there, up (1) or down (-1)."""
        bends, step = start, _STEP
        distance, rates = self.chain.lies(bends)
        result = [(distance, bends)]
        for _ in range(_MOST_STEPS):
            way = self._direction(bends, rates, sense)
            if way is None:
                break
            half = self.clipped(_sum(bends, way, step / 2))
            after = self.clipped(_sum(bends, self._direction(half, self.chain.lies(half)[1], sense) or way, step))
            there, following = self.chain.lies(after)
            said = sum(rate * (new - old) for rate, new, old in zip(rates, after, bends, strict=True))
            if sense * (there - distance) > max(_WORTH * sense * said, 0.0):
                bends, distance, rates, step = after, there, following, min(2 * step, _STEP)
                result.append((distance, bends))
                continue
            step /= 2
            if step < _LEAST:
                break
        return result

    def _direction(self, bends: Bends, rates: Bends, sense: float) -> Bends | None:
        """Where bends go, the fastest by 1; None where none has anywhere to go."""
        way = [sense * share * rate for share, rate in zip(self.shares, rates, strict=True)]
        for place, (low, bend, high) in enumerate(zip(self.low, bends, self.high, strict=True)):
            if (bend <= low and way[place] < 0) or (bend >= high and way[place] > 0):
                way[place] = 0.0
        most = max(map(abs, way))
        return None if most <= _STILL * _LEAST_SHARE else [each / most for each in way]
