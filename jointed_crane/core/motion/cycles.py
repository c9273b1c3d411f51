"""What a channel does before its first and after its last key, and the sway added to it."""

from __future__ import annotations

import numpy as np

from jointed_crane.core.motion.channel import AV, AX, BV, BX, CV, CX, SPAN, START, V0, Channel, Floats, Outside, Sway


def folded(channel: Channel, frames: Floats) -> tuple[Floats, Floats]:
    """Frames brought back between the channel's keys, and what is to be added to the value there.

    Parameters
    ----------
    frames : array, shape (frames,)

    Returns
    -------
    inside, offset : arrays, shape (frames,)
    """
    table = channel.segments
    first, last = table[0, START], table[-1, START]
    inside = np.clip(frames, first, last)
    offset = np.zeros_like(frames)
    length = last - first
    if length <= 0:
        return inside, offset
    rise = table[-1, V0] - table[0, V0]
    for where, outside, edge, slope in (
        (frames < first, channel.before, first, _slope_at_start(table[0])),
        (frames > last, channel.after, last, _slope_at_end(table[-2])),
    ):
        if outside == "hold" or not where.any():
            continue
        beyond = frames[where]
        if outside == "straight on":
            offset[where] = slope * (beyond - edge)
            continue
        rounds, inside[where] = _fold(outside, beyond - first, length, first)
        if outside == "repeat with offset":
            offset[where] = rounds * rise
    return inside, offset


def _fold(outside: Outside, since_first: Floats, length: float, first: float) -> tuple[Floats, Floats]:
    """Whole rounds gone by, and the frame within the round."""
    rounds = np.floor(since_first / length)
    within = since_first - rounds * length
    if outside == "back and forth":
        within = np.where(rounds % 2 == 1, length - within, within)
    return rounds, first + within


def _slope_at_start(segment: Floats) -> float:
    rate = segment[CX]
    return float(segment[CV] / (rate * segment[SPAN])) if rate > 0 else 0.0


def _slope_at_end(segment: Floats) -> float:
    rate = 3 * segment[AX] + 2 * segment[BX] + segment[CX]
    rise = 3 * segment[AV] + 2 * segment[BV] + segment[CV]
    return float(rise / (rate * segment[SPAN])) if rate > 1e-12 else 0.0


def swayed(sway: Sway, frames: Floats) -> Floats:
    """The oscillation at each frame, shape (frames,)."""
    return sway.amount * np.sin(2 * np.pi * (frames / sway.period + sway.phase))
