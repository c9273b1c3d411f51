"""The constraints of a plan at work, wave by wave: where their goals lie, and what they make of the parts."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import TypeVar, cast

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.between import (
    placed_between,
    scaled_between,
    turned_between,
    weights_of_goals,
)
from jointed_crane.core.constraints.follow import following_position, following_scale, following_turn
from jointed_crane.core.constraints.kinds import (
    Between,
    Constraint,
    Follow,
    Goal,
    PointAt,
    Span,
    StayAbove,
    goals_of,
    number_channel,
    numbers_of,
)
from jointed_crane.core.constraints.placed import Placed, angle_of, length_of, rotated
from jointed_crane.core.constraints.point_at import pointed
from jointed_crane.core.constraints.reach import ChainPose, turns_to_reach
from jointed_crane.core.constraints.span import spanned
from jointed_crane.core.constraints.stay_above import lifted
from jointed_crane.core.evaluate.plan import Chain, Plan, Ruled, Wave
from jointed_crane.core.evaluate.world import World
from jointed_crane.core.geometry.fields import Entry, Matrix, entry, stacked, unstacked
from jointed_crane.core.placement import Local

Floats = npt.NDArray[np.float64]
Kind = TypeVar("Kind", bound=Constraint)


@dataclass
class Rules:
    """The constraints of a plan over some frames.

    Attributes
    ----------
    motion : array, shape (curves, frames), the motion value of each of the plan's curves
    turns : array, shape (parts, frames) or (parts, 1), effective turns about z as hands made them, degrees
    """

    plan: Plan
    motion: Floats
    turns: Floats
    frame_count: int
    joint_turns: dict[int, Floats] = field(default_factory=dict)
    flat: dict[int, Floats] = field(default_factory=dict)

    # Chains

    def reach(self, wave: Wave, world: World, local: Local) -> None:
        """Find how far the joints turn of all chains that begin in a wave; equally long ones together."""
        by_length: dict[int, list[Chain]] = {}
        for row in range(wave.rows.start, wave.rows.stop):
            for chain in self.plan.chains.get(row, ()):
                by_length.setdefault(len(chain.joints), []).append(chain)
        for chains in by_length.values():
            self._reach(chains, world, local)

    def _reach(self, chains: list[Chain], world: World, local: Local) -> None:
        above = [self._above(chain.joints[0], world) for chain in chains]
        linear = np.stack([found[0] for found in above])
        poses = [self._pose(chain, local) for chain in chains]
        begins, *by_joint = zip(*poses, strict=True)
        pose = ChainPose(np.stack(begins), *(np.stack(found, axis=1) for found in by_joint))
        goals = self.points([chain.reach.goal for chain in chains], world)
        determinant = np.linalg.det(linear)
        can_turn = np.abs(determinant) > 0
        inverse = np.linalg.inv(np.where(can_turn[..., None, None], linear, np.eye(2)))
        goal = np.einsum("nfij,nfj->nfi", inverse, goals - np.stack([found[1] for found in above]))
        bends = np.array([[chain.reach.bends] for chain in chains]) * np.where(determinant < 0, -1.0, 1.0)
        rows = np.array([chain.joints for chain in chains]).T
        low, high = self._ranges(rows)
        numbers = [self.numbers(chain.row, chain.reach) for chain in chains]
        soft, weight = (np.stack([of[name] for of in numbers]) for name in ("soft", "weight"))
        turns = turns_to_reach(pose, goal, bends, soft, low, high)
        turns = np.where(can_turn, weight * turns, 0.0)
        for place, chain in enumerate(chains):
            if chain.reach.keeps_turn:
                self.flat[chain.row] = self._untouched(chain, above[place][0], local)
            for joint, row in enumerate(chain.joints):
                self.joint_turns[row] = self.joint_turns.get(row, 0.0) + turns[joint, place]

    def _above(self, row: int, world: World) -> tuple[Floats, Floats]:
        """Linear part and translation in the plane of what a row hangs on, shapes (frames, 2, 2) and (frames, 2)."""
        parent = self.plan.parts[row].parent
        if parent is None:
            return np.broadcast_to(np.eye(2), (self.frame_count, 2, 2)), np.zeros((self.frame_count, 2))
        at = self.plan.row_of[parent]
        linear = stacked(_row(world.linear, at), (self.frame_count,))[:, :2, :2]
        return linear, np.stack([self._over(world.origin[axis], at) for axis in range(2)], axis=-1)

    def _pose(self, chain: Chain, local: Local) -> tuple[Floats, ...]:
        """What a ChainPose holds of one chain."""
        linear, spin, carried = [], [], []
        follows = (*chain.joints[1:], chain.row)
        tip = chain.reach.tip
        for row, child in zip(chain.joints, follows, strict=True):
            turn = stacked(_row(local.spin, row), (self.frame_count,))[:, :2, :2]
            if row == child and tip is not None:
                point = np.broadcast_to(np.array(tip[:2]), (self.frame_count, 2))
            else:
                point = self._column(local.place, child)
            carried.append(np.einsum("fij,fj->fi", turn, point) + self._column(local.tail, row))
            linear.append(self._turned(stacked(_row(local.linear, row), (self.frame_count,)), row)[:, :2, :2])
            spin.append(turn)
        return self._column(local.place, chain.joints[0]), np.stack(linear), np.stack(spin), np.stack(carried)

    def _untouched(self, chain: Chain, above: Floats, local: Local) -> Floats:
        """The linear part that the part at the end of a chain has on the stage without reaching, (frames, 2, 2)."""
        found = above
        for row in dict.fromkeys((*chain.joints, chain.row)):
            found = found @ stacked(_row(local.linear, row), (self.frame_count,))[:, :2, :2]
            if row != chain.row:
                found = found @ stacked(_row(local.spin, row), (self.frame_count,))[:, :2, :2]
        return found

    def _ranges(self, rows: npt.NDArray[np.intp]) -> tuple[Floats, Floats]:
        """How far joints may turn beyond what hands turned them, radians, shape (joints, chains, frames)."""
        shape = (*rows.shape, self.frame_count)
        low, high = np.full(shape, -np.inf), np.full(shape, np.inf)
        for place in np.ndindex(rows.shape):
            row = int(rows[place])
            part = self.plan.parts[row]
            if "turn.z" in part.limits:
                now = np.deg2rad(self._over(self.turns, row) - part.rest_value("turn.z"))
                now = now + self.joint_turns.get(row, 0.0)
                ends = part.limits["turn.z"]
                if ends[0] is not None:
                    low[place] = np.minimum(np.deg2rad(ends[0]) - now, 0.0)
                if ends[1] is not None:
                    high[place] = np.maximum(np.deg2rad(ends[1]) - now, 0.0)
        return low, high

    def turned(self, own: Local, wave: Wave) -> Local:
        """Parts of a wave in their parents, with the joints among them turned."""
        rows = [row for row in range(wave.rows.start, wave.rows.stop) if row in self.joint_turns]
        if not rows:
            return own
        shape = (wave.rows.stop - wave.rows.start, self.frame_count)
        linear, plain = stacked(own.linear, shape), stacked(own.plain, shape) if own.plain else None
        for row in rows:
            here = row - wave.rows.start
            linear[here] = self._turned(linear[here], row)
            if plain is not None:
                plain[here] = self._turned(plain[here], row)
        return replace(own, linear=unstacked(linear), plain=own.plain if plain is None else unstacked(plain))

    def _turned(self, linear: Floats, row: int) -> Floats:
        return rotated(linear, self.joint_turns[row]) if row in self.joint_turns else linear

    # Constraints of the wave's own parts

    def placed(self, own: Local, wave: Wave, groups: Sequence[Ruled], world: World) -> Local:
        """Parts of a wave on the stage, with their constraints acting on them in order."""
        flat = [row for row in range(wave.rows.start, wave.rows.stop) if row in self.flat]
        if not groups and not flat:
            return own
        shape = (wave.rows.stop - wave.rows.start, self.frame_count)
        linear, spin = stacked(own.linear, shape), stacked(own.spin, shape)
        place, tail = (
            np.stack([np.broadcast_to(np.asarray(value), shape) for value in column], axis=-1)
            for column in (own.place, own.tail)
        )
        turned = np.zeros(shape)
        for row in flat:
            here = row - wave.rows.start
            turned[here] = angle_of(self.flat[row][..., 0]) - angle_of(linear[here, :, :, 0])
            linear[here, :, :2, :2] = self.flat[row]
        for group in groups:
            here = group.rows - wave.rows.start
            after = self._act(group, Placed(place[here], linear[here], spin[here], tail[here], turned[here]), world)
            place[here], linear[here], turned[here] = after.place, after.linear, after.turned
        plain = own.plain
        if plain:
            plain = unstacked(rotated(stacked(plain, shape), turned))
        return replace(own, linear=unstacked(linear), place=[entry(place[..., axis]) for axis in range(3)], plain=plain)

    def _act(self, group: Ruled, placed: Placed, world: World) -> Placed:
        first = group.constraints[0]
        goals = list(zip(*(goals_of(one) for one in group.constraints), strict=True))
        each = [self.numbers(row, one) for row, one in zip(group.rows.tolist(), group.constraints, strict=True)]
        numbers = {name: np.stack([of[name] for of in each]) for name in each[0]}
        points = np.stack([self.points(row, world) for row in goals])
        weight = numbers["weight"]
        if isinstance(first, Between):
            return self._between(first, placed, goals, points, numbers, world)
        if isinstance(first, PointAt):
            own = np.array([self._direction(row, one) for row, one in _pairs(group, PointAt)])
            return pointed(placed, own, points[0], np.deg2rad(numbers["offset"]), weight)
        if isinstance(first, Follow):
            return self._follow(first, placed, goals[0], points[0], numbers, world)
        if isinstance(first, Span):
            pairs = _pairs(group, Span)
            held = np.array([[one.points[end] for _, one in pairs] for end in range(2)])
            return spanned(placed, held, points, numbers)
        return self._stay_above(group, placed, points, numbers)

    def _between(
        self,
        rule: Between,
        placed: Placed,
        goals: Sequence[Sequence[Goal]],
        points: Floats,
        numbers: dict[str, Floats],
        world: World,
    ) -> Placed:
        weights, by = weights_of_goals(numbers, len(points)), numbers["weight"]
        placed = placed_between(placed, points, weights, by)
        if rule.turns or rule.scales:
            linears = np.stack([self.linears(row, world) for row in goals])
            if rule.turns:
                turns = angle_of(linears[..., 0])
                if not rule.is_shortest:
                    turns = np.stack([self._whole_turns(row) for row in goals])
                placed = turned_between(placed, turns, rule.is_shortest, weights, by)
            if rule.scales:
                sizes = np.stack([length_of(linears[..., axis]) for axis in range(2)], axis=-1)
                placed = scaled_between(placed, sizes, weights, by)
        return placed

    def _follow(
        self,
        rule: Follow,
        placed: Placed,
        goals: Sequence[Goal],
        points: Floats,
        numbers: dict[str, Floats],
        world: World,
    ) -> Placed:
        linear, by = self.linears(goals, world), numbers["weight"]
        if rule.scales:
            scales = np.stack([numbers["scalex"], numbers["scaley"]], axis=-1)
            placed = following_scale(placed, linear, scales, by)
        if rule.turns:
            placed = following_turn(placed, linear, np.deg2rad(numbers["turn"]), by)
        if rule.position:
            placed = following_position(placed, points, linear, np.stack([numbers["x"], numbers["y"]], axis=-1), by)
        return placed

    def _stay_above(self, group: Ruled, placed: Placed, points: Floats, numbers: dict[str, Floats]) -> Placed:
        direction = np.deg2rad(numbers["direction"])
        if len(points) == 2:
            direction = angle_of(points[1] - points[0])
        corners = [self._corners(row, one) for row, one in _pairs(group, StayAbove)]
        most = max(map(len, corners))
        own = np.full((most, len(corners), 3), np.nan)
        for place, found in enumerate(corners):
            own[: len(found), place] = found
        carried = np.stack([placed.carried(point) for point in own])
        side = np.array([[one.side] for _, one in _pairs(group, StayAbove)])
        return lifted(placed, carried, points[0], direction + np.where(side < 0, np.pi, 0.0), numbers["weight"])

    # What constraints refer to

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
                    found[place, :, axis] = self._over(world.place[axis], row)
                else:
                    point = self._art_point(row, goal)
                    value = self._over(world.origin[axis], row)
                    for part, number in zip(world.linear[axis], point, strict=True):
                        value = value + self._over(part, row) * number
                    found[place, :, axis] = value
        return found

    def linears(self, goals: Sequence[Goal], world: World) -> Floats:
        """The linear parts of what has the goals, shape (goals, frames, 3, 3); a mark has none of its own."""
        found = np.empty((len(goals), self.frame_count, 3, 3))
        for place, goal in enumerate(goals):
            found[place] = np.eye(3)
            if goal.part is not None:
                found[place] = stacked(_row(world.linear, self.plan.row_of[goal.part]), (self.frame_count,))
        return found

    def _whole_turns(self, goals: Sequence[Goal]) -> Floats:
        """How far what has the goals has been turned about z, whole turns included, radians, shape (goals, frames)."""
        found = np.zeros((len(goals), self.frame_count))
        for place, goal in enumerate(goals):
            row = None if goal.part is None else self.plan.row_of[goal.part]
            while row is not None:
                part = self.plan.parts[row]
                _, _, z, w = part.orientation
                found[place] += np.deg2rad(self._over(self.turns, row)) + 2 * np.arctan2(z, w)
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

    def _direction(self, row: int, one: PointAt) -> Iterable[float]:
        if one.along == "x":
            return (1.0, 0.0, 0.0)
        if one.along == "y":
            return (0.0, 1.0, 0.0)
        found: Floats = np.array(one.along) - np.array(self.plan.parts[row].pivot)
        return found

    def _corners(self, row: int, one: StayAbove) -> Floats:
        """The points that stay above, px in art space, shape (points, 3)."""
        part = self.plan.parts[row]
        if one.point is not None:
            return np.array([one.point])
        rings = part.drawing.outline if part.drawing is not None else ()
        corners = [(x, y, 0.0) for ring in rings for x, y in ring] or [part.pivot]
        return np.array(corners)

    def _column(self, column: Sequence[Entry], row: int) -> Floats:
        return np.stack([self._over(column[axis], row) for axis in range(2)], axis=-1)

    def _over(self, value: Entry, row: int) -> Floats:
        """One row of an entry over the frames."""
        if isinstance(value, float):
            return np.full(self.frame_count, value)
        found: Floats = np.broadcast_to(value[0 if len(value) == 1 else row], (self.frame_count,))
        return found


def _row(matrix: Matrix, row: int) -> Matrix:
    """One row of a matrix of entries; frames are what is left."""

    def alone(value: Entry) -> Entry:
        return value if isinstance(value, float) else value[0 if len(value) == 1 else row]

    return [[alone(value) for value in line] for line in matrix]


def _pairs(group: Ruled, kind: type[Kind]) -> list[tuple[int, Kind]]:
    """Rows and constraints of a group whose constraints are of one kind."""
    pairs = zip(group.rows.tolist(), group.constraints, strict=True)
    return [(row, one) for row, one in pairs if isinstance(one, kind)]
