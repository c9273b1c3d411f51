"""The pose of a whole scene: one function for one frame under a dragging hand and for a whole film."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from jointed_crane.core.channels import CHANNELS, joined
from jointed_crane.core.geometry.decomposition import polar
from jointed_crane.core.geometry.fields import (
    Column,
    Entry,
    Matrix,
    entry,
    minus,
    plus,
    product,
    stacked,
    unstacked,
)
from jointed_crane.core.geometry.fields import applied as applied_to
from jointed_crane.core.motion.curves import values as curve_values
from jointed_crane.core.placement import Local, foothold_shifts, linear_part, local_placement, rotation
from jointed_crane.core.plan import Plan, packed_plan, plan_of
from jointed_crane.core.scene import Inherits, Scene

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Pose:
    """Where everything is, parts in the scene's painting order.

    Attributes
    ----------
    frames : array, shape (frames,)
    world : array, shape (parts, frames, 4, 4), art space to stage, acting on column vectors
    pivot : array, shape (parts, frames, 3), where each part turns about on the stage: the place of its pivot, or of the
        foothold that holds; spin carries the art about its centre but never this point
    opacity : array, shape (parts, frames), the part's own times its parents'
    drawing : array, shape (parts, frames), index of the drawing shown, -1 for none
    shown : array, shape (parts, frames), whether the part and all its parents are shown
    order : array, shape (parts, frames), painting order: lower is further back, equal keeps the scene's order
    keyed : (part id, channel) of every channel that moves
    motion : array, shape (keyed, frames), their motion values, relative to rest
    """

    part_ids: tuple[str, ...]
    frames: Floats
    world: Floats
    pivot: Floats
    opacity: Floats
    drawing: npt.NDArray[np.int64]
    shown: npt.NDArray[np.bool_]
    order: Floats
    keyed: tuple[tuple[str, str], ...]
    motion: Floats

    @cached_property
    def index(self) -> dict[str, int]:
        """Row of each part by its id."""
        return {part_id: row for row, part_id in enumerate(self.part_ids)}

    def world_of(self, part_id: str, frame_index: int = 0) -> Floats:
        """One part's world matrix, shape (4, 4)."""
        matrix: Floats = self.world[self.index[part_id], frame_index]
        return matrix

    def pivot_of(self, part_id: str, frame_index: int = 0) -> Floats:
        """Where one part turns about on the stage, shape (3,)."""
        place: Floats = self.pivot[self.index[part_id], frame_index]
        return place

    def motion_at(self, frame_index: int = 0) -> dict[str, dict[str, float]]:
        """Motion values by part and channel, for the channels that move."""
        found: dict[str, dict[str, float]] = {}
        for (part_id, channel), row in zip(self.keyed, self.motion, strict=True):
            found.setdefault(part_id, {})[channel] = float(row[frame_index])
        return found

    def is_ever_seen(self, part_id: str) -> bool:
        """Whether a part is shown and not fully clear at some frame."""
        row = self.index[part_id]
        return bool((self.shown[row] & (self.opacity[row] > 0)).any())

    def painting(self, frame_index: int = 0) -> list[str]:
        """Part ids from back to front."""
        return [self.part_ids[row] for row in np.argsort(self.order[:, frame_index], kind="stable")]


def evaluate(scene: Scene, frames: Sequence[float] | Floats) -> Pose:
    """The pose at every frame; frames may be fractions and come in any order.

    Vectorised over frames and over all parts of one depth; there is no loop over frames.
    """
    wanted = np.asarray(frames, dtype=float).reshape(-1)
    if np.any(np.diff(wanted) < 0):
        ascending, back = np.unique(wanted, return_inverse=True)
        return _picked(evaluate(scene, ascending), wanted, back)
    plan = plan_of(scene)
    motion = curve_values(plan.curves, wanted)
    values = _effective(plan, motion, len(wanted))
    local = _local(plan, values, wanted)
    world = _world(plan, local, len(wanted))
    return _pose(plan, wanted, motion, values, world)


def inherited_linear(linear: Floats, kept: Inherits) -> Floats:
    """What is left of a parent's linear part for a child that inherits only some of it.

    Parameters
    ----------
    linear : array, shape (..., 3, 3)
    """
    if kept.turn and kept.scale:
        return linear
    if not kept.turn and not kept.scale:
        return np.broadcast_to(np.eye(3), linear.shape)
    turn, stretch = polar(linear)
    return turn if kept.turn else stretch


