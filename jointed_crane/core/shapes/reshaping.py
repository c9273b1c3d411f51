"""Shapes that move: their numbers by channel, and a shape with some of them changed.

A channel of a shape holds how far a number of the shape is from what the drawing says, so its rest is the shape itself.
Colours are three numbers from 0 to 255 each. They mix as CSS Color 4 mixes colours written in hexadecimal: straight in
gamma-encoded sRGB, the default for legacy colours (from memory).
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from types import MappingProxyType
from typing import Any, cast

import numpy as np

from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.basics.limits import LARGEST
from jointed_crane.core.model.channels import countable, family_of, node_of
from jointed_crane.core.model.forms import Contour, Node, Paint, PenPath, Polygon, Shape, Text
from jointed_crane.core.model.scene import Part
from jointed_crane.core.motion.channel import BARE
from jointed_crane.core.motion.curves import PackedCurves, values

#: By form and name of the number: the field of the shape, and the place in it where it is a row of numbers.
FORM_NUMBERS: dict[str, dict[str, tuple[str, int | None]]] = {
    "rectangle": {
        **{f"form.{name}": ("box", place) for place, name in enumerate(("left", "top", "right", "bottom"))},
        "form.corner": ("corner", None),
    },
    "ellipse": {
        "form.cx": ("centre", 0), "form.cy": ("centre", 1), "form.rx": ("radii", 0), "form.ry": ("radii", 1),
    },
    "polygon": {
        "form.cx": ("centre", 0), "form.cy": ("centre", 1),
        "form.radius": ("radius", None), "form.angle": ("angle", None),
    },
    "path": {},
    "text": {},
}  # fmt: skip
_SIDES = {"": "point", "in.": "handle_in", "out.": "handle_out"}
#: A shape that shrinks keeps so much of its size, px.
_SMALLEST = 1e-3
_LEAST = {"form.corner": 0.0, "form.rx": _SMALLEST, "form.ry": _SMALLEST, "form.radius": _SMALLEST}


#: The channels of a part that move its shape, and the numbers of a shape.
_CHANNELS: Memory[tuple[str, ...]] = Memory("channels", "links")
_NUMBERS: Memory[Mapping[str, float]] = Memory()


def shape_channels(part: Part) -> tuple[str, ...]:
    """The channels of a part that move its shape."""

    def compute() -> tuple[str, ...]:
        names = dict.fromkeys((*part.channels, *(link.onto for link in part.links)))
        return tuple(name for name in names if family_of(name).moves == "shape")

    return _CHANNELS.of(part, compute)


def numbers_of_shape(shape: Shape) -> Mapping[str, float]:
    """Every number of a shape that can move, by channel. A straight side has handles of no length."""
    return _NUMBERS.of(shape, lambda: _numbers_of(shape))


def is_alike(one: Shape, other: Shape) -> bool:
    """Whether two shapes differ in numbers that move alone."""
    if one.form != other.form or numbers_of_shape(one).keys() != numbers_of_shape(other).keys():
        return False
    if isinstance(one, Text):
        return replace(one, paint=other.paint) == other
    if isinstance(one, Polygon) and isinstance(other, Polygon):
        return one.corners == other.corners
    if isinstance(one, PenPath) and isinstance(other, PenPath):
        return one.is_closed == other.is_closed and [*map(len, one.contours)] == [*map(len, other.contours)]
    return True


def _numbers_of(shape: Shape) -> dict[str, float]:
    result: dict[str, float] = {"stroke.width": shape.paint.width}
    for name in ("fill", "stroke"):
        colour = getattr(shape.paint, name)
        if colour:
            result |= {f"{name}.{letter}": part for letter, part in zip("rgb", _rgb(colour), strict=True)}
    for name, (field, place) in FORM_NUMBERS[shape.form].items():
        result[name] = _at(getattr(shape, field), place)
    if isinstance(shape, PenPath):
        for number, node in enumerate(node for contour in shape.contours for node in contour):
            for side, field in _SIDES.items():
                x, y = getattr(node, field) or (0.0, 0.0)
                result |= {f"node.{number}.{side}x": x, f"node.{number}.{side}y": y}
    return result


def reshaped(shape: Shape, by: Mapping[str, float]) -> Shape:
    """The shape with some of its numbers larger by so much; what it does not have is passed over, and it never
    collapses.
    """
    fields: dict[str, Any] = {"paint": _painted(shape.paint, by)}
    if any(name in by for name in FORM_NUMBERS[shape.form]):
        for name, number in form_numbers(shape, by).items():
            field, place = FORM_NUMBERS[shape.form][name]
            fields[field] = _with(fields.get(field, getattr(shape, field)), place, float(number))
    if isinstance(shape, PenPath):
        fields["contours"] = _moved(shape.contours, by)
    changed: Any = shape  # every form is a frozen value
    return cast(Shape, replace(changed, **fields))


def form_numbers(shape: Shape, by: Mapping[str, Any]) -> dict[str, Any]:
    """The numbers of a shape's form by channel, some of them larger by numbers or by whole arrays; none collapses."""
    held = {name: _at(getattr(shape, field), place) for name, (field, place) in FORM_NUMBERS[shape.form].items()}
    result = {name: number + by.get(name, 0.0) for name, number in held.items()}
    for name in result:
        low = {"form.right": "form.left", "form.bottom": "form.top"}.get(name)
        if low is not None:
            result[name] = np.maximum(result[name], result[low] + _SMALLEST)
        elif name in _LEAST:
            result[name] = np.maximum(result[name], _LEAST[name])
    return result


