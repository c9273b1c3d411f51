"""Numbers of a file that stand or move, as channels (Lottie 1.0, "Properties"; older files too)."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from itertools import pairwise
from typing import Any

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.limits import MOST_FOLLOWED
from jointed_crane.core.geometry.arc_length import Way, pieces_of
from jointed_crane.core.motion.channel import Channel, Handle, Key
from jointed_crane.core.motion.curves import PackedCurves, values
from jointed_crane.core.motion.fitting import fitted

Floats = npt.NDArray[np.float64]
Change = Callable[[float], float]
#: Two keys nearer to each other than this stand on one frame, of which the later counts.
_AT_ONCE = 1e-6
#: How far keys may lie from a curved way, px.
_NEAR_WAY = 0.005


class Unreadable(ValueError):
    """Something in a file that is not as files have it; says what."""


@dataclass(frozen=True)
class Clock:
    """From the time of a composition to frames of the scene: they pass so many times as slowly, and begin later."""

    stretch: float = 1.0
    start: float = 0.0

    def frame(self, time: float) -> float:
        """The frame of a time."""
        return self.start + self.stretch * time

    def inside(self, stretch: float, start: float) -> Clock:
        """The clock of a composition that is shown from a time on, so many times as slowly."""
        return Clock(self.stretch * stretch, self.frame(start))


@dataclass(frozen=True)
class KeyRead:
    """A key of a property: its values, how it is left and how the next is reached, as shares of time and of rise by
    dimension, and where a place goes by the way, its tangents.
    """

    time: float
    values: tuple[float, ...]
    is_hold: bool = False
    leaving: tuple[tuple[float, float], ...] = ((0.0, 0.0),)
    arriving: tuple[tuple[float, float], ...] = ((1.0, 1.0),)
    tangents: tuple[tuple[float, ...], tuple[float, ...]] | None = None


def number(value: Any) -> float:
    """A number; Unreadable where it is none."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise Unreadable("a number is missing")
    return float(value)


def numbers(value: Any) -> tuple[float, ...]:
    """A number, or a list of them."""
    return tuple(map(number, value)) if isinstance(value, list) else (number(value),)


def is_moving(prop: Any) -> bool:
    """Whether a property has keys."""
    keys = prop.get("k") if isinstance(prop, dict) else None
    return isinstance(keys, list) and bool(keys) and isinstance(keys[0], dict) and "t" in keys[0]


def moments(prop: Any, default: Sequence[float]) -> list[KeyRead]:
    """The keys of a property, ascending; one alone where it stands, or is not said."""
    if prop is None:
        return [KeyRead(0.0, tuple(default))]
    if not isinstance(prop, dict):
        return [KeyRead(0.0, numbers(prop))]
    if "k" not in prop:
        raise Unreadable("a value is missing")
    if not is_moving(prop):
        return [KeyRead(0.0, numbers(prop["k"]))]
    return _ascending(prop["k"], numbers)


def _ascending(keys: list[Any], read: Callable[[Any], Any]) -> list[KeyRead]:
    result: list[KeyRead] = []
    end: Any = None
    for key in keys:
        if not isinstance(key, dict):
            raise Unreadable("a key is missing")
        value = key.get("s", end)
        if value is None:
            raise Unreadable("a key has no value")
        time = number(key.get("t"))
        if result and time - result[-1].time < _AT_ONCE:
            result.pop()
        if result and time < result[-1].time:
            raise Unreadable("its keys are not in order")
        end = key.get("e")
        result.append(
            KeyRead(
                time, read(value), bool(key.get("h")), _eases(key.get("o"), 0.0), _eases(key.get("i"), 1.0),
                _tangents(key),
            )
        )  # fmt: skip
    return result


def _eases(handle: Any, otherwise: float) -> tuple[tuple[float, float], ...]:
    """A handle by dimension; that of a straight line where none is said."""
    if not isinstance(handle, dict):
        return ((otherwise, otherwise),)
    xs, ys = numbers(handle.get("x")), numbers(handle.get("y"))
    return tuple((min(max(x, 0.0), 1.0), y) for x, y in zip(xs, ys, strict=False)) or ((otherwise, otherwise),)


