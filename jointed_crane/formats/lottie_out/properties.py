"""Numbers that stand or move, as the format writes them (Lottie 1.0, "Properties")."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

from jointed_crane.formats.moving.keyframes import Easing, Keyframe
from jointed_crane.formats.moving.lottie_words import Json, still

#: A number over time; one keyframe alone stands for all of it.
Track = tuple[Keyframe, ...]


def constant(value: float) -> Track:
    """A number that does not move."""
    return (Keyframe(0.0, float(value), "hold"),)


def mapped(track: Track, change: Callable[[float], float]) -> Track:
    """A track under a change that keeps proportions: eases are shares of the rise, so they stay."""
    return tuple(replace(keyframe, value=change(keyframe.value)) for keyframe in track)


def is_constant(track: Track) -> bool:
    """Whether a number does not move."""
    return len(track) == 1


def is_neutral(track: Track, value: float) -> bool:
    """Whether a number stands at a value."""
    return is_constant(track) and track[0].value == value


def scalar(track: Track) -> Json:
    """A property of one number."""
    if is_constant(track):
        return still(track[0].value)
    return moving([([keyframe.value], keyframe.frame, keyframe.easing) for keyframe in track])


def vector(tracks: Sequence[Track]) -> Json | None:
    """A property of several numbers; None where no one ease goes for all of them."""
    if all(map(is_constant, tracks)):
        return still([track[0].value for track in tracks])
    longest = max(tracks, key=len)
    times = [(keyframe.frame, keyframe.easing) for keyframe in longest]
    for track in tracks:
        if not is_constant(track) and not _are_alike(times, [(keyframe.frame, keyframe.easing) for keyframe in track]):
            return None
    rows = [[track[0 if is_constant(track) else place].value for track in tracks] for place in range(len(longest))]
    return moving([(row, *time) for row, time in zip(rows, times, strict=True)])


def _are_alike(times: Sequence[tuple[float, Easing]], others: Sequence[tuple[float, Easing]]) -> bool:
    return len(times) == len(others) and all(
        frame == other_frame and (easing == other or _are_near(easing, other))
        for (frame, easing), (other_frame, other) in zip(times, others, strict=True)
    )


def _are_near(easing: Easing, other: Easing) -> bool:
    """Whether two eases are the same but for how numbers are kept."""
    if not isinstance(easing, tuple) or not isinstance(other, tuple):
        return False
    return max(abs(a - b) for a, b in zip(easing, other, strict=True)) < 1e-9


def moving(keyframes: Sequence[tuple[Any, float, Easing]]) -> Json:
    """A property that moves: values, lists of numbers or of shapes, frames, and the ease to the next."""
    *earlier, (last, end, _) = keyframes
    return {"a": 1, "k": [*(_keyframe(*keyframe) for keyframe in earlier), {"t": end, "s": last}]}


def _keyframe(value: Any, frame: float, easing: Easing) -> Json:
    if easing == "hold":
        return {"t": frame, "s": value, "h": 1}
    x1, y1, x2, y2 = easing if isinstance(easing, tuple) else (0.0, 0.0, 1.0, 1.0)
    return {"t": frame, "s": value, "o": {"x": [x1], "y": [y1]}, "i": {"x": [x2], "y": [y2]}}
