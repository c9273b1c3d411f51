"""What one state shows at one frame: poses held with their scene, and only what an edit moved."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import replace

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.evaluate.evaluation import evaluate, evaluate_with
from jointed_crane.core.evaluate.footholds import steps_as_shown
from jointed_crane.core.evaluate.packing.plan import plan_of
from jointed_crane.core.evaluate.pose import Pose
from jointed_crane.core.hierarchy.dependencies import dependencies_of
from jointed_crane.core.hierarchy.link_order import links_in_order
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.model.scene_change import SceneChange

Floats = npt.NDArray[np.float64]

#: The whole poses of some frames, and the last one of some parts alone.
_POSES: Memory[Pose] = Memory(most=4)
_ALONE: Memory[Pose] = Memory()
_DRAGGED: Memory[tuple[Scene, bool]] = Memory()


def pose_at(scene: Scene, frame: float | None) -> Pose:
    """The whole pose at a frame, or at rest where `frame` is None.

    Scenes are frozen, so the pose is held with the scene and can never be out of date: a drag asks for the same one
    again and again.
    """
    return _POSES.of(scene, lambda: evaluate(scene.shown_as(frame), [frame or 0.0]), frame)


def world_at(scene: Scene, part_id: str | None, frame: float | None) -> Floats:
    """The world matrix shown, shape (4, 4); the identity for the stage itself."""
    return np.eye(4) if part_id is None else pose_of(scene, [part_id], frame).world_of(part_id)


def pose_of(scene: Scene, part_ids: Collection[str], frame: float | None) -> Pose:
    """A pose that holds some parts: the whole one where it is held with the scene, else that of the parts and what has
    a say in where they lie. The last one is held too: a parent is asked for right after its child, and many parts one
    by one after they were asked for together.
    """
    whole, last = _POSES.at(scene, frame), _ALONE.at(scene, frame)
    if whole is not None:
        return whole
    if last is None or any(part_id not in last.index for part_id in part_ids):
        last = _ALONE.put(scene, evaluate(narrowed(scene, part_ids).shown_as(frame), [frame or 0.0]), frame)
    return last


def pivot_at(scene: Scene, part_id: str, frame: float | None) -> Floats:
    """Where a part turns about on the stage as shown, shape (3,)."""
    return pose_of(scene, [part_id], frame).pivot_of(part_id)


def moved_pose(change: SceneChange, frame: float | None) -> Pose:
    """The pose after an edit, of those parts alone that the edit may have moved, with their ancestors.

    These are the parts that differ and everything that depends on them, or did: joints that nothing turns any more go
    back. Parts come in painting order.
    """
    moved = dependencies_of(change.after).with_dependents(change.part_ids)
    if change.before is not None:
        differ = (*change.removed, *(part_id for part_id in change.part_ids if part_id in change.before.index))
        moved |= dependencies_of(change.before).with_dependents(differ) & change.after.index.keys()
    before = None if change.before is None else change.before.shown_as(frame)
    return evaluate(narrowed(change.after, moved).shown_as(frame), [frame or 0.0], beside=before)


def laid_over(before: Pose, after: Pose) -> Pose:
    """A whole pose of one frame with the parts that another one holds lying as that says."""
    rows = [before.index[part_id] for part_id in after.part_ids]
    result = {}
    for name in ("world", "pivot", "opacity", "drawing", "shown", "order"):
        values = getattr(before, name).copy()
        values[rows] = getattr(after, name)
        result[name] = values
    return replace(before, **result)


def pose_with(scene: Scene, frame: float | None, others: Mapping[str, Mapping[str, float]]) -> Pose | None:
    """The pose with other values at the frame shown, by part and channel, of those parts alone that may move by them.
    None where other frames have a say in it, so that a scene has to be made.

    A hand drags the same parts again and again, so they and what hangs on them stay with the scene as one of their own.
    """
    touched = frozenset((part_id, channel) for part_id, by_channel in others.items() for channel in by_channel)
    alone, stands = _DRAGGED.of(scene, lambda: _dragged(scene, touched), touched)
    if len(plan_of(alone.shown_as(frame)).moments) or (stands and frame is not None):
        return None
    return evaluate_with(alone, frame, others)


def _dragged(scene: Scene, touched: Iterable[tuple[str, str]]) -> tuple[Scene, bool]:
    """What may move when channels of parts do, as a scene of its own, and whether any of that stands on footholds while
    they drive it, or steps onto them as it is shown: where those carry it is said by other frames.
    """
    driven = set(touched)
    for part_id, link in links_in_order(scene.parts):
        if (link.source, link.channel) in driven:
            driven.add((part_id, link.onto))
    alone = narrowed(scene, dependencies_of(scene).with_dependents({part_id for part_id, _ in touched}))
    moving = {part_id for part_id, _ in driven}
    stands = any(part.footholds and (part.id in moving or steps_as_shown(part)) for part in alone.parts)
    return alone, stands


def narrowed(scene: Scene, part_ids: Iterable[str]) -> Scene:
    """The scene with nothing but these parts and what has a say in where they lie."""
    kept = dependencies_of(scene).with_sources(part_ids)
    if len(kept) == len(scene.parts):
        return scene
    return replace(scene, parts=tuple(part for part in scene.parts if part.id in kept))
