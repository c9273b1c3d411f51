"""The picture of a kept pose: the parts that it names, lying as it says, as large as they are."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from jointed_crane.core.evaluate.pose_at_frame import pose_at
from jointed_crane.core.geometry.coordinates import Bounds
from jointed_crane.core.geometry.nine_points import nine_points
from jointed_crane.core.model.markers import KeptPose
from jointed_crane.core.model.scene import NO_GROUND, Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.viewing.projection import on_stage
from jointed_crane.formats.svg.stored_art import ArtSource
from jointed_crane.formats.svg_out.still import still_svg

#: Room round the parts, as a share of what they take.
_ROOM = 0.06


def pose_svg(scene: Scene, pose: KeptPose, art: ArtSource) -> bytes:
    """The parts of a pose as it holds them; what else there is lies at rest and is not painted."""
    parts = tuple(_posed(part, pose) for part in scene.parts)
    posed = replace(scene, parts=parts, ground=NO_GROUND, isolated=())
    painted = [part.id for part in parts if part.name in pose.values and part.is_sent and part.bounds is not None]
    return still_svg(posed, art, 0.0, view=_view(posed, painted), only=frozenset(painted))


def _posed(part: Part, pose: KeptPose) -> Part:
    values = pose.values.get(part.name, {})
    channels = {name: Channel((Key(0.0, value),)) for name, value in values.items()}
    return replace(part, channels=channels, footholds=())


def _view(scene: Scene, part_ids: list[str]) -> Bounds | None:
    """The box round parts, px on the stage; None without any."""
    if not part_ids:
        return None
    pose = pose_at(scene, 0.0)
    points = []
    for part_id in part_ids:
        bounds = scene.part(part_id).bounds
        assert bounds is not None
        points.append(on_stage(pose.world_of(part_id), nine_points(bounds)))
    low, high = np.concatenate(points).min(axis=0), np.concatenate(points).max(axis=0)
    room = _ROOM * float((high - low).max()) + 1.0
    return (float(low[0] - room), float(low[1] - room), float(high[0] + room), float(high[1] + room))
