"""A key more on a curve that stays as it is, and handles written out as they count."""

from __future__ import annotations

import itertools
from collections.abc import Collection, Sequence
from dataclasses import replace

from jointed_crane.core.motion.channel import Channel, Handle, Key
from jointed_crane.core.motion.segments import Floats, control_points
from jointed_crane.core.motion.stretches import Edge, Stretch, bend_of, between, cut, edge_at


def inserted(channel: Channel, frame: float) -> Channel:
    """The same curve with one key more, which stands on it: no frame changes.

    An eased segment is cut exactly, so the two keys beside the new one get the handles that the halves need. Where
    handles reach so far that they cross, a half may need handles beyond its own ends; then a second key is set where
    the segment bends the other way. Outside the keys there is no segment to cut, so the channel comes back as it is.
    """
    keys = channel.keys
    at = channel.place_of(frame)
    if at == 0 or at == len(keys) or keys[at].frame == frame:
        return channel
    segment, (left, right) = channel.segments[at - 1], keys[at - 1 : at + 1]
    shaped = list(with_handles_shown(keys, {at - 1, at}))
    if left.kind != "eased":
        value = left.value if left.kind == "hold" else cut(segment, left.frame, frame).values[3]
        shaped[at - 1] = replace(shaped[at - 1], handle_out=left.handle_out)
        shaped[at] = replace(shaped[at], handle_in=right.handle_in)
        return replace(channel, keys=(*shaped[:at], Key(float(frame), value, left.kind), *shaped[at:]))
    edges = [(left.frame, 0.0), edge_at(segment, frame), (right.frame, 1.0)]
    pieces, bend = _pieces(segment, edges), bend_of(segment)
    if not all(map(_reaches_within, pieces)) and all(bend[0] != edge for edge, _ in edges):
        pieces = _pieces(segment, sorted([*edges, bend]))
    made = [
        Key(before.frames[3], before.values[3], "eased", _handle(before, 2, 3), _handle(after, 1, 0))
        for before, after in itertools.pairwise(pieces)
    ]
    shaped[at - 1] = replace(shaped[at - 1], handle_out=_handle(pieces[0], 1, 0))
    shaped[at] = replace(shaped[at], handle_in=_handle(pieces[-1], 2, 3))
    return replace(channel, keys=(*shaped[:at], *made, *shaped[at:]))


def _pieces(segment: Floats, edges: Sequence[Edge]) -> list[Stretch]:
    return [between(segment, begin, end) for begin, end in itertools.pairwise(edges)]


def _reaches_within(piece: Stretch) -> bool:
    """Whether the handles of a piece lie between its ends, where a key's handles count as they are."""
    begin, out, back, end = piece.frames
    return begin <= out <= end and begin <= back <= end


def _handle(piece: Stretch, control: int, end: int) -> Handle:
    """A control point of a piece as the handle of the key at one of its ends."""
    return (piece.frames[control] - piece.frames[end], piece.values[control] - piece.values[end])


def with_handles_shown(keys: tuple[Key, ...], places: Collection[int]) -> tuple[Key, ...]:
    """Some keys with unshaped handles written out as they count, so that new neighbours change nothing."""
    shares, points = control_points(keys)
    result = list(keys)
    for place in places:
        key = keys[place]
        handle_in, handle_out = key.handle_in, key.handle_out
        if place > 0 and keys[place - 1].kind == "eased" and handle_in is None:
            span = key.frame - keys[place - 1].frame
            handle_in = (float(shares[place - 1, 1] - 1) * span, float(points[place - 1, 1] - key.value))
        if place < len(keys) - 1 and key.kind == "eased" and handle_out is None:
            span = keys[place + 1].frame - key.frame
            handle_out = (float(shares[place, 0]) * span, float(points[place, 0] - key.value))
        result[place] = replace(key, handle_in=handle_in, handle_out=handle_out)
    return tuple(result)