def _picked(pose: Pose, frames: Floats, back: npt.NDArray[np.intp]) -> Pose:
    return replace(
        pose,
        frames=frames,
        world=pose.world[:, back],
        pivot=pose.pivot[:, back],
        opacity=pose.opacity[:, back],
        drawing=pose.drawing[:, back],
        shown=pose.shown[:, back],
        order=pose.order[:, back],
        motion=pose.motion[:, back],
    )


def _effective(plan: Plan, motion: Floats, frame_count: int) -> dict[str, Entry]:
    """Rest and motion joined, by channel; a channel nothing moves stays (parts, 1) or a plain number."""
    values: dict[str, Entry] = {}
    moving = {keyed.name: keyed for keyed in plan.keyed}
    for name, kind in CHANNELS.items():
        rest = plan.rest[name]
        if name not in moving:
            values[name] = entry(rest)
            continue
        keyed = moving[name]
        if len(keyed.rows) == len(plan.parts):
            full = np.empty((len(plan.parts), frame_count))
        else:
            full = np.repeat(rest, frame_count, axis=1)
        full[keyed.rows] = joined(kind, rest[keyed.rows], motion[keyed.curves])
        values[name] = full
    return values


def _turn(plan: Plan, values: dict[str, Entry], channel: str) -> Matrix:
    """R(turn) or R(spin): one rotation for each turn order in use, each part taking its own."""
    found = [(rows, rotation(values, channel, order)) for order, rows in plan.orders.items()]
    result = found[0][1]
    for rows, other in found[1:]:
        result = [[entry(np.where(rows, other[i][j], result[i][j])) for j in range(3)] for i in range(3)]
    return result


def _linear(plan: Plan, frames: Floats) -> Floats:
    values = _effective(plan, curve_values(plan.curves, frames), len(frames))
    matrix = linear_part(values, plan.orientation, _turn(plan, values, "turn"))
    return stacked(matrix, (len(plan.parts), len(frames)))


def _local(plan: Plan, values: dict[str, Entry], frames: Floats) -> Local:
    pivot, shift = _footholds(plan, frames)
    return local_placement(
        values,
        plan.orientation,
        _turn(plan, values, "turn"),
        _turn(plan, values, "spin"),
        pivot,
        plan.centre,
        shift,
    )


def _footholds(plan: Plan, frames: Floats) -> tuple[Column, Column]:
    """p_k and D_k at every frame."""
    if not plan.standing:
        return plan.pivot, [0.0, 0.0, 0.0]
    shape = (len(plan.parts), len(frames))
    pivot = np.stack([np.broadcast_to(np.asarray(column), shape) for column in plan.pivot], axis=-1)
    shift = np.zeros((*shape, 3))
    for row in plan.standing:
        part = plan.parts[row]
        holds = np.array([foothold.frame for foothold in part.footholds])
        points = np.array([part.pivot, *(foothold.point for foothold in part.footholds)])
        alone = packed_plan((replace(part, parent=None),))
        current = np.searchsorted(holds, frames, side="right")
        pivot[row] = points[current]
        shift[row] = foothold_shifts(points, _linear(alone, holds)[0])[current]
    return [entry(pivot[..., axis]) for axis in range(3)], [entry(shift[..., axis]) for axis in range(3)]


@dataclass(frozen=True)
class _World:
    """Linear parts, translations and places of the pivots; entries of shape (parts, frames) or plain numbers."""

    linear: Matrix
    origin: Column
    place: Column


def _world(plan: Plan, local: Local, frame_count: int) -> _World:
    """Down the waves: world = inherited(parent world) local."""
    shape = (len(plan.parts), frame_count)
    is_flat = not plan.partial and _is_flat(local)
    axes = range(2) if is_flat else range(3)
    linear: Matrix = [
        [np.empty(shape) if i in axes and j in axes else float(i == j) for j in range(3)] for i in range(3)
    ]
    origin: Column = [np.empty(shape) if i in axes else 0.0 for i in range(3)]
    pivot: Column = [np.empty(shape) if i in axes else 0.0 for i in range(3)]
    for wave in plan.waves:
        own = Local(
            [[_rows(value, wave.rows) for value in row] for row in local.linear],
            [[_rows(value, wave.rows) for value in row] for row in local.spin],
            [_rows(value, wave.rows) for value in local.place],
            [_rows(value, wave.rows) for value in local.tail],
        )
        if wave.parents is not None:
            parent = _World(
                [[_taken(value, wave.parents) for value in row] for row in linear],
                [_taken(value, wave.parents) for value in origin],
                [],
            )
            inherited, place = _inherited(plan, wave.rows, parent, own.place, frame_count)
            own = replace(own, linear=product(inherited, own.linear), place=place)
        carried = applied_to(own.linear, own.tail)
        spun = product(own.linear, own.spin)
        for i in axes:
            _put(pivot[i], wave.rows, own.place[i])
            _put(origin[i], wave.rows, plus(own.place[i], carried[i]))
            for j in axes:
                _put(linear[i][j], wave.rows, spun[i][j])
    return _World(linear, origin, pivot)


