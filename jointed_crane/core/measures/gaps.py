"""Joints as two points that belong together: which eyelet is a child's, and how far its pivot lies from it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jointed_crane.core.evaluate.pose_at_frame import pose_at
from jointed_crane.core.model.scene import Eyelet, Part, Scene
from jointed_crane.core.viewing.projection import carried


@dataclass(frozen=True)
class Gap:
    """How far a child's pivot lies from its eyelet, px on the stage."""

    part: str
    eyelet: str
    distance: float
    is_seated: bool


def matching_eyelet(scene: Scene, part: Part, pattern: str = "{name}") -> Eyelet | None:
    """The parent's eyelet that a part is seated in or, without a seat, the one its name matches.

    `{name}` in the pattern stands for the part's name; upper and lower case are the same.
    """
    if part.parent is None:
        return None
    parent = scene.part(part.parent)
    if part.seat is not None:
        return parent.eyelet(part.seat)
    wanted = pattern.replace("{name}", part.name).casefold().strip()
    return next((eyelet for eyelet in parent.eyelets if eyelet.name.casefold().strip() == wanted), None)


def gaps(scene: Scene, frame: float | None) -> list[Gap]:
    """The gap of every part that has an eyelet to lie in, as one state shows it, widest first."""
    pose = pose_at(scene, frame)
    result = []
    for part in scene.parts:
        eyelet = matching_eyelet(scene, part)
        if eyelet is None or part.parent is None:
            continue
        place = carried(pose.world_of(part.parent), np.array(eyelet.point))
        distance = float(np.linalg.norm(pose.pivot_of(part.id) - place))
        result.append(Gap(part.id, eyelet.id, distance, part.seat is not None))
    return sorted(result, key=lambda gap: -gap.distance)
