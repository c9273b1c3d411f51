"""Outlines of path data and of SVG's basic shapes (SVG 2, chapters 9 and 10), as cubics."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np
from fontTools.pens.basePen import AbstractPen

from jointed_crane.core.geometry.coordinates import Bounds
from jointed_crane.core.model.forms import QUARTER
from jointed_crane.formats.svg.display.nodes import Contour, Curve, Point
from jointed_crane.formats.svg.path_data import follow
from jointed_crane.formats.svg.viewports import NUMBER


def contours_of_data(d: str) -> tuple[Contour, ...]:
    """Path data (SVG 2, 9.3)."""
    pen = _Pen()
    follow(d, pen)
    pen.endPath()
    return tuple(pen.contours)


def contours_of_form(tag: str, at: Mapping[str, float], points: str = "") -> tuple[Contour, ...]:
    """A basic shape (SVG 2, chapter 10) from its geometry in px; none where it has no size."""
    if tag == "rect":
        width, height, rx, ry = at["width"], at["height"], at["rx"], at["ry"]
        if width <= 0 or height <= 0:
            return ()
        rx, ry = (rx if rx >= 0 else max(ry, 0.0)), (ry if ry >= 0 else max(rx, 0.0))
        return (_box(at["x"], at["y"], width, height, min(rx, width / 2), min(ry, height / 2)),)
    if tag in ("circle", "ellipse"):
        rx, ry = (at["r"], at["r"]) if tag == "circle" else (at["rx"], at["ry"])
        return (_box(at["cx"] - rx, at["cy"] - ry, 2 * rx, 2 * ry, rx, ry),) if rx > 0 and ry > 0 else ()
    if tag == "line":
        return (lines([(at["x1"], at["y1"]), (at["x2"], at["y2"])], is_closed=False),)
    numbers = [float(number) for number in NUMBER.findall(points)]
    corners = list(zip(numbers[::2], numbers[1::2], strict=False))
    return (lines(corners, tag == "polygon"),) if len(corners) > 1 else ()


def bounds_of(contours: Iterable[Contour]) -> Bounds | None:
    """Left, top, right, bottom of the curves themselves, handles left out; None without any."""
    cubics = [[at, *curve] for contour in contours for at, curve in _steps(contour)]
    if not cubics:
        return None
    points = np.array(cubics)
    p0, p1, p2, p3 = points.swapaxes(0, 1)
    # Where the slope of each coordinate is nothing: a u^2 + b u + c = 0.
    a, b, c = p3 - 3 * p2 + 3 * p1 - p0, 2 * (p2 - 2 * p1 + p0), p1 - p0
    with np.errstate(all="ignore"):
        root = np.sqrt(np.maximum(b * b - 4 * a * c, 0.0))
        ways = np.stack([(-b + root) / (2 * a), (-b - root) / (2 * a), -c / b])
    u = np.where(np.isfinite(ways), np.clip(ways, 0.0, 1.0), 0.0)
    v = 1 - u
    turns = v**3 * p0 + 3 * v**2 * u * p1 + 3 * v * u**2 * p2 + u**3 * p3
    every = np.concatenate([p0, p3, *turns])
    (left, top), (right, bottom) = every.min(axis=0).tolist(), every.max(axis=0).tolist()
    return (left, top, right, bottom)


def _steps(contour: Contour) -> Iterable[tuple[Point, Curve]]:
    at = contour.start
    for curve in contour.curves:
        yield at, curve
        at = curve[2]


def lines(corners: list[Point], is_closed: bool) -> Contour:
    """Straight lines from corner to corner."""
    sides = zip(corners, corners[1:], strict=False)
    return Contour(corners[0], tuple((begin, end, end) for begin, end in sides), is_closed)


def _box(x: float, y: float, width: float, height: float, rx: float, ry: float) -> Contour:
    """A box with round corners; with radii of half its size it is an ellipse. It begins and goes round as SVG 2 says in
    10.2 and 10.3, so that dashes lie where they belong.
    """
    right, bottom = x + width, y + height
    if rx <= 0 or ry <= 0:
        return lines([(x, y), (right, y), (right, bottom), (x, bottom)], is_closed=True)
    kx, ky = rx * (1 - QUARTER), ry * (1 - QUARTER)
    sides: list[tuple[Point, Curve]] = [
        ((right - rx, y), ((right - kx, y), (right, y + ky), (right, y + ry))),
        ((right, bottom - ry), ((right, bottom - ky), (right - kx, bottom), (right - rx, bottom))),
        ((x + rx, bottom), ((x + kx, bottom), (x, bottom - ky), (x, bottom - ry))),
        ((x, y + ry), ((x, y + ky), (x + kx, y), (x + rx, y))),
    ]
    if rx == width / 2 and ry == height / 2:  # an ellipse begins at its right
        curves = [corner for _, corner in sides]
        return Contour((right, y + ry), (*curves[1:], curves[0]), is_closed=True)
    start: Point = (x + rx, y)
    at, made = start, []
    for begin, corner in sides:
        made += [(at, begin, begin), corner] if at != begin else [corner]
        at = corner[2]
    return Contour(start, tuple(made), is_closed=True)


class _Pen(AbstractPen):
    """Collects path commands as contours."""

    def __init__(self) -> None:
        self.contours: list[Contour] = []
        self._start: Point | None = None
        self._curves: list[Curve] = []

    @property
    def _at(self) -> Point:
        return self._curves[-1][2] if self._curves else self._start or (0.0, 0.0)

    def _ended(self, is_closed: bool) -> None:
        if self._start is not None and (self._curves or is_closed):
            self.contours.append(Contour(self._start, tuple(self._curves), is_closed))
        self._curves = []

    def moveTo(self, point: Point) -> None:  # noqa: N802 - the names of the font library's pens
        self._ended(is_closed=False)
        self._start = point

    def lineTo(self, point: Point) -> None:  # noqa: N802
        self._curves.append((self._at, point, point))

    def curveTo(self, *points: Point) -> None:  # noqa: N802
        leaving, arriving, end = points
        self._curves.append((leaving, arriving, end))

    def qCurveTo(self, *points: Point) -> None:  # noqa: N802
        """A quadratic as the same cubic: handles reach two thirds of the way to its control point."""
        (control_x, control_y), end = points
        leaving, arriving = ((x + 2 / 3 * (control_x - x), y + 2 / 3 * (control_y - y)) for x, y in (self._at, end))
        self._curves.append((leaving, arriving, end))

    def closePath(self) -> None:  # noqa: N802
        self._ended(is_closed=True)

    def endPath(self) -> None:  # noqa: N802
        self._ended(is_closed=False)
