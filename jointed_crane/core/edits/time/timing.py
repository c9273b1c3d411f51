"""Edits of the scene's time: another frame rate or length, keeping either when things happen or on which frame."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Literal

from jointed_crane.core.edits.shared.edit import Edit
from jointed_crane.core.model.scene import Foothold, Part, Scene
from jointed_crane.core.motion.channel import Channel
from jointed_crane.core.motion.editing import rounded, stretched


@dataclass(frozen=True)
class SetRate(Edit, kind="set_rate"):
    """Give the scene another frame rate. Keeping "seconds", keys, footholds, sways, what changes hands and the length
    move to the frames that are at the same second then, to whole ones if wished; keeping "frames", they stay on theirs.
    """

    fps: tuple[int, int]
    keeps: Literal["seconds", "frames"] = "seconds"
    is_whole: bool = False

    def label(self, scene: Scene) -> str:
        return f"Play {float(Fraction(*self.fps)):g} frames a second"

    def apply(self, scene: Scene) -> Scene:
        after = replace(scene, fps=self.fps)
        if self.keeps == "frames" or self.fps[0] < 1 or self.fps[1] < 1:
            return after
        factor = float(after.rate / scene.rate)
        return _stretched(after, factor, max(round(scene.length * factor), 1), self.is_whole)


@dataclass(frozen=True)
class SetLength(Edit, kind="set_length"):
    """Give the scene another length in frames; with `stretches` everything in it is stretched alike."""

    length: int
    stretches: bool = False
    is_whole: bool = False

    def label(self, scene: Scene) -> str:
        return f"Make the scene {self.length} frames long"

    def apply(self, scene: Scene) -> Scene:
        if not self.stretches or self.length < 2 or scene.length < 2:
            return replace(scene, length=self.length)
        # The first and the last frame stay the first and the last.
        return _stretched(scene, (self.length - 1) / (scene.length - 1), self.length, self.is_whole)


def _stretched(scene: Scene, factor: float, length: int, is_whole: bool) -> Scene:
    def later(frame: float) -> float:
        return rounded(frame * factor, is_whole)

    markers = tuple(
        replace(marker, frame=later(marker.frame), until=None if marker.until is None else later(marker.until))
        for marker in scene.markers
    )
    parts = tuple(_part(part, factor, later, is_whole) for part in scene.parts)
    return replace(scene, length=length, parts=parts, markers=markers)


def _part(part: Part, factor: float, later: Callable[[float], float], is_whole: bool) -> Part:
    for name, channel in part.channels.items():
        part = part.with_channel(name, _channel(channel, factor, is_whole))
    if part.constraints:
        part = replace(part, constraints=tuple(one.retimed(later) for one in part.constraints))
    if not part.footholds:
        return part
    return part.with_footholds(Foothold(later(hold.frame), hold.point) for hold in part.footholds)


def _channel(channel: Channel, factor: float, is_whole: bool) -> Channel:
    if channel.sway is not None:
        channel = replace(channel, sway=channel.sway.stretched(factor))
    return stretched(channel, channel.frames, 0.0, factor, is_whole) if channel.keys else channel
