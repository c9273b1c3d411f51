"""A picture outside the stage at every frame."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from jointed_crane.core.checks.finding import Finding, Rig
from jointed_crane.core.geometry.nine_points import box_corners
from jointed_crane.core.geometry.projection import on_stage

NAME = "Outside the stage"


def find(rig: Rig) -> Iterator[Finding]:
    """Parts whose drawn box touches the stage at no frame."""
    stage = np.array([rig.scene.width, rig.scene.height])
    for part in rig.pictured():
        world = rig.film.world[rig.film.index[part.id]]
        points = np.concatenate([box_corners(drawing.bounds) for drawing in part.drawings])
        places = on_stage(world, points)
        low, high = places.min(axis=1), places.max(axis=1)
        if not np.all((high >= 0) & (low <= stage), axis=1).any():
            away = float(np.maximum(-high, low - stage).max(axis=1).min())
            sentence = f"{part.name} lies outside the stage at every frame, {away:.0f} px at the nearest."
            yield Finding(NAME, part.id, sentence, away, "px")
