"""Reach: how far the joints of a chain turn so that its end comes to a goal.

Everything lies in the space of the first joint's parent, which may itself be mirrored or skewed on the stage. Joint k
turns by d_k before its own linear part A_k, and what hangs on it is carried to v_k in its art:

    end = q + M_0 v_0 + ... + M_n v_n,   M_k = M_(k-1) S_(k-1) R(d_k) A_k
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.reaching.ranged_bones import ranged_bones
from jointed_crane.core.constraints.reaching.two_bones import two_bones
from jointed_crane.core.geometry.plane import (
    Floats,
    angle_of,
    applied,
    determinant,
    length_of,
    product,
    shortest,
    solved,
    square_to,
    turned,
)

#: An end this near its goal has arrived, as a share of the length of the chain; and the steps it takes at most.
NEAR = 1e-12
_STEPS = 100
#: Where joints with ranges are stuck, the search begins anew: from joints bent alike, and to and fro, radians.
_OTHER_STARTS = ((1.0, 1.0), (-1.0, -1.0), (1.0, -1.0), (-1.0, 1.0), (2.2, 2.2), (-2.2, -2.2))
#: No step turns a joint farther than this, radians.
_FARTHEST_STEP = 0.5
#: An end stays short after so many steps none of which brought it nearer than this share of what it missed before.
_NEARER, _VAIN_STEPS = 0.97, 5
#: A chain that is straight on its way to the goal is bent by so much first, radians: straight bones give no direction.
_BIAS = 0.05


@dataclass(frozen=True)
class ChainPose:
    """Chains of equally many joints as hands turned them. Axes after the components are (chains, frames).

    Attributes
    ----------
    begins : array, shape (2, ...), q, where the first joint lies
    linear : array, shape (joints, 2, 2, ...), A_k
    spin : array, shape (joints, 2, 2, ...), S_k; None where nothing spins
    carried : array, shape (joints, 2, ...), v_k
    """

    begins: Floats
    linear: Floats
    spin: Floats | None
    carried: Floats

    def in_a_row(self) -> ChainPose:
        """The same with one axis after the components, (points,)."""
        joints = len(self.linear)
        return ChainPose(
            self.begins.reshape(2, -1),
            self.linear.reshape(joints, 2, 2, -1),
            None if self.spin is None else self.spin.reshape(joints, 2, 2, -1),
            self.carried.reshape(joints, 2, -1),
        )

    def of(self, points: int | npt.NDArray[np.intp]) -> ChainPose:
        """One of the chains, or some of the points in a row."""
        spin = None if self.spin is None else self.spin[:, :, :, points]
        return ChainPose(self.begins[:, points], self.linear[:, :, :, points], spin, self.carried[:, :, points])

    def turned(self, turns: Floats, stretch: Floats) -> ChainPose:
        """The chains with their joints turned, radians, shape (joints, ...), and their bones longer by a factor."""
        linear = np.stack([turned(own, turn) for own, turn in zip(self.linear, turns, strict=True)])
        return replace(self, linear=linear, carried=self.carried * stretch)

    def along(self, joint: int, stretch: Floats, keeps_area: bool) -> Floats:
        """What stretches the art of a joint along its bone, and makes it thinner if wished, shape (2, 2, ...)."""
        bone = self.carried[joint]
        length = length_of(bone)
        with np.errstate(divide="ignore", invalid="ignore"):
            unit = np.where(length > 0, bone / length, 0.0)
        square = square_to(unit)
        found = np.eye(2)[..., None] + (stretch - 1) * unit[:, None] * unit[None]
        if keeps_area:
            found = found + (1 / stretch - 1) * square[:, None] * square[None]
        return np.asarray(found, dtype=np.float64)

    @cached_property
    def above(self) -> list[Floats]:
        """M_(k-1) S_(k-1), what lies above each joint but the first, arrays of shape (2, 2, ...)."""
        found: list[Floats] = []
        for joint, linear in enumerate(self.linear[:-1]):
            own = product(found[-1], linear) if found else linear
            found.append(own if self.spin is None else product(own, self.spin[joint]))
        return found

    @cached_property
    def bones(self) -> list[Floats]:
        """The bones as they lie, M_k v_k, arrays of shape (2, ...), px."""
        below = [applied(*pair) for pair in zip(self.linear, self.carried, strict=True)]
        return [below[0], *(applied(*pair) for pair in zip(self.above, below[1:], strict=True))]

    @property
    def length(self) -> Floats:
        """How long the chains are when they are straight, px."""
        return np.asarray(sum(map(length_of, self.bones)))

    @property
    def senses(self) -> Floats:
        """In which sense a joint's turn turns its bone: -1 below what is mirrored; shape (joints, ...)."""
        first = np.ones(self.begins.shape[1:])
        return np.stack([first, *(np.where(determinant(above) < 0, -1.0, 1.0) for above in self.above)])

    def end(self, turns: Floats) -> tuple[Floats, Floats]:
        """Where the end lies from the first joint, shape (2, ...), and how fast a turn of each joint moves it, px a
        radian, shape (joints, 2, ...).

        Seen from where joint k turns, e_k = R(d_k) A_k (v_k + S_k e_(k+1)); a turn moves it square to itself.
        """
        turning = self.turned(turns, np.ones(1)) if turns.any() else self
        rates: list[Floats] = []
        beyond = np.zeros(self.begins.shape)
        for k in reversed(range(len(turns))):
            held = beyond if self.spin is None else applied(self.spin[k], beyond)
            beyond = applied(turning.linear[k], self.carried[k] + held)
            square = square_to(beyond)
            rates.append(applied(turning.above[k - 1], square) if k else square)
        return beyond, np.stack(rates[::-1])


