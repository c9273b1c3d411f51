"""Values of many channels at many frames at once."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import cast

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.motion.bezier import BLOCK, bezier_parameter, first_steps
from jointed_crane.core.motion.channel import Channel, segment_tables
from jointed_crane.core.motion.cycles import folded, swayed
from jointed_crane.core.motion.segments import AV, AX, BV, BX, CV, CX, SPAN, START, V0, Floats

#: Values at so few frames are not held by stretches.
_FEW = 16
#: Samples of so many frames at most stay with a frozen channel, of so many stretches of a film: after an edit nothing
#: but what it changed is solved again.
_MOST_HELD, _STRETCHES = 600, 3
_SAMPLES: Memory[Floats] = Memory(most=_STRETCHES)
#: A channel's value, and the values of packed curves, at the last frame that was asked for.
_VALUE: Memory[float] = Memory()
_VALUES: Memory[Floats] = Memory()


@dataclass(frozen=True)
class PackedCurves:
    """Channels that each have at least one key, with their segment tables one under the other, made when first asked
    for: what a hand changes at one frame is mostly known without them.
    """

    channels: tuple[Channel, ...]

    @cached_property
    def table(self) -> Floats:
        """The columns of the segment tables as rows, shape (9, rows)."""
        fresh = [channel for channel in self.channels if not channel.has_segments]
        made = segment_tables(fresh)
        if len(fresh) == len(self.channels):
            return made.T
        return np.concatenate([channel.segments.T for channel in self.channels], axis=1)

    @cached_property
    def starts(self) -> npt.NDArray[np.intp]:
        """The first row of each channel, shape (channels,)."""
        counts = np.array([len(channel.at_hand) for channel in self.channels], dtype=np.intp)
        return np.cumsum(counts) - counts

    @cached_property
    def cycling(self) -> tuple[int, ...]:
        """The channels that sway, or do not hold their ends outside their keys."""
        return tuple(index for index, channel in enumerate(self.channels) if not channel.is_plain)


def values(curves: PackedCurves, frames: Floats) -> Floats:
    """Every channel's motion value at every frame, sway included.

    Parameters
    ----------
    frames : array, shape (frames,), ascending

    Returns
    -------
    values : array, shape (channels, frames)
    """
    if not curves.channels:
        return np.zeros((0, len(frames)))
    if not _FEW < len(frames) <= _MOST_HELD:
        return _solved(curves, frames)
    stretch = frames.tobytes()
    known: list[Floats | None] = [_SAMPLES.at(channel, stretch) for channel in curves.channels]
    fresh = [index for index, row in enumerate(known) if row is None]
    if fresh:
        missing = curves if len(fresh) == len(known) else PackedCurves(tuple(curves.channels[i] for i in fresh))
        solved = _solved(missing, frames)
        for index, row in zip(fresh, solved, strict=True):
            known[index] = _SAMPLES.put(curves.channels[index], row.copy(), stretch)
        if missing is curves:
            return solved
    return np.concatenate(cast(list[Floats], known)).reshape(len(known), -1)


def _solved(curves: PackedCurves, frames: Floats) -> Floats:
    rows = _rows(curves, frames)
    local = np.broadcast_to(frames, rows.shape)
    extra: list[tuple[int, Floats]] = []
    if curves.cycling:
        local = local.copy()
        for index in curves.cycling:
            channel = curves.channels[index]
            local[index], offset = folded(channel, frames)
            outcome = np.searchsorted(channel.segments[:, START], local[index], side="right") - 1
            rows[index] = curves.starts[index] + np.maximum(outcome, 0)
            extra.append((index, offset if channel.sway is None else offset + swayed(channel.sway, frames)))
    result = _on_segments(curves, rows.ravel(), local.ravel()).reshape(rows.shape)
    for index, offset in extra:
        result[index] += offset
    return result


def values_beside(curves: PackedCurves, others: PackedCurves, frame: float) -> Floats:
    """Every channel's motion value at one frame, shape (channels, 1), where most channels are those of `others`.

    A hand that drags asks for the same frame again and again, and changes channels by a key on it. So the last value
    stays with each frozen channel, a key on the frame is its value, and only what is left is solved.
    """
    held_values(others, frame)
    known = [_known(channel, frame) for channel in curves.channels]
    left = [index for index, value in enumerate(known) if value is None]
    if left:
        unknown = PackedCurves(tuple(curves.channels[index] for index in left))
        for index, value in zip(left, _hand_down(unknown, frame), strict=True):
            known[index] = value
    return np.array(known, dtype=np.float64).reshape(-1, 1)


def held_values(curves: PackedCurves, frame: float) -> Floats:
    """Every channel's motion value at one frame, shape (channels, 1); they stay with the curves and the channels."""
    return _VALUES.of(curves, lambda: np.array(_hand_down(curves, frame), dtype=np.float64).reshape(-1, 1), frame)


