"""One channel's motion as keyframes with an easing to the next, as CSS Easing 1 and others have it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from jointed_crane.core.model.channels import channel_kind, countable
from jointed_crane.core.motion.channel import Channel
from jointed_crane.core.motion.curves import PackedCurves, values
from jointed_crane.core.motion.stretches import Controls, Stretch, stretches
from jointed_crane.formats.moving.baking import is_baked

#: How a value goes to the next: it holds, goes straight, or along a cubic Bezier from (0, 0) to (1, 1) by the two
#: controls between, as shares of the time and of the rise.
Easing = Literal["hold", "straight"] | tuple[float, float, float, float]

#: A cubic whose ends differ by less than this share of its controls is halved: progress is counted between the ends.
LEVEL = 0.02


@dataclass(frozen=True)
class Keyframe:
    """A value from a frame on, and how it goes to that of the next keyframe."""

    frame: float
    value: float
    easing: Easing


def channel_keyframes(name: str, motion: Channel, length: int) -> list[Keyframe]:
    """Keyframes of the motion values from frame 0 to `length`.

    Keys and handles are kept as they are; what repeats, carries on or sways beyond its keys is baked frame by frame.
    """
    channel = countable(name, motion)
    if channel_kind(name).stepped:
        return _stepped(channel, length)
    if is_baked(name, motion):
        return baked_keyframes(values(PackedCurves((channel,)), np.arange(length + 1, dtype=float))[0])
    cubics = stretches(channel, 0.0, float(length))
    result = [keyframe for cubic in cubics for keyframe in eased(cubic)]
    return [*result, Keyframe(float(length), float(cubics[-1].values[3]), result[-1].easing)]


def baked_keyframes(heights: np.ndarray) -> list[Keyframe]:
    """One keyframe a frame, straight lines between."""
    return [Keyframe(float(frame), float(value), "straight") for frame, value in enumerate(heights)]


def _stepped(channel: Channel, length: int) -> list[Keyframe]:
    """Steps at the keys; where they repeat outside the keys, at every frame at which the value is another."""
    if channel.is_plain:
        frames = sorted({0.0, *(key.frame for key in channel.keys if 0 < key.frame < length)})
    else:
        frames = [float(frame) for frame in range(length)]
    result = values(PackedCurves((channel,)), np.array(frames))[0]
    steps = [Keyframe(frame, float(value), "hold") for frame, value in zip(frames, result, strict=True)]
    steps = [
        step for before, step in zip([None, *steps], steps, strict=False) if not before or before.value != step.value
    ]
    return [*steps, Keyframe(float(length), steps[-1].value, "hold")]


def eased(stretch: Stretch, level: float = LEVEL, depth: int = 0) -> list[Keyframe]:
    """The keyframes of one cubic but the last; several where its ends are too level to count progress between them, by
    the share of its controls that they differ by.
    """
    (begin, out, back, end), (first, leaving, coming, last) = stretch.frames, stretch.values
    rise = last - first
    reach = max(stretch.values) - min(stretch.values)
    if stretch.is_hold or reach == 0.0:
        return [Keyframe(begin, first, "hold" if stretch.is_hold else "straight")]
    if abs(rise) < level * reach and depth < 6:
        left, right = _halves(stretch)
        return [*eased(left, level, depth + 1), *eased(right, level, depth + 1)]
    if rise == 0.0:
        return [Keyframe(begin, first, "straight")]
    shares = [min(max((frame - begin) / (end - begin), 0.0), 1.0) for frame in (out, back)]
    risen = [(value - first) / rise for value in (leaving, coming)]
    if all(
        math.isclose(share, height, rel_tol=1e-5, abs_tol=1e-12) for share, height in zip(shares, risen, strict=True)
    ):
        return [Keyframe(begin, first, "straight")]
    return [Keyframe(begin, first, (shares[0], risen[0], shares[1], risen[1]))]


def _halves(stretch: Stretch) -> tuple[Stretch, Stretch]:
    frames, values = _halved(stretch.frames), _halved(stretch.values)
    return Stretch(frames[0], values[0]), Stretch(frames[1], values[1])


def _halved(points: Controls) -> tuple[Controls, Controls]:
    """The control values of both halves of a cubic (de Casteljau)."""
    a, b, c, d = points
    ab, bc, cd = (a + b) / 2, (b + c) / 2, (c + d) / 2
    abc, bcd = (ab + bc) / 2, (bc + cd) / 2
    middle = (abc + bcd) / 2
    return (a, ab, abc, middle), (middle, bcd, cd, d)
