"""Edits that repeat keys: what was copied put in elsewhere, and a pose that stands still until a frame."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Any

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.wording import counted
from jointed_crane.core.edits.shared.edit import Edit, chosen, named, unlocked
from jointed_crane.core.edits.shared.mirroring import reflection_between
from jointed_crane.core.edits.time.going_along import with_steps_repeated
from jointed_crane.core.edits.time.inserting_frames import FramesPutIn
from jointed_crane.core.hierarchy.sides import other_side
from jointed_crane.core.model.channels import channel_kind
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.motion.editing import held_until, pasted


@dataclass(frozen=True)
class CopiedKeys:
    """Keys of one channel as they were copied, with the name of the part that had them."""

    part: str
    channel: str
    keys: tuple[Key, ...]


@dataclass(frozen=True)
class PasteKeys(Edit, kind="paste_keys"):
    """Put copied keys in so that the first of them all stands at a frame; keys that stand there already give way.

    Each part takes the keys that were copied from a part of its name; `parts` empty means all parts that are named.
    Keys of one part alone fit any part. What takes hold of a part from the frames of its own keys on is repeated with
    them. With `is_hold` what is pasted moves in steps. With `mirrored` each part takes the keys of its other side as
    their reflection. Fixed channels take nothing.
    """

    copied: tuple[CopiedKeys, ...]
    at: float
    parts: tuple[str, ...] = ()
    is_hold: bool = False
    mirrored: bool = False

    def label(self, scene: Scene) -> str:
        return f"Paste {counted(sum(len(one.keys) for one in self.copied), 'key')} at frame {self.at:g}"

    def apply(self, scene: Scene) -> Scene:
        frames = [key.frame for one in self.copied for key in one.keys]
        if not frames:
            raise RuleError("No keys were copied. Nothing was changed; pick keys and copy them first.")
        changed = []
        for part in chosen(scene, self.parts):
            after = self._with_keys(scene, part, min(frames))
            if after is not part:
                changed.append(after)
        if not changed:
            raise RuleError("None of these parts can take the copied keys: no name is the same. Nothing was changed.")
        return scene.with_parts(changed)

    def _with_keys(self, scene: Scene, part: Part, first: float) -> Part:
        copied = self._for(part)
        for one in _reflected(scene, copied, part) if self.mirrored else copied:
            kind = channel_kind(one.channel)
            if not one.keys or one.channel in part.fixed:
                continue
            keys = [replace(key, kind="hold") if self.is_hold or kind.stepped else key for key in one.keys]
            at = self.at + min(key.frame for key in keys) - first
            part = part.with_channel(one.channel, pasted(part.channels.get(one.channel, Channel()), keys, at))
        original = scene.part(part.id)
        own = {one.channel: {key.frame for key in one.keys} for one in copied if one.part == part.name}
        return part if self.mirrored or not own else with_steps_repeated(part, original, own, self.at - first)

    def _for(self, part: Part) -> list[CopiedKeys]:
        names = {one.part for one in self.copied}
        fits_any = len(names) == 1 and bool(self.parts)
        wanted = other_side(part.name) if self.mirrored else part.name
        return [one for one in self.copied if fits_any or one.part == wanted]


def _reflected(scene: Scene, copied: list[CopiedKeys], part: Part) -> Iterator[CopiedKeys]:
    """Copied keys as a part takes them for their reflection. Moves that the mirror mixes go along together."""
    result = {one.channel: one for one in copied}
    original = next((other for other in scene.parts if result and other.name == copied[0].part), None)
    reflection = reflection_between(scene, original, part)
    steps = [result.pop(name) for name in ("move.x", "move.y", "move.z") if name in result]
    for name, one in result.items():
        factor = reflection.reflected({name: 1.0}, is_rest=False)[name] if channel_kind(name).joins == "add" else 1.0
        yield replace(one, keys=tuple(_scaled(key, factor) for key in one.keys))
    mixes = reflection.moves[:2, :2]
    if abs(mixes[0, 1]) < 1e-12 and abs(mixes[1, 0]) < 1e-12:
        for one in steps:
            axis = "xyz".index(one.channel[-1])
            yield replace(one, keys=tuple(_scaled(key, float(reflection.moves[axis, axis])) for key in one.keys))
        return
    if len({tuple(map(_timing, one.keys)) for one in steps}) > 1 or len(steps) == 1:
        raise RuleError(
            f"The mirror turns the moves of {part.name}, so keys of move x and move y are pasted together, on the same "
            "frames and eased alike. Nothing was changed; set the missing keys, then copy both."
        )
    axes = ["xyz".index(one.channel[-1]) for one in steps]
    for axis, one in zip(axes, steps, strict=True):
        weights = [float(reflection.moves[axis, other]) for other in axes]
        rows = zip(*(other.keys for other in steps), strict=True)
        yield replace(one, keys=tuple(replace(keys[0], **_summed(keys, weights)) for keys in rows))


def _timing(key: Key) -> tuple[object, ...]:
    """When a key stands and how it is passed in time, whatever its value."""
    handles = (key.handle_in, key.handle_out)
    return (key.frame, key.kind, *(None if handle is None else handle[0] for handle in handles))


def _scaled(key: Key, factor: float) -> Key:
    return key if factor == 1.0 else replace(key, **_summed([key], [factor]))


def _summed(keys: Sequence[Key], weights: Sequence[float]) -> dict[str, Any]:
    """Value and handles of keys on one frame, each counted so much; handles keep the times of the first key's."""
    fields: dict[str, Any] = {"value": sum(weight * key.value for key, weight in zip(keys, weights, strict=True))}
    for side in ("handle_in", "handle_out"):
        handles = [getattr(key, side) for key in keys]
        if handles[0] is not None:
            rise = sum(weight * (handle or (0.0, 0.0))[1] for handle, weight in zip(handles, weights, strict=True))
            fields[side] = (handles[0][0], rise)
    return fields


@dataclass(frozen=True)
class HoldUntil(Edit, kind="hold_until"):
    """Let parts stand still until a frame: on each channel the value of the last key before it is repeated there, and
    from there the motion goes on to the keys that follow. `channels` empty means all that have keys.

    With `pushes` all that comes after the last key of a part comes later by as much as it stands still, so that what
    follows keeps its pace.
    """

    parts: tuple[str, ...]
    frame: float
    channels: tuple[str, ...] = ()
    pushes: bool = False

    def label(self, scene: Scene) -> str:
        return f"Hold {named(scene.part(part_id) for part_id in self.parts)} until frame {self.frame:g}"

    def apply(self, scene: Scene) -> Scene:
        changed = []
        for part in unlocked(scene, self.parts):
            after = known = self._pushed(part) if self.pushes else part
            for name in self.channels or tuple(part.channels):
                channel = known.channels.get(channel_kind(name).name)
                if channel is not None and channel.place_of(self.frame):
                    after = after.with_channel(name, held_until(channel, self.frame))
            if after is not part:
                changed.append(after)
        if not changed:
            raise RuleError(f"No key stands before frame {self.frame:g} whose pose could be held. Nothing was changed.")
        return scene.with_parts(changed)

    def _pushed(self, part: Part) -> Part:
        """The part with all that comes after its last key before the frame later by as much as lies between them."""
        before = [key for channel in part.channels.values() for key in channel.frames if key < self.frame]
        if not before:
            return part
        last = max(before)
        return FramesPutIn(math.nextafter(last, math.inf), self.frame - last).on_part(part)
