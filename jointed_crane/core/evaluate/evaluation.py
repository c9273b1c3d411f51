"""The pose of a whole scene: one function for one frame under a dragging hand and for a whole film."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from types import MappingProxyType
from typing import Any

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.evaluate.acting.constrained import Constraints
from jointed_crane.core.evaluate.acting.goals import Moment
from jointed_crane.core.evaluate.footholds import Standings, footholds, standings_of
from jointed_crane.core.evaluate.link_values import Added, Motions, added, with_added
from jointed_crane.core.evaluate.packing.plan import Plan, plan_of
from jointed_crane.core.evaluate.placement import Setting, local_placement
from jointed_crane.core.evaluate.pose import Pose, gated
from jointed_crane.core.evaluate.values import alone, effective, rotations, with_rows
from jointed_crane.core.evaluate.waves import down_the_waves
from jointed_crane.core.evaluate.world import World
from jointed_crane.core.geometry.fields import Entry, Matrix, stacked, stacked_column
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.motion.curves import held_values, values_beside
from jointed_crane.core.motion.curves import values as curve_values

Floats = npt.NDArray[np.float64]


#: How parts of a plan look where nothing moves that.
_SEEN: Memory[tuple[npt.NDArray[Any], ...]] = Memory("rest", "parts.own")
#: What overflows is met by the gate.
_overflowing = np.errstate(over="ignore", invalid="ignore")


@_overflowing
def evaluate(scene: Scene, frames: Sequence[float] | Floats, beside: Scene | None = None) -> Pose:
    """The pose at every frame; frames may be fractions and come in any order. What `beside`, a scene much the same, has
    packed and solved already is not done again.

    Vectorised over frames and over all parts of one depth; there is no loop over frames. Every number answered is
    finite.
    """
    wanted = np.asarray(frames, dtype=float).reshape(-1)
    if np.any(np.diff(wanted) < 0):
        ascending, back = np.unique(wanted, return_inverse=True)
        return evaluate(scene, ascending, beside).at(wanted, back)
    plan = plan_of(scene, beside)
    if len(plan.moments):
        every = np.union1d(wanted, plan.moments)
        return _posed(plan, every, curve_values(plan.curves, every)).at(wanted, np.searchsorted(every, wanted))
    if beside is None or len(wanted) != 1:
        return _posed(plan, wanted, curve_values(plan.curves, wanted))
    return _posed(plan, wanted, values_beside(plan.curves, plan_of(beside).curves, float(wanted[0])))


@_overflowing
def evaluate_with(scene: Scene, frame: float | None, others: Mapping[str, Mapping[str, float]]) -> Pose:
    """The pose at one frame, or at rest where it is None, with other values there: as they are shown, by part and
    channel. Nothing is packed or solved again; no other frame may have a say in where parts lie, so that they stand on
    no footholds and are not carried.
    """
    plan = plan_of(scene.shown_as(frame))
    at = np.array([frame or 0.0])
    motion = held_values(plan.curves, at[0]).copy()
    bare: dict[str, dict[int, float]] = {}
    for part_id, by_channel in others.items():
        row = plan.row_of[part_id]
        for channel, value in by_channel.items():
            curve = plan.curve_of.get((row, channel))
            if curve is None:
                bare.setdefault(channel, {})[row] = value
            else:
                motion[curve] = value
    pose = _posed(plan, at, motion, bare, is_at_rest=frame is None)
    if frame is None or not bare:
        return pose
    names = tuple((plan.parts[row].id, channel) for channel, by_row in bare.items() for row in by_row)
    news = [[value] for by_row in bare.values() for value in by_row.values()]
    return replace(pose, keyed=pose.keyed + names, motion=np.concatenate([pose.motion, news]))


def _posed(
    plan: Plan,
    frames: Floats,
    motion: Floats,
    bare: Mapping[str, Mapping[int, float]] = MappingProxyType({}),
    is_at_rest: bool = False,
) -> Pose:
    """The pose of motion values, shape (curves, frames). Channels without a curve may have values too, by their rows:
    rest values where the scene is at rest, motion values otherwise.
    """
    motion = gated(motion)
    values, more = _values(plan, frames, motion, bare, is_at_rest)
    world, _ = _world(plan, frames, motion, values, more, bare, _standings(plan))
    by_id = {(plan.parts[row].id, channel): gated(result) for (row, channel), result in more.items()}
    return replace(_pose(plan, frames, motion, values, world), driven=by_id)


def _values(
    plan: Plan, frames: Floats, motion: Floats, bare: Mapping[str, Mapping[int, float]], is_at_rest: bool
) -> tuple[dict[str, Entry], Added]:
    """Effective values by channel, and what links have added to them."""
    values = effective(plan, motion)
    for channel, by_row in bare.items():
        if channel in values:  # numbers of constraints and levers are not the part's own
            values[channel] = with_rows(plan, values[channel], channel, by_row, is_at_rest)
    more = added(Motions(plan, motion, frames, bare, is_at_rest)) if plan.links else {}
    return with_added(plan, values, more, len(frames)) if more else values, more


def _world(
    plan: Plan,
    frames: Floats,
    motion: Floats,
    values: dict[str, Entry],
    more: Added,
    bare: Mapping[str, Mapping[int, float]],
    standings: Standings,
) -> tuple[World, Matrix]:
    """Where parts lie that stand on footholds, and what spins their art."""
    pivot, shift = footholds(plan, frames, values, standings)
    turn, spin = rotations(plan, values, "turn"), rotations(plan, values, "spin")
    local = local_placement(Setting(values, plan.orientation, turn, spin, pivot, plan.centre, shift))
    constraints = None
    if plan.is_constrained:
        turns, spins, widths, drawings = (
            np.atleast_2d(values[name]) for name in ("turn.z", "spin.z", "scale.x", "drawing")
        )
        constraints = Constraints(Moment(plan, motion, turns, spins, widths, drawings, frames, more, bare))
    return down_the_waves(plan, local, len(frames), constraints), spin


def _standings(plan: Plan) -> Standings:
    return standings_of(plan, _linear_on_stage)


def _linear_on_stage(plan: Plan, frames: Floats, standings: Standings) -> tuple[Floats, Floats, Floats]:
    """The linear parts of all rows and what spins their art, both of shape (parts, frames, 3, 3), and where what they
    stand on lies, shape (parts, frames, 3).
    """
    every = np.union1d(frames, plan.moments)
    motion = gated(curve_values(plan.curves, every))
    values, more = _values(plan, every, motion, {}, False)
    world, spin = _world(plan, every, motion, values, more, {}, standings)
    shape, at = (len(plan.parts), len(every)), np.searchsorted(every, frames)
    places = gated(stacked_column(world.place, shape)[:, at])
    return gated(stacked(world.linear, shape)[:, at]), stacked(spin, shape)[:, at], places


def stepped(scene: Scene, part_id: str, frame: float) -> Floats:
    """How far footholds have carried a part at a frame, px in its parent's space, shape (3,)."""
    plan, frames = plan_of(scene), np.array([frame])
    values, _ = _values(plan, frames, gated(curve_values(plan.curves, frames)), {}, False)
    _, shift = footholds(plan, frames, values, _standings(plan))
    result: Floats = stacked_column(shift, (len(plan.parts), 1))[plan.row_of[part_id], 0]
    return result


