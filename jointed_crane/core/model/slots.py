"""Slots: things of parts that have a name of their own, so that a table fills them and a rig is a template."""

from __future__ import annotations

from typing import Literal, get_args

from jointed_crane.core.model.forms import Text
from jointed_crane.core.model.scene import Part

#: What of a part a slot may be: the words of its texts, the colours of its shapes, the drawing it shows by name, the
#: picture of that, the value of a lever.
Slotted = Literal["words", "fill", "stroke", "drawing", "picture", "value"]
SLOTTED: tuple[Slotted, ...] = get_args(Slotted)


def slots_for(part: Part) -> tuple[Slotted, ...]:
    """What of a part can be a slot, the usual one first."""
    if part.lever is not None:
        return ("value",)
    result: list[Slotted] = []
    if any(isinstance(drawing.shape, Text) for drawing in part.drawings):
        result.append("words")
    if part.drawings:
        result.append("picture")
    if any(drawing.shape is not None for drawing in part.drawings):
        result += ["fill", "stroke"]
    if len(part.drawings) > 1:
        result.append("drawing")
    return tuple(result)
