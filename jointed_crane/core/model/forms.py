"""Shapes and lines of text that the app makes itself, as contours of nodes with handles."""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.errors import RuleError
from jointed_crane.core.basics.frozen import TravelsBare
from jointed_crane.core.basics.limits import LARGEST, MOST_NODES
from jointed_crane.core.geometry.coordinates import Point

Floats = npt.NDArray[np.float64]

#: Handle length of a quarter circle as a share of the radius: (4/3)(sqrt(2) - 1), off by at most 0.027 % of it.
QUARTER = 4 / 3 * (2**0.5 - 1)
_COLOUR = re.compile(r"#[0-9a-f]{6}")


@dataclass(frozen=True)
class Node:
    """A corner or smooth point of a contour; handles are offsets from the point, None is a straight side."""

    point: Point
    handle_in: Point | None = None
    handle_out: Point | None = None


Contour = tuple[Node, ...]


@dataclass(frozen=True)
class Paint:
    """Fill and stroke as "#rrggbb", empty for none; the width in px."""

    fill: str = "#6f8f8b"
    stroke: str = ""
    width: float = 0.0


class Shape(TravelsBare):
    """What a drawing is made from where the app made it; `form` tells which one it is."""

    paint: Paint

    def __init_subclass__(cls) -> None:
        FORMS[vars(cls)["form"]] = cls

    @property
    def form(self) -> str:
        """The name of its form, by which documents tell it; each form has it as a field."""
        raise NotImplementedError


#: Every form by its name.
FORMS: dict[str, type[Shape]] = {}


@dataclass(frozen=True)
class Rectangle(Shape):
    """A box, left top right bottom in px, with round corners of one radius."""

    box: tuple[float, float, float, float]
    corner: float = 0.0
    paint: Paint = Paint()
    form: Literal["rectangle"] = "rectangle"


@dataclass(frozen=True)
class Ellipse(Shape):
    """An ellipse by its centre and two radii, px."""

    centre: Point
    radii: Point
    paint: Paint = Paint()
    form: Literal["ellipse"] = "ellipse"


@dataclass(frozen=True)
class Polygon(Shape):
    """A regular polygon by its centre and radius, px; at an angle of 0 degrees one corner points up."""

    centre: Point
    radius: float
    corners: int = 5
    angle: float = 0.0
    paint: Paint = Paint()
    form: Literal["polygon"] = "polygon"


@dataclass(frozen=True)
class PenPath(Shape):
    """Contours drawn by hand, px."""

    contours: tuple[Contour, ...]
    is_closed: bool = True
    paint: Paint = Paint()
    form: Literal["path"] = "path"


@dataclass(frozen=True)
class Text(Shape):
    """Lines of text; the baseline of the first line begins at 0, 0 (or is centred on it, or ends there).

    Attributes
    ----------
    font : name of a shipped typeface, or the content hash of an uploaded one
    size : px of one em
    tracking : extra space behind each letter, in thousandths of an em
    leading : distance of baselines as a share of the size
    contours : the outlines of the letters, computed from the font; empty until then
    """

    words: str
    font: str = "Hanken Grotesk"
    size: float = 64.0
    tracking: float = 0.0
    leading: float = 1.2
    alignment: Literal["start", "middle", "end"] = "start"
    paint: Paint = Paint()
    contours: tuple[Contour, ...] = ()
    form: Literal["text"] = "text"


def contours_of(shape: Shape) -> tuple[Contour, ...]:
    """The outlines of a shape, px in its own coordinates."""
    if isinstance(shape, PenPath | Text):
        return shape.contours
    if isinstance(shape, Ellipse):
        return (_rounded(shape.centre, shape.radii),)
    if isinstance(shape, Polygon):
        angles = np.deg2rad(shape.angle - 90 + 360 * np.arange(shape.corners) / shape.corners)
        x, y = shape.centre
        return (
            tuple(Node((x + shape.radius * float(np.cos(a)), y + shape.radius * float(np.sin(a)))) for a in angles),
        )
    if isinstance(shape, Rectangle):
        return (_box(shape),)
    raise TypeError(f"{shape.form} has no contours")


def is_closed(shape: Shape) -> bool:
    """Whether the last node of each contour is joined to its first."""
    return not isinstance(shape, PenPath) or shape.is_closed


