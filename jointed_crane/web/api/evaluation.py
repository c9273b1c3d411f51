"""Evaluation in the API: the pose at a frame, previews under a dragging hand, baked motion for playing."""

from __future__ import annotations

import struct
from typing import Any, cast

import numpy as np
from flask import Blueprint, Response, request

from jointed_crane.core.edits import applied
from jointed_crane.core.errors import RuleError
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.geometry.projection import planar
from jointed_crane.core.shown import moved_pose, shown_pose
from jointed_crane.store.scenes import StaleVersion
from jointed_crane.web.api.answers import (
    change_document,
    frame_of,
    moved_document,
    pose_document,
    request_document,
    version_of,
)
from jointed_crane.web.api.scenes import edits_of
from jointed_crane.web.library import library

api = Blueprint("evaluation", __name__, url_prefix="/api")

#: Frames of one block of baked motion.
MOST_FRAMES = 20_000


@api.get("/scenes/<scene_id>/pose")
def pose(scene_id: str) -> dict[str, Any]:
    """The pose at ?frame=, or at rest without one."""
    frame = frame_of(request.args.get("frame"))
    kept = library().scenes.load(scene_id)
    return {"version": kept.version, "pose": pose_document(shown_pose(kept.scene, frame), frame)}


@api.post("/scenes/<scene_id>/preview")
def preview(scene_id: str) -> dict[str, Any]:
    """What edits would change, kept nowhere: the parts that move, and the name of the place a point snaps to."""
    document = request_document()
    frame = frame_of(document.get("frame"))
    kept = library().scenes.load(scene_id)
    if version_of(document) != kept.version:
        raise StaleVersion(kept.version)
    edits = edits_of(document)
    after = applied(kept.scene, edits)
    before = shown_pose(kept.scene, frame)
    snaps = [edit.snap(kept.scene) for edit in edits]
    change = change_document(kept.scene, after)
    pose = moved_document(before, moved_pose(kept.scene, after, frame), frame)
    if "order" in change:
        pose["painting"] = shown_pose(after, frame).painting()
    snap = next((snap.name for snap in snaps if snap), None)
    return {"version": kept.version, **change, "pose": pose, "snap": snap}


@api.get("/scenes/<scene_id>/motion")
def motion(scene_id: str) -> Response:
    """Baked motion for frames ?from= to ?to= (both included), by default the whole scene.

    Little-endian: three uint32 (parts, frames, columns), then float32 [parts][frames][columns] with the columns
    a b c d e f (planar matrix), opacity, drawing, shown, order. Parts come in painting order of the scene.
    """
    kept = library().scenes.load(scene_id)
    first = request.args.get("from", 0, type=int)
    last = request.args.get("to", kept.scene.length - 1, type=int)
    if not 0 <= last - first < MOST_FRAMES or abs(first) > 1e7:
        raise RuleError(f"Motion is sent for 1 to {MOST_FRAMES} frames at once.")
    found = evaluate(kept.scene, np.arange(first, last + 1, dtype=float))
    parts, frames = found.opacity.shape
    block = np.empty((parts, frames, 10), dtype="<f4")
    block[..., :6] = planar(found.world)
    for column, values in enumerate((found.opacity, found.drawing, found.shown, found.order), start=6):
        block[..., column] = values
    answer = Response(struct.pack("<3I", parts, frames, 10) + block.tobytes(), content_type="application/octet-stream")
    answer.headers["X-Scene-Version"] = str(kept.version)
    answer.headers["Cache-Control"] = "private, no-cache"
    answer.set_etag(f"{kept.version}-{first}-{last}")
    return cast(Response, answer.make_conditional(request))