@dataclass(frozen=True)
class Aim:
    """What chains are to reach, and how. Axes after the components are (chains, frames), or (chains, 1) for what no
    frame changes.

    Attributes
    ----------
    linear, origin : arrays, shapes (2, 2, ...) and (2, ...), where what the first joints hang on lies on the stage
    goals : array, shape (2, ...), px on the stage
    bends : array, 1 where the joint lies clockwise of the line to the goal on the stage, else -1
    soft : array, the share of the whole length over which the end slows down before it is straight; 0 reaches exactly
    stretch : array, how many times their length bones may become
    weight : array, by which share the joints turn
    low, high : arrays, shape (joints, ...), how far each joint may turn, radians
    """

    linear: Floats
    origin: Floats
    goals: Floats
    bends: Floats
    soft: Floats
    stretch: Floats
    weight: Floats
    low: Floats
    high: Floats

    def of(self, place: int) -> Aim:
        """What one chain is to reach."""
        return Aim(
            self.linear[:, :, place], self.origin[:, place], self.goals[:, place], self.bends[place],
            self.soft[place], self.stretch[place], self.weight[place], self.low[:, place], self.high[:, place],
        )  # fmt: skip


@dataclass(frozen=True)
class Reached:
    """How far the joints of chains turn, radians, shape (joints, ...), and how many times their length bones become."""

    turns: Floats
    stretch: Floats

    def of(self, place: int) -> Reached:
        """One of the chains."""
        return Reached(self.turns[:, place], self.stretch[place])


def reached(chain: ChainPose, aim: Aim, held: float = 1.0) -> Reached:
    """How far each joint turns from where hands turned it, and how far bones stretch.

    Two bones are solved by the law of cosines, bending on the side that is asked for, or, where the second turns below
    an unevenly scaled part, by finding the one angle that is left; within ranges by the nearest way there is. Longer
    chains step by damped least squares (C. Wampler 1986, from memory) from the pose of the hands. An end out of reach
    comes as near as it can.

    Parameters
    ----------
    held : how many times their own length the bones of `chain` are already
    """
    sense = determinant(aim.linear)
    goal = solved(aim.linear, aim.goals - aim.origin)
    bends = aim.bends * np.copysign(1.0, sense)
    weight = aim.weight if sense.all() else np.where(sense == 0, 0.0, aim.weight)
    goal, stretch = _approached(chain, goal, aim, held)
    stretch = (1 + weight * (stretch - 1)) / held
    if not (stretch == 1).all():
        chain = replace(chain, carried=chain.carried * stretch)
    turns = turns_to_reach(chain, goal, bends, aim.low, aim.high)
    return Reached(weight * turns, stretch)


