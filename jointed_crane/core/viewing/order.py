"""In which order pieces of planes are painted so that what is nearer hides what is behind.

Of two that are seen over each other and do not go through each other, one cannot hide the other if it lies behind the
other's plane as the camera sees it, or the other lies before its own (as in Newell, Newell and Sancha 1972, A solution
to the hidden surface problem). Where that leaves a ring, each hiding the next, a tree splits planes (`knots`).
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components

from jointed_crane.core.viewing.joining import joined
from jointed_crane.core.viewing.knots import Knot
from jointed_crane.core.viewing.pieces import MOST_PIECES, Pieces
from jointed_crane.core.viewing.planes import IN_PLANE, PaintedPiece
from jointed_crane.core.viewing.view import View

Floats = npt.NDArray[np.float64]
Rows = npt.NDArray[np.intp]


def painted(of: Pieces, view: View) -> list[PaintedPiece]:
    """Pieces from back to front, as a view sees them, cut further where that must be. In a perspective view all of them
    lie before the camera.
    """
    if not of.pieces:
        return []
    planes = of.planes
    eye = np.array([*view.axes[:, 2], 0.0] if view.focal is None else [*view.place, 1.0])
    extents = _extents(of.corners, view)
    if planes.layers:
        extents = _of_layers(extents, planes.layer_of[of.rows], len(planes.polygons))
    knot = Knot(planes.equations.tolist(), planes.layer_of.tolist(), (eye[0], eye[1], eye[2], eye[3]))
    result: list[PaintedPiece] = []
    for group in _groups(len(of.pieces), *_comes_before(of, eye, extents)):
        pieces = [of.pieces[number] for number in group]
        if len(pieces) > 1:
            pieces = joined(knot.painted(pieces, MOST_PIECES - len(result)), view)
        result += pieces
    return result


def _comes_before(of: Pieces, eye: Floats, extents: Floats) -> tuple[Rows, Rows]:
    """Pairs of pieces of which the first must be painted before the second: as that can hide it, or lies over it in one
    plane. Few of all pairs are seen over each other, and only those are looked at.
    """
    (left, top, shallow), (right, bottom, deep) = extents.transpose(0, 2, 1)
    is_over = (left[:, None] < right - IN_PLANE) & (top[:, None] < bottom - IN_PLANE)
    first, second = np.nonzero(is_over & is_over.T)
    is_before, is_behind = of.sides
    faces_eye = of.planes.equations[of.rows] @ eye >= 0
    before, behind = is_before[first, second], is_behind[first, second]
    its_before, its_behind = is_before[second, first], is_behind[second, first]
    # The second lies on the far side of the first one's plane, or the first on the near side of the second's.
    is_far = np.where(faces_eye[first], its_behind, its_before)
    is_near = np.where(faces_eye[second], before, behind)
    is_hidden = ~(is_far | is_near | (deep[first] < shallow[second] - IN_PLANE))
    is_level = (before & behind) | (its_before & its_behind)
    is_first = np.where(is_level, of.rows[first] < of.rows[second], is_hidden)
    return first[is_first], second[is_first]


def _extents(corners: Floats, view: View) -> Floats:
    """How far each polygon reaches across and down the view and in depth, px: lows, highs, shape (2, polygons, 3)."""
    seen = corners @ view.matrix[:, :3].T + view.matrix[:, 3]
    places = np.concatenate(
        [seen[..., :2] / seen[..., 2:], (corners @ view.depths[:3] + view.depths[3])[..., None]], -1
    )
    return np.stack([places.min(axis=1), places.max(axis=1)])


def _of_layers(extents: Floats, layer_of: npt.NDArray[np.intp], first: int) -> Floats:
    """The extents with those of one layer reaching as far as all of them together; numbers from `first` on are layers,
    those before are polygons of none, whose pieces stay apart.
    """
    result = extents.copy()
    for layer in np.unique(layer_of[layer_of >= first]).tolist():
        of = layer_of == layer
        result[0, of], result[1, of] = extents[0, of].min(axis=0), extents[1, of].max(axis=0)
    return result


def _groups(size: int, first: Rows, second: Rows) -> list[list[int]]:
    """Pieces in groups from back to front, so that what comes before another is of an earlier group, or of its own.

    Whatever comes before each other, round any corners, is one group, a strongly connected component; the algorithm
    numbers those in the order in which it leaves them, each after all that come behind it (Pearce 2005, An improved
    algorithm for finding the strongly connected components of a directed graph).
    """
    begins = np.searchsorted(first, np.arange(size + 1))
    graph = csr_array((np.ones(len(first)), second.astype(np.int32), begins.astype(np.int32)), (size, size))
    count, number = connected_components(graph, directed=True, connection="strong")
    groups: list[list[int]] = [[] for _ in range(count)]
    for piece, group in enumerate(number.tolist()):
        groups[count - 1 - group].append(piece)
    return groups
