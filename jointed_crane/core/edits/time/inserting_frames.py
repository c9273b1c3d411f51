"""Frames put in and taken out: what lies later moves along, in all parts or in some."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.wording import counted
from jointed_crane.core.constraints.constraint import Constraint
from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.model.markers import Marker
from jointed_crane.core.model.scene import Foothold, Part, Scene
from jointed_crane.core.motion.channel import Channel, Sway
from jointed_crane.core.motion.editing import moved


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
        parts = unlocked(scene, self.parts) if self.parts else scene.parts
        after = scene.with_parts([self._part(part) for part in parts])
        if self.parts:
            return after
        return replace(after, length=length, markers=tuple(self._markers(scene)))

    @property
    def _goes_on(self) -> float:
        """The first frame that moves along."""
        return self.frame - min(self.count, 0)

    def _later(self, frame: float) -> float:
        if frame < self.frame:
            return frame
        return frame + self.count if frame >= self._goes_on else self.frame

    def _is_out(self, frame: float) -> bool:
        return self.frame <= frame < self._goes_on

    def _part(self, part: Part) -> Part:
        part = part.with_channels({name: self._channel(channel) for name, channel in part.channels.items()})
        if part.constraints:
            part = replace(part, constraints=tuple(_retimed(one, self._later) for one in part.constraints))
        if not part.footholds:
            return part
        holds = {self._later(hold.frame): hold.point for hold in part.footholds}
        return part.with_footholds(Foothold(frame, point) for frame, point in holds.items())

    def _channel(self, channel: Channel) -> Channel:
        left = channel.with_keys(tuple(key for key in channel.keys if not self._is_out(key.frame)))
        left = moved(left, {frame for frame in left.frames if frame >= self._goes_on}, float(self.count))
        return replace(left, sway=left.sway and self._sway(left.sway))

    def _sway(self, sway: Sway) -> Sway:
        begin, end = (None if frame is None else self._later(frame) for frame in (sway.begin, sway.end))
        return replace(sway, begin=begin, end=end)

    def _markers(self, scene: Scene) -> list[Marker]:
        found = []
        for marker in scene.markers:
            if marker.until is None and self._is_out(marker.frame):
                continue
            until = None if marker.until is None else self._later(marker.until)
            if until is None or until > self._later(marker.frame):
                found.append(replace(marker, frame=self._later(marker.frame), until=until))
        return found


def _retimed(one: Constraint, later: Callable[[float], float]) -> Constraint:
    """A constraint with its changes on other frames; of several that come to one frame the last holds."""
    changes = {change.frame: change for change in one.retimed(later).every_change()}
    return one.changing_by(changes.values())
