"""A channel as cubics that follow each other, cut exactly at two frames: what formats with Bezier segments need."""

from __future__ import annotations

import itertools
from bisect import bisect_right
from dataclasses import dataclass

import numpy as np

from jointed_crane.core.motion.bezier import bezier_parameter
from jointed_crane.core.motion.channel import Channel
from jointed_crane.core.motion.segments import AV, AX, BV, BX, CV, CX, SPAN, START, V0, Floats

#: Begin, two controls and end of a cubic.
Controls = tuple[float, float, float, float]
#: A place on a segment: its frame, and its parameter from 0 to 1.
Edge = tuple[float, float]


@dataclass(frozen=True)
class Stretch:
    """A stretch of a channel as one cubic: control frames and control values."""

    frames: Controls
    values: Controls
    is_hold: bool = False


def stretches(channel: Channel, first: float, last: float) -> list[Stretch]:
    """A plain channel between two frames as cubics that follow each other, cut exactly at both ends.

    A stretch before the first key or after the last one is a hold. Cubics are cut by evaluating their blossom
    (de Casteljau), so every piece is the same curve.
    """
    table = channel.segments
    starts = table[:, START].tolist()
    edges = [first, *(start for start in starts if first < start < last), last]
    result = []
    for begin, end in itertools.pairwise(edges):
        row = bisect_right(starts, begin) - 1
        if row < 0 or row == len(starts) - 1 or channel.keys[row].kind == "hold":
            value = float(table[max(row, 0), V0])
            third = (end - begin) / 3
            result.append(Stretch((begin, begin + third, end - third, end), (value,) * 4, is_hold=True))
            continue
        result.append(cut(table[row], begin, end))
    return result


def cut(segment: Floats, begin: float, end: float) -> Stretch:
    """A piece of one segment of a table between two frames, as a cubic of its own: the same curve."""
    return between(segment, edge_at(segment, begin), edge_at(segment, end))


def edge_at(segment: Floats, frame: float) -> Edge:
    """Where a segment passes a frame."""
    start, span, a, b, c = segment[[START, SPAN, AX, BX, CX]].tolist()
    return (frame, _parameter((frame - start) / span, a, b, c))


def bend_of(segment: Floats) -> Edge:
    """Where a segment's way through time turns from slowing down to speeding up, or the reverse.

    It may go straight up there, so its parameter cannot be found from its frame.
    """
    start, span, a, b, c = segment[[START, SPAN, AX, BX, CX]].tolist()
    u = min(max(-b / (3 * a), 0.0), 1.0) if a else 0.0
    return (start + span * ((a * u + b) * u + c) * u, u)


def between(segment: Floats, begin: Edge, end: Edge) -> Stretch:
    """A piece of one segment of a table between two places on it, as a cubic of its own."""
    start, span, a, b, c = segment[[START, SPAN, AX, BX, CX]].tolist()
    _, out, back, _ = (start + span * share for share in _blossom((0.0, c, b, a), begin[1], end[1]))
    v0, cv, bv, av = segment[[V0, CV, BV, AV]].tolist()
    return Stretch((begin[0], out, back, end[0]), _blossom((v0, cv, bv, av), begin[1], end[1]))


def _parameter(share: float, a: float, b: float, c: float) -> float:
    if share in (0.0, 1.0) or not (a or b):
        return share
    (result,) = bezier_parameter(*(np.array([value]) for value in (share, a, b, c)))
    return float(result)


def _blossom(power: Controls, low: float, high: float) -> Controls:
    """Bezier control values of a cubic, given by its powers 1 u u^2 u^3, over the stretch low .. high."""
    one, u, uu, uuu = power

    def at(r: float, s: float, t: float) -> float:
        return one + u * (r + s + t) / 3 + uu * (r * s + s * t + t * r) / 3 + uuu * r * s * t

    return (at(low, low, low), at(low, low, high), at(low, high, high), at(high, high, high))
