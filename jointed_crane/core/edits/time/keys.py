"""Edits of keys: set, delete, kind of segment, handles, what lies outside the keys, sway."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.wording import counted
from jointed_crane.core.edits.shared.edit import Edit, unlocked
from jointed_crane.core.edits.shared.values_on_screen import with_key_here
from jointed_crane.core.edits.time.going_along import Picked, frames_of_steps, is_step, with_steps_dropped
from jointed_crane.core.model.channels import channel_kind
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel, Handle, Key, Outside, SegmentKind, Sway
from jointed_crane.core.motion.editing import raised, without


@dataclass(frozen=True)
class KeyAt:
    """Names one key: the part, the channel and the frame it stands on. In the place of a channel "footholds" names the
    foothold that begins there, and "changes." with a constraint's id the change that it makes there.
    """

    part: str
    channel: str
    frame: float


def with_keys_changed(
    scene: Scene,
    keys: Iterable[KeyAt],
    change: Callable[[Channel, set[float]], Channel],
    with_steps: Callable[[Part, Picked], Part] = lambda part, _: part,
) -> Scene:
    """The scene with `change` applied to each channel that holds some of the keys, and `with_steps` to each part, for
    what takes hold of it from a frame on; RuleError where one is missing.
    """
    by_part: dict[str, Picked] = {}
    for key in keys:
        by_part.setdefault(key.part, {}).setdefault(key.channel, set()).add(key.frame)
    parts = []
    for part in unlocked(scene, by_part):
        picked = by_part[part.id]
        for name, frames in picked.items():
            known = frames_of_steps(part, name) if is_step(name) else part.channels.get(name, Channel()).frames
            missing = frames.difference(known)
            if missing:
                what = "nothing that takes hold of it" if is_step(name) else f"no key on {channel_kind(name).label}"
                raise RuleError(f"{part.name} has {what} at frame {min(missing):g}. Nothing was changed.")
        part = with_steps(part, picked)
        for name, frames in picked.items():
            if not is_step(name):
                part = part.with_channel(name, change(part.channels[name], frames))
        parts.append(part)
    return scene.with_parts(parts)


@dataclass(frozen=True)
class SetKeys(Edit, kind="set_keys"):
    """Set a key at a frame on channels of parts, each on its curve as it is: nothing moves at any frame."""

    parts: tuple[str, ...]
    channels: tuple[str, ...]
    frame: float

    def label(self, scene: Scene) -> str:
        return f"Set keys at frame {self.frame:g}"

    def apply(self, scene: Scene) -> Scene:
        changed = []
        for part in unlocked(scene, self.parts):
            for channel in self.channels:
                part = with_key_here(part, channel, self.frame)
            changed.append(part)
        return scene.with_parts(changed)


@dataclass(frozen=True)
class RaiseKeys(Edit, kind="raise_keys"):
    """Raise the values of keys by an amount in each one's own unit; below 0 lowers them. Handles travel along."""

    keys: tuple[KeyAt, ...]
    by: float

    def label(self, scene: Scene) -> str:
        return f"Raise {counted(len(self.keys), 'key')} by {self.by:g}"

    def apply(self, scene: Scene) -> Scene:
        return with_keys_changed(scene, self.keys, lambda channel, frames: raised(channel, self.by, frames))


@dataclass(frozen=True)
class DeleteKeys(Edit, kind="delete_keys"):
    """Take keys away; footholds and changes where they are named themselves."""

    keys: tuple[KeyAt, ...]

    def label(self, scene: Scene) -> str:
        return f"Delete {counted(len(self.keys), 'key')}"

    def apply(self, scene: Scene) -> Scene:
        return with_keys_changed(scene, self.keys, without, with_steps_dropped)


@dataclass(frozen=True)
class SetSegmentKind(Edit, kind="set_segment_kind"):
    """Make the segments that leave keys hold, straight or eased."""

    keys: tuple[KeyAt, ...]
    segment: SegmentKind

    def label(self, scene: Scene) -> str:
        return f"Make {counted(len(self.keys), 'key')} {self.segment}"

    def apply(self, scene: Scene) -> Scene:
        return with_keys_changed(
            scene,
            self.keys,
            lambda channel, frames: channel.with_keys(
                tuple(replace(key, kind=self.segment) if key.frame in frames else key for key in channel.keys)
            ),
        )


@dataclass(frozen=True)
class SetHandles(Edit, kind="set_handles"):
    """Shape the handles of keys, as (frames, value) offsets; None is a handle that nobody shaped."""

    keys: tuple[KeyAt, ...]
    handle_in: Handle | None = None
    handle_out: Handle | None = None

    def label(self, scene: Scene) -> str:
        return f"Shape the handles of {counted(len(self.keys), 'key')}"

    def apply(self, scene: Scene) -> Scene:
        if (self.handle_in and self.handle_in[0] > 0) or (self.handle_out and self.handle_out[0] < 0):
            raise RuleError("A handle points away from its key in time: in to the left, out to the right.")

        def shaped(key: Key) -> Key:
            return replace(key, handle_in=self.handle_in, handle_out=self.handle_out)

        return with_keys_changed(
            scene,
            self.keys,
            lambda channel, frames: channel.with_keys(
                tuple(shaped(key) if key.frame in frames else key for key in channel.keys)
            ),
        )


@dataclass(frozen=True)
class SetOutside(Edit, kind="set_outside"):
    """Say what a channel does before its first and after its last key; None keeps one."""

    part: str
    channel: str
    before: Outside | None = None
    after: Outside | None = None

    def label(self, scene: Scene) -> str:
        return f"Cycle {channel_kind(self.channel).label} of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        channel = part.channels.get(self.channel)
        if channel is None:
            raise RuleError(f"{part.name} has no keys on {channel_kind(self.channel).label}. Nothing was changed.")
        channel = replace(channel, before=self.before or channel.before, after=self.after or channel.after)
        return scene.with_parts([part.with_channel(self.channel, channel)])


@dataclass(frozen=True)
class SetSway(Edit, kind="set_sway"):
    """Add an oscillation to a channel, or take it away with None."""

    part: str
    channel: str
    sway: Sway | None

    def label(self, scene: Scene) -> str:
        return f"Sway {channel_kind(self.channel).label} of {scene.part(self.part).name}"

    def apply(self, scene: Scene) -> Scene:
        (part,) = unlocked(scene, [self.part])
        kind = channel_kind(self.channel)
        if kind.joins == "replace" and kind.stepped and self.sway is not None:
            raise RuleError(f"{kind.label} is a choice and not an amount, so it cannot sway. Nothing was changed.")
        channel = part.channels.get(self.channel, Channel())
        return scene.with_parts([part.with_channel(self.channel, replace(channel, sway=self.sway))])
