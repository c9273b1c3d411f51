"""The cubic of each segment between keys, for the keys of many channels at once, as arrays."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import chain, repeat
from operator import attrgetter, is_not, itemgetter
from typing import Any

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
#: A key as a mapping from the names of its fields.
KeyRow = Mapping[str, Any]
Getter = Callable[[Any], Any]

#: Columns of a segment table. x(u) = ((AX u + BX) u + CX) u is the share of the span gone by at the Bezier
#: parameter u, v(u) = ((AV u + BV) u + CV) u + V0 the value there.
START, SPAN, AX, BX, CX, AV, BV, CV, V0 = range(9)

_NAMES = ("frame", "value", "kind", "handle_in", "handle_out")
_OF_ROW: tuple[Getter, ...] = tuple(itemgetter(name) for name in _NAMES)
_OF_KEY: tuple[Getter, ...] = tuple(attrgetter(name) for name in _NAMES)
#: The kinds of segments as numbers.
HOLD, STRAIGHT, EASED = range(3)
_KINDS = {"hold": HOLD, "straight": STRAIGHT, "eased": EASED}


@dataclass(frozen=True)
class Handles:
    """The shaped handles on one side of keys: whose they are, shape (handles,), and their offsets, (handles, 2)."""

    keys: npt.NDArray[np.intp]
    offsets: Floats


@dataclass(frozen=True)
class KeyColumns:
    """The keys of many channels one behind the other, as arrays of shape (keys,); `ends` marks each channel's last."""

    frames: Floats
    values: Floats
    kinds: npt.NDArray[np.int8]
    handles_in: Handles
    handles_out: Handles
    ends: npt.NDArray[np.bool_]

    @property
    def begins(self) -> npt.NDArray[np.bool_]:
        """Each channel's first key."""
        return np.concatenate([[True], self.ends[:-1]])

    @property
    def spans(self) -> Floats:
        """Frames to the next key of the channel; 1 behind its last."""
        return np.where(self.ends, 1.0, np.diff(self.frames, append=0.0))


def key_columns(channels: Sequence[Sequence[Any]]) -> KeyColumns:
    """The keys of channels as arrays, without a step of Python's own a key: scenes of 40,000 keys are opened.

    Each channel's keys are given as they are at hand, as keys or as rows by the names of their fields.
    """
    counts = np.array([len(keys) for keys in channels], dtype=np.intp)
    count = int(counts.sum())
    ends = np.zeros(count, dtype=bool)
    ends[np.cumsum(counts)[counts > 0] - 1] = True
    frames, values, kinds, handles_in, handles_out = (_field(channels, place) for place in range(len(_NAMES)))
    return KeyColumns(
        frames=np.fromiter(frames, np.float64, count),
        values=np.fromiter(values, np.float64, count),
        kinds=np.fromiter(map(_KINDS.__getitem__, kinds), np.int8, count),
        handles_in=_handles(list(handles_in)),
        handles_out=_handles(list(handles_out)),
        ends=ends,
    )


def frames_of(keys: Sequence[Any]) -> tuple[float, ...]:
    """Where the keys of a channel stand, given as keys or as rows."""
    return tuple(_field([keys], 0))


def _field(channels: Sequence[Sequence[Any]], place: int) -> Iterator[Any]:
    of_row, of_key = _OF_ROW[place], _OF_KEY[place]
    return chain.from_iterable(map(of_row if isinstance(keys[0], dict) else of_key, keys) for keys in channels if keys)


def _handles(found: list[tuple[float, float] | None]) -> Handles:
    shaped = np.fromiter(map(is_not, found, repeat(None)), np.bool_, len(found))
    offsets = np.fromiter(chain.from_iterable(filter(None, found)), np.float64)
    return Handles(np.flatnonzero(shaped), offsets.reshape(-1, 2))


def unshaped_slopes(frames: Floats, values: Floats) -> Floats:
    """Slopes at the keys of one channel whose handles nobody shaped, in value per frame, as `_slopes` gives them.

    Parameters
    ----------
    frames, values : arrays, shape (keys,)
    """
    last = np.arange(len(frames)) == len(frames) - 1
    return _slopes(frames, values, last | (np.arange(len(frames)) == 0))