def value_at(channel: Channel, frame: float) -> float:
    """The motion value at one frame of a channel that has at least one key."""
    known = _known(channel, frame)
    return _hand_down(PackedCurves((channel,)), frame)[0] if known is None else known


def _known(channel: Channel, frame: float) -> float | None:
    held = _VALUE.at(channel, frame)
    if held is not None:
        return held
    key = None if channel.sway else channel.key_at(frame)
    return None if key is None else key.value


def _hand_down(curves: PackedCurves, frame: float) -> list[float]:
    """Every channel's value at one frame, which stays with the channel."""
    result: list[float] = values(curves, np.array([frame]))[:, 0].tolist()
    for channel, value in zip(curves.channels, result, strict=True):
        _VALUE.put(channel, value, frame)
    return result


def _rows(curves: PackedCurves, frames: Floats) -> npt.NDArray[np.intp]:
    """The table row each channel is on at each frame: its last key at or before the frame.

    Counting where each key falls among the frames, and summing up along them, costs one search a key instead of
    one a frame and channel.
    """
    count, width = len(curves.channels), len(frames)
    falls_on = np.searchsorted(frames, curves.table[START], side="left")
    owner = np.repeat(np.arange(count), np.diff(np.append(curves.starts, curves.table.shape[1])))
    starts_here = np.bincount(owner * (width + 1) + falls_on, minlength=count * (width + 1))
    rows = np.cumsum(starts_here.reshape(count, width + 1)[:, :width], axis=1) - 1
    np.maximum(rows, 0, out=rows)
    rows += curves.starts[:, None]
    return rows


def _on_segments(curves: PackedCurves, rows: npt.NDArray[np.intp], local: Floats) -> Floats:
    """Values of curves at frames, each on the table row given with it."""
    value = np.empty(len(local))
    left = [np.zeros(0, dtype=np.intp)]
    for begin in range(0, len(local), BLOCK):
        block = slice(begin, begin + BLOCK)
        table = curves.table.take(rows[block], axis=1, mode="clip")
        parameter = _share(table, local[block])
        solved = np.flatnonzero((table[AX] != 0) | (table[BX] != 0))
        if len(solved) > len(parameter) / 2:  # the others arrive at once; picking would cost more than they do
            parameter, not_arrived = first_steps(parameter, *table[AX : CX + 1])
            left.append(begin + not_arrived)
        elif len(solved):
            parameter[solved], not_arrived = first_steps(parameter[solved], *table[AX : CX + 1, solved])
            left.append(begin + solved[not_arrived])
        value[block] = _at_parameter(table, parameter)
    slow = np.concatenate(left)
    if len(slow):
        table = curves.table.take(rows[slow], axis=1)
        share = _share(table, local[slow])
        value[slow] = _at_parameter(table, bezier_parameter(share, table[AX], table[BX], table[CX]))
    return value


def _share(table: Floats, frames: Floats) -> Floats:
    """The share of its segment gone by at each frame."""
    share: Floats = frames - table[START]
    share /= table[SPAN]
    share.clip(0.0, 1.0, out=share)
    return share


def _at_parameter(table: Floats, parameter: Floats) -> Floats:
    """The value of each cubic at its parameter."""
    value: Floats = table[AV] * parameter
    for column in (BV, CV):
        value += table[column]
        value *= parameter
    value += table[V0]
    return value
