"""A channel's keys and handles, and the cubic of each segment between them."""

from __future__ import annotations

import math
import operator
from bisect import bisect_left
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from itertools import chain
from typing import Any, ClassVar, Literal

from jointed_crane.core.basics.frozen import Memory, TravelsBare
from jointed_crane.core.motion.segments import Floats, KeyColumns, KeyRow, frames_of, key_columns, segment_table

SegmentKind = Literal["hold", "straight", "eased"]
Outside = Literal["hold", "straight on", "repeat", "back and forth", "repeat onwards"]
Handle = tuple[float, float]
_SEGMENTS: Memory[Floats] = Memory()


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
    """An added oscillation: amount * sin(2 pi (frame / period + phase)); period in frames, phase in turns.

    Attributes
    ----------
    irregularity : 0 swings evenly; towards 1 swings come early and late, and smaller by as much, by the seed
    begin, end : the frames between which it swings; None is without end
    fade_in, fade_out : frames in which it grows from `begin` on, and in which it dies away before `end`
    comes_round : frames after which it is as it was, irregularity included; None never is, but for its period
    """

    amount: float
    period: float
    phase: float = 0.0
    irregularity: float = 0.0
    seed: int = 0
    begin: float | None = None
    end: float | None = None
    fade_in: float = 0.0
    fade_out: float = 0.0
    comes_round: float | None = None

    @property
    def swings_round(self) -> int | None:
        """How many whole swings it comes round in: as many as come nearest to the period."""
        return None if self.comes_round is None else max(1, round(self.comes_round / self.period))

    @property
    def swing(self) -> float:
        """Frames of one swing: the period, or what fills the time in which it comes round."""
        return self.period if self.comes_round is None else self.comes_round / (self.swings_round or 1)

    def shifted(self, by: float) -> Sway:
        """The same oscillation so many frames later."""
        return replace(self, phase=self.phase - by / self.swing).retimed(lambda frame: frame + by)

    def retimed(self, later: Callable[[float], float]) -> Sway:
        """The same oscillation, begun and ended on other frames."""
        begin, end = (None if frame is None else later(frame) for frame in (self.begin, self.end))
        return replace(self, begin=begin, end=end)

    def stretched(self, factor: float) -> Sway:
        """The same oscillation with all its times stretched from frame 0."""
        fade_in, fade_out = self.fade_in * factor, self.fade_out * factor
        comes_round = None if self.comes_round is None else self.comes_round * factor
        slower = replace(self, period=self.period * factor, fade_in=fade_in, fade_out=fade_out, comes_round=comes_round)
        return slower.retimed(lambda frame: frame * factor)


