"""A channel's keys and handles, and the cubic of each segment between them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
SegmentKind = Literal["hold", "straight", "eased"]
Outside = Literal["hold", "straight on", "repeat", "back and forth", "repeat onwards"]
Handle = tuple[float, float]

#: Columns of a segment table. x(u) = ((AX u + BX) u + CX) u is the share of the span gone by at the Bezier
#: parameter u, v(u) = ((AV u + BV) u + CV) u + V0 the value there.
START, SPAN, AX, BX, CX, AV, BV, CV, V0 = range(9)


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
        return _segment_table(self.keys)

    @cached_property
    def is_plain(self) -> bool:
        """Whether the channel holds its first and last values outside its keys and does not sway."""
        return self.before == "hold" and self.after == "hold" and self.sway is None

    def key_at(self, frame: float) -> Key | None:
        """The key on exactly this frame, if there is one."""
        return next((key for key in self.keys if key.frame == frame), None)

    def with_keys(self, keys: tuple[Key, ...]) -> Channel:
        """The same channel with other keys; of two on one frame the later in the tuple stays."""
        by_frame = {key.frame: key for key in keys}
        return replace(self, keys=tuple(by_frame[frame] for frame in sorted(by_frame)))


def unshaped_slopes(frames: Floats, values: Floats) -> Floats:
    """Slopes at keys whose handles nobody shaped, in value per frame.

    Flat at the first, the last and every extreme key; elsewhere the monotone slope, a harmonic mean of the two
    neighbouring slopes weighted by their spans (Fritsch and Carlson 1980; Fritsch and Butland 1984 for the weights,
    the rule of SciPy's PCHIP), so that nothing overshoots.

    Parameters
    ----------
    frames, values : arrays, shape (keys,)
    """
    slopes = np.zeros(len(frames))
    if len(frames) < 3:
        return slopes
    spans = np.diff(frames)
    rises = np.diff(values) / spans
    before, after = rises[:-1], rises[1:]
    same_way = before * after > 0
    weight_before = 2 * spans[1:] + spans[:-1]
    weight_after = spans[1:] + 2 * spans[:-1]
    with np.errstate(divide="ignore", invalid="ignore"):
        mean = (weight_before + weight_after) / (weight_before / before + weight_after / after)
    slopes[1:-1] = np.where(same_way, mean, 0.0)
    return slopes


def control_points(keys: tuple[Key, ...]) -> tuple[Floats, Floats]:
    """Handles of every segment as they count: shares of the span, and values.

    An unshaped handle reaches a third of the segment along the unshaped slope. A shaped one is clamped to the
    segment in time (its value is kept), which makes every segment monotone in time.

    Returns
    -------
    shares : array, shape (keys - 1, 2), in 0 .. 1
    values : array, shape (keys - 1, 2)
    """
    frames = np.array([key.frame for key in keys])
    values = np.array([key.value for key in keys])
    slopes = unshaped_slopes(frames, values)
    spans = np.diff(frames)
    shares = np.tile([1 / 3, 2 / 3], (len(spans), 1))
    points = np.stack([values[:-1] + slopes[:-1] * spans / 3, values[1:] - slopes[1:] * spans / 3], axis=-1)
    for index, (left, right) in enumerate(zip(keys, keys[1:], strict=False)):
        if left.kind == "straight":
            points[index] = values[index] + (values[index + 1] - values[index]) * np.array([1 / 3, 2 / 3])
            continue
        if left.handle_out is not None:
            shares[index, 0] = min(max(left.handle_out[0] / spans[index], 0.0), 1.0)
            points[index, 0] = left.value + left.handle_out[1]
        if right.handle_in is not None:
            shares[index, 1] = min(max(1.0 + right.handle_in[0] / spans[index], 0.0), 1.0)
            points[index, 1] = right.value + right.handle_in[1]
    return shares, points


def _segment_table(keys: tuple[Key, ...]) -> Floats:
    count = len(keys)
    table = np.zeros((count, 9))
    table[:, START] = [key.frame for key in keys]
    table[:, V0] = [key.value for key in keys]
    table[:, SPAN] = 1.0
    table[:, CX] = 1.0
    if count < 2:
        return table
    shares, points = control_points(keys)
    moving = np.array([key.kind != "hold" for key in keys[:-1]])
    table[:-1, SPAN] = np.diff(table[:, START])
    # A third and two thirds make x(u) = u: such a segment needs no solving, so its cubic terms are exactly zero.
    third = (shares == (1 / 3, 2 / 3)).all(axis=1) | ~moving
    x1, x2 = shares[:, 0], shares[:, 1]
    table[:-1, CX] = np.where(third, 1.0, 3 * x1)
    table[:-1, BX] = np.where(third, 0.0, 3 * x2 - 6 * x1)
    table[:-1, AX] = np.where(third, 0.0, 1 + 3 * x1 - 3 * x2)
    v0, v1, v2, v3 = table[:-1, V0], points[:, 0], points[:, 1], table[1:, V0]
    table[:-1, CV] = np.where(moving, 3 * (v1 - v0), 0.0)
    table[:-1, BV] = np.where(moving, 3 * (v2 - 2 * v1 + v0), 0.0)
    table[:-1, AV] = np.where(moving, v3 - 3 * v2 + 3 * v1 - v0, 0.0)
    return table
