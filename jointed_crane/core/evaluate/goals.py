"""What the constraints of a plan refer to over some frames: where goals lie, how they turn, and what numbers say."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import cast

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.kinds import Constraint, Goal, number_channel, numbers_of
from jointed_crane.core.evaluate.plan import Plan
from jointed_crane.core.evaluate.world import World
from jointed_crane.core.geometry.fields import Entry, Matrix, stacked

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Moment:
    """A plan over some frames.

    Attributes
    ----------
    motion : array, shape (curves, frames), the motion value of each of the plan's curves
    turns : array, shape (parts, frames) or (parts, 1), effective turns about z as hands made them, degrees
    """

    plan: Plan
    motion: Floats
    turns: Floats
    frame_count: int

    def numbers(self, row: int, one: Constraint) -> dict[str, Floats]:
        """The numbers of a constraint over the frames, each of shape (frames,)."""
        part = self.plan.parts[row]
        found = {}
        for name in numbers_of(one):
            channel = number_channel(one.id, name)
            curve = self.plan.curve_of.get((row, channel))
            if curve is None:
                found[name] = np.full(self.frame_count, part.rest_value(channel))
            else:
                found[name] = self.motion[curve]
        return found

    def points(self, goals: Sequence[Goal], world: World) -> Floats:
        """Where goals lie on the stage, px, shape (goals, frames, 2)."""
        found = np.empty((len(goals), self.frame_count, 2))
        for place, goal in enumerate(goals):
            if goal.part is None:
                found[place] = self.plan.marks[cast(str, goal.named)]
                continue
            row = self.plan.row_of[goal.part]
            for axis in range(2):
                if goal.at == "pivot":
                    found[place, :, axis] = self.over(world.place[axis], row)
                else:
                    point = self._art_point(row, goal)
                    value = self.over(world.origin[axis], row)
                    for part, number in zip(world.linear[axis], point, strict=True):
                        value = value + self.over(part, row) * number
                    found[place, :, axis] = value
        return found

    def linears(self, goals: Sequence[Goal], world: World) -> Floats:
        """The linear parts of what has the goals, shape (goals, frames, 3, 3); a mark has none of its own."""
        found = np.empty((len(goals), self.frame_count, 3, 3))
        for place, goal in enumerate(goals):
            found[place] = np.eye(3)
            if goal.part is not None:
                found[place] = stacked(row_of(world.linear, self.plan.row_of[goal.part]), (self.frame_count,))
        return found

    def whole_turns(self, goals: Sequence[Goal]) -> Floats:
        """How far what has the goals has been turned about z, whole turns included, radians, shape (goals, frames)."""
        found = np.zeros((len(goals), self.frame_count))
        for place, goal in enumerate(goals):
            row = None if goal.part is None else self.plan.row_of[goal.part]
            while row is not None:
                part = self.plan.parts[row]
                _, _, z, w = part.orientation
                found[place] += np.deg2rad(self.over(self.turns, row)) + 2 * np.arctan2(z, w)
                takes = part.parent is not None and part.inherits.turn
                row = self.plan.row_of[cast(str, part.parent)] if takes else None
        return found

    def _art_point(self, row: int, goal: Goal) -> tuple[float, float, float]:
        part = self.plan.parts[row]
        if goal.at == "centre":
            return part.centre
        if goal.at == "eyelet":
            eyelet = part.eyelet(cast(str, goal.named))
            assert eyelet is not None
            return eyelet.point
        assert goal.point is not None
        return goal.point

    def column(self, column: Sequence[Entry], row: int) -> Floats:
        """One row of x and y over the frames, shape (frames, 2)."""
        return np.stack([self.over(column[axis], row) for axis in range(2)], axis=-1)

    def over(self, value: Entry, row: int) -> Floats:
        """One row of an entry over the frames."""
        if isinstance(value, float):
            return np.full(self.frame_count, value)
        found: Floats = np.broadcast_to(value[0 if len(value) == 1 else row], (self.frame_count,))
        return found

    def matrix(self, matrix: Matrix, row: int) -> Floats:
        """One row of a matrix over the frames, in the plane, shape (frames, 2, 2)."""
        return stacked(row_of(matrix, row), (self.frame_count,))[:, :2, :2]


def row_of(matrix: Matrix, row: int) -> Matrix:
    """One row of a matrix of entries; frames are what is left."""

    def alone(value: Entry) -> Entry:
        return value if isinstance(value, float) else value[0 if len(value) == 1 else row]

    return [[alone(value) for value in line] for line in matrix]
