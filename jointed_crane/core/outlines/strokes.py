"""Strokes as convex polygons that overlap, to be drawn onto a grid."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from jointed_crane.core.outlines.patches import Floats, Stroke

#: Corners of the discs at round ends and corners.
_DISC = np.stack([np.cos(np.arange(16) * np.pi / 8), np.sin(np.arange(16) * np.pi / 8)], axis=1)


def stroked(lines: Sequence[Floats], stroke: Stroke) -> Iterator[Floats]:
    """A stroke as convex pieces that overlap, arrays of shape (pieces, corners, 2): a box for each side, and what fills
    corners and ends.
    """
    half = stroke.width / 2
    for points in lines:
        keep = np.concatenate([[True], (np.diff(points, axis=0) != 0).any(axis=1)])
        points = points[keep]
        if len(points) < 2:
            continue
        is_closed = len(points) > 3 and bool(np.allclose(points[0], points[-1]))
        ways = np.diff(points, axis=0)
        ways = ways / np.linalg.norm(ways, axis=1, keepdims=True)
        across = half * np.stack([-ways[:, 1], ways[:, 0]], axis=1)
        starts, ends = points[:-1].copy(), points[1:].copy()
        if stroke.cap == "square" and not is_closed:
            starts[0] -= half * ways[0]
            ends[-1] += half * ways[-1]
        yield np.stack([starts + across, ends + across, ends - across, starts - across], axis=1)
        corners = points[:-1] if is_closed else points[1:-1]
        before = np.roll(across, 1, axis=0) if is_closed else across[:-1]
        yield from _corners(corners, before, across if is_closed else across[1:], stroke)
        if stroke.cap == "round" and not is_closed:
            yield points[[0, -1], None] + half * _DISC


def clockwise(polygons: Floats) -> Floats:
    """Polygons, shape (polygons, corners, 2), all turned the same way round, so that where they overlap they add up."""
    x, y = polygons[..., 0], polygons[..., 1]
    areas = (x * np.roll(y, -1, axis=1) - np.roll(x, -1, axis=1) * y).sum(axis=1)
    return np.where((areas >= 0)[:, None, None], polygons, polygons[:, ::-1])


def _corners(points: Floats, before: Floats, after: Floats, stroke: Stroke) -> Iterator[Floats]:
    """What fills the corners of a stroke: discs, or the triangles of a bevel with the tips of a miter."""
    if stroke.join == "round":
        yield points[:, None] + stroke.width / 2 * _DISC
        return
    yield np.stack([points, points + before, points + after], axis=1)
    yield np.stack([points, points - before, points - after], axis=1)
    if stroke.join == "miter":
        middle = before + after
        length = (middle**2).sum(axis=1)
        # The tip lies along the sum of the normals; its reach over the half width is the miter ratio (SVG 2, 13.5.5).
        with np.errstate(divide="ignore", invalid="ignore"):
            tip = middle * (2 * (before**2).sum(axis=1) / length)[:, None]
            ratio = 2 * np.linalg.norm(before, axis=1) / np.sqrt(length)
        sharp = ratio <= max(stroke.miter_limit, 1.0)
        for side in (1.0, -1.0):
            tips = np.stack([points, points + side * before, points + side * tip, points + side * after], axis=1)
            yield tips[sharp]
