"""The pose of a whole scene: one function for one frame under a dragging hand and for a whole film."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from jointed_crane.core.evaluate.footholds import footholds
from jointed_crane.core.evaluate.plan import Plan, plan_of
from jointed_crane.core.evaluate.pose import Pose, gated
from jointed_crane.core.evaluate.values import alone, effective, rotations
from jointed_crane.core.evaluate.waves import World, down_the_waves
from jointed_crane.core.geometry.fields import Entry
from jointed_crane.core.motion.curves import values as curve_values
from jointed_crane.core.motion.curves import values_beside
from jointed_crane.core.placement import Setting, local_placement
from jointed_crane.core.scene import Scene

Floats = npt.NDArray[np.float64]

__all__ = ["Pose", "evaluate"]


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
    with np.errstate(over="ignore", invalid="ignore"):  # what overflows is met by the gate
        motion = gated(_motion(plan, wanted, beside))
        values = effective(plan, motion)
        pivot, shift = footholds(plan, wanted)
        turn, spin = rotations(plan, values, "turn"), rotations(plan, values, "spin")
        local = local_placement(Setting(values, plan.orientation, turn, spin, pivot, plan.centre, shift))
        world = down_the_waves(plan, local, len(wanted))
        return _pose(plan, wanted, motion, values, world)


def _motion(plan: Plan, frames: Floats, beside: Scene | None) -> Floats:
    if beside is None or len(frames) != 1:
        return curve_values(plan.curves, frames)
    return values_beside(plan.curves, plan_of(beside).curves, float(frames[0]))


def _pose(plan: Plan, frames: Floats, motion: Floats, values: dict[str, Entry], world: World) -> Pose:
    shape = (len(plan.parts), len(frames))
    back = plan.back
    matrices = np.zeros((*shape, 4, 4))
    for i in range(3):
        for j, entries in enumerate((*world.linear[i], world.origin[i])):
            if not isinstance(entries, float):
                matrices[..., i, j] = gated(entries)[back]
            elif entries:
                matrices[..., i, j] = entries
    matrices[..., 3, 3] = 1.0
    pivot = np.zeros((*shape, 3))
    for axis, places in enumerate(world.place):
        if not isinstance(places, float):
            pivot[..., axis] = gated(places)[back]
    opacity, shown = _passed_down(plan, values)
    counts = plan.drawings
    numbers = np.clip(np.rint(alone(plan, values["drawing"])), -1, counts.max(initial=0)).astype(np.int64)
    return Pose(
        part_ids=plan.part_ids,
        frames=frames,
        world=matrices,
        pivot=pivot,
        opacity=np.broadcast_to(opacity[back], shape),
        drawing=np.broadcast_to(np.clip(numbers, 0, counts - 1)[back], shape),
        shown=np.broadcast_to(shown[back], shape),
        order=np.broadcast_to(alone(plan, values["order"])[back], shape),
        keyed=plan.keyed_names,
        motion=motion,
    )


def _passed_down(plan: Plan, values: dict[str, Entry]) -> tuple[Floats, npt.NDArray[np.bool_]]:
    """Opacity and shown as they count: a part fades and vanishes with its parents."""
    opacity = np.clip(alone(plan, values["opacity"]), 0.0, 1.0)
    shown = alone(plan, values["shown"]) >= 0.5
    for wave in plan.waves:
        if wave.parents is not None:
            opacity[wave.rows] *= opacity[wave.parents]
            shown[wave.rows] &= shown[wave.parents]
    return opacity, shown
