"""What a drawn layer paints: walks shapes, uses, viewports and clips, and gives patches on the page, px."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from lxml import etree

from jointed_crane.core.geometry.coordinates import Bounds
from jointed_crane.core.outlines.patches import LineCap, LineJoin, Patch, Stroke
from jointed_crane.core.outlines.polylines import Subpaths, polylines
from jointed_crane.formats.svg.path_data import subpaths_of
from jointed_crane.formats.svg.styles import own_style
from jointed_crane.formats.svg.tags import CONTAINERS, SHAPES, elements_by_id, local_name, reference
from jointed_crane.formats.svg.viewports import (
    FONT_SIZE,
    NUMBER,
    diagonal,
    geometry,
    length,
    transform_of,
    used_viewport,
    viewport_of,
)

Floats = npt.NDArray[np.float64]

_INHERITED = {
    "fill", "stroke", "stroke-width", "stroke-linecap", "stroke-linejoin", "stroke-miterlimit", "fill-rule",
    "clip-rule", "visibility", "font-size", "text-anchor",
}  # fmt: skip
_INITIAL = {
    "fill": "black", "stroke": "none", "stroke-width": "1", "stroke-linecap": "butt", "stroke-linejoin": "miter",
    "stroke-miterlimit": "4", "fill-rule": "nonzero", "clip-rule": "nonzero", "visibility": "visible",
    "font-size": "16", "text-anchor": "start",
}  # fmt: skip
#: How what is boxed alone is painted, a picture or words: it is there, in no plain colour.
_BOX = _INITIAL | {"fill": ""}
_CAPS: dict[str, LineCap] = {"round": "round", "square": "square"}
_JOINS: dict[str, LineJoin] = {"round": "round", "bevel": "bevel"}
_PLAIN = re.compile(r"-?\d+(?:\.\d+)?")
#: Elements of a drawing from which on its curves are measured more coarsely, and how much so at most: half a px.
_MANY, _COARSEST = 2000, 25.0
#: Width of a letter as a share of the font size where the font itself is not known: an average, no source.
_LETTER = 0.55


@dataclass(frozen=True)
class _Context:
    """Where the walk is: user space to page px, inherited style, the viewport's size, what clips, and how many times
    as coarsely as in an ordinary drawing curves are measured.
    """

    matrix: Floats
    style: dict[str, str]
    size: tuple[float, float]
    by_id: dict[str, etree._Element]
    clips: tuple[tuple[Patch, ...], ...] = ()
    as_clip: bool = False
    coarse: float = 1.0
    #: What clips came to, by their element and matrix.
    groups: dict[tuple[etree._Element, bytes], tuple[Patch, ...]] = field(default_factory=dict)

    def inside(self, element: etree._Element) -> tuple[_Context, dict[str, str]]:
        """The context for an element's contents, and the element's own declarations."""
        own: dict[str, str] = dict(element.attrib)
        if "style" in own:
            own |= own_style(element)
        inherited = {name: value for name, value in own.items() if name in _INHERITED and value != "inherit"}
        if not inherited and "transform" not in own:
            return self, own
        matrix = self.matrix @ transform_of(element) if "transform" in own else self.matrix
        style = self.style | inherited if inherited else self.style
        # Said whole, as `replace` takes longer than everything else that is done for most elements.
        return _Context(matrix, style, self.size, self.by_id, self.clips, self.as_clip, self.coarse, self.groups), own


class _Shape(NamedTuple):
    """One shape as it is met: its lines, or what becomes lines together with those of all others, and its paint."""

    lines: tuple[Floats, ...] | Subpaths
    context: _Context
    clips: tuple[tuple[Patch, ...], ...]


class Page:
    """A drawing's page, on which its layers are measured; ids are looked up once for all of them."""

    def __init__(self, root: etree._Element) -> None:
        viewport = viewport_of(root)
        self.by_id = elements_by_id(root)
        coarse = min(max(sum(1 for _ in root.iter()) / _MANY, 1.0), _COARSEST)
        begin = _Context(np.eye(3), dict(_INITIAL), viewport.inner_size, self.by_id, coarse=coarse)
        context, _ = begin.inside(root)
        self._context = replace(context, matrix=viewport.matrix())

    def patches(self, layer: etree._Element, ancestors: list[etree._Element]) -> list[Patch]:
        """What a layer paints, px on the page; `ancestors` lie between the root and the layer, outermost first."""
        context = self._context
        for element in ancestors:
            context, own = context.inside(element)
            context = _clipped(context, own, [])
            if local_name(element) == "svg":
                inner = _in_viewport(element, own, context, viewport_of(element, context.size))
                if inner is None:
                    return []
                context = inner
        return _patches(_walk(layer, context))

    def box(self, element: etree._Element) -> Bounds | None:
        """The box of the insides of all that is in an element, in its own user space: what objectBoundingBox units are
        of (SVG 2, 8.10). None where nothing is in it.
        """
        back = np.asarray(np.linalg.pinv(transform_of(element)), dtype=np.float64)
        shapes = _walk(element, replace(self._context, matrix=back, style=dict(_INITIAL), as_clip=True))
        lines = [points for patch in _patches(shapes) for points in patch.on_page]
        if not lines:
            return None
        (left, top), (right, bottom) = ([*map(float, end(np.concatenate(lines), axis=0))] for end in (np.min, np.max))
        return (left, top, right, bottom)


