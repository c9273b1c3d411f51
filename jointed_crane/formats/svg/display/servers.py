"""What shapes are painted with: plain colours, gradients and patterns (SVG 2, chapters 13 and 14)."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Literal

import numpy as np
from lxml import etree

from jointed_crane.core.geometry.coordinates import Bounds
from jointed_crane.formats.svg.display.colours import colour_of
from jointed_crane.formats.svg.display.context import INITIAL, Context, share
from jointed_crane.formats.svg.display.nodes import (
    IDENTITY,
    Coat,
    Colour,
    Figure,
    Floats,
    Gradient,
    Group,
    Paint,
    Pattern,
    Pen,
)
from jointed_crane.formats.svg.display.outlines import bounds_of
from jointed_crane.formats.svg.styles import own_style
from jointed_crane.formats.svg.tags import local_name, reference
from jointed_crane.formats.svg.transforms import matrix_of
from jointed_crane.formats.svg.viewports import NUMBER, Viewport, length

_URL = re.compile(r"url\(\s*[\"']?#([^)\"']*)[\"']?\s*\)\s*(.*)")
_CAPS: dict[str, Literal["round", "square"]] = {"round": "round", "square": "square"}
_JOINS: dict[str, Literal["round", "bevel"]] = {"round": "round", "bevel": "bevel"}
_SPREADS: dict[str, Literal["reflect", "repeat"]] = {"reflect": "reflect", "repeat": "repeat"}
#: References of gradients to gradients that are followed.
_DEEPEST = 20


class Servers:
    """The paints of one drawing's shapes; `contents` tells what is in an element, as patterns need."""

    def __init__(
        self, by_id: Mapping[str, etree._Element], contents: Callable[[etree._Element, Context], Group]
    ) -> None:
        self._by_id = by_id
        self._contents = contents

    def coats(self, figure: Figure, context: Context, opacity: float = 1.0) -> tuple[Coat, ...]:
        """The fill and the stroke of a shape as its style says, from back to front."""
        fill, stroke = self._paint("fill", figure, context), None
        width = context.px(context.style.get("stroke-width"), 1.0)
        if width > 0:
            stroke = self._paint("stroke", figure, context)
        coats = [
            None if paint is None else Coat(paint, opacity * share(context.style.get(f"{kind}-opacity")), line)
            for kind, paint, line in (("fill", fill, None), ("stroke", stroke, _stroke(width, context)))
        ]
        if context.style.get("paint-order", "normal").split()[0] == "stroke":
            coats.reverse()
        return tuple(coat for coat in coats if coat is not None)

    def _paint(self, kind: str, figure: Figure, context: Context) -> Paint | None:
        text, current = context.style[kind].strip(), context.style["color"]
        named = _URL.match(text)
        if named:
            server = self._by_id.get(named[1])
            if server is not None:
                return self._served(server, figure, context)
            text = named[2].strip() or "none"
        return None if text in ("none", "transparent", "") else colour_of(text, current)

    def _served(self, server: etree._Element, figure: Figure, context: Context) -> Paint | None:
        """A gradient or a pattern; a plain colour where it comes to one, None where it shows nothing."""
        lineage = self._lineage(server)
        tag, box = local_name(server), bounds_of(figure.contours)
        if tag == "pattern":
            return self._pattern(lineage, box, context)
        return _gradient(tag, lineage, box, context) if tag in ("linearGradient", "radialGradient") else None

    def _lineage(self, server: etree._Element) -> list[etree._Element]:
        """A paint server and those that it takes after, one by one."""
        lineage = [server]
        while len(lineage) < _DEEPEST:
            above = self._by_id.get(reference(lineage[-1]) or "")
            if above is None or above in lineage:
                break
            lineage.append(above)
        return lineage

    def _pattern(self, lineage: list[etree._Element], box: Bounds | None, context: Context) -> Pattern | None:
        holder = next((one for one in lineage if len(one)), None)
        said = _said(lineage)
        in_box = said.get("patternUnits", "objectBoundingBox") == "objectBoundingBox"
        if holder is None or box is None or (in_box and _is_empty(box)):
            return None
        wide, high = (1.0, 1.0) if in_box else context.size
        x, y = length(said.get("x"), wide), length(said.get("y"), high)
        width, height = length(said.get("width"), wide), length(said.get("height"), high)
        if in_box:
            left, top, right, bottom = box
            x, width = left + x * (right - left), width * (right - left)
            y, height = top + y * (bottom - top), height * (bottom - top)
        if width <= 0 or height <= 0:
            return None
        view = [float(number) for number in NUMBER.findall(said.get("viewBox", ""))]
        inner, matrix = replace(context, style=INITIAL), IDENTITY
        if len(view) == 4 and view[2] > 0 and view[3] > 0:
            fitted = Viewport(width, height, (view[0], view[1], view[2], view[3]), said.get("preserveAspectRatio", ""))
            matrix = fitted.matrix()
            inner = replace(inner, size=(view[2], view[3]))
        elif said.get("patternContentUnits") == "objectBoundingBox":
            matrix = np.diag([box[2] - box[0], box[3] - box[1], 1.0])
        content = self._contents(holder, inner.inside(holder)[1])
        shift = np.array([[1.0, 0, x], [0, 1.0, y], [0, 0, 1.0]])
        return Pattern(
            (width, height), replace(content, matrix=matrix), _transform(said.get("patternTransform")) @ shift
        )


