"""Names for what coordinates are made of: points, vectors, boxes, rings and rotations as plain tuples of numbers."""

from __future__ import annotations

#: x, y in px.
Point = tuple[float, float]
#: x, y, z in px.
Vector = tuple[float, float, float]
#: A rotation as a unit quaternion x, y, z, w.
Quaternion = tuple[float, float, float, float]
#: Left, top, right, bottom in px.
Bounds = tuple[float, float, float, float]
#: The corners of a closed line, px.
Ring = tuple[Point, ...]
#: The rotation that turns nothing.
UPRIGHT: Quaternion = (0.0, 0.0, 0.0, 1.0)
