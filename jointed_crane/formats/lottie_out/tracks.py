"""What moves of a part as tracks of keyframes: its own keys where they carry, else keys fitted to its course."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.model.channels import CHANNELS, channel_kind, countable, joined
from jointed_crane.core.model.scene import Part
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.motion.curves import PackedCurves, values
from jointed_crane.core.motion.cycle_keys import ready_for_key_beyond
from jointed_crane.core.motion.cycles import corners
from jointed_crane.core.motion.fitting import fitted
from jointed_crane.core.motion.stretches import stretches
from jointed_crane.formats.lottie_out.properties import Track, constant, is_constant, mapped
from jointed_crane.formats.moving.keyframes import Keyframe, eased

Floats = npt.NDArray[np.float64]
Course = Callable[[Floats], Floats]
#: How far what is baked may lie from what is evaluated: px, degrees, and shares of 1.
TOLERANCE = {"px": 0.005, "deg": 0.001, "": 2e-5}

#: Eases are counted as shares of the rise with all digits, so segments between ends that differ by little stay one; by
#: less than this share of what lies between, players that find the time of an ease by steps are visibly off.
_LEVEL = 2e-3


def channel_track(part: Part, name: str, length: int, is_driven: bool = False) -> Track:
    """A channel of a part, rest and motion joined. `is_driven` says that its keys stand on every frame, as links left
    them, so that fewer do.
    """
    kind, rest = CHANNELS[name], part.rest_value(name)
    if name not in part.channels:
        return constant(joined(kind, rest, kind.neutral))
    return mapped(_motion_track(name, part.channels[name], length, is_driven), lambda value: joined(kind, rest, value))


def _motion_track(name: str, motion: Channel, length: int, is_driven: bool) -> Track:
    kind, channel = channel_kind(name), countable(name, motion)
    if kind.stepped or not is_driven:
        channel = _with_cycles_written(channel, length)
        if channel.is_plain:
            return key_track(channel)
    tolerance = TOLERANCE[kind.unit]
    packed = PackedCurves((channel,))
    its_corners = () if is_driven else corners(channel, 0.0, float(length))
    return fitted_track(lambda frames: values(packed, frames)[0], length, tolerance, its_corners)


def _with_cycles_written(channel: Channel, length: int) -> Channel:
    """The channel with its cycles as keys over the film, exactly; as it is where those would be too many."""
    if channel.is_plain:
        return channel
    try:
        result = channel
        for frame in (float(length), 0.0):
            result = ready_for_key_beyond(result, frame)
        return replace(result, before="hold", after="hold") if _holds_there(result, length) else result
    except RuleError:
        return channel


def _holds_there(channel: Channel, length: int) -> bool:
    """Whether what a channel does outside its keys is never seen in the film."""
    frames = channel.frames
    return (channel.before == "hold" or frames[0] <= 0) and (channel.after == "hold" or frames[-1] >= length)


def key_track(channel: Channel) -> Track:
    """The keys of a plain channel as they are, those outside the film too."""
    frames = channel.frames
    if len(frames) == 1:
        return constant(channel.keys[0].value)
    result: list[Keyframe] = []
    for stretch in stretches(channel, frames[0], frames[-1]):
        result += eased(stretch, _LEVEL)
    return _thinned([*result, Keyframe(frames[-1], channel.keys[-1].value, "hold")])


def _thinned(track: Sequence[Keyframe]) -> Track:
    return constant(track[0].value) if all(keyframe.value == track[0].value for keyframe in track) else tuple(track)


def fitted_track(course: Course, length: int, tolerance: float, its_corners: Collection[float] = ()) -> Track:
    """As few keys as follow a course over the film within a tolerance."""
    first = course(np.arange(length + 1.0))
    if float(np.ptp(first)) <= tolerance / 10:
        return constant(float(first[0]))
    return key_track(Channel(_with_straight_ends(fitted(course, 0.0, float(length), tolerance, its_corners))))


def _with_straight_ends(keys: Iterable[Key]) -> tuple[Key, ...]:
    """Keys of which those that go straight have no handles left, which would count for nothing."""
    return tuple(replace(key, handle_out=None) if key.kind == "straight" else key for key in keys)


def clamped(track: Track, length: int) -> Track:
    """A share of 1 that may ease beyond its ends, kept within them."""
    if is_constant(track):
        return mapped(track, lambda value: min(max(value, 0.0), 1.0))
    packed = PackedCurves((channel_of(track),))
    course = values(packed, np.arange(0.0, length + 0.25, 0.25))[0]
    if course.min() >= 0 and course.max() <= 1:
        return track
    inner = [keyframe.frame for keyframe in track if 0 < keyframe.frame < length]
    return fitted_track(lambda frames: np.clip(values(packed, frames)[0], 0.0, 1.0), length, TOLERANCE[""], inner)


def straight_tracks(course: Floats, tolerance: float) -> list[Track]:
    """Several numbers on each whole frame, shape (frames, numbers), as tracks with the same keys and straight lines
    between, as few as stay within a tolerance.
    """
    frames = straight_stops(course, tolerance)
    rows = course.T.tolist()
    return [_thinned([Keyframe(float(frame), row[frame], "straight") for frame in frames]) for row in rows]


def straight_stops(course: Floats, tolerance: float) -> list[int]:
    """Rows of a course, the first and the last among them, between which straight lines stay within a tolerance."""
    result = [0]
    last = len(course) - 1
    while result[-1] < last:
        at, step = result[-1], 1
        reached = at + 1
        while reached + step <= last and _is_near_line(course[at : reached + step + 1], tolerance):
            reached += step
            step *= 2
        while step:  # ever farther while it is reached, then back by halves
            if reached + step <= last and _is_near_line(course[at : reached + step + 1], tolerance):
                reached += step
            step //= 2
        result.append(reached)
    return result


def _is_near_line(course: Floats, tolerance: float) -> bool:
    share = np.linspace(0.0, 1.0, len(course))[:, None]
    return float(np.abs(course[0] + share * (course[-1] - course[0]) - course).max()) <= tolerance


def product(tracks: Sequence[Track], length: int, tolerance: float) -> Track:
    """Tracks multiplied: exactly where one moves, or all go in steps; fitted where several move."""
    factor = float(np.prod([track[0].value for track in tracks if is_constant(track)]))
    moving = [track for track in tracks if not is_constant(track)]
    if not moving:
        return constant(factor)
    if len(moving) == 1:
        return mapped(moving[0], lambda value: value * factor)
    frames = sorted({keyframe.frame for track in moving for keyframe in track})
    if all(keyframe.easing == "hold" for track in moving for keyframe in track[:-1]):
        held = factor * np.prod([_held(track, frames) for track in moving], axis=0)
        steps = list(zip(frames, held.tolist(), strict=True))
        kept = [steps[0], *(step for before, step in pairwise(steps) if step[1] != before[1])]
        return _thinned([Keyframe(frame, value, "hold") for frame, value in kept])
    packed = PackedCurves(tuple(channel_of(track) for track in moving))
    inner = [frame for frame in frames if 0 < frame < length]
    return fitted_track(lambda at: factor * np.prod(values(packed, at), axis=0), length, tolerance, inner)


def stepped(numbers: npt.NDArray[np.bool_]) -> Track:
    """What is on at some frames and off at others."""
    changes = [0, *(np.flatnonzero(np.diff(numbers)) + 1).tolist()]
    return _thinned([Keyframe(float(frame), float(numbers[frame]), "hold") for frame in changes])


def _held(track: Track, frames: Sequence[float]) -> Floats:
    """The values of a track that goes in steps."""
    places = np.searchsorted([keyframe.frame for keyframe in track], frames, side="right") - 1
    return np.array([keyframe.value for keyframe in track])[np.maximum(places, 0)]


def channel_of(track: Track) -> Channel:
    """A track as a channel, so that it can be evaluated."""
    keys: list[Key] = []
    handle_in: tuple[float, float] | None = None
    for keyframe, after in zip(track, [*track[1:], None], strict=True):
        easing = keyframe.easing
        handle_out, next_in = None, None
        if isinstance(easing, tuple) and after is not None:
            span, rise = after.frame - keyframe.frame, after.value - keyframe.value
            handle_out = (easing[0] * span, easing[1] * rise)
            next_in = ((easing[2] - 1) * span, (easing[3] - 1) * rise)
        kind = "eased" if isinstance(easing, tuple) else easing
        keys.append(Key(keyframe.frame, keyframe.value, kind, handle_in, handle_out))
        handle_in = next_in
    return Channel(tuple(keys))
