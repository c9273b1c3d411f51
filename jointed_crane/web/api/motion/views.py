"""What views see of a scene: where each part is seen, in which order parts are painted, and baked motion as they see
it.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from dataclasses import asdict
from typing import Any

import numpy as np
import numpy.typing as npt
from flask import Blueprint, Response

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_MOTION_NUMBERS
from jointed_crane.core.edits.shared.turns_in_space import rings_of
from jointed_crane.core.edits.shared.values_on_screen import driven_values, value_on_screen
from jointed_crane.core.evaluate.pose import Pose
from jointed_crane.core.evaluate.pose_at_frame import pose_at, world_at
from jointed_crane.core.evaluate.stretches import film
from jointed_crane.core.geometry.decomposition import rotation_matrices, turns_of
from jointed_crane.core.measures.turning_rings import TurningRing
from jointed_crane.core.model.cameras import LENS
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.viewing.cameras import camera_view, stage_view
from jointed_crane.core.viewing.painting import painting
from jointed_crane.core.viewing.projection import linear_of, seen_from
from jointed_crane.core.viewing.shown import Shown, shown
from jointed_crane.core.viewing.view import STAGE, View, angle_of_lens, from_around, straight
from jointed_crane.web.api.answer_models.views import PaintedAnswer, SeenAnswer
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import AskedView, SeenBody, SeenMotionQuery
from jointed_crane.web.api.motion.blocks import block_of_motion
from jointed_crane.web.library import library

Floats = npt.NDArray[np.float64]
api = Blueprint("views", __name__, url_prefix="/api")

#: What a view sees of a part at a frame, column by column of a block of motion.
COLUMNS = (*(f"{row}{column}" for row in "xyw" for column in "xyz1"), "opacity", "drawing", "shown")
#: How far before a camera its body of wire reaches, as a share of the stage; and the corners round its picture.
_BODY = 0.14
_ROUND = ((-1, -1), (1, -1), (1, 1), (-1, 1))
#: Frames for which painting orders are sent at once.
MOST_PAINTED_FRAMES = 500


@api.post("/scenes/<scene_id>/seen")
@contract(body=SeenBody, gives=SeenAnswer)
def seen(scene_id: str, body: SeenBody) -> dict[str, Any]:
    """What views see of the scene at a frame, or at rest without one, with the rings on which one part turns."""
    entry = library().scenes.load(scene_id)
    pose = pose_at(entry.scene, body.frame)
    looking = [view_of(entry.scene, asked, pose, 0, body.frame is None) for asked in body.views]
    views = seen_documents(entry.scene, pose, looking)
    rings = rings_document(entry.scene, body.lead, body.frame, looking)
    return {"version": entry.version, "frame": body.frame, "views": views, "rings": rings}


@api.get("/scenes/<scene_id>/motion/seen")
@contract(query=SeenMotionQuery, gives="application/octet-stream")
def seen_motion(scene_id: str, query: SeenMotionQuery) -> Response:
    """Baked motion as a view sees it, as `motion` gives it: its columns are the rows x, y and w of the map from
    (x, y, z, 1) of the art to the view, opacity, drawing, shown.
    """
    entry = library().scenes.load(scene_id)
    scene = entry.scene

    def columns(pose: Pose) -> Iterable[Floats]:
        matrices = np.stack([view_of(scene, query.view, pose, column).matrix for column in range(len(pose.frames))])
        maps = (matrices @ pose.world).reshape(*pose.world.shape[:2], 12)
        return (*np.moveaxis(maps, -1, 0), pose.opacity, pose.drawing, pose.shown)

    return block_of_motion(entry, query, COLUMNS, columns, json.dumps(query.view.model_dump(), sort_keys=True))


@api.get("/scenes/<scene_id>/motion/painted")
@contract(query=SeenMotionQuery, gives=PaintedAnswer)
def painted_motion(scene_id: str, query: SeenMotionQuery) -> dict[str, Any]:
    """In which order a view paints parts over frames ?from= to ?to= (both included); null for a frame whose order is
    that of the one before.
    """
    entry = library().scenes.load(scene_id)
    scene = entry.scene
    first, last = query.first, scene.length - 1 if query.last is None else query.last
    most = min(MOST_PAINTED_FRAMES, max(MOST_MOTION_NUMBERS // (100 * max(len(scene.parts), 1)), 1))
    if not 0 <= last - first < most:
        raise RuleError(f"Painting orders of this scene are sent for 1 to {most} frames at once. Nothing was changed.")
    frames: list[Any] = []
    known = None
    for pose in film(scene, np.arange(first, last + 1.0)):
        for column in range(len(pose.frames)):
            now = painting_document(_looked_at(scene, pose, column), view_of(scene, query.view, pose, column))
            frames.append(None if now == known else now)
            known = now
    return {"version": entry.version, "first": first, "frames": frames}


def view_of(scene: Scene, asked: AskedView, pose: Pose, column: int = 0, is_at_rest: bool = False) -> View:
    """The view that is asked for at a frame of a pose; what it looks at is the middle of the stage where nothing is
    said.
    """
    if asked.side == "stage":
        return stage_view(scene, pose, column, is_at_rest)
    at = (scene.width / 2, scene.height / 2, 0.0) if asked.at is None else asked.at
    if asked.side == "front":
        return STAGE
    if asked.side == "free":
        distance = 1.6 * max(scene.width, scene.height) if asked.distance is None else asked.distance
        return from_around(at, asked.yaw, asked.pitch, distance)
    return straight(asked.side)


def seen_documents(
    scene: Scene, pose: Pose, looking: Sequence[View], moved: Sequence[Iterable[str] | None] = ()
) -> list[dict[str, Any]]:
    """What each of several views sees of the one frame of a pose; of each all parts or, where said, only some."""
    looked = _looked_at(scene, pose)
    return [
        _seen_document(scene, pose, looked, view, some)
        for view, some in zip(looking, moved or [None] * len(looking), strict=True)
    ]


def _seen_document(scene: Scene, pose: Pose, looked: Shown, view: View, moved: Iterable[str] | None) -> dict[str, Any]:
    """What a view sees at the one frame of a pose: the view itself, for edits made in it; where the corners of the
    stage are seen; each part's map and pivot, of all or of some; what is painted from back to front; and cameras as
    bodies of wire, their place and the corners of what they see.
    """
    rows = range(len(pose.part_ids)) if moved is None else [pose.index[part_id] for part_id in moved]
    maps = (view.matrix @ pose.world[:, 0]).reshape(-1, 12).tolist()
    pivots = finite(seen_from(pose.pivot[:, 0], view)).tolist()
    return {
        "view": asdict(view),
        "map": view.matrix.reshape(12).tolist(),
        "stage": finite(seen_from(_stage_corners(scene), view)).tolist(),
        "parts": {pose.part_ids[row]: {"map": maps[row], "pivot": pivots[row]} for row in rows},
        "painting": painting_document(looked, view),
        "cameras": {
            part.id: finite(seen_from(_body(scene, part, pose), view)).tolist()
            for part in scene.parts
            if part.camera is not None
        },
    }


def _body(scene: Scene, part: Part, pose: Pose) -> Floats:
    """Where a camera stands, and the corners of its picture a piece before it, px in space, shape (5, 3)."""
    view = camera_view(scene, part, pose)
    across, down, towards = view.axes.T
    ahead = _BODY * max(scene.width, scene.height)
    px = 1 / view.scale if view.focal is None else ahead / view.focal
    place = np.array(view.place)
    corners = [
        place - towards * ahead + across * (x * px * scene.width / 2) + down * (y * px * scene.height / 2)
        for x, y in _ROUND
    ]
    return np.stack([place, *corners])


def _looked_at(scene: Scene, pose: Pose, column: int = 0) -> Shown:
    """What shows a picture on the bench."""
    looked = set(scene.isolated)
    without = {part.id for part in scene.parts if part.hidden or (looked and part.id not in looked)}
    return shown(scene, pose, column, without)


def painting_document(looked: Shown, view: View) -> list[Any]:
    """What is painted from back to front: ids of parts, each with what of its picture is seen, or null for all of
    it.
    """
    return [
        [part_id, clip and [[round(x, 4), round(y, 4)] for x, y in clip]] for part_id, clip in painting(looked, view)
    ]


def rings_document(
    scene: Scene, part_id: str | None, frame: float | None, looking: Sequence[View]
) -> dict[str, Any] | None:
    """The rings on which a part turns, and the axes that it moves along, as each view sees them: for an angle of 0
    and of 90 degrees the way there from the pivot in px of the view, and how much nearer to the camera, where 1 is
    the length of the ring's radius; the angle that is shown; and the rest orientation as turns about x, y and z,
    degrees.
    """
    if part_id is None or part_id not in scene.index:
        return None
    part = scene.part(part_id)
    values = driven_values(scene, part, frame)
    place = pose_at(scene, frame).pivot_of(part_id)
    rings = rings_of(scene, part, frame)
    return {
        "part": part_id,
        "place": place.tolist(),
        "angle": None if part.camera is None else angle_of_lens(value_on_screen(part, LENS, frame)),
        "orientation": turns_of(rotation_matrices(np.array(part.orientation)), part.turn_order, np.zeros(3)).tolist(),
        "angles": {ring.channel: values[ring.channel] for ring in rings},
        "views": [_seen_rings(view, place, rings) if _is_before(view, place) else {} for view in looking],
        "axes": {
            of: [
                [_seen_way(view, place, axes[:, axis]) for axis in range(3)] if _is_before(view, place) else []
                for view in looking
            ]
            for of, axes in _axes_of(scene, part, frame).items()
        },
    }


def _is_before(view: View, place: Floats) -> bool:
    """Whether a place lies before a camera, so that ways from there are seen; that of the camera itself does not."""
    return view.focal is None or float(view.depths[:3] @ place + view.depths[3]) > view.near


def _axes_of(scene: Scene, part: Part, frame: float | None) -> dict[str, Floats]:
    """The axes of the stage, of what a part hangs on and its own (O), as columns."""
    place_above = linear_of(world_at(scene, part.parent if part.inherits.position else None, frame))
    return {
        "stage": np.eye(3),
        "parent": place_above,
        "own": place_above @ rotation_matrices(np.array(part.orientation)),
    }


def _seen_rings(view: View, place: Floats, rings: list[TurningRing]) -> dict[str, list[float]]:
    result = {}
    for ring in rings:
        size = max(float(np.linalg.norm(ring.start)), float(np.linalg.norm(ring.quarter)), 1e-9)
        ways = (_seen_way(view, place, way / size) for way in (ring.start, ring.quarter))
        result[ring.channel] = [value for way in ways for value in way]
    return result


def _seen_way(view: View, place: Floats, way: Floats) -> list[float]:
    """A short way from a place as a view sees it, where what lies across the line of sight keeps its length."""
    across, down, _ = (float(axis @ way) for axis in view.axes.T)
    near = -float(view.sight_of(place) @ way)
    if view.focal is not None:
        x, y = (float(value) - middle for value, middle in zip(seen_from(place, view), view.centre, strict=True))
        towards = float(view.axes[:, 2] @ way)
        across, down = across + x / view.focal * towards, down + y / view.focal * towards
    return [round(value, 6) for value in (across, down, near)]


def _stage_corners(scene: Scene) -> Floats:
    width, height = scene.width, scene.height
    return np.array([[0.0, 0.0, 0.0], [width, 0.0, 0.0], [width, height, 0.0], [0.0, height, 0.0]])


def finite(places: Floats) -> Floats:
    """Places that are seen; far away where something stands in the plane of the camera."""
    return np.nan_to_num(np.clip(places, -1e9, 1e9), nan=1e9)
