"""What a drawn layer paints: walks shapes, uses, viewports and clips, and gives patches on the page, px."""

from __future__ import annotations

import contextlib
import math
import re
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from itertools import pairwise

import numpy as np
import numpy.typing as npt
from fontTools.pens.basePen import AbstractPen
from fontTools.svgLib.path.parser import parse_path
from lxml import etree

from jointed_crane.core.geometry.outlines import cubics_points, few_cubics_points, steps_each
from jointed_crane.core.geometry.patches import LineCap, LineJoin, Patch, Stroke
from jointed_crane.formats.svg.styles import own_style
from jointed_crane.formats.svg.tags import CONTAINERS, SHAPES, elements_by_id, local_name, reference
from jointed_crane.formats.svg.viewports import FONT_SIZE, NUMBER, length, transform_of, viewport_of

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
_CAPS: dict[str, LineCap] = {"round": "round", "square": "square"}
_JOINS: dict[str, LineJoin] = {"round": "round", "bevel": "bevel"}
_Point = tuple[float, float]
_Piece = tuple[_Point, ...]
#: What percentages of a property are of, if not the viewport's diagonal.
_WHOLES = dict.fromkeys(("x", "cx", "width", "rx", "x1", "x2"), "x")
_WHOLES |= dict.fromkeys(("y", "cy", "height", "ry", "y1", "y2"), "y")
_PLAIN = re.compile(r"-?\d+(?:\.\d+)?")
#: Paths of so many pieces and fewer are made into polylines point by point: arrays as small as those cost more.
_FEW = 24
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
        inherited = {name: own[name] for name in _INHERITED & own.keys() if own[name] != "inherit"}
        if not inherited and "transform" not in own:
            return self, own
        matrix = self.matrix @ transform_of(element) if "transform" in own else self.matrix
        return replace(self, matrix=matrix, style=self.style | inherited), own


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
                inner = _in_viewport(element, context, viewport_of(element, context.size))
                if inner is None:
                    return []
                context = inner
        return list(_walk(layer, context))


def _walk(element: etree._Element, outer: _Context) -> Iterator[Patch]:
    tag = local_name(element)
    context, own = outer.inside(element)
    if own.get("display") == "none":
        return
    if "clip-path" in own and "url(" in own["clip-path"]:
        unclipped = list(_contents(element, tag, replace(context, clips=())))
        clips = _clipped(context, own, unclipped).clips
        yield from (replace(patch, clips=(*patch.clips, *clips)) for patch in unclipped)
        return
    yield from _contents(element, tag, context)


def _contents(element: etree._Element, tag: str, context: _Context) -> Iterator[Patch]:
    if tag == "svg":
        yield from _nested_viewport(element, context, viewport_of(element, context.size))
    elif tag == "use":
        yield from _used(element, context)
    elif tag in CONTAINERS:
        for child in element:
            yield from _walk(child, context)
            if tag == "switch" and local_name(child):
                break
    elif context.style["visibility"] != "visible":
        return
    elif tag in SHAPES:
        yield from _shape(element, tag, context)
    elif tag == "image":
        x, y, width, height = _at(element, context, ("x", "y", "width", "height"))
        yield _box(x, y, width, height, context)
    elif tag == "text":
        yield _text_box(element, context)


def _box(x: float, y: float, width: float, height: float, context: _Context) -> Patch:
    corners = np.array([(x, y), (x + width, y), (x + width, y + height), (x, y + height)])
    return Patch((corners,), context.matrix, clips=context.clips)


def _shifted(x: float, y: float) -> Floats:
    return np.array([[1.0, 0, x], [0, 1.0, y], [0, 0, 1.0]])


def _at(element: etree._Element, context: _Context, names: tuple[str, ...], default: float = 0.0) -> list[float]:
    """Geometry properties in user px; percentages are of the viewport's width, height or diagonal (SVG 2, 8.9)."""
    style = own_style(element)
    width, height = context.size
    result = []
    for name in names:
        text = style.get(name) or element.get(name)
        if text is None or _PLAIN.fullmatch(text):  # as most are, and drawings have 50,000 of them
            result.append(float(text or default))
            continue
        whole = {"x": width, "y": height}.get(_WHOLES.get(name, ""), math.hypot(width, height) / math.sqrt(2))
        size = length(context.style["font-size"], FONT_SIZE, FONT_SIZE)
        result.append(length(text, whole, default, size))
    return result


def _in_viewport(element: etree._Element, context: _Context, viewport) -> _Context | None:
    """The context inside a viewport of its own; None where it has no size and shows nothing."""
    x, y = _at(element, context, ("x", "y")) if local_name(element) == "svg" else (0.0, 0.0)
    if not viewport.width or not viewport.height:
        return None
    placed = context.matrix @ _shifted(x, y)
    clips = context.clips
    if (own_style(element).get("overflow") or element.get("overflow", "hidden")) not in ("visible", "auto"):
        whole = replace(context, matrix=placed, clips=())
        clips = (*clips, (_box(0, 0, viewport.width, viewport.height, whole),))
    return replace(context, matrix=placed @ viewport.matrix(), size=viewport.inner_size, clips=clips)


