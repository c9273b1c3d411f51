"""Edits of poses that the scene keeps by name: kept, renamed, put on parts, thrown away."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jointed_crane.core.edits.placing.pasting import PastePose
from jointed_crane.core.edits.shared.edit import Edit, chosen
from jointed_crane.core.edits.shared.named_things import all_but, exchanged_for, the_one
from jointed_crane.core.edits.shared.values_on_screen import value_on_screen
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.model.channels import CHANNELS
from jointed_crane.core.model.markers import KeptPose, PoseValues
from jointed_crane.core.model.scene import Part, Scene

_POSED = tuple(name for name, kind in CHANNELS.items() if kind.is_posed)
_DEEP = tuple(name for name, kind in CHANNELS.items() if kind.is_posed_deep)


def pose_values(part: Part, frame: float, is_deep: bool) -> dict[str, float]:
    """What a pose of a scene, with depth or without, holds of a part: its motion values at a frame by channel."""
    return {name: value_on_screen(part, name, frame) for name in (_POSED + _DEEP if is_deep else _POSED)}


@dataclass(frozen=True)
class KeepPose(Edit, kind="keep_pose"):
    """Keep how parts lie at a frame of the motion under a name, which is made unique; no parts means all that are
    not locked.
    """

    id: str
    frame: float
    parts: tuple[str, ...] = ()
    name: str = "Pose"

    def label(self, scene: Scene) -> str:
        return f"Keep the pose {self.name}"

    def apply(self, scene: Scene) -> Scene:
        name = free_name(self.name, (pose.name for pose in scene.poses))
        values: PoseValues = {
            part.name: pose_values(part, self.frame, scene.depth) for part in chosen(scene, self.parts)
        }
        return replace(scene, poses=(*scene.poses, KeptPose(self.id, name, values)))


@dataclass(frozen=True)
class RenamePose(Edit, kind="rename_pose"):
    """Give a kept pose another name."""

    pose: str
    name: str

    def label(self, scene: Scene) -> str:
        return f"Rename the pose {pose_of(scene, self.pose).name}"

    def apply(self, scene: Scene) -> Scene:
        known = pose_of(scene, self.pose)
        changed = replace(known, name=self.name.strip())
        return replace(scene, poses=exchanged_for(scene.poses, known, changed))


@dataclass(frozen=True)
class DeletePose(Edit, kind="delete_pose"):
    """Throw a kept pose away."""

    pose: str

    def label(self, scene: Scene) -> str:
        return f"Delete the pose {pose_of(scene, self.pose).name}"

    def apply(self, scene: Scene) -> Scene:
        return replace(scene, poses=all_but(scene.poses, pose_of(scene, self.pose)))


@dataclass(frozen=True)
class PutPose(Edit, kind="put_pose"):
    """Put a kept pose on parts at a frame: whole, by a share of the way from how they lie, or mirrored.

    No parts means all that the pose names; a share beyond 0 to 1 goes on along the same way.
    """

    KEYS_VALUES = True

    pose: str
    frame: float
    parts: tuple[str, ...] = ()
    share: float = 1.0
    mirrored: bool = False

    def label(self, scene: Scene) -> str:
        how = " mirrored" if self.mirrored else ""
        return f"Put the pose {pose_of(scene, self.pose).name}{how}"

    def apply(self, scene: Scene) -> Scene:
        known = pose_of(scene, self.pose)
        return PastePose(known.values, self.parts, self.mirrored, self.frame, self.share).apply(scene)


def pose_of(scene: Scene, pose_id: str) -> KeptPose:
    """The kept pose of this id; RuleError where there is none."""
    return the_one(scene.poses, pose_id, "pose")
