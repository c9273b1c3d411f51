"""Reading and writing one channel's value in the state the user sees: rest values in Rest, keys in Motion."""

from __future__ import annotations

import numpy as np

from jointed_crane.core.basics.frozen import Memory, changed
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import narrowed
from jointed_crane.core.model.channels import CHANNELS, channel_kind, countable, family_of, joined
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.motion.channel import BARE, Channel, Key, SegmentKind
from jointed_crane.core.motion.curves import value_at
from jointed_crane.core.motion.cycle_keys import ready_for_key_beyond
from jointed_crane.core.motion.cycles import swayed
from jointed_crane.core.motion.editing import with_key
from jointed_crane.core.motion.inserting import inserted

#: A value to be set: of which part and channel, as it is shown.
NewValue = tuple[Part, str, float]
#: The key that a curve has or takes at the last frame that was asked for: a drag asks again and again.
_KEY_FOR: Memory[Key] = Memory()


def motion_value(part: Part, channel: str, frame: float) -> float:
    """The channel's motion value at a frame; neutral (for channels that replace: the rest value) without keys."""
    kind = channel_kind(channel)
    curve = part.channels.get(channel)
    if curve is None:
        return part.rest_value(channel) if kind.joins == "replace" else kind.neutral
    return value_at(countable(channel, curve, part.rest_value(channel)), frame)


def value_on_screen(part: Part, channel: str, frame: float | None) -> float:
    """The number on screen: the rest value in Rest, the motion value at a frame in Motion."""
    return part.rest_value(channel) if frame is None else motion_value(part, channel, frame)


def effective_values(part: Part, frame: float | None) -> dict[str, float]:
    """Rest and motion joined for every channel, as the placement formula wants them."""
    if frame is None:
        return {name: part.rest_value(name) for name in CHANNELS}
    return {
        name: joined(kind, part.rest_value(name), motion_value(part, name, frame))
        if name in part.channels
        else part.rest_value(name)
        for name, kind in CHANNELS.items()
    }


def added_by_links(scene: Scene, part: Part, frame: float | None) -> dict[str, float]:
    """What links add to the channels of a part in one state, by channel."""
    if not part.links:
        return {}
    pose = evaluate(narrowed(scene, [part.id]).shown_as(frame), [frame or 0.0])
    return {channel: float(more[0]) for (owner, channel), more in pose.driven.items() if owner == part.id}


def driven_values(scene: Scene, part: Part, frame: float | None) -> dict[str, float]:
    """Rest, motion and what links add joined for every channel of a part, as the placement formula wants them."""
    values = effective_values(part, frame)
    for channel, more in added_by_links(scene, part, frame).items():
        if family_of(channel).is_everywhere:
            values[channel] += more * (values[channel] if channel_kind(channel).joins == "multiply" else 1.0)
    return values


def within_limits(part: Part, channel: str, value: float, frame: float | None, past_limits: bool = False) -> float:
    """A value brought into the part's range for the channel, unless it is to go past it on purpose; ranges hold in
    Motion.
    """
    if frame is None or past_limits or channel not in part.limits:
        return value
    low, high = part.limits[channel]
    value = value if low is None else max(value, low)
    return value if high is None else min(value, high)


def within_ends(part: Part, channel: str, value: float, frame: float | None) -> float:
    """A value brought to where it still means something once motion has joined rest: opacity shows from 0 to 1, and a
    lever stays in its range.
    """
    if part.lever is not None and channel in part.numbers:
        return float(part.lever.axis(channel).within(np.array(value)))
    kind = channel_kind(channel)
    ends = kind.ends
    rest = part.rest_value(channel) if frame is not None and kind.joins == "multiply" else 1.0
    return value if ends is None or rest <= 0 else min(max(value, ends[0] / rest), ends[1] / rest)


def with_value(part: Part, channel: str, value: float, frame: float | None) -> Part:
    """The part with one value set where the user sees it: at rest, or as a key at the frame."""
    if frame is None:
        return part.with_rest({channel: value})
    curve = part.channels.get(channel, BARE)
    return part.with_channel(channel, with_key(curve, key_for(curve, channel, value, frame)))


def key_for(curve: Channel, channel: str, value: float, frame: float) -> Key:
    """The key that shows a value at a frame of a curve.

    A key that stands there keeps its kind and handles. A new key takes the kind of the segment it divides; on a channel
    without keys it is eased.
    """
    if curve.sway is not None:  # the number on screen holds the sway too, the key does not
        value -= float(swayed(curve.sway, np.array([frame]))[0])
    held = _KEY_FOR.at(curve, (channel, frame))
    if held is None:
        key = curve.key_at(frame) or Key(float(frame), 0.0, new_segment(curve, channel, frame))
        held = _KEY_FOR.put(curve, key, (channel, frame))
    return changed(held, value=float(value))


def new_segment(curve: Channel, channel: str, frame: float) -> SegmentKind:
    """The kind of the segment that leaves a new key: that of the segment it divides, eased on a bare channel."""
    if channel_kind(channel).stepped:
        return "hold"
    return curve.keys[max(curve.place_of(frame) - 1, 0)].kind if curve.keys else "eased"


def with_key_here(part: Part, channel: str, frame: float) -> Part:
    """The part with a key at a frame on the curve as it is: no frame changes.

    Inside a segment the curve is cut there; before the first and after the last key the new one takes the value shown,
    cycles being written out up to it.
    """
    curve = part.channels.get(channel, BARE)
    cut = inserted(ready_for_key_beyond(curve, frame), frame)
    if cut.key_at(frame) is not None:
        return part if cut is curve else part.with_channel(channel, cut)
    return with_value(part, channel, motion_value(part, channel, frame), frame)
