"""What of a picture one piece of its plane shows: a little more than the piece, so that no seam is seen at its edges.

Pieces have a handful of corners and there are a few dozen of them in a frame: plain numbers, a point of the art as one
complex number, are several times as fast here as arrays.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from jointed_crane.core.viewing.planes import Corner

Floats = npt.NDArray[np.float64]
#: Corners of a convex polygon.
Clip = list[tuple[float, float]]
#: By how much a piece that is painted before another of its plane reaches over their common line, px of the view: else
#: both edges, each smoothed, would let what is behind shine through.
_OVERLAP = 1.0
#: How far a piece reaches beyond the box of its picture, so that no smoothed edge is cut off, px of the art.
_ROOM = 4.0


class Edge(NamedTuple):
    """An edge of a convex piece of a picture: where it starts, the way to its end and, as a unit, outwards, px in art
    space; and whether it is a cut, and none of the picture's own outline.
    """

    start: complex
    way: complex
    outward: complex
    is_cut: bool


def edges_of(corners: Sequence[Corner], onto_art: list[list[float]], outline: Floats) -> list[Edge]:
    """The edges of a piece, none where it has no area.

    Parameters
    ----------
    corners : px in space
    onto_art : x and y of the art as linear forms of (x, y, z, 1)
    outline : array, shape (corners, 2), round the whole picture, px in art space
    """
    (ax, bx, cx, x), (ay, by, cy, y) = onto_art
    own = [complex(ax * a + bx * b + cx * c + x, ay * a + by * b + cy * c + y) for a, b, c in corners]
    around = _ways_around(own)
    longest = max(map(abs, around), default=0.0)
    own = [corner for corner, way in zip(own, around, strict=True) if abs(way) > 1e-9 * max(longest, 1e-12)]
    around = _ways_around(own)
    if len(own) < 3 or not all(around):
        return []
    area = sum(_cross(corner - own[0], way) for corner, way in zip(own, around, strict=True))
    sides = _sides_of(outline)
    on = [_on_which(sides, corner) for corner in own]
    return [
        Edge(corner, way, way / abs(way) * (-1j if area > 0 else 1j), not on[number] & on[number + 1 - len(own)])
        for number, (corner, way) in enumerate(zip(own, around, strict=True))
    ]


def clip_of(edges: list[Edge], map_: Floats, is_last: bool) -> Clip:
    """A piece with each edge moved outwards: those on the picture's outline by some room, those of a cut by an overlap
    unless the piece is painted after all others of its plane.

    Parameters
    ----------
    map_ : array, shape (3, 3), from the art to the view, as `plane_maps` gives it

    Returns
    -------
    clip : its corners, px in art space
    """
    numbers = map_.tolist()
    moved_by = [_ROOM if not edge.is_cut else 0.0 if is_last else _OVERLAP / _px_seen(numbers, edge) for edge in edges]
    # Each corner goes to where the two edges beside it, as moved, meet.
    far = [_dot(edge.outward, edge.start) + by for edge, by in zip(edges, moved_by, strict=True)]
    result = []
    for number, edge in enumerate(edges):
        before, outward = edges[number - 1].outward, edge.outward
        turn = _cross(before, outward)
        met = edge.start + outward * moved_by[number]
        if abs(turn) >= 1e-9:
            met = -1j * (far[number - 1] * outward - far[number] * before) / turn
        result.append((met.real, met.imag))
    return result


def _sides_of(outline: Floats) -> tuple[list[tuple[complex, float]], float]:
    """The lines of an outline's sides as (normal, how far it lies along that), and how near counts as on one, px."""
    corners = [complex(x, y) for x, y in outline.tolist()]
    around = _ways_around(corners)
    lines = []
    for corner, way in zip(corners, around, strict=True):
        if way:
            normal = 1j * way / abs(way)
            lines.append((normal, _dot(normal, corner)))
    return lines, 1e-7 * max(1.0, *map(abs, around))


def _on_which(sides: tuple[list[tuple[complex, float]], float], corner: complex) -> set[int]:
    """On which sides of the outline a corner lies."""
    lines, near = sides
    return {number for number, (normal, far) in enumerate(lines) if abs(_dot(normal, corner) - far) < near}


def _ways_around(corners: list[complex]) -> list[complex]:
    """From each corner to the next, from the last to the first."""
    return [after - corner for corner, after in zip(corners, [*corners[1:], *corners[:1]], strict=True)]


def _px_seen(map_: list[list[float]], edge: Edge) -> float:
    """How far from an edge one px of the art is seen beyond it, px of the view: a plane that is seen at a slant is seen
    narrower across than along. 1 where nothing can be said.
    """
    (ax, bx, cx), (ay, by, cy), (aw, bw, cw) = map_
    at = edge.start + edge.way / 2
    nearness = aw * at.real + bw * at.imag + cw
    if not nearness:
        return 1.0
    x, y = (ax * at.real + bx * at.imag + cx) / nearness, (ay * at.real + by * at.imag + cy) / nearness
    across, ahead = (
        complex(
            (ax - x * aw) * way.real + (bx - x * bw) * way.imag, (ay - y * aw) * way.real + (by - y * bw) * way.imag
        )
        / nearness
        for way in (edge.outward, edge.way)
    )
    away = abs(_cross(across, ahead)) / abs(ahead) if ahead else 0.0
    return away if away > 1e-3 else 1.0


def _dot(a: complex, b: complex) -> float:
    return a.real * b.real + a.imag * b.imag


def _cross(a: complex, b: complex) -> float:
    return a.real * b.imag - a.imag * b.real
