"""Path data (SVG 2, section 9.3) as the pieces of its subpaths."""

from __future__ import annotations

import contextlib

from fontTools.pens.basePen import AbstractPen
from fontTools.svgLib.path.parser import parse_path

from jointed_crane.core.outlines.polylines import Subpaths

_Point = tuple[float, float]


def subpaths_of(d: str, scale: float = 1.0) -> Subpaths:
    """The subpaths of path data drawn at a scale."""
    pen = _Pieces()
    follow(d, pen)
    return Subpaths(pen.controls, pen.is_side, [count for count in pen.counts if count], scale)


def follow(d: str, pen: AbstractPen) -> None:
    """Have a pen go along path data; data that stops being readable is drawn up to there (9.5.4)."""
    with contextlib.suppress(ValueError, IndexError, OverflowError, ZeroDivisionError, TypeError):
        parse_path(d, pen)


class _Pieces(AbstractPen):
    """Collects path commands as the control points of sides and curves."""

    def __init__(self) -> None:
        self.controls: list[float] = []
        self.is_side: list[bool] = []
        self.counts: list[int] = []
        self._at: _Point = (0.0, 0.0)

    def moveTo(self, point: _Point) -> None:  # noqa: N802 - the names of the font library's pens
        self.counts.append(0)
        self._at = point

    def lineTo(self, point: _Point) -> None:  # noqa: N802
        self._go((self._at, point, point), is_side=True)

    def curveTo(self, *points: _Point) -> None:  # noqa: N802
        self._go(points)

    def qCurveTo(self, *points: _Point) -> None:  # noqa: N802
        """A quadratic as the same cubic: handles reach two thirds of the way to its control point."""
        (control_x, control_y), end = points
        handles = [(x + 2 / 3 * (control_x - x), y + 2 / 3 * (control_y - y)) for x, y in (self._at, end)]
        self._go((*handles, end))

    def _go(self, points: tuple[_Point, ...], is_side: bool = False) -> None:
        leaving, arriving, end = points
        self.controls += (*self._at, *leaving, *arriving, *end)
        self.is_side.append(is_side)
        self.counts[-1] += 1
        self._at = end

    def closePath(self) -> None:  # noqa: N802
        """The parser draws the closing side itself."""

    def endPath(self) -> None:  # noqa: N802
        """Nothing is left to draw."""
