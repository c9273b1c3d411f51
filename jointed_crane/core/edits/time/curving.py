"""Edits of how keys are passed: ready shapes, shapes taken over, handles laid, sways and cycles turned into keys."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_BOUNCES
from jointed_crane.core.basics.wording import counted
from jointed_crane.core.edits.shared.edit import Edit, chosen
from jointed_crane.core.edits.time.keys import KeyAt, with_keys_changed
from jointed_crane.core.model.channels import channel_kind, countable
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel
from jointed_crane.core.motion.curves import PackedCurves, values
from jointed_crane.core.motion.cycles import corners
from jointed_crane.core.motion.editing import with_handles_laid
from jointed_crane.core.motion.fitting import ensure_followable, fitted, stepped
from jointed_crane.core.motion.ready_shapes import ReadyShape, shaped, shaped_like
from jointed_crane.core.motion.segments import Floats


@dataclass(frozen=True)
class ShapeSegments(Edit, kind="shape_segments"):
    """Give the segments that leave keys a ready shape; `bounces` counts how often a bounce comes up again."""

    keys: tuple[KeyAt, ...]
    shape: ReadyShape
    bounces: int = 3

    def label(self, scene: Scene) -> str:
        return f"{self.shape.capitalize()} on {counted(len(self.keys), 'key')}"

    def apply(self, scene: Scene) -> Scene:
        if not 1 <= self.bounces <= MOST_BOUNCES:
            raise RuleError(f"A bounce comes up 1 to {MOST_BOUNCES} times, not {self.bounces}. Nothing was changed.")
        return with_keys_changed(
            scene, self.keys, lambda channel, frames: shaped(channel, frames, self.shape, self.bounces)
        )


@dataclass(frozen=True)
class ShapeLike(Edit, kind="shape_like"):
    """Give the segments that leave keys the shape of the segment that leaves another key."""

    keys: tuple[KeyAt, ...]
    like: KeyAt

    def label(self, scene: Scene) -> str:
        return f"ReadyShape {counted(len(self.keys), 'key')} alike"

    def apply(self, scene: Scene) -> Scene:
        part = scene.part(self.like.part)
        other = part.channels.get(self.like.channel, Channel())
        if self.like.frame not in other.frames[:-1]:
            raise RuleError(
                f"No segment leaves a key of {part.name}, {channel_kind(self.like.channel).label}, at frame "
                f"{self.like.frame:g}. Nothing was changed; take the shape of a key that another one follows."
            )
        return with_keys_changed(
            scene, self.keys, lambda channel, frames: shaped_like(channel, frames, other, self.like.frame)
        )


@dataclass(frozen=True)
class LayHandles(Edit, kind="lay_handles"):
    """Lay the handles of keys: "flat" on both sides, "joined" into one line through the key, "smooth" as if nobody had
    shaped them, which overshoots nothing.
    """

    keys: tuple[KeyAt, ...]
    way: Literal["flat", "joined", "smooth"]

    def label(self, scene: Scene) -> str:
        return f"Make the handles of {counted(len(self.keys), 'key')} {self.way}"

    def apply(self, scene: Scene) -> Scene:
        return with_keys_changed(scene, self.keys, lambda channel, frames: with_handles_laid(channel, frames, self.way))


@dataclass(frozen=True)
class Bake(Edit, kind="bake"):
    """Turn sways and cycles of parts into keys from a first to a last frame, with as few as stay within a tolerance in
    the channel's own unit; outside them the channels hold. No part and no channel named means all of them.
    """

    first: float
    last: float
    tolerance: float = 0.05
    parts: tuple[str, ...] = ()
    channels: tuple[str, ...] = ()

    def label(self, scene: Scene) -> str:
        return f"Turn sways and cycles into keys from {self.first:g} to {self.last:g}"

    def apply(self, scene: Scene) -> Scene:
        if not self.first < self.last or self.tolerance <= 0:
            raise RuleError(
                "Curves are turned into keys from an earlier frame to a later one, within a tolerance above 0. "
                "Nothing was changed."
            )
        parts = chosen(scene, self.parts)
        ensure_followable((self.last - self.first) * sum(len(self._names(part)) for part in parts))
        return scene.with_parts(self._baked(part) for part in parts)

    def _names(self, part: Part) -> list[str]:
        """The channels of a part that become keys."""
        return [
            name
            for name, channel in part.channels.items()
            if (not self.channels or name in self.channels) and not channel.is_plain
        ]

    def _baked(self, part: Part) -> Part:
        for name in self._names(part):
            part = part.with_channel(name, self._as_keys(name, countable(name, part.channels[name])))
        return part

    def _as_keys(self, name: str, channel: Channel) -> Channel:
        curves = PackedCurves((channel,))
        meets = corners(channel, self.first, self.last)

        def course(frames: Floats) -> Floats:
            return np.asarray(values(curves, frames)[0], dtype=np.float64)

        if channel_kind(name).stepped:
            return Channel(stepped(course, self.first, meets))
        return Channel(fitted(course, self.first, self.last, self.tolerance, meets))
