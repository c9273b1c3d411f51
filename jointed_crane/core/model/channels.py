"""The table of channels: what can be keyed, its neutral value and how motion joins rest."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Literal, overload

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.constraints.every import NUMBERS
from jointed_crane.core.motion.channel import Channel, Key, Outside

Joining = Literal["add", "multiply", "replace"]
Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class ChannelKind:
    """One row of the table.

    Attributes
    ----------
    joins : how a motion value meets the rest value: it is added to it, multiplied with it, or takes its place
    mirror : -1 where the value changes its sign under a mirror along the part's own x
    is_deep : whether a value other than neutral takes the part out of the plane of the stage
    stepped : whether it holds between keys whatever the kind of the segment (a drawing is never half one)
    is_posed : whether a pose that is copied holds it
    ends : lowest and highest value that means something once motion has joined rest; None is without end
    """

    name: str
    label: str
    neutral: float
    joins: Joining
    unit: str = ""
    mirror: int = 1
    is_deep: bool = False
    stepped: bool = False
    is_posed: bool = False
    ends: tuple[float, float] | None = None


def _three(
    name: str, neutral: float, joins: Joining, unit: str, mirrored: str, deep: str, posed: str, plain: str = ""
) -> list[ChannelKind]:
    """Three axes of one family; an axis in `plain` is the only one in the plane and goes by the family's name."""
    word = name.capitalize()
    return [
        ChannelKind(
            f"{name}.{axis}", word if axis in plain else f"{word} {axis}", neutral, joins, unit,
            -1 if axis in mirrored else 1, axis in deep, is_posed=axis in posed,
        )
        for axis in "xyz"
    ]  # fmt: skip


#: A mirror along x turns the sense of turns about y and z, and the direction of what goes along x. Scales keep their
#: sign: the mirror itself lies in the rest scale along x of the uppermost mirrored part (`edits.shared.mirroring`).
CHANNELS: dict[str, ChannelKind] = {
    kind.name: kind
    for kind in (
        *_three("turn", 0.0, "add", "deg", mirrored="yz", deep="xy", posed="z", plain="z"),
        *_three("move", 0.0, "add", "px", mirrored="x", deep="z", posed="xy"),
        *_three("scale", 1.0, "multiply", "", mirrored="", deep="", posed="xy"),
        *_three("slide", 0.0, "add", "px", mirrored="x", deep="z", posed="xy"),
        *_three("spin", 0.0, "add", "deg", mirrored="yz", deep="xy", posed="z", plain="z"),
        ChannelKind("shear.xy", "Shear xy", 0.0, "add", mirror=-1, is_posed=True),
        ChannelKind("shear.xz", "Shear xz", 0.0, "add", mirror=-1, is_deep=True),
        ChannelKind("shear.yz", "Shear yz", 0.0, "add", is_deep=True),
        ChannelKind("opacity", "Opacity", 1.0, "multiply", is_posed=True, ends=(0.0, 1.0)),
        ChannelKind("drawing", "Drawing", 0.0, "replace", stepped=True),
        ChannelKind("shown", "Shown", 1.0, "replace", stepped=True),
        ChannelKind("order", "Order", 0.0, "add", stepped=True),
    )
}


#: What a number in a row may do outside its keys; straight on is a hold, since its segments are level.
_IN_A_ROW: dict[Outside, Outside] = {
    "hold": "hold",
    "straight on": "hold",
    "repeat": "repeat",
    "back and forth": "back and forth",
}


