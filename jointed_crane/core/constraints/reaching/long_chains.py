"""Chains of three and more joints: the pose in which an end comes to its goal, found along the way of its chain."""

from __future__ import annotations

import threading
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from jointed_crane.core.constraints.reaching.bending_way import BendingWay, bending_way
from jointed_crane.core.constraints.reaching.limb import Limb
from jointed_crane.core.constraints.reaching.ranged_bones import within
from jointed_crane.core.geometry.plane import Floats

#: Chains that differ by less, as a share of their length or in radians, have one way; and so many ways are kept.
_SAME, _KEPT = 1e-12, 2000
#: A distance is met up to the last digits of the length, or where a step is this small a share of the stretch between
#: two poses; so many are taken.
_LAST_DIGITS, _MET, _MOST_TRIES = 4e-15, 1e-13, 60


@dataclass(frozen=True, eq=False)
class LongChains:
    """Chains and what they are to keep to. Axes after the components are (points,), one for each chain and frame.

    Attributes
    ----------
    limb : the chains as hands turned them
    sides : array, 1 where the joints lie clockwise of the line to the goal in the space of the first one, else -1
    through : array, shape (joints - 1, points), the bends of a pose that each can take, radians towards its side
    low, high : arrays, shape (joints, points), how far joints may turn from where hands turned them, radians
    """

    limb: Limb
    sides: Floats
    through: Floats
    low: Floats
    high: Floats

    @property
    def farthest(self) -> Floats:
        """How far the ends come, px, shape (points,)."""
        return np.asarray(self._length * self._poses[1][self._way_of, 0])

    def distances(self, point: int) -> Floats:
        """How far the end of one chain lies in each pose that its way is told by, px, falling."""
        return np.asarray(self._length[point] * self._known[0][self._way_of[point]].distances)

    @property
    def nearest(self) -> Floats:
        """How near the ends come, px, shape (points,)."""
        return np.asarray(self._length * self._poses[1][self._way_of, -1])

    def turns(self, towards: Floats) -> Floats:
        """How far joints turn from where hands turned them, radians, shape (joints, points), for the ends to come to
        their goals; where their ways end before, they point there.

        Parameters
        ----------
        towards : array, shape (2, points), the goals seen from the first joints, px; one on the joint gives no
            direction, and the ends keep the one that hands gave them
        """
        goal = towards[0] + 1j * towards[1]
        distance = np.divide(np.abs(goal), self._length, out=np.zeros(len(goal)), where=self._length > 0)
        bends = self._bent_to(distance)
        end = self._straight.bent(bends).end
        heading = np.angle(np.where(goal == 0, self.limb.end, goal) * end.conj())
        return within(np.concatenate([heading[None], bends]) + self._from_hands, self.low, self.high)[0]

    @cached_property
    def _from_hands(self) -> Floats:
        """How far joints turn until all is straight."""
        return self.limb.straightened[0]

    @cached_property
    def _length(self) -> Floats:
        return self.limb.straightened[1].of_length_one[0]

    @cached_property
    def _straight(self) -> Limb:
        return self.limb.straightened[1].of_length_one[1]

    @cached_property
    def _senses(self) -> Floats:
        """In which sense each joint but the first bends."""
        return -self.sides * self._straight.senses

    @cached_property
    def _bounds(self) -> tuple[Floats, Floats]:
        """The least and greatest bends, of the side that the given pose has at each joint and within the ranges: of
        ranges that leave that side in two pieces the one that is less bent, and the other side where they leave none.
        """
        low, high = (ends[1:] - self._from_hands[1:] for ends in (self.low, self.high))
        side = self._senses * np.where(self.through < 0, -1.0, 1.0)
        of_side = np.minimum(side * np.pi, 0.0), np.maximum(side * np.pi, 0.0)
        result = np.maximum(low, -np.pi), np.minimum(high, np.pi)
        nearest = np.full(low.shape, np.inf)
        for more in (0.0, 2 * np.pi, -2 * np.pi):
            least, most = np.maximum(low + more, of_side[0]), np.minimum(high + more, of_side[1])
            away = np.minimum(np.abs(least), np.abs(most))
            is_nearer = (most - least > _SAME) & (away < nearest)
            nearest = np.where(is_nearer, away, nearest)
            result = np.where(is_nearer, least, result[0]), np.where(is_nearer, most, result[1])
        return result

    @cached_property
    def _known(self) -> tuple[list[BendingWay], np.ndarray]:
        """The ways of chains that differ, and the place of each point's."""
        limb = self._straight
        sides = self._senses * np.where(self.through < 0, -1.0, 1.0)
        given = np.broadcast_to(self._senses * self.through, sides.shape)
        numbers = (limb.bones, limb.keeping, limb.mirroring)
        rows = [part for each in numbers for part in (each.real, each.imag)] + [given, sides, *self._bounds]
        table = np.round(np.concatenate(rows) / _SAME) * _SAME + 0.0
        if (table == table[:, :1]).all():
            first, of = np.zeros(1, dtype=np.intp), np.zeros(table.shape[1], dtype=np.intp)
        else:
            _, first, of = np.unique(table, axis=1, return_index=True, return_inverse=True)
        return _ways(len(sides), table[:, first]), of.reshape(-1)

    @property
    def _way_of(self) -> np.ndarray:
        return self._known[1]

    @cached_property
    def _poses(self) -> tuple[Floats, Floats]:
        """The poses of all ways, shape (ways, poses, joints - 1), and their distances, shape (ways, poses); the last
        one again and again where others have more.
        """
        ways = self._known[0]
        most = max(2, *(len(way.distances) for way in ways))
        at = [np.minimum(np.arange(most), len(way.distances) - 1) for way in ways]
        return (
            np.stack([way.bends[own] for way, own in zip(ways, at, strict=True)]),
            np.stack([way.distances[own] for way, own in zip(ways, at, strict=True)]),
        )

    def _bent_to(self, distance: Floats) -> Floats:
        """The bends at which ends are so far from their first joints, as shares of the length."""
        bends, distances = self._poses
        own = distances[self._way_of]
        wanted = np.minimum(np.maximum(distance, own[:, -1]), own[:, 0])
        place = np.minimum(np.maximum((own > wanted[:, None]).sum(axis=1) - 1, 0), own.shape[1] - 2)
        first, last = (bends[self._way_of, at].T for at in (place, place + 1))
        far, near = (own[np.arange(len(own)), at] for at in (place, place + 1))
        share = np.divide(far - wanted, far - near, out=np.zeros(len(far)), where=far > near)
        # From the farthest pose the distance falls as the square of what is bent.
        share = np.where(place == 0, np.sqrt(share), share)
        # What lies at a pose but for the last digits takes it: a straight chain would bend by their root.
        share = np.where(np.abs(np.abs(self._straight.bent(first).end) - distance) <= _LAST_DIGITS, 0.0, share)
        low, high = np.zeros(len(share)), np.ones(len(share))
        for _ in range(_MOST_TRIES):
            lies = self._straight.bent(first + share * (last - first))
            off = np.abs(lies.end) - wanted
            low, high = np.where(off > 0, share, low), np.where(off > 0, high, share)
            rate = (lies.rates * (last - first)).sum(axis=0)
            step = np.divide(off, -rate, out=np.full(len(off), np.inf), where=rate < 0)
            after = share + step
            after = np.where((after >= low) & (after <= high), after, (low + high) / 2)
            is_met = (np.abs(off) <= _LAST_DIGITS / 10) | (share == 0) | (np.abs(after - share) <= _MET)
            share = np.where(is_met, share, after)
            if is_met.all():
                break
        return np.asarray(first + share * (last - first))


_FOUND: dict[bytes, BendingWay] = {}
_LOCK = threading.Lock()


def _ways(bends: int, table: Floats) -> list[BendingWay]:
    """The ways of chains that a table tells column by column, those found before and not forgotten since among them."""
    keys = [column.tobytes() for column in table.T]
    with _LOCK:
        known = [_FOUND.get(key) for key in keys]
    lacking = [place for place, way in enumerate(known) if way is None]
    sizes = [bends + 1] * 2 + [bends] * 8
    for place in lacking:
        column = np.split(table[:, place, None], np.cumsum(sizes)[:-1])
        limb = Limb(*(real + 1j * imaginary for real, imaginary in zip(column[0:6:2], column[1:6:2], strict=True)))
        known[place] = bending_way(limb, *(each[:, 0] for each in column[6:]))
    with _LOCK:
        _FOUND.update({keys[place]: known[place] for place in lacking})
        for oldest in list(_FOUND)[: max(0, len(_FOUND) - _KEPT)]:
            del _FOUND[oldest]
    return [way for way in known if way is not None]
