"""What a channel does before its first and after its last key, and the sway added to it."""

from __future__ import annotations

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_WRITTEN_ROUNDS
from jointed_crane.core.motion.channel import Channel, Outside, Sway
from jointed_crane.core.motion.segments import AV, AX, BV, BX, CV, CX, SPAN, START, V0, Floats

#: A handle shorter than this share of its segment has collapsed into its key.
_COLLAPSED = 1e-9
#: An oscillation that fades within so few frames sets in and ends at once.
_AT_ONCE = 1e-6


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
    for where, outside, edge in ((frames < first, channel.before, first), (frames > last, channel.after, last)):
        if outside == "hold" or not where.any():
            continue
        beyond = frames[where]
        if outside == "straight on":
            slope = _slope_at_start(table[0]) if edge == first else _slope_at_end(table[-2])
            offset[where] = slope * (beyond - edge)
            continue
        rounds, inside[where] = _fold(outside, beyond - first, length, first)
        if outside == "repeat onwards":
            offset[where] = rounds * rise
    return inside, offset


def _fold(outside: Outside, since_first: Floats, length: float, first: float) -> tuple[Floats, Floats]:
    """Whole rounds gone by, and the frame within the round."""
    rounds = np.floor(since_first / length)
    within = since_first - rounds * length
    if outside == "back and forth":
        within = np.where(rounds % 2 == 1, length - within, within)
    return rounds, first + within


def corners(channel: Channel, first: float, last: float) -> list[float]:
    """Frames in a range at which the course of a channel may have a corner or jump: its keys, and where cycles bring
    them again. RuleError where those are more than MOST_WRITTEN_ROUNDS.
    """
    keys = channel.frames
    begin, end = keys[0], keys[-1]
    length = end - begin
    if length <= 0:
        return list(keys)
    result = set(keys)
    for outside, low, high in ((channel.before, first, begin), (channel.after, end, last)):
        if outside in ("hold", "straight on") or low >= high:
            continue
        turns = range(int((low - begin) // length), int((high - begin) // length) + 1)
        if len(turns) * len(keys) > MOST_WRITTEN_ROUNDS:
            raise RuleError(
                f"A cycle of {length:g} frames comes round {len(turns)} times there; {MOST_WRITTEN_ROUNDS} keys are "
                "the most that are made of one. Nothing was changed; take a shorter span."
            )
        for turn in turns:
            is_back = outside == "back and forth" and turn % 2 == 1
            result.update(begin + turn * length + (end - key if is_back else key - begin) for key in keys)
    return sorted(frame for frame in result if first <= frame <= last)


def _slope_at_start(segment: Floats) -> float:
    """The slope with which a segment begins, in value per frame."""
    reach, rise = (_controls(segment[list(columns)]) for columns in ((CX, BX, AX), (CV, BV, AV)))
    return _slope(reach, rise, float(segment[SPAN]))


def _slope_at_end(segment: Floats) -> float:
    """The slope with which a segment ends, in value per frame: that of the same segment looked at from its end."""
    reach, rise = (_controls(segment[list(columns)]) for columns in ((CX, BX, AX), (CV, BV, AV)))
    back = [points[2] - np.array([points[1], points[0], 0.0]) for points in (reach, rise)]
    return _slope(back[0], back[1], float(segment[SPAN]))


def _controls(powers: Floats) -> Floats:
    """How far the control points 1 to 3 of a cubic lie from its begin, given by its powers u u^2 u^3, shape (3,)."""
    c, b, a = powers
    return np.array([c / 3, (2 * c + b) / 3, a + b + c])


def _slope(reach: Floats, rise: Floats, span: float) -> float:
    """The direction of a cubic at its end: towards the first control point that does not lie on that end itself.

    A handle that has collapsed into its key points nowhere, so the next control point says the direction. A curve that
    sets out straight upwards has no slope that a line could carry on, and counts as level.

    Parameters
    ----------
    reach, rise : arrays, shape (3,), how far the control points lie from the end, as shares of the span and values
    """
    largest = max(float(np.abs(rise).max()), 1.0)
    for share, value in zip(reach, rise, strict=True):
        if share > _COLLAPSED:
            return float(value / (share * span))
        if abs(value) > _COLLAPSED * largest:
            break
    return 0.0


def swayed(sway: Sway, frames: Floats) -> Floats:
    """The oscillation at each frame, shape (frames,); it never goes beyond its amount."""
    turns = frames / sway.swing + sway.phase
    size = sway.amount * _share_of_full(sway, frames)
    if sway.irregularity:
        early, small = _wander(sway.seed, turns, sway.swings_round)
        turns = turns + sway.irregularity * early / 4
        size = size * (1 - sway.irregularity * (1 + small) / 2)
    result: Floats = size * np.sin(2 * np.pi * turns)
    return result


def _share_of_full(sway: Sway, frames: Floats) -> Floats:
    """How much of its amount an oscillation reaches at each frame: it swells and dies away along half a cosine."""
    share = np.ones_like(frames)
    for edge, way, fade in ((sway.begin, 1.0, sway.fade_in), (sway.end, -1.0, sway.fade_out)):
        if edge is None:
            continue
        inside = way * (frames - edge)
        share[inside < 0] = 0.0
        if fade > _AT_ONCE:
            share *= _swelling(inside / fade)
    return share


def _swelling(share: Floats) -> Floats:
    result: Floats = (1 - np.cos(np.pi * np.clip(share, 0.0, 1.0))) / 2
    return result


def _wander(seed: int, turns: Floats, swings_round: int | None) -> tuple[Floats, Floats]:
    """Two numbers in -1 .. 1 that wander smoothly with the turns gone by; the same seed wanders the same way.

    Each is the mean of two slow waves whose lengths have no measure in common, so they never come round; where they are
    to, after so many swings, of the waves nearest to those that fill them.
    """
    phases = np.random.default_rng(abs(seed)).random((2, 2))
    lengths = np.array([2**0.5, 3**0.5 + 1])
    if swings_round is not None:
        lengths = swings_round / np.maximum(np.round(swings_round / lengths), 1.0)
    waves = np.sin(2 * np.pi * (turns[None, None, :] / lengths[None, :, None] + phases[:, :, None]))
    early, small = waves.mean(axis=1)
    return early, small
