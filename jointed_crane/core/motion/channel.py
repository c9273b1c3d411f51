"""A channel's keys and handles, and the cubic of each segment between them."""

from __future__ import annotations

import math
import operator
from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np
import numpy.typing as npt

from jointed_crane.core.frozen import changed

Floats = npt.NDArray[np.float64]
SegmentKind = Literal["hold", "straight", "eased"]
Outside = Literal["hold", "straight on", "repeat", "back and forth", "repeat onwards"]
Handle = tuple[float, float]

#: Columns of a segment table. x(u) = ((AX u + BX) u + CX) u is the share of the span gone by at the Bezier
#: parameter u, v(u) = ((AV u + BV) u + CV) u + V0 the value there.
START, SPAN, AX, BX, CX, AV, BV, CV, V0 = range(9)


_NONE = (0.0, 0.0)


@dataclass(frozen=True)
class Key:
    """A channel's value at a frame.

    `kind` is the kind of the segment that leaves the key. Handles are (frames, value) offsets from the key; None is
    a handle that nobody shaped. Keys may lie between frames.
    """

    frame: float
    value: float
    kind: SegmentKind = "eased"
    handle_in: Handle | None = None
    handle_out: Handle | None = None

    @property
    def reach(self) -> float:
        """How far from zero the key and its handles lie."""
        return abs(self.value) + max(abs((self.handle_in or _NONE)[1]), abs((self.handle_out or _NONE)[1]))


@dataclass(frozen=True)
class Sway:
    """An added oscillation: amount * sin(2 pi (frame / period + phase)); period in frames, phase in turns."""

    amount: float
    period: float
    phase: float = 0.0


@dataclass(frozen=True)
class Channel:
    """One number over time, relative to its rest value. Keys are sorted by frame, at most one a frame."""

    keys: tuple[Key, ...] = ()
    before: Outside = "hold"
    after: Outside = "hold"
    sway: Sway | None = None

    @cached_property
    def segments(self) -> Floats:
        """The segment that leaves each key, as polynomials.

        Returns
        -------
        table : array, shape (keys, 9), columns START .. V0; the last row holds the last value
        """
        (table,) = segment_tables([self])
        return table

    @cached_property
    def is_plain(self) -> bool:
        """Whether the channel holds its first and last values outside its keys and does not sway."""
        return self.before == "hold" and self.after == "hold" and self.sway is None

    @cached_property
    def reach(self) -> float:
        """No value of the curve lies farther from zero, sway included; 0 without keys and sway."""
        return max((key.reach for key in self.keys), default=0.0) + (abs(self.sway.amount) if self.sway else 0.0)

    @cached_property
    def frames(self) -> tuple[float, ...]:
        """Where the keys stand."""
        return tuple(key.frame for key in self.keys)

    def key_at(self, frame: float) -> Key | None:
        """The key on exactly this frame, if there is one."""
        at = self.place_of(frame)
        return self.keys[at] if at < len(self.frames) and self.frames[at] == frame else None

    def place_of(self, frame: float) -> int:
        """How many keys stand before a frame."""
        return bisect_left(self.frames, frame)

    def has_same_ends(self, other: Channel) -> bool:
        """Whether another channel goes on alike outside its keys, and sways alike."""
        return self.before == other.before and self.after == other.after and self.sway == other.sway

    def with_key_put(self, key: Key, at: int, is_standing: bool) -> Channel:
        """The channel with a key put in at a place among its keys, or put for the one that is standing there; it
        remembers that it differs by that key alone.
        """
        after = self.keys[at + is_standing :]
        frames = self.frames if is_standing else (*self.frames[:at], key.frame, *self.frames[at:])
        return changed(self, keys=(*self.keys[:at], key, *after), frames=frames, _put=(self.keys, key))

    def keys_beside(self, known: Channel) -> list[Key]:
        """The keys that the channel does not share with a known one."""
        if self._is_put_into(known):
            return [vars(self)["_put"][1]]
        shared = known._identities
        return [key for key in self.keys if id(key) not in shared]

    def frames_gone(self, known: Channel) -> list[float]:
        """Frames on which a known channel has keys and this one has none."""
        return [] if self._is_put_into(known) else sorted(set(known.frames).difference(self.frames))

    def closest_beside(self, known: Channel) -> float:
        """The smallest distance between neighbours of which the known channel does not hold both, frames."""
        frames = self.frames
        if frames is known.frames:
            return math.inf
        if self._is_put_into(known):
            at = self.place_of(vars(self)["_put"][1].frame)
            frames = frames[max(at - 1, 0) : at + 2]
        return min(map(operator.sub, frames[1:], frames), default=math.inf)

    def _is_put_into(self, known: Channel) -> bool:
        put = vars(self).get("_put")
        return put is not None and put[0] is known.keys

    @cached_property
    def _identities(self) -> frozenset[int]:
        """What tells the keys apart from all others while the channel holds them."""
        return frozenset(map(id, self.keys))

    def gap_at(self, frame: float) -> float:
        """The distance from a frame to the nearest key beside it; infinite where a key stands on it."""
        frames, at = self.frames, self.place_of(frame)
        after = frames[at] - frame if at < len(frames) else math.inf
        return math.inf if after == 0.0 else min(after, frame - frames[at - 1] if at else math.inf)

    def with_keys(self, keys: tuple[Key, ...]) -> Channel:
        """The same channel with other keys; of two on one frame the later in the tuple stays."""
        by_frame = {key.frame: key for key in keys}
        return replace(self, keys=tuple(by_frame[frame] for frame in sorted(by_frame)))


