"""What the API answers: the pose drawn on the stage, and what an edit changed."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import asdict
from typing import Any

import numpy as np

from jointed_crane.core.evaluate import Pose
from jointed_crane.core.model.forms import Shape
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.model.scene_change import SceneChange
from jointed_crane.core.shapes.picture import path_data
from jointed_crane.core.viewing.projection import planar
from jointed_crane.formats.document import adapter, part_document_beside
from jointed_crane.store.scenes import Entry


def pose_document(pose: Pose, frame: float | None) -> dict[str, Any]:
    """A whole pose at one frame as JSON, with the painting order."""
    placed = _placed(pose, frame, range(len(pose.part_ids)))
    return {**placed, "motion": pose.motion_at(), "painting": pose.painting(), "shapes": shapes_document(pose)}


def shapes_document(pose: Pose, column: int = 0) -> dict[str, Any]:
    """The shapes that move, in one column of a pose: path data, colours, line width, and the shape itself."""
    result = {}
    for part_id, shapes in pose.shapes().items():
        shape = shapes[column]
        if shape is not None:
            kind: Any = type(shape)
            result[part_id] = {**shape_words(shape), "shape": adapter(kind).dump_python(shape, mode="json")}
    return result


def shape_words(shape: Shape) -> dict[str, Any]:
    """A shape as a page draws it."""
    paint = shape.paint
    return {"d": path_data(shape), "fill": paint.fill or "none", "stroke": paint.stroke or "none", "width": paint.width}


def moved_document(before: Pose, after: Pose, frame: float | None) -> dict[str, Any]:
    """Those parts of a pose that lie or look otherwise than in an earlier one, and the motion values that differ."""
    return {**placed_document(before, after, frame), "motion": _motion_beside(before, after)}


def placed_document(before: Pose, after: Pose, frame: float | None) -> dict[str, Any]:
    """Those parts of a pose that lie or look otherwise than in an earlier one."""
    rows = [row for row, part_id in enumerate(after.part_ids) if part_id in before.index]
    old = [before.index[after.part_ids[row]] for row in rows]
    differs = np.zeros(len(rows), dtype=bool)
    for name in ("world", "pivot", "opacity", "drawing", "shown"):
        unlike = getattr(before, name)[old] != getattr(after, name)[rows]
        differs |= unlike.any(axis=tuple(range(1, unlike.ndim)))
    fresh = [row for row, part_id in enumerate(after.part_ids) if part_id not in before.index]
    moved = sorted([*fresh, *np.array(rows, dtype=np.intp)[differs].tolist()])
    return {**_placed(after, frame, moved), "shapes": shapes_document(after)}


def _motion_beside(before: Pose, after: Pose) -> dict[str, dict[str, float | None]]:
    """Motion values that differ from those of an earlier pose; None for a channel that moves no more."""
    known = before.motion[:, 0].tolist()
    result: dict[str, dict[str, float | None]] = {}
    for (part_id, channel), value in zip(after.keyed, after.motion[:, 0].tolist(), strict=True):
        row = before.motion_index.get((part_id, channel))
        if row is None or known[row] != value:
            result.setdefault(part_id, {})[channel] = value
    for part_id, channel in before.motion_index.keys() - after.motion_index.keys():
        if part_id in after.index:
            result.setdefault(part_id, {})[channel] = None
    return result


def _placed(pose: Pose, frame: float | None, rows: Iterable[int]) -> dict[str, Any]:
    """By part: planar matrix a b c d e f, place of the pivot, opacity, drawing, shown."""
    matrices = planar(pose.world[:, 0]).tolist()
    opacity = pose.opacity[:, 0].tolist()
    pivot = pose.pivot[:, 0, :2].tolist()
    drawing, shown = pose.drawing[:, 0].tolist(), pose.shown[:, 0].tolist()
    return {
        "frame": frame,
        "parts": {
            pose.part_ids[row]: {
                "matrix": matrices[row],
                "pivot": pivot[row],
                "opacity": opacity[row],
                "drawing": drawing[row],
                "shown": shown[row],
            }
            for row in rows
        },
    }


def stage_document(scene: Scene) -> dict[str, Any]:
    """The scene's own values."""
    own = {
        name: getattr(scene, name)
        for name in ("name", "width", "height", "ground", "fps", "length", "isolated", "depth")
    }
    beside = {name: [asdict(thing) for thing in getattr(scene, name)] for name in ("marks", "markers", "cuts")}
    poses = [{"id": pose.id, "name": pose.name, "values": pose.values} for pose in scene.poses]
    return {**own, **beside, "poses": poses}


def change_document(change: SceneChange, is_preview: bool = False) -> dict[str, Any]:
    """What differs in a scene, for a page that shows it as it was; briefly for a preview."""
    document: dict[str, Any] = {
        "changed": [part_document_beside(part, known, is_preview) for part, known in change.parts],
        "removed": [*change.removed],
    }
    if change.is_ordered_anew:
        document["order"] = list(change.after.index)
    if change.beside:
        document["stage"] = stage_document(change.after)
    return document


def history_document(entry: Entry) -> dict[str, Any]:
    """The version, and what undo and redo would do."""
    return {"version": entry.version, "undo": entry.undo_label, "redo": entry.redo_label}