def _walk(element: etree._Element, outer: _Context) -> Iterator[_Shape]:
    tag = local_name(element)
    context, own = outer.inside(element)
    if own.get("display") == "none":
        return
    if "clip-path" in own and "url(" in own["clip-path"]:
        unclipped = list(_contents(element, tag, own, replace(context, clips=())))
        clips = _clipped(context, own, unclipped).clips
        yield from (shape._replace(clips=(*shape.clips, *clips)) for shape in unclipped)
        return
    yield from _contents(element, tag, own, context)


def _contents(element: etree._Element, tag: str, own: dict[str, str], context: _Context) -> Iterator[_Shape]:
    if tag == "svg":
        yield from _nested_viewport(element, own, context, viewport_of(element, context.size))
    elif tag == "use":
        yield from _used(element, own, context)
    elif tag in CONTAINERS:
        for child in element:
            yield from _walk(child, context)
            if tag == "switch" and local_name(child):
                break
    elif context.style["visibility"] != "visible":
        return
    elif tag in SHAPES:
        yield _Shape(_lines(tag, own, context), context, context.clips)
    elif tag == "image":
        x, y, width, height = _at(own, context, ("x", "y", "width", "height"))
        yield _box(x, y, width, height, context)
    elif tag == "text":
        yield _text_box(element, own, context)


def _box(x: float, y: float, width: float, height: float, context: _Context) -> _Shape:
    """A box that is there, whatever its paint."""
    corners = np.array([(x, y), (x + width, y), (x + width, y + height), (x, y + height)])
    return _Shape((corners,), replace(context, style=_BOX), context.clips)


def _shifted(x: float, y: float) -> Floats:
    return np.array([[1.0, 0, x], [0, 1.0, y], [0, 0, 1.0]])


def _at(own: dict[str, str], context: _Context, names: tuple[str, ...], default: float = 0.0) -> list[float]:
    """Geometry properties in user px."""
    result = []
    for name in names:
        text = own.get(name)
        if text is None or _PLAIN.fullmatch(text):  # as most are, and drawings have 50,000 of them
            result.append(float(text or default))
            continue
        size = length(context.style["font-size"], FONT_SIZE, FONT_SIZE)
        result.append(geometry(name, text, context.size, default, size))
    return result


def _in_viewport(element: etree._Element, own: dict[str, str], context: _Context, viewport) -> _Context | None:
    """The context inside a viewport of its own; None where it has no size and shows nothing."""
    x, y = _at(own, context, ("x", "y")) if local_name(element) == "svg" else (0.0, 0.0)
    if not viewport.width or not viewport.height:
        return None
    placed = context.matrix @ _shifted(x, y)
    clips = context.clips
    if own.get("overflow", "hidden") not in ("visible", "auto"):
        whole = replace(context, matrix=placed, clips=())
        clips = (*clips, tuple(_patches([_box(0, 0, viewport.width, viewport.height, whole)])))
    return replace(context, matrix=placed @ viewport.matrix(), size=viewport.inner_size, clips=clips)


def _nested_viewport(element: etree._Element, own: dict[str, str], context: _Context, viewport) -> Iterator[_Shape]:
    inner = _in_viewport(element, own, context, viewport)
    if inner is None:
        return
    for child in element:
        yield from _walk(child, inner)


def _used(element: etree._Element, own: dict[str, str], context: _Context) -> Iterator[_Shape]:
    target = context.by_id.get(reference(element) or "")
    if target is None:
        return
    x, y = _at(own, context, ("x", "y"))
    placed = replace(context, matrix=context.matrix @ _shifted(x, y))
    if local_name(target) not in ("symbol", "svg"):
        yield from _walk(target, placed)
        return
    viewport = used_viewport(target, element, context.size)
    inner, targets = placed.inside(target)
    if targets.get("display") != "none":
        yield from _nested_viewport(target, targets, inner, viewport)


def _clipped(context: _Context, own: dict[str, str], content: list[_Shape]) -> _Context:
    """The context with an element's clip path added; what cannot be read does not clip."""
    value = own.get("clip-path", "")
    target = context.by_id.get(value.split("#")[-1].strip("\"')")) if "url(" in value else None
    if target is None or local_name(target) != "clipPath":
        return context
    matrix = context.matrix
    if target.get("clipPathUnits") == "objectBoundingBox":
        lines = [points for patch in _patches(content) for points in patch.on_page]
        if not lines:
            return context
        to_user = np.asarray(np.linalg.pinv(matrix), dtype=np.float64)
        points = np.concatenate(lines) @ to_user[:2, :2].T + to_user[:2, 2]
        (left, top), (right, bottom) = points.min(axis=0), points.max(axis=0)
        matrix = matrix @ np.array([[right - left, 0, left], [0, bottom - top, top], [0, 0, 1]])
    inner = replace(context, matrix=matrix @ transform_of(target), clips=(), as_clip=True, style=dict(_INITIAL))
    key = (target, inner.matrix.tobytes())
    if key not in context.groups:
        context.groups[key] = tuple(_patches(shape for child in target for shape in _walk(child, inner)))
    return replace(context, clips=(*context.clips, context.groups[key]))


