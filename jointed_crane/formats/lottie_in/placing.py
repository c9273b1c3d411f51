"""The transform of a layer as what places a part: its pivot, its rest values and its channels."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from jointed_crane.core.geometry.decomposition import rotation_shear_scale
from jointed_crane.core.model.scene import Part
from jointed_crane.core.motion.channel import Channel, Key
from jointed_crane.core.motion.curves import PackedCurves, values
from jointed_crane.core.motion.fitting import fitted
from jointed_crane.formats.lottie_in.properties import (
    Clock,
    KeyRead,
    Unreadable,
    along_way,
    channel,
    moments,
)
from jointed_crane.formats.lottie_in.shapes import rotation, skewed

Say = Callable[[str], None]
#: The channels whose motion multiplies their rest.
_SHARES = ("scale.x", "scale.y", "opacity")


def placed(part: Part, transform: Any, clock: Clock, say: Say) -> Part:
    """A part that lies and moves as a layer's transform says; `say` is told what is not understood."""
    if not isinstance(transform, dict):
        raise Unreadable("its transform is missing")
    if any(name in transform for name in ("rx", "ry", "or")):
        say("depth")
    anchor = _moments(transform, "a", (0.0, 0.0))
    if len(anchor) > 1:
        say("anchors that move")
    pivot = anchor[0].values
    if len(pivot) < 2:
        raise Unreadable("its anchor has too few numbers")
    tracks = _places(transform.get("p"), clock)
    turn = _moments(transform, "r" if "r" in transform else "rz", (0.0,))
    skew, axis = _moments(transform, "sk", (0.0,)), _moments(transform, "sa", (0.0,))
    scale = _moments(transform, "s", (100.0, 100.0))
    if any(key.values[0] for key in skew):
        if all(key.values[0] == 0 for key in axis):
            tracks["shear.xy"] = _shear(channel(skew, 0, clock))
        elif len(skew) == len(axis) == len(turn) == len(scale) == 1:
            return _part(part, pivot, tracks, _sheared(turn[0], skew[0], axis[0], scale[0]))
        else:
            say("shear along an axis of its own, of what moves")
    tracks["turn.z"] = channel(turn, 0, clock)
    for dimension, name in enumerate(("scale.x", "scale.y")):
        tracks[name] = channel(scale, dimension, clock, lambda value: value / 100)
    return _part(part, pivot, tracks, {})


def fading(transform: Any, clock: Clock) -> Channel:
    """The opacity of a layer as a channel, 0 to 1."""
    return channel(_moments(transform, "o", (100.0,)), 0, clock, lambda value: value / 100)


def faded(part: Part, opacity: Channel) -> Part:
    """A part that is as clear as a channel says, rest and motion told apart."""
    return _with(part, {"opacity": opacity}, {})


def _part(part: Part, pivot: Sequence[float], tracks: Mapping[str, Channel], rest: dict[str, float]) -> Part:
    return _with(replace(part, pivot=(pivot[0], pivot[1], 0.0)), tracks, rest)


def _with(part: Part, tracks: Mapping[str, Channel], rest: dict[str, float]) -> Part:
    """The part with tracks of values as they count: what stands is its rest, what moves begins at it."""
    channels: dict[str, Channel] = {}
    for name, track in tracks.items():
        first = track.keys[0].value
        is_share = name in _SHARES
        at_rest = (first or 1.0) if is_share else first
        if at_rest != (1.0 if is_share else 0.0):
            rest[name] = at_rest
        if any(key.value != first for key in track.keys) or len(track.keys) > 1 or (is_share and not first):
            channels[name] = _from(track, at_rest, is_share)
    return part.with_rest(rest).with_channels(channels)


def _from(track: Channel, at_rest: float, is_share: bool) -> Channel:
    def moved(value: float) -> float:
        return value / at_rest if is_share else value - at_rest

    def reach(handle: tuple[float, float] | None) -> tuple[float, float] | None:
        return None if handle is None else (handle[0], handle[1] / at_rest if is_share else handle[1])

    return track.with_keys(
        tuple(
            replace(key, value=moved(key.value), handle_in=reach(key.handle_in), handle_out=reach(key.handle_out))
            for key in track.keys
        )
    )


def _moments(transform: Mapping[str, Any], name: str, default: Sequence[float]) -> list[KeyRead]:
    return moments(transform.get(name), default)


def _places(prop: Any, clock: Clock) -> dict[str, Channel]:
    """Where a layer's anchor lies over time."""
    if isinstance(prop, dict) and prop.get("s") is True:
        return {f"move.{axis}": channel(moments(prop.get(axis), (0.0,)), 0, clock) for axis in "xy"}
    keys = moments(prop, (0.0, 0.0))
    if any(key.tangents for key in keys[:-1]):
        return dict(zip(("move.x", "move.y"), along_way(keys, clock), strict=True))
    return {name: channel(keys, dimension, clock) for dimension, name in enumerate(("move.x", "move.y"))}


def _shear(skew: Channel) -> Channel:
    """The shear of an angle; where it moves, with keys that follow it, since angles do not go as shears do."""
    if len(skew.keys) == 1:
        return Channel((Key(0.0, _sheared_by(skew.keys[0].value)),))
    packed = PackedCurves((skew,))
    first, last = skew.frames[0], skew.frames[-1]
    return Channel(fitted(lambda at: np.asarray(_sheared_by(values(packed, at)[0])), first, last, 1e-5, skew.frames))


def _sheared_by(degrees: Any) -> Any:
    return -np.tan(np.deg2rad(degrees))


def _sheared(turn: KeyRead, skew: KeyRead, axis: KeyRead, scale: KeyRead) -> dict[str, float]:
    """Rest values of what turns, shears and scales and stands still."""
    linear = np.eye(3)
    linear[:2, :2] = (
        rotation(turn.values[0])
        @ skewed(skew.values[0], axis.values[0])
        @ np.diag([share / 100 for share in scale.values[:2]])
    )
    signs = np.sign([*scale.values[:2], 1.0])
    turned, shear, sizes = rotation_shear_scale(linear, signs)
    angle = float(np.rad2deg(np.arctan2(turned[1, 0], turned[0, 0])))
    whole = turn.values[0] - angle
    return {
        "turn.z": angle + 360 * round(whole / 360),
        "shear.xy": float(shear[0]),
        "scale.x": float(sizes[0]),
        "scale.y": float(sizes[1]),
    }
