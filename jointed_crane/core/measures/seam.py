"""How well a loop closes: what differs between the last frame and the first one after it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.viewing.projection import seen_linear_of


@dataclass(frozen=True)
class Seam:
    """How far a part jumps where the film begins again: its pivot in px, and its turn as seen in degrees."""

    part: str
    px: float
    degrees: float


def seams(scene: Scene) -> list[Seam]:
    """The jump of each part from the last frame to the first, the widest first.

    A loop closes where the first pose is also the last: then nothing jumps and the same pose is seen for two frames.
    """
    film = evaluate(scene, [0.0, scene.length - 1.0])
    far = np.hypot(*np.diff(film.pivot[:, :, :2], axis=1)[:, 0].T)
    x_axes = seen_linear_of(film.world)[..., 0]
    angles = np.rad2deg(np.arctan2(x_axes[..., 1], x_axes[..., 0]))
    turns = (angles[:, 1] - angles[:, 0] + 180.0) % 360.0 - 180.0
    result = [
        Seam(part_id, float(px), float(turn)) for part_id, px, turn in zip(film.part_ids, far, turns, strict=True)
    ]
    return sorted(result, key=lambda seam: -(seam.px + abs(seam.degrees)))
