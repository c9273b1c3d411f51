"""The edit that moves a camera so that its picture is filled by what is picked."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.placing.poses import moved, when
from jointed_crane.core.edits.scene.cameras import camera_of
from jointed_crane.core.edits.shared.edit import named, unlocked
from jointed_crane.core.edits.shared.setting_values import ValueEdit
from jointed_crane.core.edits.shared.values_on_screen import NewValue, value_on_screen
from jointed_crane.core.evaluate.pose_at_frame import pose_at
from jointed_crane.core.geometry.nine_points import box_corners
from jointed_crane.core.model.channels import SCALE
from jointed_crane.core.model.scene import Scene
from jointed_crane.core.viewing.cameras import camera_view
from jointed_crane.core.viewing.projection import in_space
from jointed_crane.core.viewing.view import View

Floats = npt.NDArray[np.float64]
#: What stays free round what is framed, as a share of the picture on each side.
_MARGIN = 0.08
#: The smallest size that something is framed for, px: a single point fills no picture.
_LEAST = 1.0


@dataclass(frozen=True)
class FrameParts(ValueEdit, kind="frame_parts"):
    """Move a camera, without turning it, until parts fill its picture but for a margin: aside, and nearer or farther; a
    parallel one by its scale.
    """

    camera: str
    parts: tuple[str, ...]
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Frame {named(map(scene.part, self.parts))} with {scene.part(self.camera).name} {when(self.frame)}"

    def new_values(self, scene: Scene) -> Iterator[NewValue]:
        (camera,) = unlocked(scene, [self.camera])
        camera_of(camera)
        if self.camera in self.parts or not self.parts:
            raise RuleError("A camera frames other parts than itself. Nothing was changed; pick those.")
        view = camera_view(scene, camera, pose_at(scene, self.frame), is_at_rest=self.frame is None)
        room = (np.array([scene.width, scene.height]) / 2 * (1 - 2 * _MARGIN), view.near)
        places = (self._corners(scene) - np.array(view.place)) @ view.axes
        step, larger = _parallel(places, view, room[0]) if view.focal is None else (_nearer(places, view, *room), 1.0)
        yield from moved(scene, camera, view.axes @ step, self.frame)
        if larger != 1.0:
            for channel in SCALE.names:
                yield camera, channel, value_on_screen(camera, channel, self.frame) * larger

    def _corners(self, scene: Scene) -> Floats:
        """The corners of what parts show, or where they turn about, in space, px, shape (corners, 3)."""
        pose, result = pose_at(scene, self.frame), []
        for part_id in self.parts:
            bounds = scene.part(part_id).bounds
            if bounds is None:
                result.append(pose.pivot_of(part_id)[None])
            else:
                result.append(in_space(pose.world_of(part_id), box_corners(bounds)))
        return np.concatenate(result)


def _nearer(places: Floats, view: View, half: Floats, near: float) -> Floats:
    """The step of a camera that sees places, (across, down, towards it), just within half a picture either way.

    Seen at x / depth, a place lies within where |x - aside| <= a (depth - s) for a step s ahead: x - a depth at most is
    U, -x - a depth at most V, so that s may be -(U + V) / 2 a, and (U - V) / 2 is the middle of what is left aside.
    """
    assert view.focal is not None
    depth = -places[:, 2]
    ahead, aside = [float(depth.min() - near * 1.01)], []
    for axis in range(2):
        slope = half[axis] / view.focal
        over, under = (float((sign * places[:, axis] - slope * depth).max()) for sign in (1.0, -1.0))
        ahead += [-(over + under) / (2 * slope), float(depth.min()) - _LEAST / slope]
        aside.append((over - under) / 2)
    return np.array([*aside, -min(ahead)])


def _parallel(places: Floats, view: View, half: Floats) -> tuple[Floats, float]:
    """The step of a parallel camera aside, and how much larger it has to be, to see places just within its picture."""
    low, high = places[:, :2].min(axis=0), places[:, :2].max(axis=0)
    size = float((np.maximum(high - low, _LEAST) / 2 * view.scale / half).max())
    return np.array([*((low + high) / 2), 0.0]), size
