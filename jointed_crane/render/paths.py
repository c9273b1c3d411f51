"""Outlines as the rasteriser's paths: of path data, of SVG's basic shapes, and of the app's own shapes."""

from __future__ import annotations

from collections.abc import Mapping

import skia
from fontTools.pens.basePen import AbstractPen

from jointed_crane.core.model.forms import Shape, contours_of, is_closed, sides
from jointed_crane.formats.svg.path_data import follow
from jointed_crane.formats.svg.viewports import NUMBER

_Point = tuple[float, float]


def path_of_data(d: str) -> skia.Path:
    """Path data (SVG 2, 9.3)."""
    pen = _Pen()
    follow(d, pen)
    return pen.builder.detach()


def path_of_form(tag: str, at: Mapping[str, float], points: str = "") -> skia.Path | None:
    """A basic shape (SVG 2, chapter 10) from its geometry in px; None where it has no size."""
    builder = skia.PathBuilder()
    if tag == "rect":
        width, height, rx, ry = at["width"], at["height"], at["rx"], at["ry"]
        if width <= 0 or height <= 0:
            return None
        rx, ry = (rx if rx >= 0 else max(ry, 0.0)), (ry if ry >= 0 else max(rx, 0.0))
        box = skia.Rect.MakeXYWH(at["x"], at["y"], width, height)
        rounded = skia.RRect.MakeRectXY(box, min(rx, width / 2), min(ry, height / 2))
        return builder.addRRect(rounded).detach()
    if tag in ("circle", "ellipse"):
        rx, ry = (at["r"], at["r"]) if tag == "circle" else (at["rx"], at["ry"])
        if rx <= 0 or ry <= 0:
            return None
        return builder.addOval(skia.Rect.MakeLTRB(at["cx"] - rx, at["cy"] - ry, at["cx"] + rx, at["cy"] + ry)).detach()
    if tag == "line":
        return builder.moveTo(at["x1"], at["y1"]).lineTo(at["x2"], at["y2"]).detach()
    numbers = [float(number) for number in NUMBER.findall(points)]
    corners = [skia.Point(x, y) for x, y in zip(numbers[::2], numbers[1::2], strict=False)]
    if len(corners) < 2:
        return None
    return builder.addPolygon(corners, tag == "polygon").detach()


def path_of_shape(shape: Shape) -> skia.Path:
    """A shape of the app's own, px in its own coordinates."""
    builder = skia.PathBuilder()
    for contour in contours_of(shape):
        beziers = sides(contour, is_closed(shape)).tolist()
        if not beziers:
            continue
        builder.moveTo(*beziers[0][0])
        for _, leaving, arriving, end in beziers:
            builder.cubicTo(*leaving, *arriving, *end)
        if is_closed(shape):
            builder.close()
    return builder.detach()


class _Pen(AbstractPen):
    def __init__(self) -> None:
        self.builder = skia.PathBuilder()

    def moveTo(self, point: _Point) -> None:  # noqa: N802 - the names of the font library's pens
        self.builder.moveTo(*point)

    def lineTo(self, point: _Point) -> None:  # noqa: N802
        self.builder.lineTo(*point)

    def curveTo(self, *points: _Point) -> None:  # noqa: N802
        self.builder.cubicTo(*(number for point in points for number in point))

    def qCurveTo(self, *points: _Point) -> None:  # noqa: N802
        self.builder.quadTo(*(number for point in points for number in point))

    def closePath(self) -> None:  # noqa: N802
        self.builder.close()

    def endPath(self) -> None:  # noqa: N802
        """Nothing is left to draw."""
