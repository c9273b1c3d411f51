"""Outlines: curves as polylines, strokes as areas, and what is painted as closed rings with bounds.

A picture of ordinary size is measured exactly; one whose lines are so many that they would cross each other without end
is drawn onto a grid of bounded size and traced (`tracing`). Either way the work follows the size of the drawing.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np
import shapely
from shapely.geometry import LineString, MultiPolygon, Polygon
from shapely.geometry.base import BaseGeometry

from jointed_crane.core.geometry.coordinates import Bounds, Point, Ring
from jointed_crane.core.geometry.patches import MOST_VERTICES, SIMPLIFIED, Floats, Patch, Stroke
from jointed_crane.core.geometry.tracing import traced

#: How far a polyline may lie from its curve, px.
FLATNESS = 0.02
#: Most steps of one curve, and of all curves of one shape together where it has many.
_MOST_STEPS = 400
#: Patches of which fewer are measured one by one.
_FEW = 8
_MOST_POINTS = 200_000
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
    is_whole = shapely.is_valid(made) & (shapely.area(made) > 0)
    left = [patch for patch in patches if not _is_one_ring(patch)]
    left += [patch for patch, whole in zip(plain, is_whole.tolist(), strict=True) if not whole]
    return [*made[is_whole], *(area_of(patch) for patch in left)]


def _is_one_ring(patch: Patch) -> bool:
    return patch.stroke is None and not patch.clips and len(patch.lines) == 1 and len(patch.lines[0]) >= 3


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


def steps_each(count: int) -> int:
    """How many steps each of so many curves of one shape may take, so that all of them together stay bounded."""
    return min(max(_MOST_POINTS // max(count, 1), 2), _MOST_STEPS)


def cubics_points(controls: Floats, scale: float = 1.0, most: int = _MOST_STEPS) -> Floats:
    """Cubic Beziers, each going on from the one before, as a polyline within FLATNESS px of them once drawn at `scale`,
    each in at most so many steps.

    The step count is the bound from the second differences of the control points (Wang's formula; Sederberg,
    Computer Aided Geometric Design, chapter 10, from memory). A straight one takes one step.

    Parameters
    ----------
    controls : array, shape (cubics, 4, 2)

    Returns
    -------
    points : array, shape (points, 2)
    """
    bends = np.linalg.norm(controls[:, :-2] - 2 * controls[:, 1:-1] + controls[:, 2:], axis=2).max(axis=1) * scale
    wanted = np.nan_to_num(np.ceil(np.sqrt(0.75 * bends / FLATNESS)), nan=most)
    steps = np.clip(wanted, 1, most).astype(np.intp)
    owner = np.repeat(np.arange(len(controls)), steps)
    step = np.arange(1, len(owner) + 1) - np.repeat(np.cumsum(steps) - steps, steps)
    u = step / steps[owner]
    weights = np.stack([(1 - u) ** 3, 3 * u * (1 - u) ** 2, 3 * u**2 * (1 - u), u**3], axis=1)
    return np.concatenate([controls[:1, 0], np.einsum("pk,pki->pi", weights, controls[owner])])


def few_cubics_points(pieces: Sequence[Sequence[Point]], scale: float, most: int) -> Floats:
    """What `cubics_points` gives, for a few curves and sides one after the other: each piece is the end of a side, or
    the two handles and the end of a curve; the first is where the rest begins.
    """
    points = [pieces[0][-1]]
    for piece in pieces[1:]:
        x0, y0 = points[-1]
        if len(piece) == 1:
            points.append(piece[0])
            continue
        (x1, y1), (x2, y2), (x3, y3) = piece
        bend = max(math.hypot(x0 - 2 * x1 + x2, y0 - 2 * y1 + y2), math.hypot(x1 - 2 * x2 + x3, y1 - 2 * y2 + y3))
        wanted = math.sqrt(0.75 * bend * scale / FLATNESS)
        steps = most if not wanted < most else max(math.ceil(wanted), 1)
        for step in range(1, steps + 1):
            u = step / steps
            v = 1 - u
            a, b, c, d = v**3, 3 * u * v**2, 3 * u**2 * v, u**3
            points.append((a * x0 + b * x1 + c * x2 + d * x3, a * y0 + b * y1 + c * y2 + d * y3))
    return np.array(points)


def filled_area(subpaths: Sequence[Floats], is_even_odd: bool = False) -> BaseGeometry:
    """What a fill paints: closed polylines by the even-odd rule, or joined for the nonzero rule.

    Under the nonzero rule a hole is a ring that runs against the ring around it.
    """
    rings = [ring for ring in (Polygon(points) for points in subpaths if len(points) >= 3) if ring.area > 0]
    if not rings:
        return MultiPolygon()
    if len(rings) == 1 and rings[0].is_valid:  # most shapes by far
        return rings[0]
    area: BaseGeometry = MultiPolygon()
    if is_even_odd:
        for ring in rings:
            area = area.symmetric_difference(shapely.make_valid(ring))
        return area
    signs = [1 if ring.exterior.is_ccw else -1 for ring in rings]
    largest_first = sorted(range(len(rings)), key=lambda index: -rings[index].area)
    if all(sign == signs[0] for sign in signs):  # no ring runs against another: none is a hole
        return shapely.unary_union([shapely.make_valid(ring) for ring in rings])
    for index in largest_first:
        valid = shapely.make_valid(rings[index])
        is_hole = signs[index] != signs[largest_first[0]] and area.covers(valid.representative_point())
        area = area.difference(valid) if is_hole else area.union(valid)
    return area


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