def sides(contour: Contour, closed: bool) -> Floats:
    """The cubic Beziers of a contour, control points of shape (sides, 4, 2); straight ones have their handles at a
    third."""
    ends = [*contour[1:], contour[0]] if closed else contour[1:]
    result = []
    for start, end in zip(contour, ends, strict=False):
        p0, p3 = np.array(start.point), np.array(end.point)
        third = (p3 - p0) / 3
        p1 = p0 + (third if start.handle_out is None else np.array(start.handle_out))
        p2 = p3 - third if end.handle_in is None else p3 + np.array(end.handle_in)
        result.append((p0, p1, p2, p3))
    return np.array(result, dtype=np.float64).reshape(-1, 4, 2)


def _rounded(centre: Point, radii: Point) -> Contour:
    (x, y), (rx, ry) = centre, radii
    hx, hy = rx * QUARTER, ry * QUARTER
    return (
        Node((x, y - ry), (-hx, 0.0), (hx, 0.0)),
        Node((x + rx, y), (0.0, -hy), (0.0, hy)),
        Node((x, y + ry), (hx, 0.0), (-hx, 0.0)),
        Node((x - rx, y), (0.0, hy), (0.0, -hy)),
    )


def _box(shape: Rectangle) -> Contour:
    left, top, right, bottom = shape.box
    radius = min(shape.corner, (right - left) / 2, (bottom - top) / 2)
    corners = ((left, top), (right, top), (right, bottom), (left, bottom))
    if radius <= 0:
        return tuple(map(Node, corners))
    ways = ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))
    nodes = []
    for (x, y), (ax, ay), (bx, by) in zip(corners, (ways[3], *ways[:3]), ways, strict=True):
        pull = radius * QUARTER
        nodes.append(Node((x - ax * radius, y - ay * radius), None, (ax * pull, ay * pull)))
        nodes.append(Node((x + bx * radius, y + by * radius), (-bx * pull, -by * pull), None))
    return tuple(nodes)


def ensure_drawable(shape: Shape) -> None:
    """RuleError where a shape has no size, too many nodes, a colour that is none, or numbers beyond LARGEST."""
    if not all(math.isfinite(number) and abs(number) <= LARGEST for number in _numbers(shape)):
        raise RuleError(f"A number of the shape lies beyond {LARGEST:g}. Nothing was changed.")
    paint = shape.paint
    for colour in (paint.fill, paint.stroke):
        if colour and not _COLOUR.fullmatch(colour):
            raise RuleError(f"A colour reads like #6f8f8b, not {colour[:20]!r}. Nothing was changed.")
    if not 0 <= paint.width <= 10_000:
        raise RuleError("A stroke is between 0 and 10000 px wide. Nothing was changed.")
    if isinstance(shape, Rectangle) and not (shape.box[0] < shape.box[2] and shape.box[1] < shape.box[3]):
        raise RuleError("A rectangle needs a width and a height above 0. Nothing was changed.")
    if isinstance(shape, Ellipse) and min(shape.radii) <= 0:
        raise RuleError("An ellipse needs two radii above 0. Nothing was changed.")
    if isinstance(shape, Polygon) and not (shape.radius > 0 and 3 <= shape.corners <= 200):
        raise RuleError("A polygon has 3 to 200 corners and a radius above 0. Nothing was changed.")
    if isinstance(shape, Text) and not (0 < shape.size <= 10_000 and len(shape.words) <= 2_000):
        raise RuleError("Text has up to 2000 letters and a size above 0 px. Nothing was changed.")
    if isinstance(shape, Text) and not (abs(shape.tracking) <= 10_000 and 0 <= shape.leading <= 100):
        raise RuleError("Letters and lines of text lie closer together than that. Nothing was changed.")
    contours = contours_of(shape)
    nodes = [node for contour in contours for node in contour]
    if len(nodes) > MOST_NODES or any(len(contour) < 2 for contour in contours):
        raise RuleError(f"A shape has contours of 2 nodes or more, {MOST_NODES} at most. Nothing was changed.")


def _numbers(shape: Shape) -> Iterator[float]:
    """Every length of a shape, px."""
    yield shape.paint.width
    if isinstance(shape, Rectangle):
        yield from (*shape.box, shape.corner)
    elif isinstance(shape, Ellipse):
        yield from (*shape.centre, *shape.radii)
    elif isinstance(shape, Polygon):
        yield from (*shape.centre, shape.radius, shape.angle)
    elif isinstance(shape, PenPath | Text):
        for contour in shape.contours:
            for node in contour:
                yield from (*node.point, *(node.handle_in or ()), *(node.handle_out or ()))
