"""Evaluation in the API: the pose at a frame, and previews under a dragging hand."""

from __future__ import annotations

from typing import Any

from flask import Blueprint

from jointed_crane.core.edits import changed_by
from jointed_crane.core.edits.shared.dragged_numbers import Numbers, numbers_of
from jointed_crane.core.edits.shared.values_on_screen import with_value
from jointed_crane.core.evaluate.pose import Pose
from jointed_crane.core.evaluate.pose_at_frame import laid_over, moved_pose, pose_at, pose_with
from jointed_crane.core.model.scene import Scene
from jointed_crane.formats.document import put_documents
from jointed_crane.store.scenes import StaleVersion
from jointed_crane.web.api.answer_models.changes import PreviewAnswer
from jointed_crane.web.api.answer_models.poses import PoseAnswer
from jointed_crane.web.api.answers import change_document, moved_document, placed_document, pose_document
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import FrameQuery, PreviewedEdits
from jointed_crane.web.api.motion.courses import curves_document
from jointed_crane.web.api.motion.views import rings_document, seen_documents, view_of
from jointed_crane.web.api.scenes import edits_of
from jointed_crane.web.library import library

api = Blueprint("evaluation", __name__, url_prefix="/api")


@api.get("/scenes/<scene_id>/pose")
@contract(query=FrameQuery, gives=PoseAnswer)
def pose(scene_id: str, query: FrameQuery) -> dict[str, Any]:
    """The pose at ?frame=, or at rest without one."""
    entry = library().scenes.load(scene_id)
    return {"version": entry.version, "pose": pose_document(pose_at(entry.scene, query.frame), query.frame)}


@api.post("/scenes/<scene_id>/preview")
@contract(body=PreviewedEdits, gives=PreviewAnswer)
def preview(scene_id: str, body: PreviewedEdits) -> dict[str, Any]:
    """What edits would change, kept nowhere: the parts that move, and the name of the place a point snaps to."""
    frame = body.frame
    entry = library().scenes.load(scene_id)
    if body.version != entry.version:
        raise StaleVersion(entry.version)
    edits = edits_of(body)
    before = pose_at(entry.scene, frame)
    numbers = None if body.curves else numbers_of(entry.scene, edits, frame)
    pose = None if numbers is None else pose_with(entry.scene, frame, numbers.values)
    if numbers is not None and pose is not None:
        moved = placed_document(before, pose, frame)
        moved["motion"] = {} if frame is None else numbers.values
        changed = put_documents(entry.scene, numbers)
        answer = {"version": entry.version, "changed": changed, "removed": [], "pose": moved, "snap": None}
        if not body.views:
            return answer
        after = _with_numbers(entry.scene, numbers, frame)
        return {**answer, **_as_seen((entry.scene, before), (after, laid_over(before, pose)), body)}
    result = changed_by(entry.scene, edits)
    after = result.after
    snaps = [edit.snap(entry.scene) for edit in edits]
    change = change_document(result, is_preview=True)
    pose = moved_pose(result, frame)
    moved = moved_document(before, pose, frame)
    if "order" in change:
        moved["painting"] = pose_at(after, frame).painting()
    snap = next((snap.name for snap in snaps if snap), None)
    curves = {"curves": curves_document(after, body.curves)} if body.curves else {}
    is_same = not change["removed"] and "order" not in change
    whole = laid_over(before, pose) if is_same else pose_at(after, frame)
    looked = _as_seen((entry.scene, before), (after, whole), body) if body.views else {}
    return {"version": entry.version, **change, "pose": moved, "snap": snap, **curves, **looked}


def _with_numbers(scene: Scene, numbers: Numbers, frame: float | None) -> Scene:
    """The scene with the values that a drag sets, as far as rings ask for it."""
    changed = []
    for part_id, values in numbers.values.items():
        part = scene.part(part_id)
        for channel, value in values.items():
            part = with_value(part, channel, value, frame)
        changed.append(part)
    return scene.with_parts(changed)


def _as_seen(was: tuple[Scene, Pose], now: tuple[Scene, Pose], body: PreviewedEdits) -> dict[str, Any]:
    """What the views of a preview see otherwise than before, and the rings of the part that is picked."""
    (_, before), (after, pose) = was, now
    known = [part_id for part_id in pose.part_ids if part_id in before.index]
    rows, old = [pose.index[part_id] for part_id in known], [before.index[part_id] for part_id in known]
    differs = (pose.world[rows] != before.world[old]).any(axis=(1, 2, 3))
    differs |= (pose.pivot[rows] != before.pivot[old]).any(axis=(1, 2))
    moved = {part_id for part_id, differ in zip(known, differs.tolist(), strict=True) if differ}
    moved |= set(pose.part_ids) - set(known)
    looked, looking = (
        [view_of(scene, asked, shown, 0, body.frame is None) for asked in body.views] for scene, shown in (was, now)
    )
    some = [moved if view == known else None for view, known in zip(looking, looked, strict=True)]
    seen = seen_documents(after, pose, looking, some)
    return {"seen": seen, "rings": rings_document(after, body.lead, body.frame, looking)}
