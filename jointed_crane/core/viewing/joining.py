"""Planes made whole again that were cut for nothing: a tree cuts by planes that reach on for ever, pieces do not."""

from __future__ import annotations

import numpy as np

from jointed_crane.core.viewing.planes import PaintedPiece
from jointed_crane.core.viewing.projection import seen_from
from jointed_crane.core.viewing.view import View

#: Left, top, right, bottom of what is seen of a piece, px of the view.
_Box = list[float]


def joined(pieces: list[PaintedPiece], view: View) -> list[PaintedPiece]:
    """Pieces from back to front, those cut from one joined where all of them can be painted together, none of them
    coming past something that is seen over it.
    """
    cut = list({id(piece.cut_from): piece.cut_from for piece in pieces if piece.cut_from is not None}.values())
    if not cut:
        return pieces
    every = [*pieces, *cut]
    boxes = _seen_boxes(every, view)
    order = list(range(len(pieces)))
    for number, whole in enumerate(cut, start=len(pieces)):
        places = [place for place, piece in enumerate(order) if every[piece].cut_from is whole]
        first, last = 0, len(order) - 1
        for place in places:
            box = boxes[order[place]]
            blocked = (
                at for at in range(places[0], places[-1])
                if every[order[at]].row != whole.row and _is_over(box, boxes[order[at]])
            )  # fmt: skip
            for at in blocked:
                if at < place:
                    first = max(first, at)
                else:
                    last = min(last, at)
                    break
        joins = next((place for place in places if first <= place <= last), None)
        if joins is not None:
            order[joins] = number
            order = [piece for place, piece in enumerate(order) if place == joins or place not in places]
    return [every[piece] for piece in order]


def _is_over(one: _Box, other: _Box) -> bool:
    return one[0] < other[2] and other[0] < one[2] and one[1] < other[3] and other[1] < one[3]


def _seen_boxes(pieces: list[PaintedPiece], view: View) -> list[_Box]:
    starts = np.cumsum([0, *(len(piece.corners) for piece in pieces[:-1])])
    places = seen_from(np.array([corner for piece in pieces for corner in piece.corners]), view)
    boxes = np.concatenate([np.minimum.reduceat(places, starts), np.maximum.reduceat(places, starts)], axis=1)
    return boxes.tolist()  # type: ignore[no-any-return]
