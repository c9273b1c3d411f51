"""Chains that reach, at work: how far their joints turn, found before the wave of the first joint is placed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.reach import Aim, ChainPose, reached
from jointed_crane.core.evaluate.goals import Moment
from jointed_crane.core.evaluate.plan import Chain, Reaching, Wave
from jointed_crane.core.evaluate.turn_changes import EndPose, with_changes
from jointed_crane.core.evaluate.world import World
from jointed_crane.core.geometry import plane
from jointed_crane.core.geometry.fields import IDENTITY, Matrix, matrices_of_rows, product, rotation, with_rows
from jointed_crane.core.placement import Local

Floats = npt.NDArray[np.float64]


@dataclass
class Chains:
    """The chains of a plan.

    Attributes
    ----------
    turns : how far each joint turns beyond what hands turned it, by its row, radians, shape (frames,)
    stretches : by how much each joint is stretched along its bone, by its row, shape (2, 2, frames)
    loosened : what keeps parts of a chain from being stretched with the joints above them, before their own linear
        parts, by row, shape (2, 2, frames)
    level : the linear parts that ends keep whatever turns above them, by their rows, shape (2, 2, frames)
    """

    moment: Moment
    turns: dict[int, Floats] = field(default_factory=dict)
    stretches: dict[int, Floats] = field(default_factory=dict)
    loosened: dict[int, Floats] = field(default_factory=dict)
    level: dict[int, Floats] = field(default_factory=dict)

    def reach(self, group: Reaching, world: World, local: Local) -> None:
        """Find how far the joints of some chains turn."""
        chains = group.chains
        rows = np.array([chain.joints for chain in chains]).T
        linear, origin = self._above(rows[0], world)
        pose = self._pose(chains, rows, local)
        goals = self.moment.points(group.goals[0], world)
        numbers = self.moment.numbers(group)
        soft, stretch, weight = (numbers[name] for name in ("soft", "stretch", "weight"))
        bends = np.array([[float(chain.reach.bends)] for chain in chains])
        aim = Aim(linear, origin, goals, bends, soft, stretch, weight, *self._ranges(rows))
        found = reached(pose, aim)
        stretches = not (found.stretch == 1).all()
        for place, chain in enumerate(chains):
            own, level = found.of(place), None
            if chain.reach.changes or chain.reach.keeps_turn:
                end = self._end_below(chain, local)
            if chain.reach.keeps_turn:
                level = self.level[chain.row] = end.below(linear[:, :, place], np.zeros_like(own.turns))
            if chain.reach.changes:
                columns = [self.moment.column(change.frame) for change in chain.reach.changes]
                own, level = with_changes(pose.of(place), aim.of(place), own, end, level, chain.reach, columns)
                if level is not None:
                    self.level[chain.row] = level
            for joint, row in enumerate(chain.joints):
                self.turns[row] = self.turns.get(row, 0.0) + own.turns[joint]
            if stretches or chain.reach.changes:
                self._stretch(chain, pose.of(place), own.stretch)

    def _stretch(self, chain: Chain, pose: ChainPose, stretch: Floats) -> None:
        if (stretch == 1).all():
            return
        for joint, row in enumerate(chain.joints):
            along = pose.along(joint, stretch, chain.reach.keeps_area)
            self.stretches[row] = along
            below = chain.joints[joint + 1] if joint + 1 < len(chain.joints) else chain.row
            if below != row:
                spin = pose.spin[joint]
                spun = plane.product(along, spin)
                self.loosened[below] = np.stack([plane.solved(spun, spin[:, j]) for j in range(2)], axis=1)

    def _above(self, rows: npt.NDArray[np.intp], world: World) -> tuple[Floats, Floats]:
        """What rows hang on, in the plane: linear parts, (2, 2, rows, frames), and translations, (2, rows, frames)."""
        plan = self.moment.plan
        parents = [plan.parts[row].parent for row in rows.tolist()]
        above = np.array([-1 if parent is None else plan.row_of[parent] for parent in parents])
        linear, origin = self.moment.matrices(world.linear, above), self.moment.columns(world.origin, above)
        linear[:, :, above < 0], origin[:, above < 0] = np.eye(2)[..., None, None], 0.0
        return linear, origin

    def _pose(self, chains: Sequence[Chain], rows: npt.NDArray[np.intp], local: Local) -> ChainPose:
        """Chains as hands turned them; rows of their joints, shape (joints, chains)."""
        below = np.array([(*chain.joints[1:], chain.row) for chain in chains]).T
        linear, spin = (np.moveaxis(self.moment.matrices(of, rows), 2, 0) for of in (local.linear, local.spin))
        points = self.moment.columns(local.place, below)
        for place, chain in enumerate(chains):
            if chain.reach.tip is not None:
                points[:, -1, place] = np.array(chain.reach.tip[:2])[:, None]
            for joint, row in enumerate(chain.joints):
                if row in self.turns:
                    linear[joint, :, :, place] = plane.turned(linear[joint, :, :, place], self.turns[row])
        tails = np.moveaxis(self.moment.columns(local.tail, rows), 1, 0)
        carried = np.stack([plane.applied(*pair) for pair in zip(spin, np.moveaxis(points, 1, 0), strict=True)]) + tails
        return ChainPose(self.moment.columns(local.place, rows[0]), linear, spin, carried)

    def _end_below(self, chain: Chain, local: Local) -> EndPose:
        """The linear parts from the first joint down to the part at the end of a chain."""
        rows = list(dict.fromkeys((*chain.joints, chain.row)))
        linear = [self.moment.matrices(local.linear, np.array(row)) for row in rows]
        return EndPose(linear, [self.moment.matrices(local.spin, np.array(row)) for row in rows[:-1]])

    def _ranges(self, rows: npt.NDArray[np.intp]) -> tuple[Floats, Floats]:
        """How far joints may turn beyond what hands turned them, radians, shape (joints, chains, frames) or (joints,
        chains, 1).
        """
        is_free = not any("turn.z" in self.moment.plan.parts[row].limits for row in rows.flat)
        shape = (*rows.shape, 1 if is_free else self.moment.frame_count)
        low, high = np.full(shape, -np.inf), np.full(shape, np.inf)
        if is_free:
            return low, high
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

    def acted(self, own: Local, wave: Wave) -> Local:
        """Parts of a wave in their parents, with the joints among them turned and stretched."""
        rows = sorted(row for row in {*self.turns, *self.loosened} if wave.rows.start <= row < wave.rows.stop)
        if not rows:
            return own
        here = np.array(rows) - wave.rows.start
        shape = (wave.rows.stop - wave.rows.start, self.moment.frame_count)
        still = np.zeros(self.moment.frame_count)
        turn = rotation(2, np.stack([self.turns.get(row, still) for row in rows]))
        linear = product(turn, matrices_of_rows(own.linear, here))
        stretches, loosened = self._matrices(self.stretches, rows), self._matrices(self.loosened, rows)
        linear = product(product(loosened, linear), stretches)
        found = replace(own, linear=_with_rows(own.linear, here, linear, shape))
        if not own.plain:
            return found
        plain = product(turn, matrices_of_rows(own.plain, here))
        return replace(found, plain=_with_rows(own.plain, here, plain, shape))

    def _matrices(self, known: dict[int, Floats], rows: list[int]) -> Matrix:
        """Matrices in the plane by their rows, as entries; the identity where there is none."""
        if not any(row in known for row in rows):
            return IDENTITY
        none = np.broadcast_to(np.eye(2)[..., None], (2, 2, self.moment.frame_count))
        (a, b), (c, d) = np.stack([known.get(row, none) for row in rows], axis=2)
        return [[a, b, 0.0], [c, d, 0.0], [0.0, 0.0, 1.0]]


def _with_rows(matrix: Matrix, rows: npt.NDArray[np.intp], news: Matrix, shape: tuple[int, int]) -> Matrix:
    return [[with_rows(matrix[i][j], rows, news[i][j], shape) for j in range(3)] for i in range(3)]
