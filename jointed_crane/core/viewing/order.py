"""In which order planes are painted so that what is nearer hides what is behind: planes that cut each other are split.

A tree of half spaces (Fuchs, Kedem and Naylor 1980, On visible surface generation by a priori tree structures): each
node holds what lies in one plane, what lies behind it and what lies before it, and is walked from the far side of the
camera to its own. What lies in one plane keeps the order in which it is listed.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components

from jointed_crane.core.viewing.view import View

Floats = npt.NDArray[np.float64]

#: A corner nearer to a plane than this lies in it, px.
_IN_PLANE = 1e-6
#: Pieces into which all planes of a frame are cut at most; past it what is left is painted in one order, uncut.
_MOST_PIECES = 4_000
#: Planes that are tried as what divides the others.
_TRIES = 16


@dataclass(frozen=True, eq=False)
class PaintedPiece:
    """A piece of a part's plane.

    Attributes
    ----------
    row : which of the polygons it is of
    corners : array, shape (corners, 3), px on the stage
    is_whole : whether it is all of it
    """

    row: int
    corners: Floats
    is_whole: bool


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


NO_LAYERS: Mapping[int, PaintedLayer] = {}


def painted(polygons: list[Floats], view: View, layers: Mapping[int, PaintedLayer] = NO_LAYERS) -> list[PaintedPiece]:
    """The pieces of flat convex polygons from back to front, as a view sees them.

    Only what is seen over each other, and lies as deep, needs a tree: before that polygons are parted into groups by
    where they are seen and how deep they lie.

    Parameters
    ----------
    polygons : arrays of shape (corners, 3), px on the stage, in the order in which what lies in one plane is painted;
        of a perspective view all of them lie before the camera
    layers : by the numbers of polygons the layer that each is of; those of one layer keep their order among each other
    """
    corners = _together(polygons)
    planes = _planes_of(corners)
    layer_of = np.arange(len(polygons))
    for row, layer in layers.items():
        layer_of[row] = len(polygons) + layer.number
        planes[row] = layer.plane if planes[row].any() else 0.0
    rows = np.flatnonzero(planes[:, :3].any(axis=1))
    if not len(rows):
        return []
    corners, planes, layer_of = corners[rows], planes[rows], layer_of[rows]
    eye = np.array([*view.axes[:, 2], 0.0]) if view.focal is None else np.array([*view.place, 1.0])
    result: list[PaintedPiece] = []
    for group in _groups(_of_layers(_extents(corners, view), layer_of)):
        if len(group) == 1:
            row = int(rows[group[0]])
            result.append(PaintedPiece(row, polygons[row], True))
            continue
        members = rows[group].tolist()
        pile = _Pile([polygons[row].tolist() for row in members], corners[group], planes[group], eye, layer_of[group])
        result += [
            PaintedPiece(members[pile.of[piece]], np.array(pile.corners[piece]), piece < len(members))
            for piece in pile.painted(_MOST_PIECES - len(result))
        ]
    return result


def _together(polygons: list[Floats]) -> Floats:
    """Polygons as one array, shape (polygons, corners, 3), the last corner of those that have fewer said again."""
    most = max((len(polygon) for polygon in polygons), default=0)
    result = np.zeros((len(polygons), most, 3))
    for row, polygon in enumerate(polygons):
        if len(polygon):
            result[row, : len(polygon)] = polygon
            result[row, len(polygon) :] = polygon[-1]
    return result


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


def _extents(corners: Floats, view: View) -> Floats:
    """How far each polygon reaches across and down the view and in depth, px: lows, highs, shape (2, polygons, 3)."""
    seen = corners @ view.matrix[:, :3].T + view.matrix[:, 3]
    places = np.concatenate(
        [seen[..., :2] / seen[..., 2:], (corners @ view.depths[:3] + view.depths[3])[..., None]], -1
    )
    return np.stack([places.min(axis=1), places.max(axis=1)])


def _of_layers(extents: Floats, layer_of: npt.NDArray[np.intp]) -> Floats:
    """The extents with those of one layer reaching as far as all of them together."""
    layers, place, count = np.unique(layer_of, return_inverse=True, return_counts=True)
    if len(layers) == len(layer_of):
        return extents
    result = extents.copy()
    for layer in np.flatnonzero(count > 1).tolist():
        of = place == layer
        result[0, of], result[1, of] = extents[0, of].min(axis=0), extents[1, of].max(axis=0)
    return result


def _groups(extents: Floats) -> list[npt.NDArray[np.intp]]:
    """Polygons in groups from back to front: those of different groups are not seen over each other, or one lies deeper
    than all of the other.

    What is seen over each other comes before what is not wholly deeper than it. Whatever comes before each other so,
    round any corners, is one group, a strongly connected component; the algorithm numbers those in the order in which
    it leaves them, each after all that come behind it (Pearce 2005, An improved algorithm for finding the strongly
    connected components of a directed graph).
    """
    low, high = extents
    over = (low[:, None, :2] < high[None, :, :2] - _IN_PLANE).all(axis=-1)
    comes_before = over & over.T & ~(high[:, None, 2] < low[None, :, 2] - _IN_PLANE)
    count, number = connected_components(csr_array(comes_before), directed=True, connection="strong")
    order = np.argsort(count - number, kind="stable")
    return np.split(order, np.flatnonzero(np.diff(number[order])) + 1)


class _Pile:
    """Pieces of planes, and how far each goes to both sides of every plane: what is cut keeps to the planes there are,
    so each piece is measured against all of them once.

    Attributes
    ----------
    corners : of each piece, px on the stage
    of : the number of the polygon that each is of
    """

    def __init__(
        self,
        polygons: list[list[list[float]]],
        corners: Floats,
        planes: Floats,
        eye: Floats,
        layer_of: npt.NDArray[np.intp],
    ) -> None:
        self._planes, self._eye_side, self._layer_of = planes, (planes @ eye >= 0).tolist(), layer_of
        self._has_layers = len(np.unique(layer_of)) < len(layer_of)
        self.of = list(range(len(polygons)))
        self.corners = polygons
        self._low, self._high = self._reach(corners, self.of)

    def _reach(self, corners: Floats, of: list[int]) -> tuple[Floats, Floats]:
        """How far pieces go to both sides of each plane, px, shape (pieces, planes). What is of one layer lies in its
        plane, wherever it lies.
        """
        away = corners @ self._planes[:, :3].T + self._planes[:, 3]
        if self._has_layers:
            away *= (self._layer_of[of][:, None] != self._layer_of)[:, None, :]
        return away.min(axis=1), away.max(axis=1)

    def painted(self, most: int) -> list[int]:
        """The pieces from back to front, cut into so many at most. Depth first without recursion: a pile of planes may
        be as deep as it is high.
        """
        order: list[int] = []
        waiting: list[npt.NDArray[np.intp] | list[int]] = [np.arange(len(self.of))]
        while waiting:
            top = waiting.pop()
            if isinstance(top, list):
                order += top
            elif len(top) < 2:
                order += top.tolist()
            elif len(self.corners) > most:
                order += self._by_middle(top)
            else:
                waiting += self._parted(top)
        return order

    def _parted(self, pieces: npt.NDArray[np.intp]) -> list[npt.NDArray[np.intp] | list[int]]:
        """What lies nearer than one of the planes, in it, and farther: in the order of a stack."""
        plane = self._divider(pieces)
        low, high = self._low[pieces, plane], self._high[pieces, plane]
        is_before, is_behind = low >= -_IN_PLANE, high <= _IN_PLANE
        within = sorted(pieces[is_before & is_behind].tolist(), key=self.of.__getitem__)
        before, behind = pieces[is_before & ~is_behind], pieces[is_behind & ~is_before]
        cut = pieces[~(is_before | is_behind)].tolist()
        if cut:
            halves = self._cut(cut, plane)
            behind, before = (np.concatenate([side, half]) for side, half in zip((behind, before), halves, strict=True))
        return [before, within, behind] if self._eye_side[plane] else [behind, within, before]

    def _divider(self, pieces: npt.NDArray[np.intp]) -> int:
        """The plane that divides pieces: of a few of theirs the one that cuts the fewest, then the one that parts them
        most evenly.
        """
        tries = pieces[:: max(len(pieces) // _TRIES, 1)][:_TRIES].tolist()
        planes: list[int] = [self.of[piece] for piece in tries]
        if len(pieces) < 3:
            return planes[0]
        low, high = self._low[pieces][:, planes], self._high[pieces][:, planes]
        is_before, is_behind = low >= -_IN_PLANE, high <= _IN_PLANE
        cuts = len(pieces) - (is_before | is_behind).sum(axis=0)
        uneven = np.abs(is_before.sum(axis=0) - is_behind.sum(axis=0))
        return planes[int(np.argmin(cuts * len(pieces) * 2 + uneven))]

    def _cut(self, pieces: list[int], plane: int) -> tuple[list[int], list[int]]:
        """Pieces on both sides of a plane as new ones: those behind it, and those before it."""
        first = len(self.corners)
        x, y, z, away = self._planes[plane].tolist()
        for piece in pieces:
            for corners in _split(self.corners[piece], x, y, z, away):
                self.corners.append(corners)
                self.of.append(self.of[piece])
        low, high = self._reach(_together([np.array(corners) for corners in self.corners[first:]]), self.of[first:])
        # What is cut lies on its side whatever rounding says, or it would be cut again.
        high[0::2, plane], low[1::2, plane] = np.minimum(high[0::2, plane], 0.0), np.maximum(low[1::2, plane], 0.0)
        last = len(self.corners)
        if last > len(self._low):  # twice as many each time, so that most cuts move nothing
            room = np.zeros((max(last, 2 * len(self._low)) - len(self._low), len(self._planes)))
            self._low, self._high = np.concatenate([self._low, room]), np.concatenate([self._high, room])
        self._low[first:last], self._high[first:last] = low, high
        return list(range(first, len(self.corners), 2)), list(range(first + 1, len(self.corners), 2))

    def _by_middle(self, pieces: npt.NDArray[np.intp]) -> list[int]:
        """Too many pieces, by how far before all planes together they lie: some order that is the same every time."""
        side = np.where(self._eye_side, 1.0, -1.0)
        nearness = ((self._low[pieces] + self._high[pieces]) * side).sum(axis=1)
        return [int(piece) for piece in pieces[np.argsort(nearness, kind="stable")]]


def _split(
    corners: list[list[float]], x: float, y: float, z: float, shift: float
) -> tuple[list[list[float]], list[list[float]]]:
    """A convex polygon on both sides of a plane: behind it, and before it."""
    behind: list[list[float]] = []
    before: list[list[float]] = []
    last = corners[-1]
    its_last = x * last[0] + y * last[1] + z * last[2] + shift
    for corner in corners:
        its = x * corner[0] + y * corner[1] + z * corner[2] + shift
        if (its > 0) != (its_last > 0) and its != its_last:
            share = its_last / (its_last - its)
            met = [a + share * (b - a) for a, b in zip(last, corner, strict=True)]
            behind.append(met)
            before.append(met)
        (before if its > 0 else behind).append(corner)
        last, its_last = corner, its
    return behind, before
