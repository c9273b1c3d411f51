"""A channel as cubics that follow each other, cut exactly at two frames: what formats with Bezier segments need."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jointed_crane.core.motion.bezier import bezier_parameter
from jointed_crane.core.motion.channel import AV, AX, BV, BX, CV, CX, SPAN, START, V0, Channel, Floats


@dataclass(frozen=True)
class Stretch:
    """A stretch of a channel as one cubic: control frames and control values, shape (4,) each."""

    frames: Floats
    values: Floats
    is_hold: bool = False


def stretches(channel: Channel, first: float, last: float) -> list[Stretch]:
    """A plain channel between two frames as cubics that follow each other, cut exactly at both ends.

    A stretch before the first key or after the last one is a hold. Cubics are cut by evaluating their blossom
    (de Casteljau), so every piece is the same curve.
    """
    table = channel.segments
    starts = table[:, START]
    edges = [first, *(float(start) for start in starts if first < start < last), last]
    found = []
    for begin, end in zip(edges, edges[1:], strict=False):
        row = int(np.searchsorted(starts, begin, side="right")) - 1
        if row < 0 or row == len(table) - 1 or channel.keys[row].kind == "hold":
            value = float(table[max(row, 0), V0])
            found.append(Stretch(np.linspace(begin, end, 4), np.full(4, value), is_hold=True))
            continue
        found.append(cut(table[row], begin, end))
    return found


def cut(segment: Floats, begin: float, end: float) -> Stretch:
    """A piece of one segment of a table between two frames, as a cubic of its own: the same curve."""
    shares = (np.array([begin, end]) - segment[START]) / segment[SPAN]
    a, b, c = (np.full(2, segment[column]) for column in (AX, BX, CX))
    low, high = bezier_parameter(shares, a, b, c) if segment[AX] or segment[BX] else shares
    x = np.array([0.0, segment[CX], segment[BX], segment[AX]])
    v = np.array([segment[V0], segment[CV], segment[BV], segment[AV]])
    frames = segment[START] + segment[SPAN] * _blossom(x, low, high)
    frames[0], frames[3] = begin, end
    return Stretch(frames, _blossom(v, low, high))


def _blossom(power: Floats, low: float, high: float) -> Floats:
    """Bezier control values of a cubic, given by its powers 1 u u^2 u^3, over the stretch low .. high."""
    arguments = ((low, low, low), (low, low, high), (low, high, high), (high, high, high))
    weights = [[1.0, (r + s + t) / 3, (r * s + s * t + t * r) / 3, r * s * t] for r, s, t in arguments]
    return np.asarray(np.array(weights) @ power, dtype=np.float64)
