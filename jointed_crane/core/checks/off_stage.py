"""A picture outside the stage, or what the camera sees, at every frame."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from jointed_crane.core.checks.finding import Finding, Floats, Rig
from jointed_crane.core.geometry.nine_points import box_corners
from jointed_crane.core.viewing.cameras import stage_views
from jointed_crane.core.viewing.projection import on_stage, plane_maps
from jointed_crane.core.viewing.seeing import near_enough, through
from jointed_crane.core.viewing.view import View

NAME = "Outside the stage"


def find(rig: Rig) -> Iterator[Finding]:
    """Parts whose drawn box touches the stage at no frame; through a camera, what is sent of it."""
    if any(cut.camera for cut in rig.scene.cuts):
        yield from _never_before_the_camera(rig)
        return
    stage = np.array([rig.scene.width, rig.scene.height])
    for part in rig.pictured():
        world = rig.film.world[rig.film.index[part.id]]
        points = np.concatenate([box_corners(drawing.bounds) for drawing in part.drawings])
        low, high = _boxes(world[:1], points)
        if _touches(low, high, stage):  # most parts do, on the first frame already
            continue
        low, high = _boxes(world, points)
        if not _touches(low, high, stage):
            away = float(np.maximum(-high, low - stage).max(axis=1).min())
            sentence = f"{part.name} lies outside the stage at every frame, {away:.0f} px at the nearest."
            yield Finding(NAME, part.id, sentence, away, "px")


def _never_before_the_camera(rig: Rig) -> Iterator[Finding]:
    stage = np.array([rig.scene.width, rig.scene.height])
    views = stage_views(rig.scene, rig.film)
    for part in rig.pictured():
        world = rig.film.world[rig.film.index[part.id]]
        boxes = [box_corners(drawing.bounds) for drawing in part.drawings]
        if not any(
            _is_seen(box, there, view, stage) for there, view in zip(world, views, strict=True) for box in boxes
        ):
            yield Finding(NAME, part.id, f"{part.name} lies outside what the camera sees at every frame.")


def _is_seen(box: Floats, world: Floats, view: View, stage: Floats) -> bool:
    """Whether what lies before the camera of a box touches the picture."""
    depths = view.depths @ world[:, [0, 1, 3]]
    kept = box if view.focal is None else near_enough(box, depths, view.near)
    if not len(kept):
        return False
    places = through(plane_maps(world, view), kept)
    return bool(np.all((places.max(axis=0) >= 0) & (places.min(axis=0) <= stage)))


def _boxes(world: Floats, points: Floats) -> tuple[Floats, Floats]:
    """The least and the greatest coordinates of points on the stage, px, both of shape (frames, 2)."""
    places = on_stage(world, points)
    return places.min(axis=1), places.max(axis=1)


def _touches(low: Floats, high: Floats, stage: Floats) -> bool:
    return bool(np.all((high >= 0) & (low <= stage), axis=1).any())
