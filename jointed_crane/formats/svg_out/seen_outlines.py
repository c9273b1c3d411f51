"""Outlines as a camera sees them: curves as lines fine enough for that, and lines with a width as what they cover."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import shapely

from jointed_crane.core.viewing.seeing import near_enough, through
from jointed_crane.formats.svg.display.nodes import Contour, Figure, Pen
from jointed_crane.formats.svg_out.inlining import number

Floats = npt.NDArray[np.float64]
#: Sides that a curve becomes; a curve of a px or less takes one.
_SIDES = 12
_CAPS = {"butt": "flat", "round": "round", "square": "square"}
_JOINS = {"miter": "mitre", "round": "round", "bevel": "bevel"}


def seen_path(figure: Figure, pen: Pen | None, map_: Floats, near: float | None = None) -> str:
    """Path data of a figure, or of what a pen draws along it, through a map of shape (3, 3), px of the view. What lies
    less deep than `near`, the third number of the map, is left away: behind the camera it would be seen flipped.
    """
    rings: list[Floats] = []
    for contour in figure.contours:
        points = points_of(contour)
        if pen is None:
            rings.append(points)
        else:
            rings += _covered(points, contour.is_closed, pen)
    if near is not None:
        rings = [near_enough(ring, map_[2], near) for ring in rings]
    seen = [through(map_, ring) for ring in rings if len(ring) > 1]
    return "".join(f"M{'L'.join(f'{number(x)} {number(y)}' for x, y in np.round(ring, 3).tolist())}Z" for ring in seen)


def points_of(contour: Contour) -> Floats:
    """A contour as points along it, shape (points, 2)."""
    result = [np.array([contour.start], dtype=np.float64)]
    at = np.array(contour.start, dtype=np.float64)
    share = np.linspace(0.0, 1.0, _SIDES + 1)[1:, None]
    for first, second, end in contour.curves:
        p1, p2, p3 = (np.array(point, dtype=np.float64) for point in (first, second, end))
        if np.allclose(p1, at) and np.allclose(p2, p3):
            result.append(p3[None])
        else:
            rest = 1 - share
            result.append(rest**3 * at + 3 * rest**2 * share * p1 + 3 * rest * share**2 * p2 + share**3 * p3)
        at = p3
    return np.concatenate(result)


def _covered(points: Floats, is_closed: bool, pen: Pen) -> list[Floats]:
    """The rings of what a line with a width covers."""
    if len(points) < 2:
        return []
    line = shapely.LinearRing(points) if is_closed and len(points) > 2 else shapely.LineString(points)
    area = line.buffer(
        pen.width / 2, quad_segs=8, cap_style=_CAPS[pen.cap], join_style=_JOINS[pen.join], mitre_limit=pen.miter
    )
    polygons = getattr(area, "geoms", [area])
    return [np.array(ring.coords) for polygon in polygons for ring in (polygon.exterior, *polygon.interiors)]


def moved_figure(figure: Figure, matrix: Floats) -> Figure:
    """A figure with all its points through an affine matrix, shape (3, 3)."""

    def moved(point: tuple[float, float]) -> tuple[float, float]:
        x, y = matrix[:2, :2] @ point + matrix[:2, 2]
        return float(x), float(y)

    contours = (
        Contour(moved(one.start), tuple((moved(a), moved(b), moved(c)) for a, b, c in one.curves), one.is_closed)
        for one in figure.contours
    )
    return Figure(tuple(contours), figure.is_even_odd)