def _pose(plan: Plan, frames: Floats, motion: Floats, values: dict[str, Entry], world: World) -> Pose:
    shape = (len(plan.parts), len(frames))
    back = plan.back
    # Entry by entry, so that each is written in one piece; what stays 0 is never touched.
    matrices = np.zeros((4, 4, *shape))
    for i in range(3):
        for j, entries in enumerate((*world.linear[i], world.origin[i])):
            if not isinstance(entries, float):
                np.take(gated(entries), back, axis=0, out=matrices[i, j], mode="clip")
            elif entries:
                matrices[i, j] = entries
    matrices[3, 3] = 1.0
    pivot = np.zeros((3, *shape))
    for axis, places in enumerate(world.place):
        if not isinstance(places, float):
            np.take(gated(places), back, axis=0, out=pivot[axis], mode="clip")
    opacity, drawing, shown, order = (np.broadcast_to(rows[back], shape) for rows in _seen(plan, values))
    return Pose(
        part_ids=plan.part_ids,
        frames=frames,
        world=np.moveaxis(matrices, (0, 1), (-2, -1)),
        pivot=np.moveaxis(pivot, 0, -1),
        opacity=opacity,
        drawing=drawing,
        shown=shown,
        order=order,
        keyed=plan.keyed_names,
        motion=motion,
        shaped=plan.shaped,
    )


def _seen(plan: Plan, values: dict[str, Entry]) -> tuple[npt.NDArray[Any], ...]:
    """How parts look: opacity, drawing, shown and order as they count, by row. Where nothing moves them they stay with
    the plan.
    """
    if any(values[name] is not plan.still[name] for name in ("opacity", "drawing", "shown", "order")):
        return _looked_up(plan, values)
    return _SEEN.of(plan, lambda: _looked_up(plan, values))


def _looked_up(plan: Plan, values: dict[str, Entry]) -> tuple[npt.NDArray[Any], ...]:
    opacity, shown = _passed_down(plan, values)
    numbers = np.clip(np.rint(alone(plan, values["drawing"])), -1, plan.drawings.max(initial=0)).astype(np.int64)
    return opacity, np.clip(numbers, 0, plan.drawings - 1), shown, alone(plan, values["order"])


def _passed_down(plan: Plan, values: dict[str, Entry]) -> tuple[Floats, npt.NDArray[np.bool_]]:
    """Opacity and shown as they count: a part fades and vanishes with its parents."""
    opacity = np.clip(alone(plan, values["opacity"]), 0.0, 1.0)
    shown = alone(plan, values["shown"]) >= 0.5
    for wave in plan.waves:
        if wave.parents is not None:
            opacity[wave.rows] *= opacity[wave.parents]
            shown[wave.rows] &= shown[wave.parents]
    return opacity, shown
