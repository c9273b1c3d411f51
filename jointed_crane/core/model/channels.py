"""Families of channels: what can be keyed, how each is named, its neutral value, what it moves, how motion joins rest.

A family knows its channels by their names; the part before the first dot tells whose a name is. Whoever asks what a
channel is asks its family: nothing is recognised by being none of the others.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, replace
from functools import lru_cache
from typing import Literal, overload

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.limits import LONGEST_ID
from jointed_crane.core.constraints.every import NUMBERS
from jointed_crane.core.model.cameras import LENS
from jointed_crane.core.motion.channel import Channel, Key, Outside

Joining = Literal["add", "multiply", "replace"]
#: What a channel moves: where its part lies, how it looks, its shape, or a number of a constraint or a lever.
Moves = Literal["place", "look", "shape", "number"]
Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class ChannelKind:
    """One channel, as its family says it is.

    Attributes
    ----------
    joins : how a motion value meets the rest value: it is added to it, multiplied with it, or takes its place
    mirror : the axes of the part's own along which a mirror changes the sign of the value
    is_deep : whether a value other than neutral takes the part out of the plane of the stage
    stepped : whether it holds between keys whatever the kind of the segment (a drawing is never half one)
    is_posed, is_posed_deep : whether a pose that is copied holds it, and whether one of a scene in depth does besides
    ends : lowest and highest value that means something once motion has joined rest; None is without end
    family, moves : the name of its family, and what that moves
    """

    name: str
    label: str
    neutral: float
    joins: Joining
    unit: str = ""
    mirror: str = ""
    is_deep: bool = False
    stepped: bool = False
    is_posed: bool = False
    is_posed_deep: bool = False
    ends: tuple[float, float] | None = None
    family: str = ""
    moves: Moves = "place"


@dataclass(frozen=True, eq=False)
class Family:
    """Channels that belong together.

    Attributes
    ----------
    moves : what they move
    kinds : its channels by name, as far as they can be counted
    parsed : what finds the others by their names, which a part has in any number; None for a name that is no such one
    """

    name: str
    moves: Moves
    kinds: Mapping[str, ChannelKind]
    parsed: Callable[[str], ChannelKind | None] = field(default=lambda name: None)

    @property
    def names(self) -> tuple[str, ...]:
        """The names of those that can be counted, in their order."""
        return tuple(self.kinds)

    @property
    def is_everywhere(self) -> bool:
        """Whether every part has these channels: those of its place and of how it looks."""
        return self.moves in ("place", "look")

    def kind(self, name: str) -> ChannelKind | None:
        """The channel of a name; None where the family has none of it."""
        return self.kinds.get(name) or self.parsed(name)


def _family(name: str, moves: Moves, kinds: Iterable[ChannelKind]) -> Family:
    return Family(name, moves, {kind.name: replace(kind, family=name, moves=moves) for kind in kinds})


def _three(
    name: str, neutral: float, joins: Joining, unit: str, mirrors: str, deep: str, posed: str, plain: str = ""
) -> Family:
    """Three axes; an axis in `plain` is the only one in the plane and goes by the family's name. `mirrors` says of each
    the axes along which mirrors change its sign.
    """
    word = name.capitalize()
    return _family(name, "place", (
        ChannelKind(
            f"{name}.{axis}", word if axis in plain else f"{word} {axis}", neutral, joins, unit,
            mirror, axis in deep, is_posed=axis in posed, is_posed_deep=axis not in posed,
        )
        for axis, mirror in zip("xyz", mirrors.split(",") if mirrors else ("", "", ""), strict=True)
    ))  # fmt: skip


#: A mirror along an axis turns the sense of turns about the two others, and the direction of what goes along it. Scales
#: keep their sign: the mirror itself lies in a rest scale of the uppermost mirrored part (`edits.shared.mirroring`).
TURN = _three("turn", 0.0, "add", "deg", mirrors="yz,xz,xy", deep="xy", posed="z", plain="z")
MOVE = _three("move", 0.0, "add", "px", mirrors="x,y,z", deep="z", posed="xy")
SCALE = _three("scale", 1.0, "multiply", "", mirrors="", deep="", posed="xy")
SLIDE = _three("slide", 0.0, "add", "px", mirrors="x,y,z", deep="z", posed="xy")
SPIN = _three("spin", 0.0, "add", "deg", mirrors="yz,xz,xy", deep="xy", posed="z", plain="z")
SHEAR = _family(
    "shear",
    "place",
    (
        ChannelKind("shear.xy", "Shear xy", 0.0, "add", mirror="xy", is_posed=True),
        ChannelKind("shear.xz", "Shear xz", 0.0, "add", mirror="xz", is_deep=True, is_posed_deep=True),
        ChannelKind("shear.yz", "Shear yz", 0.0, "add", mirror="yz", is_deep=True, is_posed_deep=True),
    ),
)
OPACITY = _family(
    "opacity", "look", (ChannelKind("opacity", "Opacity", 1.0, "multiply", is_posed=True, ends=(0.0, 1.0)),)
)
DRAWING = _family("drawing", "look", (ChannelKind("drawing", "Drawing", 0.0, "replace", stepped=True),))
SHOWN = _family("shown", "look", (ChannelKind("shown", "Shown", 1.0, "replace", stepped=True),))
ORDER = _family("order", "look", (ChannelKind("order", "Order", 0.0, "add", stepped=True),))


# What can be keyed of the app's own shapes (`shapes.reshaping`); they rest as drawn.


def _colours(name: str) -> list[ChannelKind]:
    return [
        ChannelKind(f"{name}.{word[0]}", f"{name.capitalize()} {word}", 0.0, "add") for word in ("red", "green", "blue")
    ]


FILL = _family("fill", "shape", _colours("fill"))
STROKE = _family(
    "stroke", "shape", (*_colours("stroke"), ChannelKind("stroke.width", "Stroke width", 0.0, "add", "px"))
)
FORM = _family(
    "form",
    "shape",
    (
        ChannelKind(f"form.{name}", label, 0.0, "add", unit)
        for name, label, unit in (
            *((side, side.capitalize(), "px") for side in ("left", "top", "right", "bottom")),
            ("corner", "Corner radius", "px"),
            ("cx", "Centre x", "px"),
            ("cy", "Centre y", "px"),
            ("rx", "Radius x", "px"),
            ("ry", "Radius y", "px"),
            ("radius", "Radius", "px"),
            ("angle", "Angle", "deg"),
        )
    ),
)
_NODE = re.compile(r"node\.(0|[1-9]\d{0,4})\.(in\.|out\.)?([xy])")
#: What the sides of a node are called: the node itself, and its handles.
NODE_SIDES = {"": "Node", "in.": "Handle in", "out.": "Handle out"}


def node_of(name: str) -> tuple[int, str, str] | None:
    """The node of a pen path that a channel moves, counted over all contours from 0, its side ("", "in." or "out.") and
    the axis; None where it moves none.
    """
    match = _NODE.fullmatch(name)
    return None if match is None else (int(match[1]), match[2] or "", match[3])


@lru_cache(maxsize=4096)
def _node_kind(name: str) -> ChannelKind | None:
    """The channel of a node; people count nodes from 1."""
    result = node_of(name)
    if result is None:
        return None
    number, side, axis = result
    return ChannelKind(name, f"{NODE_SIDES[side]} {number + 1} {axis}", 0.0, "add", "px", family="node", moves="shape")


NODE = Family("node", "shape", {}, _node_kind)

#: The shortest and the longest lens, mm.
SHORTEST_LENS, LONGEST_LENS = 1.0, 5000.0

#: A channel of a number of a constraint: the constraint's id, the number, and for a row of them which one, from 1.
_NUMBER = re.compile(rf"constraint\.(.{{1,{LONGEST_ID}}})\.([a-z]+)(\d{{0,2}})", re.DOTALL)
#: The numbers of constraints by their names. Motion takes the place of the rest value: a share of 0.5 is keyed as 0.5.
NUMBER_KINDS: dict[str, ChannelKind] = {
    number.name: ChannelKind(
        number.name, number.label, number.neutral, "replace", number.unit, number.mirror, ends=number.ends,
        family="constraint", moves="number",
    )
    for number in NUMBERS.values()
}  # fmt: skip


@lru_cache(maxsize=4096)
def _number_kind(name: str) -> ChannelKind | None:
    """The channel of a constraint's number."""
    match = _NUMBER.fullmatch(name)
    kind = NUMBER_KINDS.get(match[2]) if match else None
    if match is None or kind is None or bool(match[3]) != NUMBERS[kind.name].is_row:
        return None
    return replace(kind, name=name, label=f"{kind.label} {match[3]}".rstrip())


