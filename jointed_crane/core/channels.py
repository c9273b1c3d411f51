"""The table of channels: what can be keyed, its neutral value and how motion joins rest."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal, overload

import numpy as np
import numpy.typing as npt

from jointed_crane.core.errors import RuleError
from jointed_crane.core.motion.channel import Channel, Key

Joining = Literal["add", "multiply", "replace"]
Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class ChannelKind:
    """One row of the table.

    `joins` says how a motion value meets the rest value: it is added to it, multiplied with it, or takes its
    place. `stepped` channels hold between keys whatever the kind of the segment (a drawing is never half one).
    """

    name: str
    label: str
    neutral: float
    joins: Joining
    unit: str = ""
    stepped: bool = False


def _three(name: str, label: str, neutral: float, joins: Joining, unit: str) -> list[ChannelKind]:
    return [ChannelKind(f"{name}.{axis}", f"{label} {axis}", neutral, joins, unit) for axis in "xyz"]


CHANNELS: dict[str, ChannelKind] = {
    kind.name: kind
    for kind in (
        *_three("turn", "Turn", 0.0, "add", "deg"),
        *_three("move", "Move", 0.0, "add", "px"),
        *_three("scale", "Scale", 1.0, "multiply", ""),
        *_three("slide", "Slide", 0.0, "add", "px"),
        *_three("spin", "Spin", 0.0, "add", "deg"),
        ChannelKind("shear.xy", "Shear xy", 0.0, "add"),
        ChannelKind("shear.xz", "Shear xz", 0.0, "add"),
        ChannelKind("shear.yz", "Shear yz", 0.0, "add"),
        ChannelKind("opacity", "Opacity", 1.0, "multiply"),
        ChannelKind("drawing", "Drawing", 0.0, "replace", stepped=True),
        ChannelKind("shown", "Shown", 1.0, "replace", stepped=True),
        ChannelKind("order", "Order", 0.0, "add", stepped=True),
    )
}


def channel_kind(name: str) -> ChannelKind:
    """The table's row for a channel name; RuleError where there is none."""
    try:
        return CHANNELS[name]
    except KeyError:
        raise RuleError(f"There is no channel {name!r}. Nothing was changed.") from None


@overload
def joined(kind: ChannelKind, rest: float, motion: float) -> float: ...
@overload
def joined(kind: ChannelKind, rest: Floats, motion: Floats) -> Floats: ...
def joined(kind: ChannelKind, rest: float | Floats, motion: float | Floats) -> float | Floats:
    """The value that counts: rest and motion joined as the channel says (design, section 3)."""
    if kind.joins == "add":
        return rest + motion
    if kind.joins == "multiply":
        return rest * motion
    return motion


def countable(name: str, channel: Channel) -> Channel:
    """The channel as it is evaluated: a sway without keys swings about neutral, stepped channels hold."""
    kind = channel_kind(name)
    if not channel.keys:
        return replace(channel, keys=(Key(0.0, kind.neutral),))
    if kind.stepped and any(key.kind != "hold" for key in channel.keys):
        return replace(channel, keys=tuple(replace(key, kind="hold") for key in channel.keys))
    return channel