def _patches(shapes: Iterable[_Shape]) -> list[Patch]:
    """What shapes paint: their insides, and strokes along their lines."""
    met = list(shapes)
    made = polylines(shape.lines for shape in met if isinstance(shape.lines, Subpaths))
    result = []
    for shape in met:
        lines = tuple(next(made)) if isinstance(shape.lines, Subpaths) else shape.lines
        if not lines:
            continue
        context, style = shape.context, shape.context.style
        rule = style["clip-rule"] if context.as_clip else style["fill-rule"]
        if context.as_clip or style["fill"] not in ("none", "transparent"):
            result.append(Patch(lines, context.matrix, rule == "evenodd", None, shape.clips, style["fill"]))
        if not context.as_clip and style["stroke"] not in ("none", "transparent"):
            stroke = _stroke(context)
            if stroke.width > 0:
                result.append(Patch(lines, context.matrix, False, stroke, shape.clips, style["stroke"]))
    return result


def _stroke(context: _Context) -> Stroke:
    style = context.style
    width = length(style["stroke-width"], diagonal(context.size), 1.0)
    cap, join = _CAPS.get(style["stroke-linecap"], "butt"), _JOINS.get(style["stroke-linejoin"], "miter")
    return Stroke(width, cap, join, length(style["stroke-miterlimit"], 1.0, 4.0))


def _scale(context: _Context) -> float:
    """How many times as finely as an ordinary drawing at its own size the curves here are measured."""
    (a, c), (b, d) = context.matrix[:2, :2].tolist()
    return (math.sqrt(abs(a * d - b * c)) or 1.0) / context.coarse


def _lines(tag: str, own: dict[str, str], context: _Context) -> tuple[Floats, ...] | Subpaths:
    """The lines of a shape in its own px."""
    if tag == "path":
        return subpaths_of(own.get("d", ""), _scale(context))
    if tag == "rect":
        x, y, width, height = _at(own, context, ("x", "y", "width", "height"))
        if width <= 0 or height <= 0:
            return ()
        rx, ry = _at(own, context, ("rx", "ry"), -1.0)
        rx, ry = (rx if rx >= 0 else max(ry, 0.0)), (ry if ry >= 0 else max(rx, 0.0))
        return (_rounded_box(x, y, width, height, min(rx, width / 2), min(ry, height / 2), context),)
    if tag in ("circle", "ellipse"):
        x, y = _at(own, context, ("cx", "cy"))
        radii = _at(own, context, ("r", "r") if tag == "circle" else ("rx", "ry"))
        return (_ellipse(x, y, radii[0], radii[1], _scale(context)),) if min(radii) > 0 else ()
    if tag == "line":
        x1, y1, x2, y2 = _at(own, context, ("x1", "y1", "x2", "y2"))
        return (np.array([(x1, y1), (x2, y2)]),)
    numbers = np.array([float(number) for number in NUMBER.findall(own.get("points", ""))])
    points = numbers[: len(numbers) // 2 * 2].reshape(-1, 2)
    if tag == "polygon" and len(points):
        points = np.concatenate([points, points[:1]])
    return (points,) if len(points) > 1 else ()


def _ellipse(x: float, y: float, rx: float, ry: float, scale: float) -> Floats:
    steps = 4 * int(np.clip(np.ceil(np.sqrt(max(rx, ry) * scale / 0.02)), 8, 200))
    angle = np.linspace(0, 2 * np.pi, steps + 1)
    return np.stack([x + rx * np.cos(angle), y + ry * np.sin(angle)], axis=1)


def _rounded_box(x: float, y: float, width: float, height: float, rx: float, ry: float, context: _Context) -> Floats:
    left, top, right, bottom = x, y, x + width, y + height
    if rx <= 0 or ry <= 0:
        return np.array([(left, top), (right, top), (right, bottom), (left, bottom), (left, top)])
    round_corner = _ellipse(0, 0, rx, ry, _scale(context))
    quarter = (len(round_corner) - 1) // 4
    centres = ((right - rx, bottom - ry), (left + rx, bottom - ry), (left + rx, top + ry), (right - rx, top + ry))
    pieces = [round_corner[k * quarter : (k + 1) * quarter + 1] + centres[k] for k in range(4)]
    return np.concatenate([*pieces, pieces[0][:1]])


def _text_box(element: etree._Element, own: dict[str, str], context: _Context) -> _Shape:
    """About where a text lies: its font is the machine's, so its letters cannot be measured here."""
    size = length(context.style["font-size"], FONT_SIZE, FONT_SIZE)
    x, y = _at(own, context, ("x", "y"))
    width = max(len("".join(element.itertext()).strip()), 1) * size * _LETTER
    left = x - {"middle": width / 2, "end": width}.get(context.style["text-anchor"], 0.0)
    return _box(left, y - 0.9 * size, width, 1.15 * size, context)
