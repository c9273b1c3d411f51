"""What a drawn layer paints, measured: walks shapes, uses, viewports and clips, and gives areas in page px."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
from lxml import etree
from shapely.geometry import MultiPolygon, box
from shapely.geometry.base import BaseGeometry
from svgelements import Arc, Close, CubicBezier, Line, Move, Path, QuadraticBezier

from jointed_crane.core.geometry.outlines import Cap, Join, cubic_points, filled_area, stroked_area, transformed
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
_CAPS: dict[str, Cap] = {"round": "round", "square": "square"}
_JOINS: dict[str, Join] = {"round": "round", "bevel": "bevel"}
#: Width of a letter as a share of the font size where the font itself is not known: an average, no source.
_LETTER = 0.55


@dataclass(frozen=True)
class _Context:
    """Where the walk is: user space to page px, inherited style, the viewport's size, and what clips."""

    matrix: Floats
    style: dict[str, str]
    size: tuple[float, float]
    by_id: dict[str, etree._Element]
    clips: tuple[BaseGeometry, ...] = ()
    as_clip: bool = False

    def inside(self, element: etree._Element) -> tuple[_Context, dict[str, str]]:
        """The context for an element's contents, and the element's own declarations."""
        own = {name: value for name, value in element.attrib.items() if isinstance(name, str)} | own_style(element)
        inherited = {name: own[name] for name in _INHERITED & own.keys() if own[name] != "inherit"}
        return replace(self, matrix=self.matrix @ transform_of(element), style=self.style | inherited), own


def painted_areas(layer: etree._Element, ancestors: list[etree._Element], root: etree._Element) -> list[BaseGeometry]:
    """Areas that a layer paints, px on the page; `ancestors` lie between the root and the layer, outermost first."""
    viewport = viewport_of(root)
    by_id = elements_by_id(root)
    context, _ = _Context(np.eye(3), dict(_INITIAL), viewport.inner_size, by_id).inside(root)
    context = replace(context, matrix=viewport.matrix())
    for element in ancestors:
        context, own = context.inside(element)
        context = _clipped(context, own, MultiPolygon())
    return list(_walk(layer, context))


def _walk(element: etree._Element, outer: _Context) -> Iterator[BaseGeometry]:
    tag = local_name(element)
    context, own = outer.inside(element)
    if own.get("display") == "none":
        return
    if "clip-path" in own and "url(" in own["clip-path"]:
        unclipped = list(_contents(element, tag, replace(context, clips=())))
        bounds = _together(unclipped)
        context = _clipped(context, own, bounds)
        for area in unclipped:
            yield _cut(area, context.clips)
        return
    yield from _contents(element, tag, context)


def _contents(element: etree._Element, tag: str, context: _Context) -> Iterator[BaseGeometry]:
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
        yield from _placed(_image_box(element, context), context)
    elif tag == "text":
        yield from _placed(_text_box(element, context), context)


def _placed(area: BaseGeometry, context: _Context) -> Iterator[BaseGeometry]:
    on_page = _cut(transformed(area, context.matrix), context.clips)
    if not on_page.is_empty:
        yield on_page


def _cut(area: BaseGeometry, clips: tuple[BaseGeometry, ...]) -> BaseGeometry:
    for clip in clips:
        area = area.intersection(clip)
    return area


def _together(areas: list[BaseGeometry]) -> BaseGeometry:
    bounds = np.array([area.bounds for area in areas if not area.is_empty])
    if not len(bounds):
        return MultiPolygon()
    return box(bounds[:, 0].min(), bounds[:, 1].min(), bounds[:, 2].max(), bounds[:, 3].max())


def _shifted(x: float, y: float) -> Floats:
    return np.array([[1.0, 0, x], [0, 1.0, y], [0, 0, 1.0]])


def _at(element: etree._Element, context: _Context, names: tuple[str, ...], default: float = 0.0) -> list[float]:
    """Geometry properties in user px; percentages are of the viewport's width, height or diagonal (SVG 2, 8.9)."""
    style = own_style(element)
    width, height = context.size
    diagonal = float(np.hypot(width, height) / np.sqrt(2))
    wholes = {"x": width, "cx": width, "width": width, "rx": width, "x1": width, "x2": width}
    wholes |= {"y": height, "cy": height, "height": height, "ry": height, "y1": height, "y2": height}
    size = length(context.style["font-size"], FONT_SIZE, FONT_SIZE)
    return [length(style.get(name, element.get(name)), wholes.get(name, diagonal), default, size) for name in names]


def _nested_viewport(element: etree._Element, context: _Context, viewport) -> Iterator[BaseGeometry]:
    x, y = _at(element, context, ("x", "y")) if local_name(element) == "svg" else (0.0, 0.0)
    if not viewport.width or not viewport.height:
        return
    placed = context.matrix @ _shifted(x, y)
    clips = context.clips
    if (own_style(element).get("overflow") or element.get("overflow", "hidden")) not in ("visible", "auto"):
        clips = (*clips, transformed(box(0, 0, viewport.width, viewport.height), placed))
    inner = replace(context, matrix=placed @ viewport.matrix(), size=viewport.inner_size, clips=clips)
    for child in element:
        yield from _walk(child, inner)


