"""A channel as it is drawn over time: its cubics, its handles as they count, its course and its speed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from jointed_crane.core.motion.channel import Channel
from jointed_crane.core.motion.curves import PackedCurves, values
from jointed_crane.core.motion.segments import Floats, control_points

#: So many places of a course are drawn at most: more than a screen has columns.
MOST_PLACES = 2_000

#: A place in the picture: frame and value.
Place = tuple[float, float]


@dataclass(frozen=True)
class Drawn:
    """What a picture of a channel is made of.

    Attributes
    ----------
    segments : begin, two controls and end of the segment between each two keys; what holds has its controls level
    course : places on the curve with all it does outside its keys and its sway; empty for one that does neither
    speeds : places of its speed, in units a second
    """

    segments: list[tuple[Place, Place, Place, Place]]
    course: list[Place]
    speeds: list[Place]


def drawn(channel: Channel, length: int, rate: float) -> Drawn:
    """The picture of a channel that has keys, over the frames 0 to length - 1 at a rate in frames a second."""
    curves = PackedCurves((channel,))
    frames = np.linspace(0.0, length - 1.0, min(length, MOST_PLACES))
    course = [] if channel.is_plain else _places(frames, values(curves, frames)[0])
    before, after = frames - 0.5, frames + 0.5
    speeds = (values(curves, after)[0] - values(curves, before)[0]) * rate
    return Drawn(_segments(channel), course, _places(frames, speeds))


def _segments(channel: Channel) -> list[tuple[Place, Place, Place, Place]]:
    keys = channel.keys
    if len(keys) < 2:
        return []
    shares, points = control_points(keys)
    result = []
    for left, right, (x1, x2), (y1, y2) in zip(keys, keys[1:], shares.tolist(), points.tolist(), strict=False):
        span = right.frame - left.frame
        if left.kind == "hold":
            y1 = y2 = left.value
        result.append(
            (
                (left.frame, left.value),
                (left.frame + x1 * span, y1),
                (left.frame + x2 * span, y2),
                (right.frame, right.value),
            )
        )
    return result


def _places(frames: Floats, course: Floats) -> list[Place]:
    return list(zip(frames.tolist(), course.tolist(), strict=True))