def _slopes(frames: Floats, values: Floats, is_outer: npt.NDArray[np.bool_]) -> Floats:
    """Slopes at keys whose handles nobody shaped, in value per frame, shape (keys,); outer are first and last keys.

    Flat at the first, the last and every extreme key; elsewhere the monotone slope, a harmonic mean of the two
    neighbouring slopes weighted by their spans (Fritsch and Carlson 1980; Fritsch and Butland 1984 for the weights,
    the rule of SciPy's PCHIP), so that nothing overshoots.
    """
    slopes = np.zeros(len(frames))
    if len(slopes) < 3:
        return slopes
    spans = np.diff(frames)
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        rises = np.diff(values) / spans
        before, after = rises[:-1], rises[1:]
        weight_before = 2 * spans[1:] + spans[:-1]
        weight_after = spans[1:] + 2 * spans[:-1]
        mean = (weight_before + weight_after) / (weight_before / before + weight_after / after)
        inner = ~is_outer[1:-1] & (before * after > 0)
    slopes[1:-1] = np.where(inner, mean, 0.0)
    return slopes


def controls(keys: KeyColumns) -> tuple[Floats, Floats]:
    """Handles of the segment that leaves each key as they count: shares of the span, and values.

    An unshaped handle reaches a third of the segment along the unshaped slope. A shaped one is clamped to the
    segment in time (its value is kept), which makes every segment monotone in time. What leaves a channel's last key
    counts for nothing.

    Returns
    -------
    shares, values : arrays, shape (keys, 2)
    """
    frames, values, spans = keys.frames, keys.values, keys.spans
    slopes = _slopes(frames, values, keys.begins | keys.ends) if len(frames) else np.zeros(0)
    following, its_slope = np.append(values[1:], 0.0), np.append(slopes[1:], 0.0)
    shares = np.tile([1 / 3, 2 / 3], (len(frames), 1))
    points = np.stack([values + slopes * spans / 3, following - its_slope * spans / 3], axis=-1)
    out, offsets = keys.handles_out.keys, keys.handles_out.offsets
    shares[out, 0] = np.clip(offsets[:, 0] / spans[out], 0.0, 1.0)
    points[out, 0] = values[out] + offsets[:, 1]
    has_segment = keys.handles_in.keys > 0
    back, offsets = keys.handles_in.keys[has_segment], keys.handles_in.offsets[has_segment]
    shares[back - 1, 1] = np.clip(1.0 + offsets[:, 0] / spans[back - 1], 0.0, 1.0)
    points[back - 1, 1] = values[back] + offsets[:, 1]
    straight = keys.kinds == STRAIGHT
    if straight.any():
        shares[straight] = (1 / 3, 2 / 3)
        rise = (following - values)[straight, None]
        points[straight] = values[straight, None] + rise * np.array([1 / 3, 2 / 3])
    return shares, points


def control_points(keys: Sequence[Any]) -> tuple[Floats, Floats]:
    """Handles of every segment of one channel as they count: shares of the span, and values.

    Returns
    -------
    shares : array, shape (keys - 1, 2), in 0 .. 1
    values : array, shape (keys - 1, 2)
    """
    shares, points = controls(key_columns([keys]))
    return shares[:-1], points[:-1]


def segment_table(keys: KeyColumns) -> Floats:
    """The segment that leaves each key, as polynomials.

    Returns
    -------
    table : array, shape (keys, 9), columns START .. V0; each channel's last row holds its last value
    """
    table = np.zeros((9, len(keys.frames))).T  # column by column, as evaluation takes them
    if not len(table):
        return table
    shares, points = controls(keys)
    moving = (keys.kinds != HOLD) & ~keys.ends
    table[:, START], table[:, V0], table[:, SPAN] = keys.frames, keys.values, keys.spans
    # A third and two thirds make x(u) = u: such a segment needs no solving, so its cubic terms are exactly zero.
    third = (shares == (1 / 3, 2 / 3)).all(axis=1) | ~moving
    x1, x2 = shares[:, 0], shares[:, 1]
    table[:, CX] = np.where(third, 1.0, 3 * x1)
    table[:, BX] = np.where(third, 0.0, 3 * x2 - 6 * x1)
    table[:, AX] = np.where(third, 0.0, 1 + 3 * x1 - 3 * x2)
    v0, v1, v2, v3 = keys.values, points[:, 0], points[:, 1], np.append(keys.values[1:], 0.0)
    table[:, CV] = np.where(moving, 3 * (v1 - v0), 0.0)
    table[:, BV] = np.where(moving, 3 * (v2 - 2 * v1 + v0), 0.0)
    table[:, AV] = np.where(moving, v3 - 3 * v2 + 3 * v1 - v0, 0.0)
    return table
