"""Changing a channel's keys: pure operations that every edit of time is made of.

Keys are named by the frame they stand on. What an operation does not name keeps its frame, value, kind and handles.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence, Set
from dataclasses import replace
from typing import Literal

import numpy as np

from jointed_crane.core.basics.frozen import changed
from jointed_crane.core.motion.channel import (
    Channel,
    Handle,
    Key,
    SegmentKind,
    Sway,
)
from jointed_crane.core.motion.curves import value_at
from jointed_crane.core.motion.cycle_keys import ready_for_key_beyond
from jointed_crane.core.motion.inserting import with_handles_shown
from jointed_crane.core.motion.segments import control_points

#: Frames closer than this are one.
_ROUNDED_OFF = 1e-9


def with_handles_laid(channel: Channel, frames: Set[float], way: Literal["flat", "joined", "smooth"]) -> Channel:
    """The channel with the handles of its keys on some frames level, in one line through the key, or unshaped.

    A handle keeps its reach in time. Joined ones take the mean of their slopes, weighted by how far they reach.
    """
    places = {place for place, key in enumerate(channel.keys) if key.frame in frames}
    if way == "smooth":
        keys = [
            changed(key, handle_in=None, handle_out=None) if place in places else key
            for place, key in enumerate(channel.keys)
        ]
        return replace(channel, keys=tuple(keys))
    shown = with_handles_shown(channel.keys, places)
    return replace(channel, keys=tuple(_laid(key, way) if i in places else key for i, key in enumerate(shown)))


def _laid(key: Key, way: str) -> Key:
    handles = [handle for handle in (key.handle_in, key.handle_out) if handle is not None]
    reach = sum(abs(handle[0]) for handle in handles)
    rise = sum(abs(handle[0]) * (handle[1] / handle[0]) for handle in handles if handle[0])
    slope = rise / reach if way == "joined" and reach else 0.0
    return changed(
        key,
        handle_in=key.handle_in and (key.handle_in[0], key.handle_in[0] * slope),
        handle_out=key.handle_out and (key.handle_out[0], key.handle_out[0] * slope),
    )


def raised(channel: Channel, by: float, frames: Set[float] | None = None) -> Channel:
    """The channel with the keys on some frames, or all of them, higher by an amount; handles travel along."""
    keys = (
        changed(key, value=key.value + by) if frames is None or key.frame in frames else key for key in channel.keys
    )
    return replace(channel, keys=tuple(keys))


def bridged(channel: Channel, first: float, last: float, rise: float, kind: SegmentKind) -> Channel:
    """What lies between keys on two frames given up for one segment, and the second of them raised with all after it.

    Nothing changes before the first; after the second everything lies higher by the rise.
    """
    begin, end = channel.place_of(first), channel.place_of(last)
    keys = list(with_handles_shown(channel.keys, {begin, end}))
    raised = [changed(key, value=key.value + rise) for key in keys[end:]]
    raised[0] = replace(raised[0], handle_in=None)
    return replace(channel, keys=(*keys[:begin], replace(keys[begin], kind=kind, handle_out=None), *raised))


def followed_by(channel: Channel, keys: Sequence[Key]) -> Channel:
    """The channel with keys in the place of all those from the first of them to the last; what came after goes on from
    where they end.
    """
    first, last = keys[0].frame, keys[-1].frame
    channel = ready_for_key_beyond(ready_for_key_beyond(channel, last), first)
    begin, end = channel.place_of(first), channel.place_of(last)
    ended = channel.keys[end] if end < len(channel.keys) and channel.frames[end] == last else None
    rise = keys[-1].value - (value_at(channel, last) if channel.keys else 0.0)
    later = [changed(key, value=key.value + rise) for key in channel.keys[end + (ended is not None) :]]
    lead = keys[0]
    if begin < len(channel.keys) and channel.frames[begin] == first:
        lead = replace(lead, handle_in=channel.keys[begin].handle_in)
    return replace(channel, keys=(*channel.keys[:begin], lead, *keys[1:], *later))


def with_key(channel: Channel, key: Key) -> Channel:
    """The channel with a key put in; one that stands on its frame gives way."""
    channel = ready_for_key(channel, key.frame)
    frames, at = channel.frames, channel.place_of(key.frame)
    return channel.with_key_put(key, at, is_standing=at < len(frames) and frames[at] == key.frame)


def ready_for_key(channel: Channel, frame: float) -> Channel:
    """The channel without what a key beyond its ends would bring to life: the outer handles of the first and the last
    key, which count for nothing, and cycles that would come to go by the new key too, which are written out.
    """
    channel = ready_for_key_beyond(channel, frame)
    keys = channel.keys
    if keys and frame < keys[0].frame and keys[0].handle_in:
        return replace(channel, keys=(replace(keys[0], handle_in=None), *keys[1:]))
    if keys and frame > keys[-1].frame and keys[-1].handle_out:
        return replace(channel, keys=(*keys[:-1], replace(keys[-1], handle_out=None)))
    return channel


def without(channel: Channel, frames: Set[float]) -> Channel:
    """The channel without the keys on some frames."""
    return replace(channel, keys=tuple(key for key in channel.keys if key.frame not in frames))


def moved(channel: Channel, frames: Set[float], by: float) -> Channel:
    """Keys moved in time; one that lands on another takes its place, handles travel along."""
    return _retimed_alike(channel, {frame: frame + by for frame in frames}, 1.0)


def stretched(channel: Channel, frames: Set[float], about: float, factor: float, is_whole: bool = False) -> Channel:
    """Keys stretched in time about a frame by a factor above 0, to whole frames if wished; their handles are stretched
    alike.
    """
    later = {frame: rounded(about + (frame - about) * factor, is_whole) for frame in frames}
    return _retimed_alike(channel, later, factor)


def _retimed_alike(channel: Channel, later: Mapping[float, float], reach: float) -> Channel:
    """The channel with the keys on some frames on others, and their handles that many times as far in time."""
    if 2 * len(later) > len(channel.frames):
        return channel.with_frames(later, reach)
    # Keys that stay are the ones that they were: then an answer tells the others alone.
    made = [
        changed(
            key,
            frame=later[key.frame],
            handle_in=key.handle_in and (key.handle_in[0] * reach, key.handle_in[1]),
            handle_out=key.handle_out and (key.handle_out[0] * reach, key.handle_out[1]),
        )
        for key in channel.keys
        if key.frame in later
    ]
    return _retimed(channel, made, later.keys())


def rounded(frame: float, is_whole: bool) -> float:
    """The frame itself, or the whole one nearest to it; one that is whole but for what a factor of time rounds off is
    whole.
    """
    whole = float(round(frame))
    return whole if is_whole or abs(frame - whole) < _ROUNDED_OFF else frame


def turned_round(channel: Channel, frames: Set[float], ends: tuple[float, float] | None = None) -> Channel:
    """Keys in reverse order between two frames, by default the first and the last of them: the same motion backwards.

    Handles change sides, and the kind of a segment stays between the same two values.
    """
    keys = [key for key in channel.keys if key.frame in frames]
    if not keys:
        return channel
    first, last = ends or (keys[0].frame, keys[-1].frame)
    made = []
    for index, key in enumerate(keys):
        kind = keys[index - 1].kind if index else keys[-1].kind
        handle_in = None if key.handle_out is None else (-key.handle_out[0], key.handle_out[1])
        handle_out = None if key.handle_in is None else (-key.handle_in[0], key.handle_in[1])
        made.append(changed(key, frame=first + last - key.frame, kind=kind, handle_in=handle_in, handle_out=handle_out))
    return _retimed(channel, made, frames)


def pasted(channel: Channel, keys: Sequence[Key], at: float) -> Channel:
    """Copied keys put in so that the first of them stands at a frame; those that stand there already give way."""
    if not keys:
        return channel
    by = at - min(key.frame for key in keys)
    until = max(key.frame for key in keys) + by
    for frame in (at,) if channel.frames and at > channel.frames[-1] else (until, at):
        channel = ready_for_key_beyond(channel, frame)
    return channel.with_keys((*channel.keys, *(changed(key, frame=key.frame + by) for key in keys)))


def held_until(channel: Channel, frame: float) -> Channel:
    """The channel standing still from its last key before a frame until that frame, where it goes on as from that key.

    A key that stands on the frame takes the value; where none stands before it, nothing changes.
    """
    at = channel.place_of(frame)
    if at == 0:
        return channel
    last, standing = channel.keys[at - 1], channel.key_at(frame)
    if standing is None:
        repeated = Key(float(frame), last.value, last.kind, None, last.handle_out)
    else:
        repeated = replace(standing, value=last.value)
    return channel.with_keys((*channel.keys, replace(last, kind="hold"), repeated))


def have_same_times(one: Channel, other: Channel) -> bool:
    """Whether two channels go through time alike, so that sums of them are channels too: keys on the same frames with
    the same kinds, handles of the same reach, the same outside, and sways in step.
    """
    if (one.before, one.after) != (other.before, other.after) or _times(one.sway) != _times(other.sway):
        return False
    if [(key.frame, key.kind) for key in one.keys[:-1]] != [(key.frame, key.kind) for key in other.keys[:-1]]:
        return False
    if one.frames != other.frames:
        return False
    if len(one.keys) < 2:
        return True
    return bool(np.array_equal(control_points(one.keys)[0], control_points(other.keys)[0]))


def _times(sway: Sway | None) -> Sway | None:
    return None if sway is None else replace(sway, amount=0.0)


def weighted_sum(terms: Sequence[tuple[float, Channel | None]]) -> Channel:
    """The sum of channels that go through time alike, each times a number; None counts as nothing.

    Handles are written out as they count: those that nobody shaped would follow the new values otherwise.
    """
    result = [(weight, channel) for weight, channel in terms if channel is not None]
    first = result[0][1]
    shown = [(weight, with_handles_shown(channel.keys, range(len(channel.keys)))) for weight, channel in result]
    keys = []
    for place, key in enumerate(first.keys):
        summed = [(weight, keys_of[place]) for weight, keys_of in shown]
        keys.append(
            replace(
                key,
                value=sum(weight * one.value for weight, one in summed),
                handle_in=_summed([(weight, one.handle_in) for weight, one in summed]),
                handle_out=_summed([(weight, one.handle_out) for weight, one in summed]),
            )
        )
    sways = [(weight, channel.sway) for weight, channel in result if channel.sway is not None]
    sway = replace(sways[0][1], amount=sum(weight * one.amount for weight, one in sways)) if sways else None
    return replace(first, keys=tuple(keys), sway=sway)


def _summed(handles: Sequence[tuple[float, Handle | None]]) -> Handle | None:
    shaped = [(weight, handle) for weight, handle in handles if handle is not None]
    return (shaped[0][1][0], sum(weight * handle[1] for weight, handle in shaped)) if shaped else None


def _retimed(channel: Channel, made: Sequence[Key], gone: Set[float]) -> Channel:
    return channel.with_keys((*(key for key in channel.keys if key.frame not in gone), *made))