@dataclass(frozen=True)
class MovingShapes:
    """The shapes of one part over frames: how far each of its numbers is from the drawing's, array (names, frames)."""

    part: Part
    names: tuple[str, ...]
    offsets: np.ndarray

    def at(self, drawing: int, column: int) -> Shape | None:
        """The shape that a drawing of the part shows in one column; None where it shows art from a file, or nothing."""
        shape = self.part.drawings[drawing].shape if 0 <= drawing < len(self.part.drawings) else None
        if shape is None:
            return None
        return reshaped(shape, dict(zip(self.names, self.offsets[:, column].tolist(), strict=True)))


def moving_shapes(
    part: Part, frames: Sequence[float] | np.ndarray, added: Mapping[str, np.ndarray] = MappingProxyType({})
) -> MovingShapes | None:
    """How a part's shapes move over frames, links included by what they add; None where nothing moves them."""
    names = shape_channels(part)
    if not names or not any(drawing.shape for drawing in part.drawings):
        return None
    curves = PackedCurves(tuple(countable(name, part.channels.get(name, BARE)) for name in names))
    ascending, back = np.unique(np.asarray(frames, dtype=np.float64), return_inverse=True)
    result = values(curves, ascending)[:, back]
    for row, name in enumerate(names):
        if name in added:
            result[row] += added[name]
    result = np.nan_to_num(result, posinf=LARGEST, neginf=-LARGEST)
    return MovingShapes(part, names, np.clip(result, -LARGEST, LARGEST))


def shape_at(
    part: Part, drawing: int, frame: float | None, added: Mapping[str, float] = MappingProxyType({})
) -> Shape | None:
    """The shape that a drawing shows at a frame, or at rest, with what links add to its numbers; None where it shows
    art from a file.
    """
    more = {name: np.array([value]) for name, value in added.items()}
    result = moving_shapes(part if frame is not None else part.at_rest, [frame or 0.0], more)
    return part.drawings[drawing].shape if result is None else result.at(drawing, 0)


def _rgb(colour: str) -> Iterable[float]:
    return (float(int(colour[place : place + 2], 16)) for place in (1, 3, 5))


def _painted(paint: Paint, by: Mapping[str, float]) -> Paint:
    colours = {}
    for name in ("fill", "stroke"):
        colour = getattr(paint, name)
        if colour and any(f"{name}.{letter}" in by for letter in "rgb"):
            mixed = (part + by.get(f"{name}.{letter}", 0.0) for letter, part in zip("rgb", _rgb(colour), strict=True))
            colours[name] = "#" + "".join(f"{round(min(max(part, 0.0), 255.0)):02x}" for part in mixed)
    return replace(paint, width=min(max(paint.width + by.get("stroke.width", 0.0), 0.0), 10_000.0), **colours)


def _moved(contours: tuple[Contour, ...], by: Mapping[str, float]) -> tuple[Contour, ...]:
    steps: dict[int, dict[str, list[float]]] = {}
    for name, step in by.items():
        result = node_of(name)
        if result:
            number, side, axis = result
            steps.setdefault(number, {}).setdefault(_SIDES[side], [0.0, 0.0])["xy".index(axis)] = step
    if not steps:
        return contours
    made = []
    number = 0
    for contour in contours:
        nodes = []
        for node in contour:
            nodes.append(_stepped(node, steps[number]) if number in steps else node)
            number += 1
        made.append(tuple(nodes))
    return tuple(made)


def _stepped(node: Node, steps: Mapping[str, list[float]]) -> Node:
    fields = {}
    for field, (dx, dy) in steps.items():
        x, y = getattr(node, field) or (0.0, 0.0)
        if getattr(node, field) is not None or dx or dy:
            fields[field] = (x + dx, y + dy)
    return replace(node, **fields)


def _at(held: Any, place: int | None) -> float:
    return float(held if place is None else held[place])


def _with(held: Any, place: int | None, number: float) -> Any:
    return number if place is None else (*held[:place], number, *held[place + 1 :])