@dataclass(frozen=True)
class Channel(TravelsBare):
    """One number over time, relative to its rest value. Keys are sorted by frame, at most one a frame.

    A channel that was read keeps its keys as they were written until somebody asks for one.
    """

    #: What a channel has beside its fields goes with its keys.
    BESIDE: ClassVar[dict[str, tuple[tuple[str, ...], tuple[str, ...]]]] = dict.fromkeys(
        ("_written", "_put"), (("keys",), ())
    )

    keys: tuple[Key, ...] = field(default_factory=tuple)  # no default at the class: it would hide the keys not made yet
    before: Outside = "hold"
    after: Outside = "hold"
    sway: Sway | None = None

    @classmethod
    def read(cls, rows: list[KeyRow], before: Outside, after: Outside, sway: Sway | None) -> Channel:
        """A channel from rows of our own making: each holds the fields of a key by name, handles as pairs."""
        made = object.__new__(cls)
        object.__setattr__(made, "__dict__", {"before": before, "after": after, "sway": sway, "_written": rows})
        return made

    def __getattr__(self, name: str) -> Any:
        written = self.written if name == "keys" else None
        if written is None:
            raise AttributeError(f"{type(self).__name__!r} object has no attribute {name!r}")
        return vars(self).setdefault("keys", tuple(map(_key_from, written)))

    @property
    def written(self) -> list[KeyRow] | None:
        """The rows of a channel that was read; None for one that was made of keys."""
        written: list[KeyRow] | None = vars(self).get("_written")
        return written

    @property
    def at_hand(self) -> Sequence[Key] | Sequence[KeyRow]:
        """The keys as they are known: as rows, where nobody has asked for keys yet."""
        return vars(self).get("keys") or self.written or ()

    @cached_property
    def columns(self) -> KeyColumns:
        """The keys as arrays."""
        return key_columns([self.at_hand])

    @property
    def has_segments(self) -> bool:
        """Whether its segments are known already."""
        return _SEGMENTS.at(self) is not None

    @property
    def segments(self) -> Floats:
        """The segment that leaves each key, as polynomials.

        Returns
        -------
        table : array, shape (keys, 9), columns START .. V0; the last row holds the last value
        """
        return _SEGMENTS.of(self, lambda: segment_table(self.columns))

    @cached_property
    def is_plain(self) -> bool:
        """Whether the channel holds its first and last values outside its keys and does not sway."""
        return self.before == "hold" and self.after == "hold" and self.sway is None

    @cached_property
    def reach(self) -> float:
        """No value of the curve lies farther from zero, sway included; 0 without keys and sway."""
        keys = max(map(_reach, self._rows()), default=0.0)
        return keys + (abs(self.sway.amount) if self.sway else 0.0)

    def _rows(self) -> Iterable[KeyRow]:
        """The fields of each key, without a key being made."""
        return self.written or map(vars, self.keys)

    @cached_property
    def frames(self) -> tuple[float, ...]:
        """Where the keys stand."""
        return frames_of(self.at_hand)

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
        made = Channel((*self.keys[:at], key, *after), self.before, self.after, self.sway)
        vars(made).update(frames=frames, _put=(self.keys, key))
        return made

    def with_frames(self, later: Mapping[float, float], reach: float = 1.0) -> Channel:
        """The channel with the keys on some frames on others, and their handles that many times as far in time.

        One that lands on another takes its place. It is written anew without a key being made: an edit of all times of
        a scene goes over 200,000.
        """
        rows: dict[float, KeyRow] = {}
        moved: dict[float, KeyRow] = {}
        for row in self._rows():
            frame = row["frame"]
            to = later.get(frame)
            if to is None:
                rows[frame] = row
            elif reach == 1.0:
                moved[to] = {**row, "frame": to}
            else:
                before, after = row["handle_in"], row["handle_out"]
                moved[to] = {
                    **row,
                    "frame": to,
                    "handle_in": before and (before[0] * reach, before[1]),
                    "handle_out": after and (after[0] * reach, after[1]),
                }
        rows.update(moved)
        return Channel.read([rows[frame] for frame in sorted(rows)], self.before, self.after, self.sway)

    def numbers_beside(self, known: Channel) -> Iterable[float]:
        """The numbers of the keys that the channel does not share with a known one: frames, values and handles."""
        if self.written and "keys" not in vars(self):
            return chain.from_iterable(map(_numbers, self.written))
        return chain.from_iterable(_numbers(vars(key)) for key in self.keys_beside(known))

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


def _numbers(row: KeyRow) -> tuple[float, ...]:
    """All numbers of a key."""
    return (row["frame"], row["value"], *(row["handle_in"] or ()), *(row["handle_out"] or ()))


def _reach(row: KeyRow) -> float:
    """How far from zero a key and its handles lie."""
    before, after = row["handle_in"], row["handle_out"]
    return float(abs(row["value"]) + max(abs(before[1]) if before else 0.0, abs(after[1]) if after else 0.0))


def _key_from(row: KeyRow) -> Key:
    before, after = row["handle_in"], row["handle_out"]
    return Key(
        float(row["frame"]),
        float(row["value"]),
        row["kind"],
        None if before is None else (float(before[0]), float(before[1])),
        None if after is None else (float(after[0]), float(after[1])),
    )


#: A channel that nothing has touched yet.
BARE = Channel()


def segment_tables(channels: Sequence[Channel]) -> Floats:
    """The segment tables of many channels one under the other, made together; each stays with its channel."""
    keys = [channel.at_hand for channel in channels]
    table = segment_table(key_columns(keys))
    begin = 0
    for channel, its_keys in zip(channels, keys, strict=True):
        _SEGMENTS.put(channel, table[begin : begin + len(its_keys)])
        begin += len(its_keys)
    return table
