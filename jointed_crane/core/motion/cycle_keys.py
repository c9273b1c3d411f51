"""Cycles of a channel written out as keys, so that a key beyond them changes nothing that was there before."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import replace

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_WRITTEN_ROUNDS
from jointed_crane.core.motion.channel import Channel, Handle, Key, Outside
from jointed_crane.core.motion.inserting import inserted, with_handles_shown

#: What a channel does outside its keys that goes by all of them.
CYCLES: frozenset[Outside] = frozenset({"repeat", "back and forth", "repeat onwards"})
#: A jump takes so long, in frames: two keys cannot stand on one.
_JUMP = 1e-3


def ready_for_key_beyond(channel: Channel, frame: float) -> Channel:
    """The channel as it takes a key on a frame outside its keys: cycles that would come to go by that key too are
    written out, those before its keys from frame 0 on, those after them up to the frame, where a key then stands; from
    there it holds.

    RuleError where that would make more keys than one channel may take.
    """
    keys = channel.frames
    if len(keys) < 2 or keys[0] <= frame <= keys[-1]:
        return channel
    first, last = keys[0], keys[-1]
    begin = min(frame, 0.0) if channel.before in CYCLES and first > min(frame, 0.0) else first
    end = frame if channel.after in CYCLES and frame > last else last
    if (begin, end) == (first, last):
        return channel
    result = inserted(_written_out(channel, begin, end), frame)
    return replace(result, keys=tuple(key for key in result.keys if key.frame <= frame)) if end > last else result


def _written_out(channel: Channel, begin: float, end: float) -> Channel:
    """The channel with whole rounds of its cycles as keys, as many as reach to two frames."""
    first, last = channel.frames[0], channel.frames[-1]
    length = last - first
    lowest, highest = int((begin - first) // length), max(int((end - first) // length), 0)
    if end == last:
        highest = 0
    if (highest - lowest + 1) * len(channel.keys) > MOST_WRITTEN_ROUNDS:
        raise RuleError(
            f"A cycle of {length:g} frames comes round {highest - lowest + 1} times there, and {MOST_WRITTEN_ROUNDS} "
            "keys are the most that are made of one. Nothing was changed; choose a nearer frame."
        )
    shown = replace(channel, keys=with_handles_shown(channel.keys, range(len(channel.keys))), sway=None)
    keys: list[Key] = []
    for number in range(lowest, highest + 1):
        keys = _joined(keys, _round(shown, number), is_first_after=number == 1)
    before: Outside = "hold" if lowest < 0 else channel.before
    after: Outside = "hold" if highest > 0 else channel.after
    return Channel(tuple(keys), before, after, channel.sway)


def _round(channel: Channel, number: int) -> list[Key]:
    """The keys of one round; 0 is the channel itself."""
    keys = list(channel.keys)
    first, last = keys[0].frame, keys[-1].frame
    outside = channel.before if number < 0 else channel.after
    if number == 0:
        return keys
    if outside == "back and forth" and number % 2:
        keys = _backwards(keys)
    by = number * (last - first)
    rise = number * (channel.keys[-1].value - channel.keys[0].value) if outside == "repeat onwards" else 0.0
    return [replace(key, frame=key.frame + by, value=key.value + rise) for key in keys]


def _backwards(keys: Sequence[Key]) -> list[Key]:
    """The same course backwards between the same frames; what held is reached at once and then held."""
    first, last = keys[0].frame, keys[-1].frame
    result: list[Key] = []
    for left, right in reversed(list(itertools.pairwise(keys))):
        at = first + last - right.frame
        if left.kind == "hold":
            result += [Key(at, right.value, "hold"), Key(at + _JUMP, left.value, "hold")]
        else:
            result.append(Key(at, right.value, left.kind, None, _turned(right.handle_in)))
        if len(result) > 1 and right is not keys[-1]:
            place = -1 if left.kind != "hold" else -2
            result[place] = replace(result[place], handle_in=_turned(right.handle_out))
    return [*result, Key(last, keys[0].value, "hold", _turned(keys[0].handle_out))]


def _turned(handle: Handle | None) -> Handle | None:
    return None if handle is None else (-handle[0], handle[1])


def _joined(keys: list[Key], more: list[Key], is_first_after: bool) -> list[Key]:
    """Two rounds, one right after the other. Where they do not meet the value jumps: right behind the last key of the
    round that is not brought back by the cycle, and right before the first key of all others.
    """
    if not keys:
        return more
    end, begin = keys[-1], more[0]
    if abs(end.value - begin.value) <= 1e-12 * max(abs(end.value), abs(begin.value), 1.0):
        return [*keys[:-1], replace(begin, handle_in=end.handle_in), *more[1:]]
    if is_first_after:
        later = inserted(Channel(tuple(more)), begin.frame + _JUMP).keys[1:]
        return [*keys[:-1], replace(end, kind="hold", handle_out=None), *later]
    earlier = list(inserted(Channel(tuple(keys)), end.frame - _JUMP).keys[:-1])
    return [
        *earlier[:-1],
        replace(earlier[-1], kind="hold", handle_out=None),
        replace(begin, handle_in=None),
        *more[1:],
    ]