def _used(element: etree._Element, context: _Context) -> Iterator[BaseGeometry]:
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


def _clipped(context: _Context, own: dict[str, str], content: BaseGeometry) -> _Context:
    """The context with an element's clip path added; what cannot be read does not clip."""
    value = own.get("clip-path", "")
    target = context.by_id.get(value.split("#")[-1].strip("\"')")) if "url(" in value else None
    if target is None or local_name(target) != "clipPath":
        return context
    matrix = context.matrix
    if target.get("clipPathUnits") == "objectBoundingBox":
        if content.is_empty:
            return context
        left, top, right, bottom = transformed(content, np.asarray(np.linalg.pinv(matrix), dtype=np.float64)).bounds
        matrix = matrix @ np.array([[right - left, 0, left], [0, bottom - top, top], [0, 0, 1]])
    inner = replace(context, matrix=matrix @ transform_of(target), clips=(), as_clip=True, style=dict(_INITIAL))
    areas = [area for child in target for area in _walk(child, inner)]
    whole: BaseGeometry = MultiPolygon()
    for area in areas:
        whole = whole.union(area)
    return replace(context, clips=(*context.clips, whole))


def _shape(element: etree._Element, tag: str, context: _Context) -> Iterator[BaseGeometry]:
    style = context.style
    scale = float(np.sqrt(abs(np.linalg.det(context.matrix[:2, :2])))) or 1.0
    subpaths = _subpaths(element, tag, context, scale)
    if not subpaths:
        return
    rule = style["clip-rule"] if context.as_clip else style["fill-rule"]
    if context.as_clip or style["fill"] not in ("none", "transparent"):
        yield from _placed(filled_area(subpaths, rule == "evenodd"), context)
    if not context.as_clip and style["stroke"] not in ("none", "transparent"):
        width = length(style["stroke-width"], float(np.hypot(*context.size) / np.sqrt(2)), 1.0)
        if width > 0:
            cap, join = _CAPS.get(style["stroke-linecap"], "butt"), _JOINS.get(style["stroke-linejoin"], "miter")
            area = stroked_area(
                subpaths,
                width,
                cap,
                join,
                length(style["stroke-miterlimit"], 1.0, 4.0),
            )
            yield from _placed(area, context)


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


def path_points(d: str, scale: float = 1.0) -> list[Floats]:
    """Path data as polylines, one a subpath; data that stops being readable is drawn up to there (SVG 2, 9.5.4)."""
    subpaths: list[list[Floats]] = []
    for segment in _segments(d):
        if isinstance(segment, Move):
            subpaths.append([_point(segment.end)])
            continue
        if not subpaths:
            continue
        points = subpaths[-1]
        if isinstance(segment, Arc):
            for curve in segment.as_cubic_curves():
                points.append(_cubic(curve, scale))
        elif isinstance(segment, CubicBezier):
            points.append(_cubic(segment, scale))
        elif isinstance(segment, QuadraticBezier):
            start, control, end = (_point(p)[0] for p in (segment.start, segment.control, segment.end))
            raised = np.array([start, start + 2 / 3 * (control - start), end + 2 / 3 * (control - end), end])
            points.append(cubic_points(raised, scale)[1:])
        elif isinstance(segment, Line | Close):
            points.append(_point(segment.end if segment.end is not None else segment.start))
    joined = [np.concatenate(points) for points in subpaths]
    return [points for points in joined if len(points) > 1 and np.isfinite(points).all()]


def _segments(d: str) -> list:
    try:
        return list(Path(d))
    except (ValueError, TypeError, IndexError, AttributeError):
        # Drop commands from the end until the rest can be read.
        cut = max(d.rfind(letter, 0, len(d) - 1) for letter in "MmLlHhVvCcSsQqTtAaZz")
        return _segments(d[:cut]) if cut > 0 else []


def _point(point) -> Floats:
    return np.array([[point.x, point.y]], dtype=float)


def _cubic(curve, scale: float) -> Floats:
    control = np.concatenate([_point(p) for p in (curve.start, curve.control1, curve.control2, curve.end)])
    return cubic_points(control, scale)[1:]


def _image_box(element: etree._Element, context: _Context) -> BaseGeometry:
    x, y, width, height = _at(element, context, ("x", "y", "width", "height"))
    return box(x, y, x + width, y + height)


def _text_box(element: etree._Element, context: _Context) -> BaseGeometry:
    """About where a text lies: its font is the machine's, so its letters cannot be measured here."""
    size = length(own_style(element).get("font-size") or context.style["font-size"], FONT_SIZE, FONT_SIZE)
    x, y = _at(element, context, ("x", "y"))
    width = max(len("".join(element.itertext()).strip()), 1) * size * _LETTER
    left = x - {"middle": width / 2, "end": width}.get(context.style["text-anchor"], 0.0)
    return box(left, y - 0.9 * size, left + width, y + 0.25 * size)
