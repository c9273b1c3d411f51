"""What a drawing paints, from back to front: shapes with their paints, pictures, and groups that act as a whole.

Lengths are in the px of the space that a node lies in; matrices are of shape (3, 3) and go from the space inside a node
to the one around it.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
Point = tuple[float, float]
#: Two controls and the end of a cubic; a side has its controls at its ends.
Curve = tuple[Point, Point, Point]
#: Red, green, blue and alpha, 0 to 1, sRGB, not premultiplied.
Colour = tuple[float, float, float, float]
IDENTITY = np.eye(3)


@dataclass(frozen=True)
class Contour:
    """One subpath."""

    start: Point
    curves: tuple[Curve, ...]
    is_closed: bool = False


@dataclass(frozen=True)
class Figure:
    """The subpaths of one shape, and the rule by which they have an inside."""

    contours: tuple[Contour, ...]
    is_even_odd: bool = False


@dataclass(frozen=True, eq=False)
class Gradient:
    """Colours along a line, or from one circle to another (SVG 2, 14.2).

    Attributes
    ----------
    places : x1, y1, x2, y2 of a line; fx, fy, fr, cx, cy, r of the two circles
    stops : place, 0 to 1, never falling, and colour
    matrix : from the gradient's space to that of the shape
    """

    places: tuple[float, ...]
    stops: tuple[tuple[float, Colour], ...]
    spread: Literal["pad", "reflect", "repeat"] = "pad"
    matrix: Floats = field(default_factory=lambda: IDENTITY)

    @property
    def is_radial(self) -> bool:
        """Whether it goes from one circle to another."""
        return len(self.places) == 6


@dataclass(frozen=True, eq=False)
class Pattern:
    """A tile of so many px, repeated; `matrix` goes from the tile's space to that of the shape."""

    size: tuple[float, float]
    content: Group
    matrix: Floats


Paint = Colour | Gradient | Pattern


@dataclass(frozen=True, eq=False)
class Pen:
    """What a line is drawn with; dashes in px, an even number of them, or none."""

    width: float
    cap: Literal["butt", "round", "square"] = "butt"
    join: Literal["miter", "round", "bevel"] = "miter"
    miter: float = 4.0
    dashes: tuple[float, ...] = ()
    dash_offset: float = 0.0


@dataclass(frozen=True, eq=False)
class Coat:
    """One paint of a shape: its inside, or along its outline where there is a stroke."""

    paint: Paint
    opacity: float = 1.0
    pen: Pen | None = None


@dataclass(frozen=True, eq=False)
class Painted:
    """A shape with its paints from back to front; as part of a clip it has none and counts as its inside."""

    figure: Figure
    coats: tuple[Coat, ...] = ()


@dataclass(frozen=True, eq=False)
class Bitmap:
    """A picture, encoded, its own px laid into the space around it by a matrix and cut to a box: left, top, width,
    height.
    """

    data: bytes
    box: tuple[float, float, float, float]
    preserve: str = "xMidYMid"
    in_pixels: bool = False


@dataclass(frozen=True, eq=False)
class Mask:
    """What is let through of a group: by the lightness of its content, or its alpha, inside a box."""

    content: Group
    box: tuple[float, float, float, float]
    by_alpha: bool = False


@dataclass(frozen=True, eq=False)
class Group:
    """Nodes from back to front that are moved, clipped, masked, faded and blended as a whole.

    Attributes
    ----------
    matrix : acts on everything in the group, clips and mask included
    clips : each a group of shapes; what lies in all of them is seen
    opacity : of the whole, once it is painted
    blend : the name of a blend mode (Compositing 1)
    is_isolated : whether what is inside blends with nothing outside
    """

    children: tuple[Node, ...] = ()
    matrix: Floats = field(default_factory=lambda: IDENTITY)
    clips: tuple[Group, ...] = ()
    mask: Mask | None = None
    opacity: float = 1.0
    blend: str = "normal"
    is_isolated: bool = False

    @property
    def is_layer(self) -> bool:
        """Whether it has to be painted by itself before it is laid over what is behind it."""
        return self.opacity < 1 or self.mask is not None or self.blend != "normal" or self.is_isolated


@dataclass(frozen=True)
class Unknown:
    """Something that is not told here, by its name: a text in a font of the machine, a filter, a marker."""

    name: str


Node = Group | Painted | Bitmap | Unknown


def unknown_in(node: Node) -> str | None:
    """The name of something in a node that is not told; None where all is."""
    if isinstance(node, Unknown):
        return node.name
    if isinstance(node, Painted):
        insides: list[Node] = [coat.paint.content for coat in node.coats if isinstance(coat.paint, Pattern)]
    elif isinstance(node, Group):
        insides = [*node.children, *node.clips, *([node.mask.content] if node.mask else [])]
    else:
        return None
    return next((name for name in map(unknown_in, insides) if name), None)
