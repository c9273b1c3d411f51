"""What the constraints of a plan refer to over some frames: where goals lie, how they turn, and what numbers say."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import cast

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.kinds import Constraint, Goal, number_channel, numbers_of
from jointed_crane.core.evaluate.plan import Plan
from jointed_crane.core.evaluate.world import World
from jointed_crane.core.geometry.fields import Entry, Matrix
from jointed_crane.core.scene import Part, Vector

Floats = npt.NDArray[np.float64]
Rows = npt.NDArray[np.intp]


@dataclass(frozen=True)
class Moment:
    """A plan over some frames.

    Attributes
    ----------
    motion : array, shape (curves, frames), the motion value of each of the plan's curves
    turns : array, shape (parts, frames) or (parts, 1), effective turns about z as hands made them, degrees
    frames : array, shape (frames,), ascending; the plan's moments are among them
    added : what links add to the numbers of constraints, by row and channel, shape (frames,)
    """

    plan: Plan
    motion: Floats
    turns: Floats
    frames: Floats
    added: Mapping[tuple[int, str], Floats]

    @property
    def frame_count(self) -> int:
        """How many frames there are."""
        return len(self.frames)

    def column(self, frame: float) -> int:
        """The place of one of the frames."""
        return int(np.searchsorted(self.frames, frame))

    def numbers(self, rows: Sequence[int], ones: Sequence[Constraint]) -> dict[str, Floats]:
        """The numbers of constraints of one kind on parts by their rows, each of shape (constraints, frames)."""
        parts = [self.plan.parts[row] for row in rows]
        shape = (len(parts), self.frame_count)
        found = {}
        for name in numbers_of(ones[0]):
            channels = [number_channel(one.id, name) for one in ones]
            rest = np.array([part.rest_value(channel) for part, channel in zip(parts, channels, strict=True)])
            curves = [self.plan.curve_of.get(pair) for pair in zip(rows, channels, strict=True)]
            found[name] = np.broadcast_to(rest[:, None], shape)
            more = [self.added.get(pair) for pair in zip(rows, channels, strict=True)]
            if any(one is not None for one in (*curves, *more)):
                found[name] = found[name].copy()
                for place, (curve, driven) in enumerate(zip(curves, more, strict=True)):
                    if curve is not None:
                        found[name][place] = self.motion[curve]
                    if driven is not None:
                        found[name][place] += driven
        return found

    def points(self, goals: Sequence[Goal], world: World) -> Floats:
        """Where goals lie on the stage, px, shape (goals, frames, 2)."""
        rows = self._rows(goals)
        points = (art_point(self.plan.parts[row], goal) for row, goal in zip(rows.tolist(), goals, strict=True))
        own = np.array([point or (0.0, 0.0, 0.0) for point in points])  # of what is not on the art nothing is taken
        is_pivot = np.array([[goal.at == "pivot"] for goal in goals])
        found = np.empty((len(goals), self.frame_count, 2))
        for axis in range(2):
            value = self.of(world.origin[axis], rows)
            for part, number in zip(world.linear[axis], own.T, strict=True):
                value = value + self.of(part, rows) * number[:, None]
            found[..., axis] = np.where(is_pivot, self.of(world.place[axis], rows), value)
        for place, goal in enumerate(goals):
            if goal.part is None:
                found[place] = self.plan.marks[cast(str, goal.named)]
        return found

    def linears(self, goals: Sequence[Goal], world: World) -> Floats:
        """The linear parts of what has the goals, shape (goals, frames, 3, 3); a mark has none of its own."""
        rows = self._rows(goals)
        found = self.matrices(world.linear, rows, 3)
        found[rows < 0] = np.eye(3)
        return found

    def whole_turns(self, goals: Sequence[Goal]) -> Floats:
        """How far what has the goals has been turned about z, whole turns included, radians, shape (goals, frames)."""
        found = np.zeros((len(goals), self.frame_count))
        for place, goal in enumerate(goals):
            row = None if goal.part is None else self.plan.row_of[goal.part]
            while row is not None:
                part = self.plan.parts[row]
                _, _, z, w = part.orientation
                found[place] += np.deg2rad(self.of(self.turns, np.array(row))) + 2 * np.arctan2(z, w)
                takes = part.parent is not None and part.inherits.turn
                row = self.plan.row_of[cast(str, part.parent)] if takes else None
        return found

    def _rows(self, goals: Sequence[Goal]) -> Rows:
        """The row of what has each goal; -1 for a mark."""
        return np.array([-1 if goal.part is None else self.plan.row_of[goal.part] for goal in goals])

    def of(self, value: Entry, rows: Rows) -> Floats:
        """Some rows of an entry over the frames, shape (*rows, frames)."""
        if isinstance(value, float):
            return np.full((*rows.shape, self.frame_count), value)
        found: Floats = value[np.zeros_like(rows) if len(value) == 1 else rows]
        return found if found.shape[-1] == self.frame_count else np.repeat(found, self.frame_count, axis=-1)

    def columns(self, column: Sequence[Entry], rows: Rows, size: int = 2) -> Floats:
        """Some rows of a column over the frames, by default in the plane, shape (*rows, frames, size)."""
        return np.stack([self.of(column[axis], rows) for axis in range(size)], axis=-1)

    def matrices(self, matrix: Matrix, rows: Rows, size: int = 2) -> Floats:
        """Some rows of a matrix over the frames, by default in the plane, shape (*rows, frames, size, size)."""
        found = np.empty((*rows.shape, self.frame_count, size, size))
        for i in range(size):
            for j in range(size):
                found[..., i, j] = self.of(matrix[i][j], rows)
        return found


def art_point(part: Part, goal: Goal) -> Vector | None:
    """Where on the art of its part a goal lies, px; None for a pivot, and for an eyelet that is not there."""
    if goal.at == "centre":
        return part.centre
    if goal.at == "eyelet":
        eyelet = part.eyelet(goal.named or "")
        return None if eyelet is None else eyelet.point
    return goal.point
