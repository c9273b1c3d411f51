"""Evaluation in the API: the pose at a frame, previews under a dragging hand, baked motion for playing."""

from __future__ import annotations

import json
import struct
from typing import Any, cast

import numpy as np
from flask import Blueprint, Response, current_app, request

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_MOTION_NUMBERS, MOST_SHAPED_FRAMES
from jointed_crane.core.edits import changed_by
from jointed_crane.core.edits.shared.dragged_numbers import numbers_of
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import moved_pose, narrowed, pose_at, pose_with
from jointed_crane.core.evaluate.stretches import film
from jointed_crane.core.geometry.projection import planar
from jointed_crane.core.shapes.reshaping import shape_channels
from jointed_crane.formats.document import put_documents
from jointed_crane.store.scenes import StaleVersion
from jointed_crane.web.api.answer_models import MovingShapesAnswer, PoseAnswer, PreviewAnswer
from jointed_crane.web.api.answers import change_document, moved_document, placed_document, pose_document, shape_words
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.courses import curves_document
from jointed_crane.web.api.models import FrameQuery, MotionQuery, PreviewedEdits
from jointed_crane.web.api.scenes import edits_of
from jointed_crane.web.library import library

api = Blueprint("evaluation", __name__, url_prefix="/api")

COLUMNS = (*"abcdef", "opacity", "drawing", "shown", "order")


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
        return {"version": entry.version, "changed": changed, "removed": [], "pose": moved, "snap": None}
    result = changed_by(entry.scene, edits)
    after = result.after
    snaps = [edit.snap(entry.scene) for edit in edits]
    change = change_document(result, is_preview=True)
    moved = moved_document(before, moved_pose(result, frame), frame)
    if "order" in change:
        moved["painting"] = pose_at(after, frame).painting()
    snap = next((snap.name for snap in snaps if snap), None)
    curves = {"curves": curves_document(after, body.curves)} if body.curves else {}
    return {"version": entry.version, **change, "pose": moved, "snap": snap, **curves}


@api.get("/scenes/<scene_id>/motion/shapes")
@contract(query=MotionQuery, gives=MovingShapesAnswer)
def motion_shapes(scene_id: str, query: MotionQuery) -> dict[str, Any]:
    """The shapes that move over frames ?from= to ?to= (both included), each as a page draws it; null where a part shows
    none of its own.
    """
    entry = library().scenes.load(scene_id)
    first, last = query.first, entry.scene.length - 1 if query.last is None else query.last
    if not 0 <= last - first < MOST_SHAPED_FRAMES:
        raise RuleError(f"Shapes are sent for 1 to {MOST_SHAPED_FRAMES} frames at once. Nothing was changed.")
    shaped = [part.id for part in entry.scene.parts if shape_channels(part)]
    result = evaluate(narrowed(entry.scene, shaped), np.arange(first, last + 1, dtype=float)).shapes()
    shapes = {
        part_id: [None if shape is None else shape_words(shape) for shape in over] for part_id, over in result.items()
    }
    return {"version": entry.version, "shapes": shapes}


@api.get("/scenes/<scene_id>/motion")
@contract(query=MotionQuery, gives="application/octet-stream")
def motion(scene_id: str, query: MotionQuery) -> Response:
    """Baked motion for frames ?from= to ?to= (both included), by default the whole scene.

    Little-endian: a uint32, the length of the head that follows; the head as JSON, {"parts", "frames", "columns"};
    then float32 [parts][frames][columns]. The columns are named in the head: a b c d e f (planar matrix), opacity,
    drawing, shown, order. Parts come in painting order of the scene.
    """
    entry = library().scenes.load(scene_id)
    first, last = query.first, entry.scene.length - 1 if query.last is None else query.last
    parts, frames = len(entry.scene.parts), last - first + 1
    most = max(MOST_MOTION_NUMBERS // (len(COLUMNS) * max(parts, 1)), 1)
    if not 1 <= frames <= most:
        raise RuleError(f"Motion of this scene is sent for 1 to {most} frames at once. Nothing was changed.")
    block = np.empty((parts, frames, len(COLUMNS)), dtype="<f4")
    begin = 0
    for pose in film(entry.scene, np.arange(first, last + 1.0)):
        end = begin + len(pose.frames)
        block[:, begin:end, :6] = planar(pose.world)
        for column, values in enumerate((pose.opacity, pose.drawing, pose.shown, pose.order), start=6):
            block[:, begin:end, column] = values
        begin = end
    answer = Response(_motion_head(parts, frames) + block.tobytes(), content_type="application/octet-stream")
    answer.headers["X-Scene-Version"] = str(entry.version)
    answer.headers["Cache-Control"] = "private, no-cache"
    # Another library may hold a scene of this id and version, and be served from this address.
    answer.set_etag(f"{current_app.config['LIBRARY_MARK']}-{scene_id}-{entry.version}-{first}-{last}")
    return cast(Response, answer.make_conditional(request))


def _motion_head(parts: int, frames: int) -> bytes:
    """What a block of motion holds; with blanks at its end, so that the numbers begin at a multiple of four."""
    said = json.dumps({"parts": parts, "frames": frames, "columns": COLUMNS}).encode()
    said += b" " * (-len(said) % 4)
    return struct.pack("<I", len(said)) + said