#: A channel that nothing has touched yet.
BARE = Channel()


@dataclass(frozen=True)
class _Keys:
    """The keys of many channels one behind the other, as arrays of shape (keys,); `ends` marks each channel's last."""

    frames: Floats
    values: Floats
    ends: npt.NDArray[np.bool_]

    @property
    def begins(self) -> npt.NDArray[np.bool_]:
        """Each channel's first key."""
        return np.concatenate([[True], self.ends[:-1]])


def unshaped_slopes(frames: Floats, values: Floats) -> Floats:
    """Slopes at the keys of one channel whose handles nobody shaped, in value per frame, as `_slopes` gives them.

    Parameters
    ----------
    frames, values : arrays, shape (keys,)
    """
    return _slopes(_Keys(frames, values, np.arange(len(frames)) == len(frames) - 1))


def _slopes(keys: _Keys) -> Floats:
    """Slopes at keys whose handles nobody shaped, in value per frame, shape (keys,).

    Flat at the first, the last and every extreme key; elsewhere the monotone slope, a harmonic mean of the two
    neighbouring slopes weighted by their spans (Fritsch and Carlson 1980; Fritsch and Butland 1984 for the weights,
    the rule of SciPy's PCHIP), so that nothing overshoots.
    """
    slopes = np.zeros(len(keys.frames))
    if len(slopes) < 3:
        return slopes
    spans = np.diff(keys.frames)
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        rises = np.diff(keys.values) / spans
        before, after = rises[:-1], rises[1:]
        weight_before = 2 * spans[1:] + spans[:-1]
        weight_after = spans[1:] + 2 * spans[:-1]
        mean = (weight_before + weight_after) / (weight_before / before + weight_after / after)
        inner = ~(keys.begins | keys.ends)[1:-1] & (before * after > 0)
    slopes[1:-1] = np.where(inner, mean, 0.0)
    return slopes


def control_points(keys: tuple[Key, ...]) -> tuple[Floats, Floats]:
    """Handles of every segment of one channel as they count: shares of the span, and values.

    An unshaped handle reaches a third of the segment along the unshaped slope. A shaped one is clamped to the
    segment in time (its value is kept), which makes every segment monotone in time.

    Returns
    -------
    shares : array, shape (keys - 1, 2), in 0 .. 1
    values : array, shape (keys - 1, 2)
    """
    shares, points = _controls(keys, _keys_of([Channel(keys)]))
    return shares[:-1], points[:-1]