def _is_flat(local: Local) -> bool:
    """Whether nothing leaves the plane z = 0."""
    depth = [local.place[2], local.tail[2]]
    for matrix in (local.linear, local.spin):
        depth += [matrix[0][2], matrix[1][2], matrix[2][0], matrix[2][1], minus(1.0, matrix[2][2])]
    return all(isinstance(value, float) and value == 0.0 for value in depth)


def _inherited(plan: Plan, rows: slice, parent: _World, place: Column, frame_count: int) -> tuple[Matrix, Column]:
    """What a wave takes from its parents: the linear part, and where the pivots lie on the stage.

    Without scale the parent's linear part is replaced by its rotation (polar decomposition), without turn by its
    stretch; the pivot stays where the full matrix puts it unless position is not inherited either.
    """
    carried = applied_to(parent.linear, place)
    on_stage = [plus(parent.origin[axis], carried[axis]) for axis in range(3)]
    partial = [(row, kept) for row, kept in plan.partial.items() if rows.start <= row < rows.stop]
    if not partial:
        return parent.linear, on_stage
    shape = (rows.stop - rows.start, frame_count)
    linear = stacked(parent.linear, shape)
    points = np.stack([np.broadcast_to(np.asarray(value), shape) for value in on_stage], axis=-1)
    own = np.stack([np.broadcast_to(np.asarray(value), shape) for value in place], axis=-1)
    for row, kept in partial:
        here = row - rows.start
        linear[here] = inherited_linear(linear[here], kept)
        if not kept.position:
            points[here] = own[here]
    return unstacked(linear), [entry(points[..., axis]) for axis in range(3)]


def _rows(value: Entry, rows: slice) -> Entry:
    return value if isinstance(value, float) or len(value) == 1 else value[rows]


def _taken(value: Entry, parents: npt.NDArray[np.intp]) -> Entry:
    return value if isinstance(value, float) else value[parents]


def _put(target: Entry, rows: slice, value: Entry) -> None:
    assert not isinstance(target, float)
    target[rows] = value


def _pose(plan: Plan, frames: Floats, motion: Floats, values: dict[str, Entry], world: _World) -> Pose:
    shape = (len(plan.parts), len(frames))
    back = np.argsort(plan.places)
    matrices = np.zeros((*shape, 4, 4))
    for i in range(3):
        for j, entries in enumerate((*world.linear[i], world.origin[i])):
            if not isinstance(entries, float):
                matrices[..., i, j] = entries[back]
            elif entries:
                matrices[..., i, j] = entries
    matrices[..., 3, 3] = 1.0
    pivot = np.zeros((*shape, 3))
    for axis, places in enumerate(world.place):
        if not isinstance(places, float):
            pivot[..., axis] = places[back]
    opacity, shown = _passed_down(plan, values)
    counts = np.array([[len(part.drawings)] for part in plan.parts], dtype=np.int64).reshape(-1, 1)
    drawing = np.clip(np.rint(_alone(plan, values["drawing"])).astype(np.int64), 0, counts - 1)
    return Pose(
        part_ids=tuple(plan.parts[row].id for row in back),
        frames=frames,
        world=matrices,
        pivot=pivot,
        opacity=np.broadcast_to(opacity[back], shape),
        drawing=np.broadcast_to(drawing[back], shape),
        shown=np.broadcast_to(shown[back], shape),
        order=np.broadcast_to(_alone(plan, values["order"])[back], shape),
        keyed=tuple((plan.parts[row].id, keyed.name) for keyed in plan.keyed for row in keyed.rows),
        motion=motion,
    )


def _passed_down(plan: Plan, values: dict[str, Entry]) -> tuple[Floats, npt.NDArray[np.bool_]]:
    """Opacity and shown as they count: a part fades and vanishes with its parents."""
    opacity = np.clip(_alone(plan, values["opacity"]), 0.0, 1.0)
    shown = _alone(plan, values["shown"]) >= 0.5
    for wave in plan.waves:
        if wave.parents is not None:
            opacity[wave.rows] *= opacity[wave.parents]
            shown[wave.rows] &= shown[wave.parents]
    return opacity, shown


def _alone(plan: Plan, value: Entry) -> Floats:
    """A channel's values with a row for each part: one column where nothing moves it, else one for each frame."""
    array = np.asarray(value)
    return np.broadcast_to(array, (len(plan.parts), array.shape[-1] if array.ndim else 1))
