"""In which order a view paints the parts of a pose, and which piece of each where planes cut each other."""

from __future__ import annotations

from collections import Counter
from typing import NamedTuple

import numpy as np

from jointed_crane.core.viewing.clips import Clip, clip_of
from jointed_crane.core.viewing.order import painted
from jointed_crane.core.viewing.pieces import Pieces, in_pieces
from jointed_crane.core.viewing.planes import Planes
from jointed_crane.core.viewing.projection import in_space, plane_maps
from jointed_crane.core.viewing.seeing import near_enough
from jointed_crane.core.viewing.shown import Shown
from jointed_crane.core.viewing.view import View


class PaintedPart(NamedTuple):
    """A part, or a piece of it.

    Attributes
    ----------
    clip : the corners of what of the picture is painted, px in art space; None paints all of it
    """

    part_id: str
    clip: Clip | None = None


def painting(shown: Shown, view: View) -> list[PaintedPart]:
    """What shows a picture, from back to front as a view sees it.

    Without depth the order is that of the list, with it what is nearer is painted over what is farther, but for what
    hangs on parts that are painted by the list; what lies in one plane keeps the order of the list.
    """
    if not shown.has_depth or (shown.is_flat and view.focal is None):
        return [PaintedPart(part_id) for part_id in shown.part_ids]
    before, is_cut = before_camera(shown, view)
    pieces = painted(before, view)
    maps = plane_maps(shown.worlds, view)
    left = Counter(piece.row for piece in pieces if not piece.is_whole)
    result = []
    for piece in pieces:
        row, clip = piece.row, None
        if not piece.is_whole or row in is_cut:
            left[row] -= not piece.is_whole
            clip = clip_of(shown.edges(piece), maps[row], is_last=not left[row])
            if not clip:  # a piece without an area shows nothing
                continue
        result.append(PaintedPart(shown.part_ids[row], clip))
    return result


def before_camera(shown: Shown, view: View) -> tuple[Pieces, set[int]]:
    """What of each part lies near enough to be seen, and which parts that cuts."""
    if view.focal is None or not len(shown.corners):
        return shown.pieces, set()
    depths = view.depths @ shown.worlds[..., [0, 1, 3]]
    deep = (shown.corners * shown.each_corner(depths[:, :2])).sum(axis=1) + shown.each_corner(depths[:, 2])
    cut = np.flatnonzero(np.minimum.reduceat(deep, shown.starts[:-1]) < view.near).tolist()
    if not cut:
        return shown.pieces, set()
    polygons = [*shown.planes.polygons]
    for row in cut:
        corners = near_enough(shown.outlines[row], depths[row], view.near)
        polygons[row] = in_space(shown.worlds[row], corners)
    return in_pieces(Planes(polygons, shown.layers)), set(cut)
