"""Edits of how a part stands on its ground: footholds on the keys of its turn, and the level that it is measured by."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_STANDING_KEYS
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.edits.shared.named_things import the_one
from jointed_crane.core.edits.shared.values_on_screen import motion_value
from jointed_crane.core.evaluate.pose_at_frame import narrowed, pose_at
from jointed_crane.core.geometry.tumbling import hull_of
from jointed_crane.core.model.scene import Foothold, Part, Scene
from jointed_crane.core.viewing.projection import on_stage

Floats = npt.NDArray[np.float64]
#: Corners that lie this share of the picture's size above the lowest one lie beside it on the ground.
_BESIDE = 1e-3


@dataclass(frozen=True)
class SetLevel(Edit, kind="set_level"):
    """Say what the level of a part is: that of a mark, or None for the line that it first stood on."""

    part: str
    mark: str | None

    def label(self, scene: Scene) -> str:
        return f"Level of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        if self.mark is not None:
            the_one(scene.marks, self.mark, "mark on the stage")
        return scene.with_parts([replace(part, level=self.mark)])


@dataclass(frozen=True)
class StandOnKeys(Edit, kind="stand_on_keys"):
    """Have a part stand, at each key of its turn from its first foothold on, on the corner of its outline that is
    lowest there and foremost on the way that it turns: what it rolls over when its turns were changed.
    """

    part: str

    def label(self, scene: Scene) -> str:
        return f"Footholds of {scene.part(self.part).name} on its turns"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        turns = part.channels.get("turn.z")
        if turns is None or not part.footholds:
            raise RuleError(f"{part.name} has no foothold, or no keys on its turn. Nothing was changed.")
        begin = part.footholds[0]
        frames = [frame for frame in turns.frames if frame >= begin.frame]
        if not 2 <= len(frames) <= MOST_STANDING_KEYS:
            raise RuleError(
                f"{part.name} has {len(frames)} keys on its turn from its first foothold on, and 2 to "
                f"{MOST_STANDING_KEYS} can be stood on. Nothing was changed."
            )
        result = [begin] if begin.frame < frames[0] else []
        alone = narrowed(scene, [part.id])
        for frame, later in pairwise(frames):
            by = motion_value(part, "turn.z", later) - motion_value(part, "turn.z", frame)
            standing = part.with_footholds(result or [begin])
            corner = _corner(alone.with_parts([standing]), standing, frame, by)
            if by and (not result or corner != result[-1].point):
                result.append(Foothold(frame, corner))
        return scene.with_parts([part.with_footholds(result)])


def _corner(scene: Scene, part: Part, frame: float, by: float) -> tuple[float, float, float]:
    """The lowest corner at a frame, px in art space, and of some that lie level the foremost one when it turns by so
    much.
    """
    pose = pose_at(scene, frame)
    row = pose.index[part.id]
    drawing = part.drawings[int(pose.drawing[row, 0])] if part.drawings else None
    if drawing is None or not drawing.outline:
        raise RuleError(f"{part.name} has no outline with corners to stand on. Nothing was changed.")
    hull = hull_of([np.array(ring) for ring in drawing.outline])
    x, y = on_stage(pose.world[row], hull)[0].T
    low = np.flatnonzero(y >= y.max() - _BESIDE * max(np.ptp(x), np.ptp(y)))
    above = np.eye(4) if part.parent is None else pose.world_of(part.parent)
    forward = np.sign(by) * np.sign(np.linalg.det(above[:2, :2]))
    corner = hull[low[int(np.argmax(forward * x[low]))]]
    return (float(corner[0]), float(corner[1]), 0.0)
