"""Chains that reach, at work: how far their joints turn, found before the wave of the first joint is placed."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.placed import rotated
from jointed_crane.core.constraints.reach import Aim, ChainPose, Reached, reached
from jointed_crane.core.evaluate.goals import Moment
from jointed_crane.core.evaluate.plan import Chain, Wave
from jointed_crane.core.evaluate.turn_changes import EndPose, with_changes
from jointed_crane.core.evaluate.world import World
from jointed_crane.core.geometry.fields import Matrix
from jointed_crane.core.placement import Local

Floats = npt.NDArray[np.float64]


@dataclass
class Chains:
    """The chains of a plan.

    Attributes
    ----------
    turns : how far each joint turns beyond what hands turned it, by its row, radians, shape (frames,)
    stretches : by how much each joint is stretched along its bone, by its row, shape (frames, 2, 2)
    loosened : what keeps parts of a chain from being stretched with the joints above them, before their own linear
        parts, by row, shape (frames, 2, 2)
    level : the linear parts that ends keep whatever turns above them, by their rows, shape (frames, 2, 2)
    """

    moment: Moment
    turns: dict[int, Floats] = field(default_factory=dict)
    stretches: dict[int, Floats] = field(default_factory=dict)
    loosened: dict[int, Floats] = field(default_factory=dict)
    level: dict[int, Floats] = field(default_factory=dict)

    def reach(self, wave: Wave, world: World, local: Local) -> None:
        """Find how far the joints turn of all chains that begin in a wave; equally long ones together."""
        by_length: dict[int, list[Chain]] = {}
        for row in range(wave.rows.start, wave.rows.stop):
            for chain in self.moment.plan.chains.get(row, ()):
                by_length.setdefault(len(chain.joints), []).append(chain)
        for chains in by_length.values():
            self._reach(chains, world, local)

    def _reach(self, chains: list[Chain], world: World, local: Local) -> None:
        rows = np.array([chain.joints for chain in chains]).T
        linear, origin = self._above(rows[0], world)
        pose = self._pose(chains, rows, local)
        goals = self.moment.points([chain.reach.goal for chain in chains], world)
        low, high = self._ranges(rows)
        numbers = self.moment.numbers([chain.row for chain in chains], [chain.reach for chain in chains])
        soft, stretch, weight = (numbers[name] for name in ("soft", "stretch", "weight"))
        bends = np.array([[float(chain.reach.bends)] for chain in chains])
        aim = Aim(linear, origin, goals, bends, soft, stretch, weight, low, high)
        found = reached(pose, aim)
        for place, chain in enumerate(chains):
            own, level = found.of(place), None
            if chain.reach.changes or chain.reach.keeps_turn:
                end = self._end_below(chain, local)
            if chain.reach.keeps_turn:
                level = end.below(linear[place], np.zeros_like(own.turns))
            if chain.reach.changes:
                columns = [self.moment.column(change.frame) for change in chain.reach.changes]
                own, level = with_changes(pose.of_chain(place), aim.of(place), own, end, level, chain.reach, columns)
            self._keep(chain, pose.of_chain(place), own, level)

    def _keep(self, chain: Chain, pose: ChainPose, found: Reached, level: Floats | None) -> None:
        if level is not None:
            self.level[chain.row] = level
        for joint, row in enumerate(chain.joints):
            self.turns[row] = self.turns.get(row, 0.0) + found.turns[joint]
        if not (found.stretch == 1).all():
            for joint, row in enumerate(chain.joints):
                along = pose.along(joint, found.stretch, chain.reach.keeps_area)
                self.stretches[row] = along
                below = chain.joints[joint + 1] if joint + 1 < len(chain.joints) else chain.row
                if below != row:
                    spin = pose.spin[joint]
                    self.loosened[below] = np.linalg.inv(along @ spin) @ spin

    def _above(self, rows: npt.NDArray[np.intp], world: World) -> tuple[Floats, Floats]:
        """What rows hang on, in the plane: linear parts, (rows, frames, 2, 2), and translations, (rows, frames, 2)."""
        plan = self.moment.plan
        parents = [plan.parts[row].parent for row in rows.tolist()]
        above = np.array([-1 if parent is None else plan.row_of[parent] for parent in parents])
        linear, origin = self.moment.matrices(world.linear, above), self.moment.columns(world.origin, above)
        linear[above < 0], origin[above < 0] = np.eye(2), 0.0
        return linear, origin

    def _pose(self, chains: list[Chain], rows: npt.NDArray[np.intp], local: Local) -> ChainPose:
        """Chains as hands turned them; rows of their joints, shape (joints, chains)."""
        below = np.array([(*chain.joints[1:], chain.row) for chain in chains]).T
        linear, spin = self.moment.matrices(local.linear, rows), self.moment.matrices(local.spin, rows)
        points = self.moment.columns(local.place, below)
        for place, chain in enumerate(chains):
            if chain.reach.tip is not None:
                points[-1, place] = chain.reach.tip[:2]
            for joint, row in enumerate(chain.joints):
                linear[joint, place] = self._turned(linear[joint, place], row)
        carried = np.einsum("kcfij,kcfj->kcfi", spin, points) + self.moment.columns(local.tail, rows)
        return ChainPose(self.moment.columns(local.place, rows[0]), linear, spin, carried)

    def _end_below(self, chain: Chain, local: Local) -> EndPose:
        """The linear parts from the first joint down to the part at the end of a chain."""
        rows = list(dict.fromkeys((*chain.joints, chain.row)))
        linear = [self.moment.matrices(local.linear, np.array(row)) for row in rows]
        return EndPose(linear, [self.moment.matrices(local.spin, np.array(row)) for row in rows[:-1]])

    def _ranges(self, rows: npt.NDArray[np.intp]) -> tuple[Floats, Floats]:
        """How far joints may turn beyond what hands turned them, radians, shape (joints, chains, frames)."""
        shape = (*rows.shape, self.moment.frame_count)
        low, high = np.full(shape, -np.inf), np.full(shape, np.inf)
        for place in np.ndindex(rows.shape):
            row = int(rows[place])
            part = self.moment.plan.parts[row]
            if "turn.z" in part.limits:
                now = np.deg2rad(self.moment.of(self.moment.turns, np.array(row)) - part.rest_value("turn.z"))
                now = now + self.turns.get(row, 0.0)
                ends = part.limits["turn.z"]
                if ends[0] is not None:
                    low[place] = np.minimum(np.deg2rad(ends[0]) - now, 0.0)
                if ends[1] is not None:
                    high[place] = np.maximum(np.deg2rad(ends[1]) - now, 0.0)
        return low, high

    def turned(self, own: Local, wave: Wave) -> Local:
        """Parts of a wave in their parents, with the joints among them turned and stretched."""
        rows = [row for row in range(wave.rows.start, wave.rows.stop) if row in self.turns or row in self.loosened]
        if not rows:
            return own
        here = np.array(rows) - wave.rows.start
        linear = self.moment.matrices(own.linear, here, 3)
        for place, row in enumerate(rows):
            linear[place] = self._turned(linear[place], row)
            if row in self.stretches:
                linear[place, :, :, :2] = linear[place, :, :, :2] @ self.stretches[row]
            if row in self.loosened:
                linear[place, :, :2] = self.loosened[row] @ linear[place, :, :2]
        count = wave.rows.stop - wave.rows.start
        changed = replace(own, linear=self._with_rows(own.linear, here, linear, count))
        if not own.plain:
            return changed
        plain = self.moment.matrices(own.plain, here, 3)
        for place, row in enumerate(rows):
            plain[place] = self._turned(plain[place], row)
        return replace(changed, plain=self._with_rows(own.plain, here, plain, count))

    def _with_rows(self, matrix: Matrix, rows: npt.NDArray[np.intp], news: Floats, count: int) -> Matrix:
        """The entries of a matrix with some of its rows changed; what stays as it is in all of them is not copied."""
        found: Matrix = [list(entries) for entries in matrix]
        for i, j in np.ndindex(3, 3):
            known, new = matrix[i][j], news[..., i, j]
            if isinstance(known, float) and (new == known).all():
                continue
            full = np.empty((count, self.moment.frame_count))
            full[:] = known
            full[rows] = new
            found[i][j] = full
        return found

    def _turned(self, linear: Floats, row: int) -> Floats:
        return rotated(linear, self.turns[row]) if row in self.turns else linear
