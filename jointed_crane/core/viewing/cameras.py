"""What the stage is seen by: its own view, or the camera that is on."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from jointed_crane.core.evaluate.pose import Pose
from jointed_crane.core.geometry.decomposition import polar, quaternion
from jointed_crane.core.model.cameras import LENS
from jointed_crane.core.model.channels import channel_kind, countable
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.curves import value_at
from jointed_crane.core.viewing.projection import linear_of
from jointed_crane.core.viewing.view import STAGE, View, focal_of_lens

Floats = npt.NDArray[np.float64]


def camera_on(scene: Scene, frame: float | None) -> Part | None:
    """The camera that is on at a frame, or at rest; None for the stage's own view. A scene without depth has no
    other.
    """
    if not scene.depth or not scene.cuts:
        return None
    begun = [cut for cut in scene.cuts if frame is not None and cut.frame <= frame]
    cut = begun[-1] if begun else scene.cuts[0]
    return None if cut.camera is None else scene.part(cut.camera)


def is_seen_in_depth(scene: Scene) -> bool:
    """Whether what is sent of a scene may differ from what it is without depth: a camera is on, or a part leaves the
    plane of the stage.
    """
    return scene.depth and (any(cut.camera for cut in scene.cuts) or any(part.is_deep for part in scene.parts))


def stage_views(scene: Scene, pose: Pose) -> list[View]:
    """What the stage is seen by at each frame of a pose."""
    if not scene.depth or not scene.cuts:
        return [STAGE] * len(pose.frames)
    return [stage_view(scene, pose, column) for column in range(len(pose.frames))]


def stage_view(scene: Scene, pose: Pose, column: int = 0, is_at_rest: bool = False) -> View:
    """What the stage is seen by at one frame of a pose."""
    camera = camera_on(scene, None if is_at_rest else float(pose.frames[column]))
    return STAGE if camera is None else camera_view(scene, camera, pose, column, is_at_rest)


def camera_view(scene: Scene, part: Part, pose: Pose, column: int = 0, is_at_rest: bool = False) -> View:
    """What a camera sees. Where what it hangs on is stretched or mirrored it stands as the rotation in it says."""
    assert part.camera is not None
    linear = linear_of(pose.world_of(part.id, column))
    x, y, z = pose.pivot_of(part.id, column).tolist()
    turn = quaternion(polar(linear)[0])
    centre = (scene.width / 2, scene.height / 2)
    if part.camera.parallel:
        size = float(np.linalg.norm(linear[:, 0]))
        return View((x, y, z), turn, None, 1.0 / max(size, 1e-5), centre)
    frame = None if is_at_rest else float(pose.frames[column])
    lens = lens_at(part, frame)
    more = pose.driven.get((part.id, LENS))
    low, high = channel_kind(LENS).ends or (1.0, 1.0)
    lens = float(np.clip(lens + (0.0 if more is None else more[column]), low, high))
    return View((x, y, z), turn, focal_of_lens(lens, scene.width), 1.0, centre, part.camera.near)


def lens_at(part: Part, frame: float | None) -> float:
    """The lens of a camera at a frame, or at rest, mm, without what links add."""
    channel = part.channels.get(LENS)
    if channel is None or frame is None:
        return part.rest_value(LENS)
    return value_at(countable(LENS, channel, part.rest_value(LENS)), frame)
