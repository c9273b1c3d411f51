"""Planes cut where they go through each other, and on which side of each other pieces lie: the same for all views."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from jointed_crane.core.viewing.planes import IN_PLANE, PaintedPiece, Planes, together

Floats = npt.NDArray[np.float64]
Truths = npt.NDArray[np.bool_]

#: Pieces into which all planes of a frame are cut at most, and how often it is looked whether two go through each
#: other, some ten microseconds each; past it planes stay as they are.
MOST_PIECES, _MOST_LOOKS = 4_000, 20_000
#: Numbers that are held at once while it is found where pieces lie.
_MOST_NUMBERS = 1_000_000


@dataclass(frozen=True, eq=False)
class Pieces:
    """What is left of planes with an area, none of them going through another.

    Attributes
    ----------
    pieces : those of one polygon beside each other, in the order of the polygons
    known : on which sides they lie, where that has been looked at already
    """

    planes: Planes
    pieces: list[PaintedPiece]
    known: tuple[Truths, Truths] | None = None

    @cached_property
    def rows(self) -> npt.NDArray[np.intp]:
        """Which polygon each is of."""
        return np.array([piece.row for piece in self.pieces], dtype=np.intp)

    @cached_property
    def corners(self) -> Floats:
        """Shape (pieces, corners, 3), as `together` puts them."""
        if len(self.pieces) == len(self.planes.rows):
            return self.planes.corners[self.planes.rows]
        return together([np.array(piece.corners) for piece in self.pieces])

    @cached_property
    def sides(self) -> tuple[Truths, Truths]:
        """Whether each piece lies before the plane of each, and whether behind it, shape (pieces, pieces): both where
        it lies in it, as what is of its layer does, wherever it lies.
        """
        is_before, is_behind = self.known or _sides(self.corners, self.planes.equations[self.rows])
        layers = self.planes.layer_of[self.rows]
        is_same = layers[:, None] == layers
        return is_before | is_same, is_behind | is_same


def in_pieces(planes: Planes) -> Pieces:
    """Planes with an area, cut where they go through each other: of two the later one, or the one that is of no
    layer.
    """
    rows = planes.rows
    whole = [planes.whole[row] for row in rows.tolist()]
    if len(rows) < 2:
        return Pieces(planes, whole)
    is_before, is_behind = _sides(planes.corners[rows], planes.equations[rows])
    straddles = ~(is_before | is_behind)
    candidates = np.argwhere(np.triu(straddles & straddles.T & _near_in_space(planes.corners[rows])))
    if not len(candidates):
        return Pieces(planes, whole, (is_before, is_behind))
    equations, layer_of = planes.equations.tolist(), planes.layer_of.tolist()
    of = [[piece] for piece in whole]
    count, looks = len(whole), 0
    for one, other in candidates.tolist():
        stays, cut = (other, one) if rows[other] in planes.layers and rows[one] not in planes.layers else (one, other)
        if layer_of[rows[stays]] == layer_of[rows[cut]]:
            continue
        by, through = equations[rows[stays]], equations[rows[cut]]
        halves: list[PaintedPiece] = []
        for piece in of[cut]:
            if _cross(piece, by, whole[stays], through):
                halves += [replace(half, cut_from=None) for half in piece.split(by)]
            else:
                halves.append(piece)
        looks += len(of[cut])
        count += len(halves) - len(of[cut])
        of[cut] = halves
        if count > MOST_PIECES or looks > _MOST_LOOKS:
            break
    return Pieces(planes, [piece for pieces in of for piece in pieces])


def _sides(corners: Floats, equations: Floats) -> tuple[Truths, Truths]:
    """Whether polygons lie before planes, and whether behind them, shape (polygons, planes)."""
    most = max(_MOST_NUMBERS // len(equations), 1)
    onto_planes = np.ascontiguousarray(equations.T)
    found = []
    for first in range(0, len(corners), most):
        some = corners[first : first + most].swapaxes(0, 1)
        points = np.concatenate([some, np.ones((*some.shape[:2], 1))], axis=-1)
        low = points[0] @ onto_planes
        high = low.copy()
        for others in points[1:]:
            away = others @ onto_planes
            np.minimum(low, away, out=low)
            np.maximum(high, away, out=high)
        found.append((low >= -IN_PLANE, high <= IN_PLANE))
    is_before, is_behind = (np.concatenate(every) for every in zip(*found, strict=True))
    return is_before, is_behind


def _near_in_space(corners: Floats) -> Truths:
    """Whether the boxes of polygons meet in space."""
    low, high = corners.min(axis=1), corners.max(axis=1)
    result: Truths = np.ones((len(corners), len(corners)), dtype=bool)
    for axis in range(3):
        reach = low[:, None, axis] <= high[:, axis]
        result &= reach & reach.T
    return result


def _cross(one: PaintedPiece, its: list[float], other: PaintedPiece, own: list[float]) -> bool:
    """Whether pieces go through each other: each lies on both sides of the other's plane, and they meet along the line
    of both planes.

    Parameters
    ----------
    its, own : the plane of the other, and of the one
    """
    if any(one.sides_of(its)) or any(other.sides_of(own)):
        return False
    (ax, ay, az, _), (bx, by, bz, _) = its, own
    x, y, z = ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx
    along, its_along = (
        [x * across + y * down + z * near for across, down, near in met] for met in (one.met(its), other.met(own))
    )
    shared = min(max(along), max(its_along)) - max(min(along), min(its_along))
    return bool(shared > IN_PLANE * (x * x + y * y + z * z) ** 0.5)
