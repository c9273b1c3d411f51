"""Edits that repeat keys: what was copied put in elsewhere, and a pose that stands still until a frame."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from jointed_crane.core.channels import channel_kind
from jointed_crane.core.edits.edit import Edit, chosen, named, unlocked
from jointed_crane.core.errors import RuleError
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.motion.editing import held_until, pasted
from jointed_crane.core.scene import Part, Scene
from jointed_crane.core.wording import counted


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
    Keys of one part alone fit any part. With `is_hold` what is pasted moves in steps. Fixed channels take nothing.
    """

    copied: tuple[CopiedKeys, ...]
    at: float
    parts: tuple[str, ...] = ()
    is_hold: bool = False

    def label(self, scene: Scene) -> str:
        return f"Paste {counted(sum(len(one.keys) for one in self.copied), 'key')} at frame {self.at:g}"

    def apply(self, scene: Scene) -> Scene:
        frames = [key.frame for one in self.copied for key in one.keys]
        if not frames:
            raise RuleError("No keys were copied. Nothing was changed; pick keys and copy them first.")
        changed = []
        for part in chosen(scene, self.parts):
            after = self._with_keys(part, min(frames))
            if after is not part:
                changed.append(after)
        if not changed:
            raise RuleError("None of these parts can take the copied keys: no name is the same. Nothing was changed.")
        return scene.with_parts(changed)

    def _with_keys(self, part: Part, first: float) -> Part:
        for one in self._for(part):
            kind = channel_kind(one.channel)
            if not one.keys or one.channel in part.fixed:
                continue
            keys = [replace(key, kind="hold") if self.is_hold or kind.stepped else key for key in one.keys]
            at = self.at + min(key.frame for key in keys) - first
            part = part.with_channel(one.channel, pasted(part.channels.get(one.channel, Channel()), keys, at))
        return part

    def _for(self, part: Part) -> Iterator[CopiedKeys]:
        names = {one.part for one in self.copied}
        fits_any = len(names) == 1 and bool(self.parts)
        return (one for one in self.copied if fits_any or one.part == part.name)


@dataclass(frozen=True)
class HoldUntil(Edit, kind="hold_until"):
    """Let parts stand still until a frame: on each channel the value of the last key before it is repeated there, and
    from there the motion goes on as it did from that key. `channels` empty means all that have keys.
    """

    parts: tuple[str, ...]
    frame: float
    channels: tuple[str, ...] = ()

    def label(self, scene: Scene) -> str:
        return f"Hold {named(scene.part(part_id) for part_id in self.parts)} until frame {self.frame:g}"

    def apply(self, scene: Scene) -> Scene:
        changed = []
        for part in unlocked(scene, self.parts):
            after = part
            for name in self.channels or tuple(part.channels):
                channel = part.channels.get(channel_kind(name).name)
                if channel is not None and channel.place_of(self.frame):
                    after = after.with_channel(name, held_until(channel, self.frame))
            if after is not part:
                changed.append(after)
        if not changed:
            raise RuleError(f"No key stands before frame {self.frame:g} whose pose could be held. Nothing was changed.")
        return scene.with_parts(changed)