#: What can be keyed of the app's own shapes besides the nodes of pen paths (`shapes.reshaping`); it rests as drawn.
SHAPE_CHANNELS: dict[str, ChannelKind] = {
    name: ChannelKind(name, label, 0.0, "add", unit)
    for name, label, unit in (
        *((f"fill.{word[0]}", f"Fill {word}", "") for word in ("red", "green", "blue")),
        *((f"stroke.{word[0]}", f"Stroke {word}", "") for word in ("red", "green", "blue")),
        ("stroke.width", "Stroke width", "px"),
        *((f"form.{side}", side.capitalize(), "px") for side in ("left", "top", "right", "bottom")),
        ("form.corner", "Corner radius", "px"),
        ("form.cx", "Centre x", "px"),
        ("form.cy", "Centre y", "px"),
        ("form.rx", "Radius x", "px"),
        ("form.ry", "Radius y", "px"),
        ("form.radius", "Radius", "px"),
        ("form.angle", "Angle", "deg"),
    )
}
#: A channel of a node of a pen path: its number over all contours from 0, the handle, and the axis.
NODE_CHANNEL = re.compile(r"node\.(0|[1-9]\d{0,4})\.(in\.|out\.)?([xy])")
_SIDES = {None: "Node", "in.": "Handle in", "out.": "Handle out"}
#: A channel of a number of a constraint: the constraint's id, and the number.
NUMBER_CHANNEL = re.compile(r"constraint\.(.{1,64})\.([a-z]+)(\d{0,2})")
#: The numbers of constraints by their names. Motion takes the place of the rest value: a share of 0.5 is keyed as 0.5.
NUMBER_KINDS: dict[str, ChannelKind] = {
    number.name: ChannelKind(
        number.name, number.label, number.neutral, "replace", number.unit, number.mirror, ends=number.ends
    )
    for number in NUMBERS.values()
}
#: The values of levers; those of pads run across and upwards.
LEVER_KINDS: dict[str, ChannelKind] = {
    name: ChannelKind(name, label, 0.0, "replace")
    for name, label in (("lever.x", "Value"), ("lever.y", "Value upwards"))
}


def channel_kind(name: str) -> ChannelKind:
    """The table's row for a channel name; RuleError where there is none."""
    kind = CHANNELS.get(name) or SHAPE_CHANNELS.get(name) or _node_kind(name) or _number_kind(name)
    if kind is None:
        raise RuleError(f"There is no channel {name!r}. Nothing was changed.")
    return kind


@lru_cache(maxsize=4096)
def _node_kind(name: str) -> ChannelKind | None:
    """The row of a node's channel; people count nodes from 1."""
    match = NODE_CHANNEL.fullmatch(name)
    if match is None:
        return None
    return ChannelKind(name, f"{_SIDES[match[2]]} {int(match[1]) + 1} {match[3]}", 0.0, "add", "px")


def is_number(name: str) -> bool:
    """Whether a channel is a number of a constraint or a lever."""
    return name in LEVER_KINDS or (name.startswith("constraint.") and _number_kind(name) is not None)


@lru_cache(maxsize=4096)
def _number_kind(name: str) -> ChannelKind | None:
    """The row of a lever's value or a constraint's number; goals are counted from 1."""
    if name in LEVER_KINDS:
        return LEVER_KINDS[name]
    match = NUMBER_CHANNEL.fullmatch(name)
    kind = NUMBER_KINDS.get(match[2]) if match else None
    if match is None or kind is None or bool(match[3]) != NUMBERS[kind.name].is_row:
        return None
    return replace(kind, name=name, label=f"{kind.label} {match[3]}".rstrip())


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


def countable(name: str, channel: Channel, rest: float | None = None) -> Channel:
    """The channel as it is evaluated: a sway without keys swings about neutral, stepped channels hold.

    A stepped value that takes the place of another is a number in a row, not an amount: it neither sways nor carries on
    beyond its keys, so it repeats where others repeat onwards. `rest` is what one that takes a place swings about.
    """
    kind = channel_kind(name)
    if kind.joins == "replace" and kind.stepped:
        before, after = (_IN_A_ROW.get(outside, "repeat") for outside in (channel.before, channel.after))
        if (channel.before, channel.after, channel.sway) != (before, after, None):
            channel = replace(channel, before=before, after=after, sway=None)
    if not channel.at_hand:
        about = rest if rest is not None and kind.joins == "replace" else kind.neutral
        return replace(channel, keys=(Key(0.0, about),))
    if kind.stepped and any(key.kind != "hold" for key in channel.keys):
        return replace(channel, keys=tuple(replace(key, kind="hold") for key in channel.keys))
    return channel
