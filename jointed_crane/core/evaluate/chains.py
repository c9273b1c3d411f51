"""Chains that reach, at work: how far their joints turn, found before the wave of the first joint is placed."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.placed import rotated
from jointed_crane.core.constraints.reach import ChainPose, turns_to_reach
from jointed_crane.core.evaluate.goals import Moment
from jointed_crane.core.evaluate.plan import Chain, Wave
from jointed_crane.core.evaluate.world import World
from jointed_crane.core.geometry.fields import stacked, unstacked
from jointed_crane.core.placement import Local

Floats = npt.NDArray[np.float64]


@dataclass
class Chains:
    """The chains of a plan.

    Attributes
    ----------
    turns : how far each joint turns beyond what hands turned it, by its row, radians, shape (frames,)
    level : the linear parts that ends keep whatever turns above them, by their rows, shape (frames, 2, 2)
    """

    moment: Moment
    turns: dict[int, Floats] = field(default_factory=dict)
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
        determinant = np.linalg.det(linear)
        can_turn = np.abs(determinant) > 0
        inverse = np.linalg.inv(np.where(can_turn[..., None, None], linear, np.eye(2)))
        goal = np.einsum("nfij,nfj->nfi", inverse, goals - origin)
        bends = np.array([[chain.reach.bends] for chain in chains]) * np.where(determinant < 0, -1.0, 1.0)
        low, high = self._ranges(rows)
        numbers = [self.moment.numbers(chain.row, chain.reach) for chain in chains]
        soft, weight = (np.stack([of[name] for of in numbers]) for name in ("soft", "weight"))
        turns = turns_to_reach(pose, goal, bends, soft, low, high)
        turns = np.where(can_turn, weight * turns, 0.0)
        for place, chain in enumerate(chains):
            if chain.reach.keeps_turn:
                self.level[chain.row] = self._untouched(chain, linear[place], local)
            for joint, row in enumerate(chain.joints):
                self.turns[row] = self.turns.get(row, 0.0) + turns[joint, place]

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

    def _untouched(self, chain: Chain, above: Floats, local: Local) -> Floats:
        """The linear part that the part at the end of a chain has on the stage without reaching, (frames, 2, 2)."""
        found = above
        for row in dict.fromkeys((*chain.joints, chain.row)):
            found = found @ self.moment.matrices(local.linear, np.array(row))
            if row != chain.row:
                found = found @ self.moment.matrices(local.spin, np.array(row))
        return found

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
        """Parts of a wave in their parents, with the joints among them turned."""
        rows = [row for row in range(wave.rows.start, wave.rows.stop) if row in self.turns]
        if not rows:
            return own
        shape = (wave.rows.stop - wave.rows.start, self.moment.frame_count)
        linear, plain = stacked(own.linear, shape), stacked(own.plain, shape) if own.plain else None
        for row in rows:
            here = row - wave.rows.start
            linear[here] = self._turned(linear[here], row)
            if plain is not None:
                plain[here] = self._turned(plain[here], row)
        return replace(own, linear=unstacked(linear), plain=own.plain if plain is None else unstacked(plain))

    def _turned(self, linear: Floats, row: int) -> Floats:
        return rotated(linear, self.turns[row]) if row in self.turns else linear
