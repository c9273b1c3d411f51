"""Baked motion for playing: blocks of numbers, the shapes that move, and how a view sees both."""

from __future__ import annotations

import hashlib
import json
import struct
from collections.abc import Callable, Iterable
from typing import Any, cast

import numpy as np
import numpy.typing as npt
from flask import Blueprint, Response, current_app, request

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_MOTION_NUMBERS, MOST_SHAPED_FRAMES
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose import Pose
from jointed_crane.core.evaluate.pose_at_frame import narrowed
from jointed_crane.core.evaluate.stretches import film
from jointed_crane.core.shapes.reshaping import shape_channels
from jointed_crane.core.viewing.projection import planar
from jointed_crane.store.scenes import Entry
from jointed_crane.web.api.answer_models.poses import MovingShapesAnswer
from jointed_crane.web.api.answers import shape_words
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import MotionQuery
from jointed_crane.web.library import library

Floats = npt.NDArray[np.float64]
api = Blueprint("blocks", __name__, url_prefix="/api")

COLUMNS = (*"abcdef", "opacity", "drawing", "shown", "order")


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
    return block_of_motion(library().scenes.load(scene_id), query, COLUMNS, _from_the_front)


def _from_the_front(pose: Pose) -> Iterable[Floats]:
    return (*np.moveaxis(planar(pose.world), -1, 0), pose.opacity, pose.drawing, pose.shown, pose.order)


def block_of_motion(
    entry: Entry, query: MotionQuery, names: tuple[str, ...], columns: Callable[[Pose], Iterable[Floats]], of: str = ""
) -> Response:
    """Baked motion of a scene; `columns` gives the numbers of a pose, each of shape (parts, frames), and `of` says what
    else tells one block from another.
    """
    first, last = query.first, entry.scene.length - 1 if query.last is None else query.last
    parts, frames = len(entry.scene.parts), last - first + 1
    most = max(MOST_MOTION_NUMBERS // (len(names) * max(parts, 1)), 1)
    if not 1 <= frames <= most:
        raise RuleError(f"Motion of this scene is sent for 1 to {most} frames at once. Nothing was changed.")
    block = np.empty((parts, frames, len(names)), dtype="<f4")
    begin = 0
    for pose in film(entry.scene, np.arange(first, last + 1.0)):
        end = begin + len(pose.frames)
        for column, values in enumerate(columns(pose)):
            block[:, begin:end, column] = values
        begin = end
    answer = Response(_motion_head(parts, frames, names) + block.tobytes(), content_type="application/octet-stream")
    answer.headers["X-Scene-Version"] = str(entry.version)
    answer.headers["Cache-Control"] = "private, no-cache"
    # Another library may hold a scene of this id and version, and be served from this address.
    answer.set_etag(
        f"{current_app.config['LIBRARY_MARK']}-{entry.scene.id}-{entry.version}-{first}-{last}{_mark_of(of)}"
    )
    return cast(Response, answer.make_conditional(request))


def _mark_of(words: str) -> str:
    return f"-{hashlib.sha256(words.encode()).hexdigest()[:16]}" if words else ""


def _motion_head(parts: int, frames: int, names: tuple[str, ...]) -> bytes:
    """What a block of motion holds; with blanks at its end, so that the numbers begin at a multiple of four."""
    said = json.dumps({"parts": parts, "frames": frames, "columns": names}).encode()
    said += b" " * (-len(said) % 4)
    return struct.pack("<I", len(said)) + said
