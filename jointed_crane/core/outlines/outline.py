"""Outlines: fills and strokes as areas, and what is painted as closed rings with bounds.

A picture of ordinary size is measured exactly; one whose lines are so many that they would cross each other without end
is drawn onto a grid of bounded size and traced (`tracing`). Either way the work follows the size of the drawing.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np
import shapely
from shapely.geometry import LineString, MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

from jointed_crane.core.geometry.coordinates import Bounds, Ring
from jointed_crane.core.outlines.patches import MOST_VERTICES, SIMPLIFIED, Floats, Patch, Stroke
from jointed_crane.core.outlines.tracing import traced

#: Patches of which fewer are measured one by one.
_FEW = 8
#: Beyond these an outline is traced: patches, points, and crossings as many as lines laid at random would have.
_MOST_PATCHES = 400
_MOST_EXACT_POINTS = 12_000
_MOST_CROSSINGS = 4_000


def outline(patches: Sequence[Patch]) -> tuple[Bounds, tuple[Ring, ...]] | None:
    """Bounds and outline of everything painted together, or None where nothing is.

    Returns
    -------
    bounds : left, top, right, bottom
    rings : closed rings for the even-odd rule, simplified
    """
    if _is_light(patches):
        return painted(_areas_of(patches))
    # The tracer needs this module's patches, and only large drawings need the tracer.
    return traced(patches)


def _is_light(patches: Sequence[Patch]) -> bool:
    """Whether measuring exactly costs little: few lines, and few crossings to be expected of their lengths."""
    everything = [*patches, *(clip for patch in patches for group in patch.clips for clip in group)]
    if len(everything) > _MOST_PATCHES:
        return False
    lines = [points for patch in everything for points in patch.on_page if len(points) > 1]
    count = sum(map(len, lines))
    if not lines or count > _MOST_EXACT_POINTS:
        return not lines
    points = np.concatenate(lines)
    is_within = np.ones(count - 1, dtype=np.bool_)
    is_within[np.cumsum([len(line) for line in lines])[:-1] - 1] = False  # from one line to the next is no step
    steps = np.abs(np.diff(points, axis=0)[is_within]).mean(axis=0)
    size = np.ptp(points, axis=0)
    return bool(2 * count**2 * steps.prod() <= _MOST_CROSSINGS * max(size.prod(), 1e-12))


def _areas_of(patches: Sequence[Patch]) -> list[BaseGeometry]:
    """What each patch paints; plain ones are made together, since drawings have tens of thousands."""
    plain = [patch for patch in patches if _is_one_ring(patch)]
    if len(plain) < _FEW:
        return [area_of(patch) for patch in patches]
    rings = [patch.on_page[0] for patch in plain]
    owner = np.repeat(np.arange(len(rings)), [len(ring) for ring in rings])
    made = shapely.polygons(shapely.linearrings(np.concatenate(rings), indices=owner))
    crosses = ~shapely.is_valid(made)
    made[crosses] = wound(made[crosses])
    return [*made, *(area_of(patch) for patch in patches if not _is_one_ring(patch))]


def _is_one_ring(patch: Patch) -> bool:
    is_filled = patch.stroke is None and not patch.clips and not patch.is_even_odd
    return is_filled and len(patch.lines) == 1 and len(patch.lines[0]) >= 3


def area_of(patch: Patch) -> BaseGeometry:
    """What a patch paints, measured exactly."""
    if patch.stroke is None:
        area = filled_area(patch.lines, patch.is_even_odd)
    else:
        area = stroked_area(patch.lines, patch.stroke)
    area = transformed(area, patch.matrix)
    for group in patch.clips:
        area = area.intersection(shapely.unary_union([area_of(clip) for clip in group]))
    return area


def filled_area(subpaths: Sequence[Floats], is_even_odd: bool = False) -> BaseGeometry:
    """What a fill paints: closed polylines by the even-odd rule, or joined for the nonzero rule.

    Under the nonzero rule a hole is a ring that runs against the ring around it.
    """
    rings = [Polygon(points) for points in subpaths if len(points) >= 3]
    if len(rings) == 1 and rings[0].is_valid:  # most shapes by far
        return rings[0]
    area: BaseGeometry = MultiPolygon()
    if is_even_odd:
        for ring in rings:
            area = area.symmetric_difference(shapely.make_valid(ring))
        return area
    parts = [(part, 1 if ring.exterior.is_ccw else -1) for ring in rings if (part := wound(ring)).area > 0]
    parts.sort(key=lambda part: -part[0].area)
    if len({sign for _, sign in parts}) < 2:  # no ring runs against another: none is a hole
        return shapely.unary_union([part for part, _ in parts]) if len(parts) > 1 else next((a for a, _ in parts), area)
    for part, sign in parts:
        is_hole = sign != parts[0][1] and area.covers(part.representative_point())
        area = area.difference(part) if is_hole else area.union(part)
    return area


def wound(rings: Any) -> Any:
    """What rings go round, however they cross themselves: a polygon, or an array of them, as areas of the nonzero rule
    (tested against winding numbers on a grid; the other method of making valid is the even-odd rule).
    """
    return shapely.make_valid(rings, method="structure", keep_collapsed=False)


def stroked_area(subpaths: Sequence[Floats], stroke: Stroke) -> BaseGeometry:
    """What a stroke paints round polylines; a polyline whose ends meet has no caps."""
    caps = {"butt": "flat", "round": "round", "square": "square"}
    joins = {"miter": "mitre", "round": "round", "bevel": "bevel"}
    pieces = []
    for points in subpaths:
        if len(points) < 2:
            continue
        is_closed = len(points) > 3 and bool(np.allclose(points[0], points[-1]))
        line = LineString(points) if not is_closed else Polygon(points).exterior
        pieces.append(
            line.buffer(
                stroke.width / 2,
                quad_segs=24,
                cap_style=caps[stroke.cap],
                join_style=joins[stroke.join],
                mitre_limit=max(stroke.miter_limit, 1.0),
            )
        )
    return shapely.unary_union(pieces) if pieces else MultiPolygon()


def transformed(area: BaseGeometry, matrix: Floats) -> BaseGeometry:
    """An area under a planar matrix of shape (3, 3)."""
    return shapely.transform(area, lambda points: points @ matrix[:2, :2].T + matrix[:2, 2])


def painted(areas: Iterable[BaseGeometry]) -> tuple[Bounds, tuple[Ring, ...]] | None:
    """Bounds and outline of everything painted together, or None where nothing is.

    Returns
    -------
    bounds : left, top, right, bottom
    outline : closed rings for the even-odd rule, simplified
    """
    result = np.array([*areas], dtype=object)
    kept = result[~shapely.is_empty(result)]
    if not len(kept):
        return None
    is_valid = shapely.is_valid(kept)
    # Areas that lie apart are not laid over each other; a drawing of many small shapes takes a sixth of the time.
    whole = shapely.disjoint_subset_union_all([*kept[is_valid], *map(shapely.make_valid, kept[~is_valid])])
    left, top, right, bottom = (float(value) for value in whole.bounds)
    return (left, top, right, bottom), rings_of(whole)


def rings_of(area: BaseGeometry) -> tuple[Ring, ...]:
    """The rings of an area, simplified until they are few enough to be sent to a page."""
    tolerance = SIMPLIFIED
    simple = area.simplify(tolerance)
    while shapely.get_num_coordinates(simple) > MOST_VERTICES and tolerance < 64:
        tolerance *= 2
        simple = area.simplify(tolerance)
    parts = shapely.get_parts(simple)
    rings = shapely.get_rings(parts[shapely.get_type_id(parts) == shapely.GeometryType.POLYGON])
    corners = [(x, y) for x, y in np.round(shapely.get_coordinates(rings), 3).tolist()]
    ends = np.cumsum(shapely.get_num_coordinates(rings)).tolist()
    return tuple(tuple(corners[begin : end - 1]) for begin, end in zip([0, *ends], ends, strict=False))


def feet_on_sides(ring: Floats, points: Floats) -> Floats:
    """The point of each side of a closed ring that is nearest to each point.

    Parameters
    ----------
    ring : array, shape (sides, 2); side i runs from vertex i to the next one
    points : array, shape (points, 2)

    Returns
    -------
    feet : array, shape (points, sides, 2), in the unit of both
    """
    ways = np.roll(ring, -1, axis=0) - ring
    lengths = np.maximum((ways**2).sum(axis=-1), 1e-30)  # a side without length is its vertex
    shares = np.clip(((points[:, None] - ring) * ways).sum(axis=-1) / lengths, 0, 1)
    return np.asarray(ring + shares[..., None] * ways, dtype=np.float64)
