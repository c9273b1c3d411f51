"""Keys that follow any course of values within a tolerance, with as few of them as reach it."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import MOST_FOLLOWED
from jointed_crane.core.motion.channel import Key
from jointed_crane.core.motion.segments import Floats

#: Samples to a frame by which a course is followed.
_FINE = 4
#: Two keys this far apart stand for a course that jumps, frames.
_JUMP = 1e-3


def ensure_followable(frames: float) -> None:
    """RuleError where so many frames, of all channels together, are too many to be followed."""
    if not frames <= MOST_FOLLOWED:
        raise RuleError(
            f"Keys are fitted over {MOST_FOLLOWED} frames of all channels together at most, and this would take "
            f"{frames:.0f}. Nothing was changed; take a shorter span, or fewer parts and channels at once."
        )


def fitted(
    course: Callable[[Floats], Floats], first: float, last: float, tolerance: float, corners: Collection[float] = ()
) -> tuple[Key, ...]:
    """Keys from a first to a last frame whose curve lies within a tolerance of a course at every quarter of a frame.

    From each key the next one is set as far away as one cubic still follows. Its handles reach a third of the segment,
    so it is even in time; their values are found by least squares.

    Parameters
    ----------
    course : the value at each of some ascending frames
    corners : frames at which the course has a corner or a jump; a key stands on each, or on the first of some at once
    """
    inner = _apart(corners, first, last)
    spans = pairwise([first, *inner, last])
    grids = [np.linspace(begin, end, max(round((end - begin) * _FINE), 1) + 1) for begin, end in spans]
    sampled = _Sampled.of(course, [*grids, *(_beside(corner, way) for corner in inner for way in (_JUMP, -_JUMP))])
    keys: list[Key] = []
    for number, grid in enumerate(grids):
        begin, end = grid[[0, -1]].tolist()
        after = begin + _JUMP if number > 0 and sampled.jumps(begin, _JUMP, tolerance) else begin
        before = end - _JUMP if number < len(inner) and sampled.jumps(end, -_JUMP, tolerance) else end
        frames = np.concatenate([[after], grid[1:-1], [before]])
        made = _followed(frames, sampled.at(frames), tolerance)
        if after > begin:
            keys[-1] = replace(keys[-1], kind="straight")
        elif keys:
            made[0] = replace(made[0], handle_in=keys.pop().handle_in)
        if before < end:
            made[-1] = replace(made[-1], kind="straight")
            made.append(Key(end, float(sampled.at(grid[-1:])[0])))
        keys += made
    return tuple(keys)


def _apart(corners: Collection[float], first: float, last: float) -> list[float]:
    """Corners between two frames, in order; of those too near to each other for a jump on both sides the first."""
    result = [first]
    for frame in sorted(set(corners)):
        if frame - result[-1] >= 3 * _JUMP and last - frame >= 3 * _JUMP:
            result.append(frame)
    return result[1:]


def stepped(course: Callable[[Floats], Floats], first: float, corners: Collection[float]) -> tuple[Key, ...]:
    """Keys that hold, from a first frame on, wherever a course that goes in steps takes another value."""
    keys: list[Key] = []
    for frame in (first, *sorted(frame for frame in set(corners) if frame > first)):
        for at, value in zip((frame, frame + _JUMP), course(np.array([frame, frame + _JUMP])).tolist(), strict=True):
            if not keys or keys[-1].value != value:
                keys.append(Key(at, value, "hold"))
    return tuple(keys)


def _beside(corner: float, way: float) -> Floats:
    """A corner and frames just beside it on one side, and a little farther on both, ascending or descending."""
    return np.array([corner - 4 * way, corner, corner + way, corner + way + 4 * way])


@dataclass(frozen=True, eq=False)
class _Sampled:
    """A course at all frames that are asked for, found at once: what a constraint does is found for all frames in
    hardly more time than for one.
    """

    frames: Floats
    values: Floats

    @classmethod
    def of(cls, course: Callable[[Floats], Floats], frames: Iterable[Floats]) -> _Sampled:
        """The course at frames, one or more times the same."""
        every = np.unique(np.concatenate(list(frames)))
        return cls(every, course(every))

    def at(self, frames: Floats) -> Floats:
        """The values at some of its frames."""
        return np.asarray(self.values[np.searchsorted(self.frames, frames)])

    def jumps(self, corner: float, way: float, tolerance: float) -> bool:
        """Whether the course goes farther in next to no time, from a corner or to it, than it does in four times that
        time on either side.
        """
        values = self.at(_beside(corner, way))
        leap, *around = np.abs(values[[2, 1, 3]] - values[[1, 0, 2]])
        return bool(leap > tolerance and leap > max(around))


def _followed(frames: Floats, values: Floats, tolerance: float) -> list[Key]:
    keys = [Key(float(frames[0]), float(values[0]))]
    last = len(frames) - 1
    stops = [i for i, frame in enumerate(frames.tolist()) if frame.is_integer() or i == last]
    at = 0
    while at < last:
        reached, handles = _farthest(frames, values, at, stops, tolerance)
        out, back = handles
        third = float(frames[reached] - frames[at]) / 3
        before = keys[-1]
        keys[-1] = Key(before.frame, before.value, "eased", before.handle_in, (third, out - before.value))
        end = float(values[reached])
        keys.append(Key(float(frames[reached]), end, "eased", (-third, back - end)))
        at = reached
    return keys


def _farthest(
    frames: Floats, values: Floats, at: int, stops: list[int], tolerance: float
) -> tuple[int, tuple[float, float]]:
    """The farthest of the stops (whole frames, and the end) that one cubic reaches from a sample, and the cubic's two
    inner control values; the next sample where none is reached.
    """
    begin = bisect_left(stops, at + 2)
    near, far = begin - 1, len(stops)  # near is the last that is reached, begin - 1 stands for the next sample
    reached = at + 1
    result, _ = _cubic(frames, values, at, reached)
    ahead = 1
    while far - near > 1:  # ever farther while it is reached, then between a stop that is reached and one that is not
        middle = min(near + ahead, far - 1) if far == len(stops) else (near + far) // 2
        controls, off = _cubic(frames, values, at, stops[middle])
        if off <= tolerance:
            near, reached, result, ahead = middle, stops[middle], controls, ahead * 2
        else:
            far = middle
    return reached, result


def _cubic(frames: Floats, values: Floats, begin: int, end: int) -> tuple[tuple[float, float], float]:
    """Inner control values of the cubic between two samples that lies nearest to the others, and how far off it is."""
    u = (frames[begin : end + 1] - frames[begin]) / (frames[end] - frames[begin])
    course = values[begin : end + 1]
    rest = (1 - u) ** 3 * course[0] + u**3 * course[-1]
    basis = np.stack([3 * (1 - u) ** 2 * u, 3 * (1 - u) * u**2], axis=-1)
    if end - begin < 3:
        third = (course[-1] - course[0]) / 3
        inner = np.array([course[0] + third, course[-1] - third])
    else:
        inner = np.linalg.lstsq(basis, course - rest, rcond=None)[0]
    off = float(np.abs(rest + basis @ inner - course).max())
    return (float(inner[0]), float(inner[1])), off