def _nested_viewport(element: etree._Element, context: _Context, viewport) -> Iterator[Patch]:
    inner = _in_viewport(element, context, viewport)
    if inner is None:
        return
    for child in element:
        yield from _walk(child, inner)


def _used(element: etree._Element, context: _Context) -> Iterator[Patch]:
    target = context.by_id.get(reference(element) or "")
    if target is None:
        return
    x, y = _at(element, context, ("x", "y"))
    placed = replace(context, matrix=context.matrix @ _shifted(x, y))
    if local_name(target) not in ("symbol", "svg"):
        yield from _walk(target, placed)
        return
    viewport = viewport_of(target, context.size)
    width, height = context.size  # the use's own size wins over the target's
    viewport = replace(
        viewport,
        width=length(element.get("width"), width, viewport.width),
        height=length(element.get("height"), height, viewport.height),
    )
    inner, own = placed.inside(target)
    if own.get("display") != "none":
        yield from _nested_viewport(target, inner, viewport)


def _clipped(context: _Context, own: dict[str, str], content: list[Patch]) -> _Context:
    """The context with an element's clip path added; what cannot be read does not clip."""
    value = own.get("clip-path", "")
    target = context.by_id.get(value.split("#")[-1].strip("\"')")) if "url(" in value else None
    if target is None or local_name(target) != "clipPath":
        return context
    matrix = context.matrix
    if target.get("clipPathUnits") == "objectBoundingBox":
        lines = [points for patch in content for points in patch.on_page]
        if not lines:
            return context
        to_user = np.asarray(np.linalg.pinv(matrix), dtype=np.float64)
        points = np.concatenate(lines) @ to_user[:2, :2].T + to_user[:2, 2]
        (left, top), (right, bottom) = points.min(axis=0), points.max(axis=0)
        matrix = matrix @ np.array([[right - left, 0, left], [0, bottom - top, top], [0, 0, 1]])
    inner = replace(context, matrix=matrix @ transform_of(target), clips=(), as_clip=True, style=dict(_INITIAL))
    key = (target, inner.matrix.tobytes())
    if key not in context.groups:
        context.groups[key] = tuple(patch for child in target for patch in _walk(child, inner))
    return replace(context, clips=(*context.clips, context.groups[key]))


def _shape(element: etree._Element, tag: str, context: _Context) -> Iterator[Patch]:
    style = context.style
    (a, c), (b, d) = context.matrix[:2, :2].tolist()
    scale = (math.sqrt(abs(a * d - b * c)) or 1.0) / context.coarse
    subpaths = _subpaths(element, tag, context, scale)
    if not subpaths:
        return
    lines = tuple(subpaths)
    rule = style["clip-rule"] if context.as_clip else style["fill-rule"]
    if context.as_clip or style["fill"] not in ("none", "transparent"):
        yield Patch(lines, context.matrix, rule == "evenodd", clips=context.clips, paint=style["fill"])
    if not context.as_clip and style["stroke"] not in ("none", "transparent"):
        width = length(style["stroke-width"], float(np.hypot(*context.size) / np.sqrt(2)), 1.0)
        if width > 0:
            cap, join = _CAPS.get(style["stroke-linecap"], "butt"), _JOINS.get(style["stroke-linejoin"], "miter")
            stroke = Stroke(width, cap, join, length(style["stroke-miterlimit"], 1.0, 4.0))
            yield Patch(lines, context.matrix, stroke=stroke, clips=context.clips, paint=style["stroke"])