def _keys_of(channels: Sequence[Channel]) -> _Keys:
    counts = np.array([len(channel.keys) for channel in channels], dtype=np.intp)
    ends = np.zeros(int(counts.sum()), dtype=bool)
    ends[np.cumsum(counts)[counts > 0] - 1] = True
    pairs = np.array([(key.frame, key.value) for channel in channels for key in channel.keys]).reshape(-1, 2)
    return _Keys(pairs[:, 0], pairs[:, 1], ends)


def _controls(keys: Sequence[Key], packed: _Keys) -> tuple[Floats, Floats]:
    """Handles of the segment that leaves each key; what leaves a channel's last key counts for nothing.

    Returns
    -------
    shares, values : arrays, shape (keys, 2)
    """
    frames, values = packed.frames, packed.values
    slopes = _slopes(packed)
    spans = np.where(packed.ends, 1.0, np.diff(frames, append=0.0))
    following, its_slope = np.append(values[1:], 0.0), np.append(slopes[1:], 0.0)
    shares = np.tile([1 / 3, 2 / 3], (len(frames), 1))
    points = np.stack([values + slopes * spans / 3, following - its_slope * spans / 3], axis=-1)
    out = np.array([index for index, key in enumerate(keys) if key.handle_out is not None], dtype=np.intp)
    if len(out):
        handles = np.array([keys[index].handle_out for index in out])
        shares[out, 0] = np.clip(handles[:, 0] / spans[out], 0.0, 1.0)
        points[out, 0] = values[out] + handles[:, 1]
    back = np.array([i for i, key in enumerate(keys) if key.handle_in is not None and i > 0], dtype=np.intp)
    if len(back):
        handles = np.array([keys[index].handle_in for index in back])
        shares[back - 1, 1] = np.clip(1.0 + handles[:, 0] / spans[back - 1], 0.0, 1.0)
        points[back - 1, 1] = values[back] + handles[:, 1]
    straight = np.array([key.kind == "straight" for key in keys], dtype=bool)
    if straight.any():
        shares[straight] = (1 / 3, 2 / 3)
        rise = (following - values)[straight, None]
        points[straight] = values[straight, None] + rise * np.array([1 / 3, 2 / 3])
    return shares, points


def segment_tables(channels: Sequence[Channel]) -> list[Floats]:
    """The segment tables of many channels, made together: no work is done a key but looking at it."""
    if not channels:
        return []
    keys = [key for channel in channels for key in channel.keys]
    table = np.zeros((len(keys), 9))
    if keys:
        packed = _keys_of(channels)
        shares, points = _controls(keys, packed)
        moving = np.array([key.kind != "hold" for key in keys], dtype=bool) & ~packed.ends
        table[:, START], table[:, V0] = packed.frames, packed.values
        table[:, SPAN] = np.where(packed.ends, 1.0, np.diff(packed.frames, append=0.0))
        # A third and two thirds make x(u) = u: such a segment needs no solving, so its cubic terms are exactly zero.
        third = (shares == (1 / 3, 2 / 3)).all(axis=1) | ~moving
        x1, x2 = shares[:, 0], shares[:, 1]
        table[:, CX] = np.where(third, 1.0, 3 * x1)
        table[:, BX] = np.where(third, 0.0, 3 * x2 - 6 * x1)
        table[:, AX] = np.where(third, 0.0, 1 + 3 * x1 - 3 * x2)
        v0, v1, v2, v3 = packed.values, points[:, 0], points[:, 1], np.append(packed.values[1:], 0.0)
        table[:, CV] = np.where(moving, 3 * (v1 - v0), 0.0)
        table[:, BV] = np.where(moving, 3 * (v2 - 2 * v1 + v0), 0.0)
        table[:, AV] = np.where(moving, v3 - 3 * v2 + 3 * v1 - v0, 0.0)
    edges = np.cumsum([len(channel.keys) for channel in channels])[:-1]
    return np.split(table, edges)
