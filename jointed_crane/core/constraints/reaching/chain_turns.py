"""Reach: how far the joints of a chain turn so that its end comes to a goal.

Two bones by the law of cosines or the one angle that is left, longer chains along their way. What cannot be met comes
as near as it can, as the stage shows it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from jointed_crane.core.constraints.reaching.chain_pose import ChainPose
from jointed_crane.core.constraints.reaching.long_chains import LongChains
from jointed_crane.core.constraints.reaching.nearest_on_stage import nearest_turn
from jointed_crane.core.constraints.reaching.ranged_bones import ranged_bones, within
from jointed_crane.core.constraints.reaching.small_steps import NEAR, stepped
from jointed_crane.core.constraints.reaching.two_bones import is_even, two_bones
from jointed_crane.core.geometry.plane import (
    Floats,
    angle_of,
    applied,
    determinant,
    length_of,
    shortest,
    solved,
    turned,
)

#: How far a goal lies for which bones are as straight as they can, as a share of the length of the chain.
_FAR = 1e3


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
    through : array, shape (joints - 1, ...), the bends of a pose through which chains are led, radians towards the
        side; no number where longer ones are by the one that hands give, and two bones by none
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
    through: Floats

    def of(self, place: int) -> Aim:
        """What one chain is to reach."""
        return Aim(
            self.linear[:, :, place], self.origin[:, place], self.goals[:, place], self.bends[place],
            self.soft[place], self.stretch[place], self.weight[place], self.low[:, place], self.high[:, place],
            self.through[:, place],
        )  # fmt: skip

    def side(self) -> Floats:
        """On which side joints lie in the space of the first one's parent: 1 is clockwise of the line to the goal."""
        return self.bends * np.copysign(1.0, determinant(self.linear))


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
    chains go along their way; so do two bones that are led through a pose, as far as that meets the goal. An end out of
    reach comes as near as it can, as the stage shows it.

    Parameters
    ----------
    held : how many times their own length the bones of `chain` are already
    """
    sense = determinant(aim.linear)
    goal = solved(aim.linear, aim.goals - aim.origin)
    weight = aim.weight if sense.all() else np.where(sense == 0, 0.0, aim.weight)
    solver = Solver(chain, aim.side(), aim.low, aim.high, aim.through, _uneven(aim.linear))
    goal, stretch = _approached(solver, goal, aim, held)
    stretch = (1 + weight * (stretch - 1)) / held
    # What is stretched comes where it came before, so many times as far.
    goal = goal if (stretch == 1).all() else chain.begins + (goal - chain.begins) / stretch
    return Reached(weight * solver.turns(goal), stretch)


def _uneven(linear: Floats) -> Floats | None:
    """What makes the stage uneven, as large as 1; None where nothing does."""
    if is_even(linear).all():
        return None
    size = np.abs(linear).max(axis=(0, 1))
    return linear / np.where(size > 0, size, 1.0)


@dataclass(frozen=True, eq=False)
class Solver:
    """Chains and what they are to keep to while they reach.

    Attributes
    ----------
    sides : array, 1 where the joint lies clockwise of the line to the goal in the space of the first joint's parent,
        else -1
    low, high : arrays, shape (joints, ...), how far each joint may turn, radians
    through : array, shape (joints - 1, ...), the bends of a pose through which chains are led, radians towards the
        side; no number where longer ones are by the one that hands give, and two bones by none
    seen : array, shape (2, 2, ...), what makes the stage uneven, about as large as 1; None where it is even
    """

    chain: ChainPose
    sides: Floats
    low: Floats
    high: Floats
    through: Floats
    seen: Floats | None = None

    @property
    def _count(self) -> int:
        return len(self.chain.linear)

    @cached_property
    def _shape(self) -> tuple[int, ...]:
        return self.chain.begins.shape[1:]

    @cached_property
    def _is_ranged(self) -> bool:
        return bool(np.isfinite(self.low).any() or np.isfinite(self.high).any())

    def _row(self, values: Floats, *components: int) -> Floats:
        """Values with one axis after their components, (points,)."""
        return np.broadcast_to(values, (*components, *self._shape)).reshape(*components, -1)

    @cached_property
    def _ranges(self) -> tuple[Floats, Floats]:
        return self._row(self.low, self._count), self._row(self.high, self._count)

    @cached_property
    def _seen(self) -> Floats | None:
        return None if self.seen is None else self._row(self.seen, 2, 2)

    @cached_property
    def _bones(self) -> tuple[Floats, Floats, Floats]:
        """a, M and b of two bones, as `two_bones` takes them."""
        pairs = zip(self.chain.linear, self.chain.carried, strict=True)
        first, second = (self._row(applied(*pair), 2) for pair in pairs)
        return first, self._row(self.chain.above[0], 2, 2), second

    @cached_property
    def long(self) -> LongChains:
        """The chains that go along their ways."""
        limb, sides, through = self.chain.limb, self._row(self.sides), self._row(self.through, self._count - 1)
        if np.isnan(through).any():
            own = limb.bends(sides)
            own = own * np.where(own.sum(axis=0) < 0, -1.0, 1.0)  # towards the side that is asked for
            through = np.where(np.isnan(through), own, through)
        return LongChains(limb, sides, through, *self._ranges)

    @property
    def farthest(self) -> Floats:
        """How far ends come from their first joints, px, whatever ranges those have."""
        if self._count == 1:
            return length_of(self.chain.bones[0])
        if self._count > 2:
            return self.long.farthest.reshape(self._shape)
        first, above, second = self._bones
        far = np.zeros_like(first)
        far[0] = _FAR * (length_of(first) + length_of(second) * np.abs(above).sum(axis=(0, 1)))
        free = replace(self, low=_with_first(self.low, -np.inf), high=_with_first(self.high, np.inf), seen=None)
        turns = free._turns_of_two(far)
        return length_of(first + applied(above, turned(second, turns[1]))).reshape(self._shape)

    def turns(self, goal: Floats) -> Floats:
        """How far each joint turns, radians, shape (joints, ...), for an end to come to its goal, or as near as it can.

        Parameters
        ----------
        goal : array, shape (2, ...), px in the space of the first joint's parent
        """
        towards = self._row(goal - self.chain.begins, 2)
        if self._count == 2:
            result = self._turns_of_two(towards)
            if not np.isnan(self.through).all():
                result = self._led(result, towards)
        else:
            result = self._turns_of_one(towards) if self._count == 1 else self.long.turns(towards)
        result = self._looked_at(result, towards)
        return result.reshape(self._count, *self._shape)

    def _led(self, found: Floats, towards: Floats) -> Floats:
        """Turns of two joints, those along their ways where these bring the ends to their goals."""
        row, turns = self.chain.in_a_row(), self.long.turns(towards)
        return np.where(length_of(row.end(turns)[0] - towards) <= NEAR * row.length, turns, found)

    def _turns_of_one(self, towards: Floats) -> Floats:
        heading = shortest(angle_of(towards) - angle_of(self._row(self.chain.bones[0], 2)))[None]
        return within(heading, *self._ranges)[0] if self._is_ranged else heading

    def _turns_of_two(self, towards: Floats) -> Floats:
        """Turns of two joints, those that lie beyond their ranges by the nearest way within them."""
        bones = (*self._bones, towards, self._row(self.sides))
        turns = two_bones(*bones)
        if self._is_ranged:
            low, high = self._ranges
            beyond = np.flatnonzero(((turns < low) | (turns > high)).any(axis=0))
            if self._seen is not None:
                beyond = np.arange(turns.shape[1])
            if len(beyond):
                a, m, b, to, side = (of[..., beyond] for of in bones)
                seen = None if self._seen is None else self._seen[:, :, beyond]
                turns[:, beyond] = ranged_bones((a, m, b, to, side), low[:, beyond], high[:, beyond], seen)
        return turns

    def _looked_at(self, turns: Floats, towards: Floats) -> Floats:
        """Turns of ends that do not come to their goals: the first joint points each where the stage shows it nearest,
        and where its range does not let it, the others step off from there.
        """
        is_held = self._is_ranged and bool(np.isfinite(np.stack([self.low[0], self.high[0]])).any())
        if self._count == 2:
            return turns if self._seen is None or self._is_ranged else self._pointed(turns, towards)
        if self._seen is not None:
            turns = self._pointed(turns, towards)
        if not is_held or self._count == 1:
            return turns
        row = self.chain.in_a_row()
        short = np.flatnonzero(length_of(row.end(turns)[0] - towards) > NEAR * row.length)
        if len(short):
            seen = np.broadcast_to(np.eye(2)[..., None], (2, 2, len(short)))
            seen = seen if self._seen is None else self._seen[:, :, short]
            low, high = (ends[:, short] for ends in self._ranges)
            turns[:, short] = stepped(row.of(short), turns[:, short], towards[:, short], low, high, seen)
        return turns

    def _pointed(self, turns: Floats, towards: Floats) -> Floats:
        """The first joint turned to where the stage shows the end nearest to its goal, the others turned already."""
        assert self._seen is not None
        if self._count == 2:
            first, above, second = self._bones
            end = first + applied(above, turned(second, turns[1]))
        else:
            end, _ = self.chain.in_a_row().end(np.concatenate([np.zeros_like(turns[:1]), turns[1:]]))
        reach, away = length_of(end), length_of(towards)
        short = np.flatnonzero(np.abs(reach - away) > NEAR * (reach + away))
        if len(short):
            seen = self._seen[:, :, short]
            heading = shortest(nearest_turn(seen, end[:, short], applied(seen, towards[:, short])))
            if self._is_ranged:
                heading = within(heading, *(ends[0, short] for ends in self._ranges))[0]
            turns[0, short] = heading
        return turns


def _with_first(ends: Floats, end: float) -> Floats:
    result = ends.copy()
    result[0] = end
    return result


def _approached(solver: Solver, goal: Floats, aim: Aim, held: float) -> tuple[Floats, Floats]:
    """Where the end goes, and how far bones stretch to come to the goal.

    In the last share of the length the end lags behind: its distance nears the whole length without ever coming to it,
    d' = L - s exp(-(d - (L - s)) / s); common practice, no source. Bones stretch by d / d', so that the end is on its
    goal all the same as long as they may. The length is how far the end comes.
    """
    if not aim.soft.any() and (aim.stretch <= 1).all():
        return goal, np.ones(goal.shape[1:])
    begins = solver.chain.begins
    length, towards = solver.farthest / held, goal - begins
    distance, zone = length_of(towards), aim.soft * length
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        drawn = length - zone * np.exp(-(distance - (length - zone)) / zone)
        is_soft = (zone > 0) & (distance > length - zone)
        near = np.where(is_soft, drawn, np.minimum(distance, length))
        stretch = np.where(near > 0, np.clip(distance / near, 1.0, np.maximum(aim.stretch, 1.0)), 1.0)
        factor = np.where(is_soft, stretch * drawn / distance, 1.0)
    # A bone that is stretched to its goal is straight, whatever the last digit says.
    factor = np.where(~is_soft & (stretch > 1), 1 + 1e-12, factor)
    return begins + towards * factor, stretch