def turns_to_reach(chain: ChainPose, goal: Floats, bends: Floats, low: Floats, high: Floats) -> Floats:
    """How far each joint turns, radians, shape (joints, ...), for an end to come to its goal.

    Parameters
    ----------
    goal : array, shape (2, ...), px in the space of the first joint's parent
    bends : array, 1 where the joint lies clockwise of the line to the goal in that space, else -1
    low, high : arrays, shape (joints, ...), how far each joint may turn, radians
    """
    count = len(chain.linear)
    is_ranged = bool(np.isfinite(low).any() or np.isfinite(high).any())
    if count == 2:
        return _two_bones(chain, goal, bends, (low, high) if is_ranged else None)
    start = _bent(chain, goal, bends)
    if count == 1 and not is_ranged:
        return start
    turns = np.clip(start, low, high).reshape(count, -1)
    left = np.arange(turns.shape[1]) if count > 2 else np.flatnonzero((turns != start.reshape(count, -1)).any(axis=0))
    if len(left):
        of = [_in_a_row(ends, start.shape)[:, left] for ends in (low, high)]
        turns[:, left] = _searched(chain.in_a_row().of(left), turns[:, left], goal.reshape(2, -1)[:, left], *of)
    return turns.reshape(start.shape)


def _in_a_row(ends: Floats, shape: tuple[int, ...]) -> Floats:
    """Ends of ranges of joints, one for each of the points in a row, shape (joints, points)."""
    return np.broadcast_to(ends, shape).reshape(shape[0], -1)


def _searched(chain: ChainPose, start: Floats, goal: Floats, low: Floats, high: Floats) -> Floats:
    """Turns found by steps, begun anew where joints with ranges are stuck; axes (joints, points)."""
    is_ranged = (np.isfinite(low) | np.isfinite(high)).any(axis=0)
    turns, miss = _stepped(chain, start, goal, low, high)
    for even, odd in _OTHER_STARTS:
        stuck = np.flatnonzero((miss > 0) & is_ranged)
        if not len(stuck):
            break
        other = np.where((np.arange(len(start)) % 2 == 0)[:, None], even, odd)
        at, of = chain.of(stuck), (low[:, stuck], high[:, stuck])
        found, left = _stepped(at, np.clip(np.broadcast_to(other, (len(start), len(stuck))), *of), goal[:, stuck], *of)
        is_nearer = left < miss[stuck]
        turns[:, stuck[is_nearer]], miss[stuck[is_nearer]] = found[:, is_nearer], left[is_nearer]
    return turns


def _approached(chain: ChainPose, goal: Floats, aim: Aim, held: float) -> tuple[Floats, Floats]:
    """Where the end goes, and how far bones stretch to come to the goal.

    In the last share of the length the end lags behind: its distance nears the whole length without ever coming to it,
    d' = L - s exp(-(d - (L - s)) / s); common practice, no source. Bones stretch by d / d', so that the end is on its
    goal all the same as long as they may.
    """
    if not aim.soft.any() and (aim.stretch <= 1).all():
        return goal, np.ones(goal.shape[1:])
    length, towards = chain.length / held, goal - chain.begins
    distance, zone = length_of(towards), aim.soft * length
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        drawn = length - zone * np.exp(-(distance - (length - zone)) / zone)
        is_soft = (zone > 0) & (distance > length - zone)
        near = np.where(is_soft, drawn, np.minimum(distance, length))
        stretch = np.where(near > 0, np.clip(distance / near, 1.0, np.maximum(aim.stretch, 1.0)), 1.0)
        factor = np.where(is_soft, stretch * drawn / distance, 1.0)
    # A bone that is stretched to its goal is straight, whatever the last digit says.
    factor = np.where(~is_soft & (stretch > 1), 1 + 1e-12, factor)
    return chain.begins + towards * factor, stretch


def _two_bones(chain: ChainPose, goal: Floats, bends: Floats, ranges: tuple[Floats, Floats] | None) -> Floats:
    """Turns of two joints, those that lie beyond their ranges by the nearest way within them."""
    first, second = (applied(*pair).reshape(2, -1) for pair in zip(chain.linear, chain.carried, strict=True))
    above, towards = chain.above[0].reshape(2, 2, -1), (goal - chain.begins).reshape(2, -1)
    bones, shape = (first, above, second, towards, bends.reshape(-1)), (2, *goal.shape[1:])
    turns = two_bones(*bones)
    if ranges is not None:
        low, high = (_in_a_row(ends, shape) for ends in ranges)
        beyond = np.flatnonzero(((turns < low) | (turns > high)).any(axis=0))
        if len(beyond):
            a, m, b, to, side = (of[..., beyond] for of in bones)
            turns[:, beyond] = ranged_bones((a, m, b, to, side), low[:, beyond], high[:, beyond])
    return turns.reshape(shape)


