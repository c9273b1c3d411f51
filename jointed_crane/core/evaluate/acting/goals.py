"""What the constraints of a plan refer to over some frames: where goals lie, how they turn, and what numbers say."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from jointed_crane.core.evaluate.packing.constraint_columns import GoalRows, Numbered, Together
from jointed_crane.core.evaluate.packing.plan import Plan
from jointed_crane.core.evaluate.world import World
from jointed_crane.core.geometry.bearings import VANISHED
from jointed_crane.core.geometry.decomposition import angle_about_z
from jointed_crane.core.geometry.fields import Entry, Matrix
from jointed_crane.core.geometry.plane import angle_of, determinant, length_of

Floats = npt.NDArray[np.float64]
Rows = npt.NDArray[np.intp]


@dataclass(frozen=True)
class Moment:
    """A plan over some frames.

    Attributes
    ----------
    motion : array, shape (curves, frames), the motion value of each of the plan's curves
    turns, spins : arrays, shape (parts, frames) or (parts, 1), effective turns about z as hands made them, degrees
    widths : array, shape (parts, frames) or (parts, 1), effective scales along x
    drawings : array, shape (parts, frames) or (parts, 1), the numbers of the drawings shown
    frames : array, shape (frames,), ascending; the plan's moments are among them
    added : what links add to the numbers of constraints, by row and channel, shape (frames,)
    bare : values of numbers without a curve, by channel and row
    bent, turned : how far chains have turned joints in their parents, and constraints parts on the stage, by row, as
        far as they have acted, radians; kept only where somebody counts turns
    """

    plan: Plan
    motion: Floats
    turns: Floats
    spins: Floats
    widths: Floats
    drawings: Floats
    frames: Floats
    added: Mapping[tuple[int, str], Floats]
    bare: Mapping[str, Mapping[int, float]]
    bent: dict[int, Entry] = field(default_factory=dict)
    turned: dict[int, Entry] = field(default_factory=dict)

    @property
    def frame_count(self) -> int:
        """How many frames there are."""
        return len(self.frames)

    def column(self, frame: float) -> int:
        """The place of one of the frames."""
        return int(np.searchsorted(self.frames, frame))

    def numbers(self, group: Together) -> dict[str, Floats]:
        """The numbers of constraints that act together, each of shape (constraints, frames), or (constraints, 1) where
        nothing moves it.
        """
        result = {}
        for name, of in self.plan.terms_of(group).numbers.items():
            driven = [place for place, pair in enumerate(of.names) if pair in self.added] if self.added else []
            result[name] = self._with_bare(of) if self.bare else of.rest
            if of.curves or driven:
                result[name] = np.repeat(result[name], self.frame_count, axis=1)
                for place, curve in of.curves:
                    result[name][place] = self.motion[curve]
                for place in driven:
                    result[name][place] += self.added[of.names[place]]
                if of.ends is not None:
                    result[name] = np.clip(result[name], *of.ends)
        return result

    def _with_bare(self, of: Numbered) -> Floats:
        """What a number rests at, or the values that hold instead, shape (constraints, 1)."""
        held = [self.bare.get(channel, {}).get(row) for row, channel in of.names]
        return np.array(
            [rest if value is None else [value] for rest, value in zip(of.rest.tolist(), held, strict=True)]
        )

    def points(self, goals: GoalRows, world: World, size: int = 2) -> Floats:
        """Where goals lie on the stage, by default in its plane, px, shape (size, goals, frames)."""
        if len(goals.pivots) == len(goals.rows):
            return self.columns(world.place, goals.rows, size)
        result = np.empty((size, len(goals.rows), self.frame_count))
        for axis in range(size):
            if len(goals.pivots):
                result[axis, goals.pivots] = self.of(world.place[axis], goals.rows[goals.pivots])
            if len(goals.points):
                rows = goals.rows[goals.points]
                value: Entry = self.of(world.origin[axis], rows)
                for part, number in enumerate(world.linear[axis]):
                    value = value + self.of(number, rows) * goals.own[:, part]
                result[axis, goals.points] = value
        if len(goals.marks):
            result[:2, goals.marks], result[2:, goals.marks] = goals.on_stage, 0.0
        return result

    def linears(self, goals: GoalRows, world: World, size: int = 2) -> Floats:
        """The linear parts, by default in the plane, of what has the goals, shape (size, size, goals, frames); a mark
        has none of its own.
        """
        result = self.matrices(world.linear, goals.rows, size)
        if len(goals.marks):
            result[:, :, goals.marks] = np.eye(size)[..., None, None]
        return result

    def whole_turns(self, goals: GoalRows, world: World) -> Floats:
        """How far what has the goals is turned about z as it is shown, whole turns included, radians, shape (goals,
        frames).
        """
        shown = angle_of(self.linears(goals, world)[:, 0])
        counted = np.zeros_like(shown)
        for place, row in enumerate(goals.rows.tolist()):
            if row >= 0:
                counted[place] = self._counted(row, world) + np.pi * self._is_reversed(row)
        return np.asarray(shown + 2 * np.pi * np.round((counted - shown) / (2 * np.pi)))

    def _is_reversed(self, row: int) -> npt.NDArray[np.bool_]:
        """Whether the x of a part goes the other way than its turns say, half a turn off: where scales along x have
        reversed it, its own and those that it takes over.
        """
        part = self.plan.parts[row]
        result = self.of(self.widths, np.array(row)) < 0
        if part.parent is None or not part.inherits.scale:
            return result
        return np.asarray(result ^ self._is_reversed(self.plan.row_of[part.parent]))

    def _counted(self, row: int, world: World) -> Floats:
        """All turns of a part and of what it takes over from its parents added up, radians, shape (frames,): those in a
        mirrored parent go the other way round.
        """
        part = self.plan.parts[row]
        turn, spin = (np.deg2rad(self.of(values, np.array(row))) for values in (self.turns, self.spins))
        turn = turn + angle_about_z(part.orientation) + self.bent.get(row, 0.0)
        result = spin * self._sense(row, world) + self.turned.get(row, 0.0)
        if part.parent is None:
            return np.asarray(result + turn)
        above = self.plan.row_of[part.parent]
        result = result + turn * (self._sense(above, world) if part.inherits.scale else 1.0)
        return np.asarray(result + self._counted(above, world) if part.inherits.turn else result)

    def _sense(self, row: int, world: World) -> Floats:
        """-1 where a part is seen mirrored, else 1, shape (frames,); one that has vanished is not."""
        linear = self.matrices(world.linear, np.array(row))
        least = VANISHED * length_of(linear[:, 0]) * length_of(linear[:, 1])
        return np.where(determinant(linear) < -least, -1.0, 1.0)

    def of(self, value: Entry, rows: Rows) -> Floats:
        """Some rows of an entry, shape (*rows, frames), or (*rows, 1) where no frame differs."""
        if isinstance(value, float):
            return np.full((*rows.shape, 1), value)
        result: Floats = value[np.zeros_like(rows) if len(value) == 1 else rows]
        return result

    def columns(self, column: Sequence[Entry], rows: Rows, size: int = 2) -> Floats:
        """Some rows of a column over the frames, by default in the plane, shape (size, *rows, frames)."""
        result = np.empty((size, *rows.shape, self.frame_count))
        self._put_row(result, column, rows)
        return result

    def matrices(self, matrix: Matrix, rows: Rows, size: int = 2) -> Floats:
        """Some rows of a matrix over the frames, by default in the plane, shape (size, size, *rows, frames)."""
        result = np.empty((size, size, *rows.shape, self.frame_count))
        for axis in range(size):
            self._put_row(result[axis], matrix[axis], rows)
        return result

    def _put_row(self, target: Floats, entries: Sequence[Entry], rows: Rows) -> None:
        for place, each in enumerate(target):
            self._put(each, entries[place], rows)

    def _put(self, target: Floats, value: Entry, rows: Rows) -> None:
        if isinstance(value, float) or len(value) == 1 or value.shape[1] < self.frame_count:
            target[:] = self.of(value, rows)
        else:
            value.take(rows, axis=0, out=target, mode="wrap")  # -1 is the last row, to be written over
