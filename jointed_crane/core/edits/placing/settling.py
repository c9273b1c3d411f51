"""Edits that bring values home: settling the present pose as the new rest, and resetting to neutral."""

from __future__ import annotations

from dataclasses import dataclass, replace

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.edits.shared.edit import Edit, chosen, named
from jointed_crane.core.edits.shared.link_balance import Shift, with_links_kept
from jointed_crane.core.edits.shared.values_on_screen import motion_value, with_value, within_limits
from jointed_crane.core.model.channels import MOVE, SPIN, ChannelKind, channel_kind, countable, family_of
from jointed_crane.core.model.scene import Limit, Part, Scene
from jointed_crane.core.motion.channel import Channel, Handle, Key
from jointed_crane.core.shapes.picture import with_shapes_changed
from jointed_crane.core.shapes.reshaping import shape_channels


@dataclass(frozen=True)
class Settle(Edit, kind="settle"):
    """Make the pose at a frame the new rest: motion values read neutral there, and nothing moves at any frame.

    The present motion values move into the rest values and the keys and limits shift the other way (scales and opacity
    divide), each channel for itself. `parts` empty means all that are not locked.
    """

    frame: float
    parts: tuple[str, ...] = ()

    def label(self, scene: Scene) -> str:
        who = named(scene.part(part_id) for part_id in self.parts) if self.parts else "all parts"
        return f"Make the pose of {who} at frame {self.frame:g} the rest"

    def apply(self, scene: Scene) -> Scene:
        shifts: dict[tuple[str, str], Shift] = {}
        settled = [self._settled(part, shifts) for part in chosen(scene, self.parts)]
        settled = [_with_centre_kept(scene, part) for part in settled]
        return with_links_kept(scene, scene.with_parts(settled), shifts)

    def _settled(self, part: Part, shifts: dict[tuple[str, str], Shift]) -> Part:
        """The part with its motion at the frame in its rest; how each channel is counted from now on is put down."""
        part = self._shape_settled(part, shifts)
        for name in part.channels:
            if family_of(name).moves == "shape":
                continue
            kind = channel_kind(name)
            now = motion_value(part, name, self.frame)
            if kind.joins == "replace":
                # What sways about its rest alone would sway about another one.
                part = part.with_rest({name: now}) if part.channels[name].at_hand else part
            elif now == kind.neutral:
                continue
            elif kind.joins == "add":
                part = part.with_rest({name: part.rest_value(name) + now})
                part = with_motion_changed(part, name, less=now)
                shifts[part.id, name] = Shift(less=now)
            else:
                if now == 0:
                    raise RuleError(
                        f"{kind.label} of {part.name} is 0 at frame {self.frame:g}, and a 0 cannot be settled. "
                        "Nothing was changed; go to a frame where it has a size."
                    )
                part = part.with_rest({name: part.rest_value(name) * now})
                part = with_motion_changed(part, name, over=now)
                shifts[part.id, name] = Shift(over=now)
        return part

    def _shape_settled(self, part: Part, shifts: dict[tuple[str, str], Shift]) -> Part:
        """The part with what moves its shapes moved into the shapes themselves."""
        by = {name: motion_value(part, name, self.frame) for name in shape_channels(part)}
        by = {name: value for name, value in by.items() if value}
        if not by:
            return part
        for name, value in by.items():
            part = with_motion_changed(part, name, less=value)
            shifts[part.id, name] = Shift(less=value)
        return with_shapes_changed(part, by)


def _with_centre_kept(before: Scene, part: Part) -> Part:
    """A part whose picture at rest is another now, with the centre of its art where it was, if something goes by that:
    its own spin, or constraints of others.
    """
    old = before.part(part.id)
    if old.centre == part.centre:
        return part
    spins = any(family_of(name) is SPIN for name in (*part.rest, *part.channels, *(link.onto for link in part.links)))
    goals = (goal for one in before.parts for rule in one.constraints for goal in rule.every_goal())
    if spins or any(goal.part == part.id and goal.at == "centre" for goal in goals):
        return replace(part, spin_centre=old.centre)
    return part


def with_motion_changed(part: Part, name: str, less: float = 0.0, over: float = 1.0) -> Part:
    """The part with the keys and the range of a channel lessened or divided alike, where it has them."""
    if name in part.channels:
        part = part.with_channel(name, _changed_channel(channel_kind(name), part.channels[name], less, over))
    if name in part.limits:
        part = replace(part, limits={**part.limits, name: _changed_limit(part.limits[name], less, over)})
    return part


def _changed_limit(limit: Limit, less: float, over: float) -> Limit:
    """A range with both ends lessened or divided alike; dividing by a negative number swaps them."""
    low, high = (None if end is None else (end - less) / over for end in limit)
    return (high, low) if over < 0 else (low, high)


def _changed_channel(kind: ChannelKind, channel: Channel, less: float, over: float) -> Channel:
    """The channel with its values lessened or divided alike; handles and sway are differences and only divide."""

    def divided(handle: Handle | None) -> Handle | None:
        return None if handle is None else (handle[0], handle[1] / over)

    def changed(key: Key) -> Key:
        value = (key.value - less) / over
        return replace(key, value=value, handle_in=divided(key.handle_in), handle_out=divided(key.handle_out))

    whole = countable(kind.name, channel)
    sway = None if channel.sway is None else replace(channel.sway, amount=channel.sway.amount / over)
    return replace(whole, keys=tuple(map(changed, whole.keys)), sway=sway)


@dataclass(frozen=True)
class Reset(Edit, kind="reset"):
    """Bring values home: in Motion the channels that have keys read neutral at the frame, at rest turns, scales,
    slides, spins, shears and opacity do; where a part rests (move) stays, since no place is neutral.

    `channels` empty means all of them, `parts` empty all parts that are not locked.
    """

    parts: tuple[str, ...] = ()
    channels: tuple[str, ...] = ()
    frame: float | None = None

    def label(self, scene: Scene) -> str:
        return f"Reset {named(scene.part(part_id) for part_id in self.parts)}" if self.parts else "Reset all"

    def apply(self, scene: Scene) -> Scene:
        parts = chosen(scene, self.parts)
        return scene.with_parts(self._reset(part) for part in parts)

    def _reset(self, part: Part) -> Part:
        stored = part.rest if self.frame is None else part.channels
        for name in self.channels or tuple(stored):
            kind = channel_kind(name)
            if (
                (self.frame is None and not family_of(name).is_everywhere)
                or kind.joins == "replace"
                or name not in stored
            ):
                continue
            if self.frame is None and family_of(name) is MOVE:
                continue
            part = with_value(part, name, within_limits(part, name, kind.neutral, self.frame), self.frame)
        return part
