"""Flat convex polygons in space, and what holds of them whichever view looks at them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
#: x, y and z on the stage, px.
Corner = Sequence[float]
#: A corner nearer to a plane than this lies in it, px.
IN_PLANE = 1e-6


@dataclass(frozen=True, eq=False)
class PaintedPiece:
    """A piece of a polygon.

    Attributes
    ----------
    row : which of the polygons it is of
    corners : px on the stage
    is_whole : whether it is all of it
    middle, radius : a ball round it, px
    cut_from : the piece that a view needed cut further, whose part it is
    """

    row: int
    corners: Sequence[Corner]
    is_whole: bool
    middle: Corner
    radius: float
    cut_from: PaintedPiece | None = None

    def sides_of(self, plane: Sequence[float]) -> tuple[bool, bool]:
        """Whether it lies before a plane (n, -n p) and whether behind it, both where it lies in it."""
        x, y, z, far = plane
        across, down, near = self.middle
        away = x * across + y * down + z * near + far
        if abs(away) > self.radius + IN_PLANE:
            return away > 0, away < 0
        aways = [x * across + y * down + z * near + far for across, down, near in self.corners]
        return min(aways) >= -IN_PLANE, max(aways) <= IN_PLANE

    def split(self, plane: Sequence[float]) -> tuple[PaintedPiece, PaintedPiece]:
        """What of it lies behind a plane that it lies on both sides of, and what before it."""
        behind, before, _ = self._cut(plane)
        return self._part(behind), self._part(before)

    def met(self, plane: Sequence[float]) -> list[Corner]:
        """Where its edges meet a plane."""
        return self._cut(plane)[2]

    def _cut(self, plane: Sequence[float]) -> tuple[list[Corner], list[Corner], list[Corner]]:
        """The corners of what of it lies behind a plane, of what lies before it, and where its edges meet it."""
        x, y, z, far = plane
        behind: list[Corner] = []
        before: list[Corner] = []
        both: list[Corner] = []
        last = self.corners[-1]
        its_last = x * last[0] + y * last[1] + z * last[2] + far
        for corner in self.corners:
            its = x * corner[0] + y * corner[1] + z * corner[2] + far
            if (its > 0) != (its_last > 0) and its != its_last:
                share = its_last / (its_last - its)
                met = (
                    last[0] + share * (corner[0] - last[0]),
                    last[1] + share * (corner[1] - last[1]),
                    last[2] + share * (corner[2] - last[2]),
                )
                for side in (behind, before, both):
                    side.append(met)
            (before if its > 0 else behind).append(corner)
            last, its_last = corner, its
        return behind, before, both

    def _part(self, corners: list[Corner]) -> PaintedPiece:
        count = len(corners)
        x, y, z = (sum(values) / count for values in zip(*corners, strict=True))
        square = max((a - x) ** 2 + (b - y) ** 2 + (c - z) ** 2 for a, b, c in corners)
        return PaintedPiece(self.row, corners, False, (x, y, z), square**0.5, self.cut_from or self)


@dataclass(frozen=True, eq=False)
class PaintedLayer:
    """What is painted as if it lay in one plane.

    Attributes
    ----------
    number : tells it from others
    plane : array, shape (4,), (n, -n p) with a unit normal, what decides before and behind
    """

    number: int
    plane: Floats


@dataclass(frozen=True, eq=False)
class Planes:
    """Flat convex polygons, and what holds of them whichever view looks at them.

    Attributes
    ----------
    polygons : arrays of shape (corners, 3), px on the stage, in the order in which what lies in one plane is painted
    layers : by the numbers of polygons the layer that each is of; those of one layer keep their order among each other
    """

    polygons: list[Floats]
    layers: Mapping[int, PaintedLayer] = field(default_factory=dict)

    @cached_property
    def corners(self) -> Floats:
        """All polygons as one array, as `together` puts them."""
        return together(self.polygons)

    @cached_property
    def equations(self) -> Floats:
        """The planes as (n, -n p) with unit normals; zeros where a polygon has no area. Shape (polygons, 4)."""
        result = _planes_of(self.corners)
        for row, layer in self.layers.items():
            result[row] = layer.plane if result[row].any() else 0.0
        return result

    @cached_property
    def rows(self) -> npt.NDArray[np.intp]:
        """Those that have an area."""
        return np.flatnonzero(self.equations[:, :3].any(axis=1))

    @cached_property
    def layer_of(self) -> npt.NDArray[np.intp]:
        """A number that polygons of one layer share, shape (polygons,)."""
        result = np.arange(len(self.polygons))
        for row, layer in self.layers.items():
            result[row] = len(result) + layer.number
        return result

    @cached_property
    def whole(self) -> list[PaintedPiece]:
        """All of each polygon as a piece."""
        counts = [len(polygon) for polygon in self.polygons]
        middles = self.corners.sum(axis=1) / max(self.corners.shape[1], 1)
        away = self.corners - middles[:, None]
        radii = np.sqrt((away * away).sum(axis=-1).max(axis=1, initial=0.0)).tolist()
        every = zip(self.corners.tolist(), counts, middles.tolist(), radii, strict=True)
        return [
            PaintedPiece(row, corners[:count], True, middle, radius)
            for row, (corners, count, middle, radius) in enumerate(every)
        ]


def together(polygons: Sequence[Floats]) -> Floats:
    """Polygons as one array, shape (polygons, corners, 3), the last corner of those that have fewer said again; zeros
    for those that have none.
    """
    counts = np.array([len(polygon) for polygon in polygons], dtype=np.intp)
    most = int(counts.max(initial=0))
    if not most:
        return np.zeros((len(counts), 0, 3))
    every = np.concatenate([*polygons, np.zeros((1, 3))])
    places = np.minimum(np.arange(most), np.maximum(counts, 1)[:, None] - 1)
    result = every[places + (np.cumsum(counts) - counts)[:, None]]
    result[counts == 0] = 0.0
    return np.asarray(result, dtype=np.float64)


def _planes_of(corners: Floats) -> Floats:
    """The planes of polygons as (n, -n p) with unit normals (Newell's formula); zeros where one has no area."""
    if not corners.size:
        return np.zeros((len(corners), 4))
    from_first = corners - corners[:, :1]
    (ax, ay, az), (bx, by, bz) = (side.transpose(2, 0, 1) for side in (from_first[:, :-1], from_first[:, 1:]))
    normal = np.stack([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx], axis=-1).sum(axis=1)
    length = np.sqrt((normal * normal).sum(axis=1))
    spread = np.abs(from_first).max(axis=(1, 2))
    has_area = length > 1e-12 * np.maximum(spread * spread, 1e-300)
    normal = np.where(has_area[:, None], normal / np.where(has_area, length, 1.0)[:, None], 0.0)
    return np.column_stack([normal, -(normal * corners[:, 0]).sum(axis=1)])