def _tangents(key: dict[str, Any]) -> tuple[tuple[float, ...], tuple[float, ...]] | None:
    if not isinstance(key.get("to"), list) or not isinstance(key.get("ti"), list):
        return None
    result = (numbers(key["to"])[:2], numbers(key["ti"])[:2])
    return result if len(result[0]) == len(result[1]) == 2 and any(map(any, result)) else None


def value_at(keys: Sequence[KeyRead], time: float) -> tuple[float, ...]:
    """The values of the key at a time or before it; those of the first one earlier."""
    before = [key for key in keys if key.time <= time]
    return (before or keys)[-1 if before else 0].values


def channel(keys: Sequence[KeyRead], dimension: int, clock: Clock, change: Change = float) -> Channel:
    """One dimension as a channel; `change` keeps proportions, so that handles go with it."""
    made: list[Key] = []
    handle_in: Handle | None = None
    levels = [change(_at(key.values, dimension)) for key in keys]
    frames = [clock.frame(key.time) for key in keys]
    for place, key in enumerate(keys):
        frame, level = frames[place], levels[place]
        if place == len(keys) - 1:
            made.append(Key(frame, level, "eased", handle_in))
            break
        span, rise = frames[place + 1] - frame, levels[place + 1] - level
        (x1, y1), (x2, y2) = _of(key.leaving, dimension), _of(key.arriving, dimension)
        if key.is_hold:
            made.append(Key(frame, level, "hold", handle_in))
            handle_in = None
        elif x1 == y1 and x2 == y2:
            made.append(Key(frame, level, "straight", handle_in))
            handle_in = None
        else:
            made.append(Key(frame, level, "eased", handle_in, (x1 * span, y1 * rise)))
            handle_in = ((x2 - 1) * span, (y2 - 1) * rise)
    return Channel(tuple(made))


def _of(eases: tuple[tuple[float, float], ...], dimension: int) -> tuple[float, float]:
    return eases[min(dimension, len(eases) - 1)]


def _at(values: tuple[float, ...], dimension: int) -> float:
    if dimension >= len(values):
        raise Unreadable("a value has too few numbers")
    return values[dimension]


def along_way(keys: Sequence[KeyRead], clock: Clock) -> list[Channel]:
    """A place that goes by a curved way as channels of x and y, with as few keys as follow it: from key to key it goes
    the share of the length that the ease says. Unreadable where that takes more frames than keys are fitted over.
    """
    if 2 * (clock.frame(keys[-1].time) - clock.frame(keys[0].time)) > MOST_FOLLOWED:
        raise Unreadable("its curved way takes too many frames")
    result: list[list[Key]] = [[], []]
    for key, after in pairwise(keys):
        begin, end = clock.frame(key.time), clock.frame(after.time)
        ease = channel([KeyRead(0.0, (0.0,), key.is_hold, key.leaving, key.arriving), KeyRead(1.0, (1.0,))], 0, Clock())
        out, back = key.tangents or ((0.0, 0.0), (0.0, 0.0))
        start, goal = np.array(key.values[:2]), np.array(after.values[:2])
        controls = np.array([[start, start + out, goal + back, goal]])
        course = partial(_gone, Way(controls[None], pieces_of(controls)), PackedCurves((ease,)), begin, end)
        for axis, made in enumerate(result):
            more = fitted(partial(course, axis), begin, end, _NEAR_WAY)
            made += [replace(more[0], handle_in=made.pop().handle_in), *more[1:]] if made else more
    return [Channel(tuple(keys)) for keys in result]


def _gone(way: Way, ease: PackedCurves, begin: float, end: float, axis: int, frames: Floats) -> Floats:
    """Where on a way one is at frames, x or y."""
    share = np.clip(values(ease, (frames - begin) / (end - begin))[0], 0.0, 1.0)
    points, _ = way.at(share[:, None] * way.length)
    return np.asarray(points[:, 0, axis])
