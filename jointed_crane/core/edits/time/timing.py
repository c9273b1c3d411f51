"""Edits of the scene's time: another frame rate or length, keeping either when things happen or on which frame."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from fractions import Fraction
from typing import Literal

from jointed_crane.core.edits.shared.edit import Edit
from jointed_crane.core.edits.time.going_along import with_all_steps_retimed
from jointed_crane.core.model.cameras import retimed_cuts
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel
from jointed_crane.core.motion.editing import rounded


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
    """Give the scene another length in frames; with `stretches` everything in it is stretched alike, but what stands on
    the last frame stays on the last.
    """

    length: int
    stretches: bool = False
    is_whole: bool = False

    def label(self, scene: Scene) -> str:
        return f"Make the scene {self.length} frames long"

    def apply(self, scene: Scene) -> Scene:
        if not self.stretches or self.length < 2 or scene.length < 2:
            return replace(scene, length=self.length)
        return _stretched(scene, self.length / scene.length, self.length, self.is_whole, keeps_last=True)


def _stretched(scene: Scene, factor: float, length: int, is_whole: bool, keeps_last: bool = False) -> Scene:
    """The scene with all frames multiplied; what stands on the last one stands on the last one then, if wished."""
    last = scene.length - 1

    def later(frame: float) -> float:
        return float(length - 1) if keeps_last and frame == last else rounded(frame * factor, is_whole)

    markers = tuple(
        replace(marker, frame=later(marker.frame), until=None if marker.until is None else later(marker.until))
        for marker in scene.markers
    )
    parts = tuple(_part(part, factor, later) for part in scene.parts)
    return replace(scene, length=length, parts=parts, markers=markers, cuts=retimed_cuts(scene.cuts, later))


def _part(part: Part, factor: float, later: Callable[[float], float]) -> Part:
    made = {name: _channel(channel, factor, later) for name, channel in part.channels.items()}
    return with_all_steps_retimed(part.with_channels(made), later)


def _channel(channel: Channel, factor: float, later: Callable[[float], float]) -> Channel:
    if channel.sway is not None:
        channel = replace(channel, sway=channel.sway.stretched(factor))
    return channel.with_frames({frame: later(frame) for frame in channel.frames}, factor)
