"""Chains that reach, at work: how far their joints turn, found before the wave of the first joint is placed."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.reaching.chain_pose import ChainPose
from jointed_crane.core.constraints.reaching.chain_turns import Aim, reached
from jointed_crane.core.evaluate.acting.goals import Moment
from jointed_crane.core.evaluate.acting.levelling import EndPose, Level, Levelling
from jointed_crane.core.evaluate.acting.turn_changes import with_changes
from jointed_crane.core.evaluate.inheritance import inherited_linear, inherited_plain
from jointed_crane.core.evaluate.packing.constraint_columns import Chain, Places, Reaching
from jointed_crane.core.evaluate.packing.plan import Wave
from jointed_crane.core.evaluate.placement import Local
from jointed_crane.core.evaluate.world import World
from jointed_crane.core.geometry import plane
from jointed_crane.core.geometry.bearings import bearings_of
from jointed_crane.core.geometry.fields import IDENTITY, Matrix, Rows, matrices_of_rows, product, rotation, with_rows

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class ReachedIn:
    """What chains hang on and reach for, in the planes in which they turn.

    Attributes
    ----------
    linear, origin : arrays, shapes (2, 2, chains, frames) and (2, chains, frames), what first joints hang on
    goals : array, shape (2, chains, frames), px
    whole : the same linear parts in space, shape (3, 3, chains, frames); None where nothing leaves the stage's plane
    axes : array, shape (3, 2, chains, frames), the axes of the planes in space; None there, too
    """

    linear: Floats
    origin: Floats
    goals: Floats
    whole: Floats | None = None
    axes: Floats | None = None


@dataclass
class Chains:
    """The chains of a plan.

    Attributes
    ----------
    turns : how far each of the plan's bent rows turns beyond what hands turned it, radians, shape (bent, frames)
    stretches : by how much each joint is stretched along its bone, by its row, shape (2, 2, frames)
    loosened : what keeps parts of a chain from being stretched with the joints above them, before their own linear
        parts, by row, shape (2, 2, frames)
    level : how ends lie that keep their turn whatever turns above them, by their rows
    """

    moment: Moment
    turns: Floats = field(init=False)
    stretches: dict[int, Floats] = field(default_factory=dict)
    loosened: dict[int, Floats] = field(default_factory=dict)
    level: dict[int, Level] = field(default_factory=dict)

    def __post_init__(self) -> None:
        """Before anything reaches nothing is turned."""
        self.turns = np.zeros((len(self.moment.plan.constraints.bent), self.moment.frame_count))

    def reach(self, group: Reaching, world: World, local: Local) -> None:
        """Find how far the joints of some chains turn."""
        places = np.searchsorted(self.moment.plan.constraints.bent, group.joints)
        so_far = self.turns[places]
        plane_of = self._plane(group, world, local)
        linear, origin, goals = plane_of.linear, plane_of.origin, plane_of.goals
        pose = self._pose(group, local, so_far)
        numbers = self.moment.numbers(group)
        soft, stretch, weight = (numbers[name] for name in ("soft", "stretch", "weight"))
        low, high = self._ranges(group, so_far)
        aim = Aim(linear, origin, goals, group.bends, soft, stretch, weight, low, high, group.through)
        result = reached(pose, aim)
        turns = result.turns
        stretches = not (result.stretch == 1).all()
        for place, chain in enumerate(group.chains):
            if not (stretches or chain.reach.changes or chain.reach.keeps_turn):
                continue
            own, level = result.of(place), None
            levelling = self._levelling(chain, place, plane_of, world, local) if chain.reach.keeps_turn else None
            if chain.reach.changes:
                columns = [self.moment.column(change.frame) for change in chain.reach.changes]
                axes = None if plane_of.axes is None else plane_of.axes[:, :, place]
                own, level = with_changes(pose.of(place), aim.of(place), own, levelling, chain.reach, columns, axes)
                turns[:, place] = own.turns
            elif levelling is not None:
                level = levelling.level(own.turns)
            if level is not None:
                self.level[chain.row] = level
            self._stretch(chain, pose.of(place), own.stretch)
        if group.is_apart:
            self.turns[places] = so_far + turns
        else:
            np.add.at(self.turns, places, turns)

    def _stretch(self, chain: Chain, pose: ChainPose, stretch: Floats) -> None:
        if (stretch == 1).all():
            return
        for joint, row in enumerate(chain.joints):
            along = pose.along(joint, stretch, chain.reach.keeps_area)
            self.stretches[row] = along
            below = chain.joints[joint + 1] if joint + 1 < len(chain.joints) else chain.row
            if below != row:
                spin = np.eye(2)[..., None] if pose.spin is None else pose.spin[joint]
                spun = plane.product(along, spin)
                self.loosened[below] = np.stack([plane.solved(spun, spin[:, j]) for j in range(2)], axis=1)

    def _plane(self, group: Reaching, world: World, local: Local) -> ReachedIn:
        """What first joints hang on, and their goals, in the plane in which they turn: that of the stage, or where
        something leaves it the plane of what they hang on, in which goals are taken as nearest to them.
        """
        goals = self.moment.plan.terms_of(group).goals[0]
        if world.is_flat:
            linear, origin = self._above(group.above, world, 2)
            return ReachedIn(linear, origin, self.moment.points(goals, world))
        whole, place = self._above(group.above, world, 3)
        self._take_over_partly(group, world, local, whole, place)
        bearings = bearings_of(whole)
        axes = bearings[:, :2]
        linear = np.einsum("iacf,ibcf->abcf", axes, whole[:, :2])
        origin, at = (np.einsum("iacf,icf->acf", axes, each) for each in (place, self.moment.points(goals, world, 3)))
        return ReachedIn(linear, origin, at, whole, axes)

    def _above(self, above: Places, world: World, size: int) -> tuple[Floats, Floats]:
        """What first joints hang on: linear parts, shape (size, size, rows, frames), and where their zeros lie, (size,
        rows, frames).
        """
        linear = self.moment.matrices(world.linear, above, size)
        origin = self.moment.columns(world.origin, above, size)
        on_stage = above < 0
        if on_stage.any():
            linear[:, :, on_stage], origin[:, on_stage] = np.eye(size)[..., None, None], 0.0
        return linear, origin

    def _take_over_partly(self, group: Reaching, world: World, local: Local, linear: Floats, origin: Floats) -> None:
        """Put what first joints take over in the place of what they hang on, where that is not all of it; a space whose
        zero lies so that their pivots are where they are.
        """
        for chain, row in enumerate(group.joints[0].tolist()):
            kept = self.moment.plan.partial.get(row)
            if kept is None:
                continue
            whole = np.moveaxis(linear[:, :, chain], -1, 0)
            taken = np.moveaxis(inherited_linear(whole, self._plain_above(row, world), kept), 0, -1)
            at = self.moment.columns(local.place, np.array(row), 3)
            pivot = np.einsum("ijf,jf->if", linear[:, :, chain], at) + origin[:, chain] if kept.position else at
            linear[:, :, chain], origin[:, chain] = taken, pivot - np.einsum("ijf,jf->if", taken, at)

    def _plain_above(self, row: int, world: World) -> Floats:
        """The plain rotation of what a part hangs on, shape (frames, 3, 3)."""
        parent = self.moment.plan.parts[row].parent
        if parent is None:
            return np.broadcast_to(np.eye(3), (self.moment.frame_count, 3, 3))
        return np.moveaxis(self.moment.matrices(world.plain, np.array(self.moment.plan.row_of[parent]), 3), -1, 0)

    def _pose(self, group: Reaching, local: Local, so_far: Floats) -> ChainPose:
        """Chains as hands turned them, and those before them so far, radians, shape (joints, chains, frames)."""
        rows = group.joints
        linear = np.moveaxis(self.moment.matrices(local.linear, rows), 2, 0)
        points = self.moment.columns(local.place, group.below)
        for place, chain in enumerate(group.chains):
            if chain.reach.tip is not None:
                points[:, -1, place] = np.array(chain.reach.tip[:2])[:, None]
        if so_far.any():
            linear = np.stack([plane.turned(*pair) for pair in zip(linear, so_far, strict=True)])
        spin = None
        if local.spin is not IDENTITY:
            spins = self.moment.matrices(local.spin, rows)
            spin, points = np.moveaxis(spins, 2, 0), plane.applied(spins, points)
        carried = np.moveaxis(points + self.moment.columns(local.tail, rows), 1, 0)
        return ChainPose(self.moment.columns(local.place, rows[0]), linear, spin, carried)

    def _levelling(self, chain: Chain, place: int, plane_of: ReachedIn, world: World, local: Local) -> Levelling:
        """What keeps the end of a chain level."""
        rows = list(dict.fromkeys((*chain.joints, chain.row)))
        above = plane_of.linear if plane_of.whole is None else plane_of.whole
        size = len(above)
        linear, spin = (
            [self.moment.matrices(matrix, np.array(row), size) for row in some]
            for matrix, some in ((local.linear, rows), (local.spin, rows[:-1]))
        )
        end = EndPose(above[:, :, place], linear, spin)
        if not world.plain:
            return Levelling(end)
        kept = self.moment.plan.parts[rows[0]].inherits
        hangs_on = inherited_plain(self._plain_above(rows[0], world), kept)
        plain = [self.moment.matrices(local.plain, np.array(row), 3) for row in rows]
        return Levelling(end, EndPose(np.moveaxis(hangs_on, 0, -1), plain, []))

    def _ranges(self, group: Reaching, so_far: Floats) -> tuple[Floats, Floats]:
        """How far joints may turn beyond what hands turned them, radians, shape (joints, chains, frames) or (joints,
        chains, 1).
        """
        rows = group.joints
        shape = (*rows.shape, self.moment.frame_count if group.has_ranges else 1)
        low, high = np.full(shape, -np.inf), np.full(shape, np.inf)
        if not group.has_ranges:
            return low, high
        for place in np.ndindex(rows.shape):
            row = int(rows[place])
            part = self.moment.plan.parts[row]
            if "turn.z" in part.limits:
                now = np.deg2rad(self.moment.of(self.moment.turns, np.array(row)) - part.rest_value("turn.z"))
                now = now + so_far[place]
                ends = part.limits["turn.z"]
                if ends[0] is not None:
                    low[place] = np.minimum(np.deg2rad(ends[0]) - now, 0.0)
                if ends[1] is not None:
                    high[place] = np.maximum(np.deg2rad(ends[1]) - now, 0.0)
        return low, high

    def acted(self, own: Local, wave: Wave, bent: slice, here: Rows) -> Local:
        """Parts of a wave in their parents, with the joints among them turned and stretched; `bent` tells which of the
        plan's bent rows these are, and `here` where in the wave.
        """
        if bent.start == bent.stop and not self.loosened:
            return own
        shape = (wave.rows.stop - wave.rows.start, self.moment.frame_count)
        if bent.start < bent.stop:
            if self.moment.plan.counts_turns:
                self.moment.bent.update(
                    zip(self.moment.plan.constraints.bent[bent].tolist(), self.turns[bent], strict=True)
                )
            turn = rotation(2, self.turns[bent])
            stretch = self._matrices(self.stretches, self.moment.plan.constraints.bent[bent])
            own = _changed(own, here, turn, stretch, turn, shape)
        loose = sorted(row for row in self.loosened if wave.rows.start <= row < wave.rows.stop)
        if loose:
            rows = np.array(loose, dtype=np.intp)
            loosened = self._matrices(self.loosened, rows)
            own = _changed(own, rows - wave.rows.start, loosened, IDENTITY, IDENTITY, shape)
        return own

    def _matrices(self, known: dict[int, Floats], rows: Places) -> Matrix:
        """Matrices in the plane by their rows, as entries; the identity where there is none."""
        if not known:
            return IDENTITY
        none = np.broadcast_to(np.eye(2)[..., None], (2, 2, self.moment.frame_count))
        (a, b), (c, d) = np.stack([known.get(row, none) for row in rows.tolist()], axis=2)
        return [[a, b, 0.0], [c, d, 0.0], [0.0, 0.0, 1.0]]


def _changed(own: Local, here: Rows, before: Matrix, after: Matrix, plain: Matrix, shape: tuple[int, int]) -> Local:
    """Some parts of a wave with their linear parts changed from both sides, and their plain rotations."""
    linear = product(product(before, matrices_of_rows(own.linear, here)), after)
    result = replace(own, linear=_with_rows(own.linear, here, linear, shape))
    if not own.plain or plain is IDENTITY:
        return result
    turned = product(plain, matrices_of_rows(own.plain, here))
    return replace(result, plain=_with_rows(own.plain, here, turned, shape))


def _with_rows(matrix: Matrix, rows: Rows, news: Matrix, shape: tuple[int, int]) -> Matrix:
    return [[with_rows(matrix[i][j], rows, news[i][j], shape) for j in range(3)] for i in range(3)]
