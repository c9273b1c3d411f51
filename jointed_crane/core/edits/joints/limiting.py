"""Edits that say how a part may move: the range of a channel, and the channels that are fixed."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.edit import Edit, named, unlocked
from jointed_crane.core.edits.shared.values_on_screen import within_limits
from jointed_crane.core.model.channels import channel_kind
from jointed_crane.core.model.scene import Scene


@dataclass(frozen=True)
class SetLimits(Edit, kind="set_limits"):
    """Set the range of a channel's motion values on parts; None is open on that side, two None take it away.

    The range is kept while dragging and typing in Motion; keys that stand outside already are left alone.
    """

    parts: tuple[str, ...]
    channel: str
    low: float | None = None
    high: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Range of {named(scene.part(part_id) for part_id in self.parts)}"

    def apply(self, scene: Scene) -> Scene:
        kind = channel_kind(self.channel)
        if kind.stepped:
            raise RuleError(f"{kind.label} takes whole steps and has no range. Nothing was changed.")
        if self.low is not None and self.high is not None and self.low > self.high:
            raise RuleError(
                f"The lowest value, {self.low:g}, is above the highest, {self.high:g}. Nothing was changed."
            )
        changed = []
        for part in unlocked(scene, self.parts):
            limits = {name: limit for name, limit in part.limits.items() if name != self.channel}
            if self.low is not None or self.high is not None:
                limits[self.channel] = (self.low, self.high)
            changed.append(replace(part, limits=limits))
        return scene.with_parts(changed)


@dataclass(frozen=True)
class FixChannels(Edit, kind="fix_channels"):
    """Fix channels of parts, or free them: no drag changes a fixed channel, and typing into it is refused."""

    parts: tuple[str, ...]
    channels: tuple[str, ...]
    fixed: bool = True

    def label(self, scene: Scene) -> str:
        what = ", ".join(channel_kind(name).label for name in self.channels)
        return f"{'Fix' if self.fixed else 'Free'} {what} of {named(scene.part(part_id) for part_id in self.parts)}"

    def apply(self, scene: Scene) -> Scene:
        names = {channel_kind(name).name for name in self.channels}
        return scene.with_parts(
            replace(part, fixed=tuple(sorted({*part.fixed, *names} if self.fixed else {*part.fixed} - names)))
            for part in unlocked(scene, self.parts)
        )


@dataclass(frozen=True)
class KeepWithinLimits(Edit, kind="keep_within_limits"):
    """Bring the keys of a channel that stand outside its range to the nearer end of it."""

    parts: tuple[str, ...]
    channel: str

    def label(self, scene: Scene) -> str:
        return f"Keep {named(scene.part(part_id) for part_id in self.parts)} within range"

    def apply(self, scene: Scene) -> Scene:
        changed = []
        for part in unlocked(scene, self.parts):
            channel = part.channels.get(self.channel)
            if channel is not None:
                keys = tuple(
                    replace(key, value=within_limits(part, self.channel, key.value, key.frame)) for key in channel.keys
                )
                part = part.with_channel(self.channel, replace(channel, keys=keys))
            changed.append(part)
        return scene.with_parts(changed)
