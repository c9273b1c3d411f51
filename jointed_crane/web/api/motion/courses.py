"""What is seen of motion besides the pose: the curves of channels, the arcs of pivots, and how far contacts slip."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import asdict
from typing import Any

import numpy as np
from flask import Blueprint

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_PLACES
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import narrowed, pose_at
from jointed_crane.core.measures.drift import course_in_space, course_of
from jointed_crane.core.measures.seam import seams
from jointed_crane.core.measures.standing import standing
from jointed_crane.core.model.channels import countable
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.motion.drawn import drawn
from jointed_crane.core.viewing.cameras import stage_views
from jointed_crane.core.viewing.projection import seen_from
from jointed_crane.core.viewing.view import STAGE, View
from jointed_crane.web.api.answer_models.courses import ArcsAnswer, CurvesAnswer, DriftAnswer, SeamAnswer
from jointed_crane.web.api.contract import contract
from jointed_crane.web.api.models import ArcsQuery, AskedView, CurvesQuery, DriftQuery, NoQuery
from jointed_crane.web.api.motion.views import finite, view_of
from jointed_crane.web.library import library

api = Blueprint("courses", __name__, url_prefix="/api")


def curves_document(scene: Scene, wanted: Iterable[tuple[str, str]]) -> list[dict[str, Any]]:
    """The pictures of channels, by part and channel; those without keys are left out."""
    result = []
    for part_id, name in wanted:
        part = scene.parts[scene.index[part_id]] if part_id in scene.index else None
        channel = part.channels.get(name) if part else None
        if channel is not None and channel.keys:
            picture = drawn(countable(name, channel), scene.length, float(scene.rate))
            result.append({"part": part_id, "channel": name, **asdict(picture)})
    return result


@api.get("/scenes/<scene_id>/curves")
@contract(query=CurvesQuery, gives=CurvesAnswer)
def curves(scene_id: str, query: CurvesQuery) -> dict[str, Any]:
    """Cubics, course and speed of channels, each given as [part, channel]; speeds are in units a second."""
    entry = library().scenes.load(scene_id)
    return {"version": entry.version, "curves": curves_document(entry.scene, query.channels)}


@api.get("/scenes/<scene_id>/arcs")
@contract(query=ArcsQuery, gives=ArcsAnswer)
def arcs(scene_id: str, query: ArcsQuery) -> dict[str, Any]:
    """Where the pivots of parts are seen, px of a view, at each frame ?from= to ?to= (both included)."""
    entry = library().scenes.load(scene_id)
    frames = _frames(entry.scene, query.first, query.last, len(query.parts))
    known = [part_id for part_id in query.parts if part_id in entry.scene.index]
    pose = evaluate(narrowed(entry.scene, known), frames)
    views = _views(entry.scene, query.view, frames)
    places = {part_id: _seen(pose.pivot[pose.index[part_id]], views) for part_id in known}
    return {"version": entry.version, "first": query.first, "arcs": places}


@api.get("/scenes/<scene_id>/drift")
@contract(query=DriftQuery, gives=DriftAnswer)
def drift(scene_id: str, query: DriftQuery) -> dict[str, Any]:
    """The way of a point of a part (?x= ?y=, px in its art), its speed in px a frame, and the frames in which it slips
    by more than ?limit=. Without a point it is the foothold that holds, which should stand on its ground. Where the
    part stands off its level, from which frame on and how high, px, below it less than 0.
    """
    entry = library().scenes.load(scene_id)
    part = entry.scene.part(query.part)
    frames = _frames(entry.scene, query.first, query.last, 1)
    stands = standing(entry.scene, part.id, frames)
    if query.x is None or query.y is None:
        path, speeds = [], stands.slips
    else:
        course = course_of(entry.scene, part.id, (query.x, query.y), frames)
        path, speeds = course.path.tolist(), course.speeds
        if query.view is not None:
            there = course_in_space(entry.scene, part.id, (query.x, query.y), frames)
            path = _seen(there, _views(entry.scene, query.view, frames))
    answer = {"version": entry.version, "first": query.first, "path": path, "speeds": speeds.tolist()}
    off = stands.off_level()
    if off is not None:
        answer["off"] = {"frame": off[0], "height": off[1]}
    return {**answer, "slips": frames[speeds > query.limit].tolist()}


@api.get("/scenes/<scene_id>/seam")
@contract(query=NoQuery, gives=SeamAnswer)
def seam(scene_id: str, query: NoQuery) -> dict[str, Any]:
    """How far each part jumps from the last frame to the first: its pivot in px, its turn in degrees; widest first."""
    entry = library().scenes.load(scene_id)
    return {"version": entry.version, "seams": [asdict(result) for result in seams(entry.scene)]}


def _views(scene: Scene, asked: AskedView | None, frames: np.ndarray) -> list[View]:
    """What is looked by at each frame: one and the same view, or the cameras that are on."""
    if asked is None:
        return [STAGE] * len(frames)
    if asked.side != "stage":
        return [view_of(scene, asked, pose_at(scene, float(frames[0])))] * len(frames)
    cameras = {cut.camera for cut in scene.cuts if cut.camera is not None}
    return stage_views(scene, evaluate(narrowed(scene, cameras), frames))


def _seen(places: np.ndarray, views: list[View]) -> list[list[float]]:
    return [finite(seen_from(place, view)).tolist() for place, view in zip(places, views, strict=True)]


def _frames(scene: Scene, first: int, last: int | None, parts: int) -> np.ndarray:
    end = scene.length - 1 if last is None else last
    most = max(MOST_PLACES // max(parts, 1), 1)
    if not 1 <= end - first + 1 <= most:
        raise RuleError(
            f"The way of a point is followed over 1 to {most} frames at once. Nothing was changed; ask for fewer."
        )
    return np.arange(first, end + 1, dtype=float)
