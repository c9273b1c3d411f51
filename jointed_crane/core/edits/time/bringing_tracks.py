"""The edit that brings in a track: a point that was followed frame by frame elsewhere."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_TRACK_FRAMES
from jointed_crane.core.basics.wording import counted
from jointed_crane.core.edits.shared.edit import Edit
from jointed_crane.core.hierarchy.tree import free_name
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel, Key


@dataclass(frozen=True)
class BringTrack(Edit, kind="bring_track"):
    """Make a helper that goes where a track says, frame and px on the stage, by straight keys on its moves.

    It rests where the track begins. A frame that is named twice counts as it is named last.
    """

    id: str
    name: str
    points: tuple[tuple[float, float, float], ...]

    def label(self, scene: Scene) -> str:
        return f"Bring in the track {self.name} ({counted(len(self.points), 'frame')})"

    def apply(self, scene: Scene) -> Scene:
        if not 1 <= len(self.points) <= MOST_TRACK_FRAMES:
            raise RuleError(f"A track has 1 to {MOST_TRACK_FRAMES} frames. Nothing was brought in.")
        if self.id in scene.index:
            raise RuleError("The track would take the id of a part that is there. Nothing was brought in.")
        by_frame = {frame: (x, y) for frame, x, y in self.points}
        frames = sorted(by_frame)
        start = by_frame[frames[0]]
        name = free_name(self.name, (part.name for part in scene.parts))
        helper = Part(self.id, name, "helper", rest={"move.x": start[0], "move.y": start[1]}, form="cross")
        for axis, channel in enumerate(("move.x", "move.y")):
            keys = tuple(Key(frame, by_frame[frame][axis] - start[axis], "straight") for frame in frames)
            helper = helper.with_channel(channel, Channel(keys))
        return replace(scene, parts=(*scene.parts, helper))