def of_box(box: Bounds) -> Floats:
    """From the square of objectBoundingBox units to user space (SVG 2, 8.10)."""
    left, top, right, bottom = box
    return np.array([[right - left, 0, left], [0, bottom - top, top], [0, 0, 1.0]])


def _is_empty(box: Bounds) -> bool:
    return box[2] <= box[0] or box[3] <= box[1]


def _stroke(width: float, context: Context) -> Pen:
    style = context.style
    dashes = [context.px(text) for text in re.split(r"[\s,]+", style.get("stroke-dasharray", "none").strip())]
    is_dashed = sum(dashes) > 0 and min(dashes) >= 0
    return Pen(
        width,
        _CAPS.get(style.get("stroke-linecap", ""), "butt"),
        _JOINS.get(style.get("stroke-linejoin", ""), "miter"),
        max(length(style.get("stroke-miterlimit"), 1.0, 4.0), 1.0),
        tuple(dashes * (1 + len(dashes) % 2)) if is_dashed else (),
        context.px(style.get("stroke-dashoffset")) if is_dashed else 0.0,
    )


def _gradient(tag: str, lineage: list[etree._Element], box: Bounds | None, context: Context) -> Paint | None:
    holder = next((one for one in lineage if any(local_name(child) == "stop" for child in one)), None)
    if holder is None:
        return None
    stops: list[tuple[float, Colour]] = []
    for offset, colour in (_stop(child, context) for child in holder if local_name(child) == "stop"):
        stops.append((max(offset, stops[-1][0] if stops else 0.0), colour))
    if len(stops) == 1:
        return stops[0][1]
    said = _said(lineage)
    in_box = said.get("gradientUnits", "objectBoundingBox") == "objectBoundingBox"
    matrix = _transform(said.get("gradientTransform"))
    if in_box:
        if box is None or _is_empty(box):
            return None
        matrix = of_box(box) @ matrix
    (width, height), diagonal = ((1.0, 1.0), 1.0) if in_box else (context.size, context.px("100%"))
    if tag == "linearGradient":
        wholes = {"x1": (width, 0.0), "y1": (height, 0.0), "x2": (width, width), "y2": (height, 0.0)}
        places = [length(said.get(name), whole, unsaid) for name, (whole, unsaid) in wholes.items()]
    else:
        cx, cy = length(said.get("cx"), width, width / 2), length(said.get("cy"), height, height / 2)
        focus = [
            length(said.get(name), whole, unsaid)
            for name, whole, unsaid in (("fx", width, cx), ("fy", height, cy), ("fr", diagonal, 0.0))
        ]
        places = [*focus, cx, cy, length(said.get("r"), diagonal, diagonal / 2)]
    return Gradient(tuple(places), tuple(stops), _SPREADS.get(said.get("spreadMethod", ""), "pad"), matrix)


def _said(lineage: list[etree._Element]) -> dict[str, str]:
    """What the nearest of a paint server and those that it takes after says of each attribute."""
    result: dict[str, str] = {}
    for one in reversed(lineage):
        result |= {**one.attrib, **own_style(one)}
    return result


def _transform(text: str | None) -> Floats:
    try:
        return matrix_of(text) if text and text != "none" else IDENTITY
    except (ValueError, OverflowError):
        return IDENTITY


def _stop(stop: etree._Element, context: Context) -> tuple[float, Colour]:
    """Where a stop lies, 0 to 1, and its colour."""
    own = {**stop.attrib, **own_style(stop)}
    red, green, blue, alpha = colour_of(own.get("stop-color", "black"), own.get("color", context.style["color"])) or (
        0.0,
        0.0,
        0.0,
        1.0,
    )
    return share(own.get("offset"), 0.0), (red, green, blue, alpha * share(own.get("stop-opacity")))