CONSTRAINT = Family("constraint", "number", {}, _number_kind)
#: The values of levers; those of pads run across and upwards.
LEVER = _family(
    "lever",
    "number",
    (ChannelKind(name, label, 0.0, "replace") for name, label in (("lever.x", "Value"), ("lever.y", "Value upwards"))),
)

#: What a camera sees through.
CAMERA = _family(
    "lens", "number", (ChannelKind(LENS, "Lens", 50.0, "replace", "mm", ends=(SHORTEST_LENS, LONGEST_LENS)),)
)

#: Every family by its name, which every name of a channel begins with, in the order in which they are listed.
FAMILIES: dict[str, Family] = {
    family.name: family
    for family in (
        TURN, MOVE, SCALE, SLIDE, SPIN, SHEAR, OPACITY, DRAWING, SHOWN, ORDER, FILL, STROKE, FORM, NODE, CONSTRAINT,
        LEVER, CAMERA,
    )
}  # fmt: skip
#: The channels that every part has.
CHANNELS: dict[str, ChannelKind] = {
    name: kind for family in FAMILIES.values() if family.is_everywhere for name, kind in family.kinds.items()
}


@lru_cache(maxsize=8192)
def family_of(name: str) -> Family:
    """The family of a channel by its name; RuleError where there is none of its kind."""
    family = FAMILIES.get(name.partition(".")[0])
    if family is None:
        raise _no_channel(name)
    return family


@lru_cache(maxsize=8192)
def channel_kind(name: str) -> ChannelKind:
    """What a channel is, by its name; RuleError where there is none of it."""
    kind = family_of(name).kind(name)
    if kind is None:
        raise _no_channel(name)
    return kind


def _no_channel(name: str) -> RuleError:
    return RuleError(f"There is no channel {name[:60]!r}. Nothing was changed.")


#: What a number in a row may do outside its keys; straight on is a hold, since its segments are level.
_IN_A_ROW: dict[Outside, Outside] = {
    "hold": "hold",
    "straight on": "hold",
    "repeat": "repeat",
    "back and forth": "back and forth",
}


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