def _subpaths(element: etree._Element, tag: str, context: _Context, scale: float) -> list[Floats]:
    if tag == "rect":
        x, y, width, height = _at(element, context, ("x", "y", "width", "height"))
        if width <= 0 or height <= 0:
            return []
        rx, ry = _at(element, context, ("rx", "ry"), -1.0)
        rx, ry = (rx if rx >= 0 else max(ry, 0.0)), (ry if ry >= 0 else max(rx, 0.0))
        return [_rounded_box(x, y, width, height, min(rx, width / 2), min(ry, height / 2), scale)]
    if tag in ("circle", "ellipse"):
        x, y = _at(element, context, ("cx", "cy"))
        radii = _at(element, context, ("r", "r") if tag == "circle" else ("rx", "ry"))
        return [_ellipse(x, y, radii[0], radii[1], scale)] if min(radii) > 0 else []
    if tag == "line":
        x1, y1, x2, y2 = _at(element, context, ("x1", "y1", "x2", "y2"))
        return [np.array([(x1, y1), (x2, y2)])]
    if tag in ("polyline", "polygon"):
        numbers = np.array([float(number) for number in NUMBER.findall(element.get("points", ""))])
        points = numbers[: len(numbers) // 2 * 2].reshape(-1, 2)
        if tag == "polygon" and len(points):
            points = np.concatenate([points, points[:1]])
        return [points] if len(points) > 1 else []
    return path_points(own_style(element).get("d") or element.get("d", ""), scale)


def _ellipse(x: float, y: float, rx: float, ry: float, scale: float) -> Floats:
    steps = 4 * int(np.clip(np.ceil(np.sqrt(max(rx, ry) * scale / 0.02)), 8, 200))
    angle = np.linspace(0, 2 * np.pi, steps + 1)
    return np.stack([x + rx * np.cos(angle), y + ry * np.sin(angle)], axis=1)


def _rounded_box(x: float, y: float, width: float, height: float, rx: float, ry: float, scale: float) -> Floats:
    left, top, right, bottom = x, y, x + width, y + height
    if rx <= 0 or ry <= 0:
        return np.array([(left, top), (right, top), (right, bottom), (left, bottom), (left, top)])
    round_corner = _ellipse(0, 0, rx, ry, scale)
    quarter = (len(round_corner) - 1) // 4
    centres = ((right - rx, bottom - ry), (left + rx, bottom - ry), (left + rx, top + ry), (right - rx, top + ry))
    pieces = [round_corner[k * quarter : (k + 1) * quarter + 1] + centres[k] for k in range(4)]
    return np.concatenate([*pieces, pieces[0][:1]])


class _Polylines(AbstractPen):
    """Collects path commands as subpaths of pieces: a side as its end point, a curve as its handles and its end."""

    def __init__(self) -> None:
        self.subpaths: list[list[_Piece]] = []

    def moveTo(self, point: _Point) -> None:  # noqa: N802 - the names of the font library's pens
        self.subpaths.append([(point,)])

    def lineTo(self, point: _Point) -> None:  # noqa: N802
        self.subpaths[-1].append((point,))

    def curveTo(self, *points: _Point) -> None:  # noqa: N802
        self.subpaths[-1].append(points)

    def qCurveTo(self, *points: _Point) -> None:  # noqa: N802
        """A quadratic as the same cubic: handles reach two thirds of the way to its control point."""
        (control_x, control_y), end = points
        handles = [
            (x + 2 / 3 * (control_x - x), y + 2 / 3 * (control_y - y)) for x, y in (self.subpaths[-1][-1][-1], end)
        ]
        self.subpaths[-1].append((*handles, end))

    def closePath(self) -> None:  # noqa: N802
        """The parser draws the closing side itself."""

    def endPath(self) -> None:  # noqa: N802
        """Nothing is left to draw."""


def path_points(d: str, scale: float = 1.0) -> list[Floats]:
    """Path data as polylines, one a subpath; data that stops being readable is drawn up to there (SVG 2, 9.5.4)."""
    pen = _Polylines()
    with contextlib.suppress(ValueError, IndexError, OverflowError, ZeroDivisionError, TypeError):
        parse_path(d, pen)
    most = steps_each(sum(len(pieces) for pieces in pen.subpaths))
    result = [_polyline(pieces, scale, most) for pieces in pen.subpaths if len(pieces) > 1]
    return [points for points in result if np.isfinite(points).all()]


def _polyline(pieces: list[_Piece], scale: float, most: int) -> Floats:
    """The pieces of one subpath as points, curves in at most so many steps each."""
    if all(len(piece) == 1 for piece in pieces):
        return np.array([point for (point,) in pieces])
    if len(pieces) <= _FEW:
        return few_cubics_points(pieces, scale, most)
    # A side is the cubic that goes straight, its handles at thirds.
    cubics = np.array([(before[-1], *(piece if len(piece) == 3 else piece * 3)) for before, piece in pairwise(pieces)])
    sides = np.array([len(piece) == 1 for piece in pieces[1:]])
    begin, end = cubics[sides, 0], cubics[sides, 3]
    with np.errstate(all="ignore"):  # a subpath that leaves what numbers hold is left out as a whole
        cubics[sides, 1], cubics[sides, 2] = begin + (end - begin) / 3, end - (end - begin) / 3
        return cubics_points(cubics, scale, most)


def _text_box(element: etree._Element, context: _Context) -> Patch:
    """About where a text lies: its font is the machine's, so its letters cannot be measured here."""
    size = length(own_style(element).get("font-size") or context.style["font-size"], FONT_SIZE, FONT_SIZE)
    x, y = _at(element, context, ("x", "y"))
    width = max(len("".join(element.itertext()).strip()), 1) * size * _LETTER
    left = x - {"middle": width / 2, "end": width}.get(context.style["text-anchor"], 0.0)
    return _box(left, y - 0.9 * size, width, 1.15 * size, context)
