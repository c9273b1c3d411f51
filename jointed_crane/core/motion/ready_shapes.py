"""Ready shapes of segments, which become ordinary keys and handles: soft ends, a snap, an overshoot, a bounce."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace
from typing import Literal

from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.motion.segments import control_points

ReadyShape = Literal["soft start", "soft end", "soft both", "snap at the end", "overshoot", "bounce"]

#: As cubic-bezier(x1, y1, x2, y2): the soft ones are ease-in, ease-out, ease-in-out of CSS Easing 1, the snap is ours.
_CURVES: dict[str, tuple[float, float, float, float]] = {
    "soft start": (0.42, 0.0, 1.0, 1.0),
    "soft end": (0.0, 0.0, 0.58, 1.0),
    "soft both": (0.42, 0.0, 0.58, 1.0),
    "snap at the end": (0.7, 0.0, 0.95, 0.55),
}
#: When an overshoot is farthest, as a share of the segment, and how far it goes beyond, as a share of the rise.
_FARTHEST, _BEYOND = 0.65, 0.12
#: The share of its speed that a bouncing thing keeps.
_BOUNCINESS = 0.5


def shaped(channel: Channel, frames: Collection[float], shape: ReadyShape, bounces: int = 3) -> Channel:
    """The channel with the segments that leave its keys on some frames in a ready shape."""
    return _with_segments(channel, frames, lambda left, right: _in_shape(left, right, shape, bounces))


def shaped_like(channel: Channel, frames: Collection[float], other: Channel, at: float) -> Channel:
    """The channel with the segments that leave its keys on some frames shaped as the one of another channel that leaves
    its key at a frame: handles by their shares of span and rise; where nothing rises there, they lie level.
    """
    place = other.place_of(at)
    left, right = other.keys[place], other.keys[place + 1]
    if left.kind != "eased":
        return _with_segments(channel, frames, lambda one, two: [replace(one, kind=left.kind), two])
    shares, points = control_points(other.keys)
    rise = right.value - left.value
    y1, y2 = (float((value - left.value) / rise) if rise else 0.0 for value in points[place])
    x1, x2 = (float(share) for share in shares[place])
    curve = (x1, y1, x2, y2 if rise else 1.0)
    return _with_segments(channel, frames, lambda one, two: _curved(one, two, curve))


def _with_segments(channel: Channel, frames: Collection[float], change: Callable[[Key, Key], Sequence[Key]]) -> Channel:
    """The channel with each segment that leaves one of the keys given up for what `change` makes of its two ends."""
    keys = list(channel.keys[:1])
    for right in channel.keys[1:]:
        left = keys.pop()
        keys += change(left, right) if left.frame in frames else (left, right)
    return replace(channel, keys=tuple(keys))


def _in_shape(left: Key, right: Key, shape: ReadyShape, bounces: int) -> Sequence[Key]:
    if shape == "overshoot":
        return _overshooting(left, right)
    if shape == "bounce":
        return _bouncing(left, right, bounces)
    return _curved(left, right, _CURVES[shape])


def _curved(left: Key, right: Key, curve: tuple[float, float, float, float]) -> tuple[Key, Key]:
    """The segment as a cubic-bezier of CSS Easing 1."""
    x1, y1, x2, y2 = curve
    span, rise = right.frame - left.frame, right.value - left.value
    return (
        replace(left, kind="eased", handle_out=(x1 * span, y1 * rise)),
        replace(right, handle_in=((x2 - 1) * span, (y2 - 1) * rise)),
    )


def _overshooting(left: Key, right: Key) -> Sequence[Key]:
    span, rise = right.frame - left.frame, right.value - left.value
    farthest = Key(left.frame + _FARTHEST * span, right.value + _BEYOND * rise)
    return (replace(left, kind="eased", handle_out=None), farthest, replace(right, handle_in=None))


def _bouncing(left: Key, right: Key, bounces: int) -> Sequence[Key]:
    """A fall and so many bounces, each a parabola: what falls freely keeps a share of its speed at every contact, so
    each bounce takes that share of the time of the one before and rises by its square. A parabola is a cubic whose
    handles reach a third of the segment along its slopes.
    """
    span, rise = right.frame - left.frame, right.value - left.value
    fall = span / (1 + 2 * sum(_BOUNCINESS**number for number in range(1, bounces + 1)))
    keys = [replace(left, kind="eased", handle_out=(fall / 3, 0.0))]
    contact, lasted, falling = left.frame + fall, fall, -rise * 2 / 3
    for number in range(1, bounces + 1):
        lasts, height = 2 * fall * _BOUNCINESS**number, rise * _BOUNCINESS ** (2 * number)
        slope = -height * 4 / 3
        keys.append(Key(contact, right.value, "eased", (-lasted / 3, falling), (lasts / 3, slope)))
        contact, lasted, falling = contact + lasts, lasts, slope
    return [*keys, replace(right, handle_in=(-lasted / 3, falling))]