def _bent(chain: ChainPose, goal: Floats, bends: Floats) -> Floats:
    """Turns to begin with: none, but a straight chain turns to its goal, and is bent a little where that is nearer."""
    turns, bones, senses = np.zeros((len(chain.linear), *goal.shape[1:])), np.stack(chain.bones), chain.senses
    whole, towards, length = bones.sum(axis=0), goal - chain.begins, chain.length
    if len(turns) == 1:
        turns[0] = shortest(angle_of(towards) - angle_of(whole))
        return turns
    is_straight = length_of(whole) > (1 - 1e-4) * length
    is_out = length_of(towards) >= length
    heading = shortest(angle_of(towards) - angle_of(whole))
    turns[0] = np.where(is_straight & ~is_out, heading + bends * _BIAS * (len(turns) - 1) / 2, 0.0)
    turns[1:] = np.where(is_straight & ~is_out, -senses[1:] * bends * _BIAS, 0.0)
    # Out of reach every bone points at the goal.
    pointing = shortest(angle_of(towards) - np.arctan2(bones[:, 1], bones[:, 0]))
    single = np.diff(pointing, axis=0, prepend=0.0) * senses
    return np.where(is_out, shortest(single), turns)


def _stepped(chain: ChainPose, start: Floats, goal: Floats, low: Floats, high: Floats) -> tuple[Floats, Floats]:
    """Steps of damped least squares within the ranges, until every end has arrived or the steps have run out.

    Returns
    -------
    turns, miss : arrays, shapes (joints, points) and (points,); how far each end is from where it could be at best, 0
        where it has arrived
    """
    length = chain.turned(start, np.ones(1)).length
    beyond = np.maximum(length_of(goal - chain.begins) - length, 0.0)  # by so much a goal is out of reach
    best, best_miss = start.copy(), np.full(goal.shape[1], np.inf)
    turns, left, in_vain = start, np.arange(goal.shape[1]), np.zeros(goal.shape[1], dtype=int)
    for _ in range(_STEPS):
        end, rates = chain.end(turns)
        miss = goal - chain.begins - end
        distance = length_of(miss)
        short = np.where(distance <= NEAR * length + beyond, 0.0, distance)
        is_better = short < best_miss[left]
        in_vain = np.where(short < _NEARER * best_miss[left], 0, in_vain + 1)
        best[:, left[is_better]] = turns[:, is_better]
        best_miss[left[is_better]] = short[is_better]
        after = _step(turns, rates, miss, length, low, high)
        on = np.flatnonzero((short > 0) & (in_vain < _VAIN_STEPS))
        if not len(on):
            break
        turns, left, in_vain = after[:, on], left[on], in_vain[on]
        chain, goal, low, high = chain.of(on), goal[:, on], low[:, on], high[:, on]
        length, beyond = length[on], beyond[on]
    return best, best_miss


def _step(turns: Floats, rates: Floats, miss: Floats, length: Floats, low: Floats, high: Floats) -> Floats:
    """One step of turns; a joint at the end of its range turns back alone."""
    pull = rates[:, 0] * miss[0] + rates[:, 1] * miss[1]
    is_free = ~(((turns <= low) & (pull < 0)) | ((turns >= high) & (pull > 0)))
    columns = rates * is_free[:, None]
    normal = (columns[:, :, None] * columns[:, None]).sum(axis=0)
    normal += (1e-2 * length_of(miss) * length + 1e-300) * np.eye(2)[..., None]
    by = solved(normal, miss)
    step = columns[:, 0] * by[0] + columns[:, 1] * by[1]
    largest = np.abs(step).max(axis=0)
    with np.errstate(divide="ignore", invalid="ignore"):
        step = step * np.where(largest > _FARTHEST_STEP, _FARTHEST_STEP / largest, 1.0)
    found: Floats = np.clip(turns + step, low, high)
    return found
