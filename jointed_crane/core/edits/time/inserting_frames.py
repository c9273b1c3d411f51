"""Frames put in and taken out: what lies later moves along, in all parts or in some."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.wording import counted
from jointed_crane.core.constraints.constraint import Constraint
from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.model.cameras import retimed_cuts
from jointed_crane.core.model.markers import Marker
from jointed_crane.core.model.scene import Foothold, Part, Scene
from jointed_crane.core.motion.channel import Channel
from jointed_crane.core.motion.editing import moved, without


@dataclass(frozen=True)
class FramesPutIn:
    """So many frames put in before a frame, or with a count below 0 taken out from it on: what that does to a part."""

    frame: float
    count: float

    @property
    def _goes_on(self) -> float:
        """The first frame that moves along."""
        return self.frame - min(self.count, 0)

    def later(self, frame: float) -> float:
        if frame < self.frame:
            return frame
        return frame + self.count if frame >= self._goes_on else self.frame

    def is_out(self, frame: float) -> bool:
        return self.frame <= frame < self._goes_on

    def on_part(self, part: Part) -> Part:
        part = part.with_channels({name: self._channel(channel) for name, channel in part.channels.items()})
        if part.constraints:
            part = replace(part, constraints=tuple(_retimed(one, self.later) for one in part.constraints))
        if not part.footholds:
            return part
        holds = {self.later(hold.frame): hold.point for hold in part.footholds}
        return part.with_footholds(Foothold(frame, point) for frame, point in holds.items())

    def _channel(self, channel: Channel) -> Channel:
        gone = set(filter(self.is_out, channel.frames))
        left = without(channel, gone) if gone else channel
        left = moved(left, {frame for frame in left.frames if frame >= self._goes_on}, self.count)
        return left if left.sway is None else replace(left, sway=left.sway.retimed(self.later))


@dataclass(frozen=True)
class InsertFrames(Edit, kind="insert_frames"):
    """Put frames in before a frame, or with a count below 0 take as many out from it on. Keys, footholds, sways and
    what changes hands later move along; keys on frames that are taken out go, of footholds and changes there the last
    holds.

    `parts` are those that this is done to; none is all of them, and then markers and the length of the scene go along.
    """

    frame: float
    count: int
    parts: tuple[str, ...] = ()

    def label(self, scene: Scene) -> str:
        whose = f" of {named(scene.part(part_id) for part_id in self.parts)}" if self.parts else ""
        what = counted(abs(self.count), "frame")
        return f"Put {what}{whose} in" if self.count > 0 else f"Take {what}{whose} out"

    def apply(self, scene: Scene) -> Scene:
        if not self.count:
            raise RuleError("No frame is put in and none taken out. Nothing was changed; say how many.")
        length = scene.length + self.count
        if not self.parts and length < 1:
            raise RuleError(f"The scene has {scene.length} frames; no more can be taken out. Nothing was changed.")
        put_in = FramesPutIn(self.frame, float(self.count))
        parts = unlocked(scene, self.parts) if self.parts else scene.parts
        after = scene.with_parts([put_in.on_part(part) for part in parts])
        if self.parts:
            return after
        cuts = retimed_cuts(scene.cuts, put_in.later)
        return replace(after, length=length, markers=tuple(_markers(scene, put_in)), cuts=cuts)


def _markers(scene: Scene, put_in: FramesPutIn) -> list[Marker]:
    result = []
    for marker in scene.markers:
        if marker.until is None and put_in.is_out(marker.frame):
            continue
        until = None if marker.until is None else put_in.later(marker.until)
        if until is None or until > put_in.later(marker.frame):
            result.append(replace(marker, frame=put_in.later(marker.frame), until=until))
    return result


def _retimed(one: Constraint, later: Callable[[float], float]) -> Constraint:
    """A constraint with its changes on other frames; of several that come to one frame the last holds."""
    changes = {change.frame: change for change in one.retimed(later).every_change()}
    return one.changing_by(changes.values())
