"""Planes that hide each other in a ring, ordered by a tree of half spaces: those that others cut are split.

Each node of the tree holds what lies in one plane, what lies behind it and what lies before it, and is walked from the
far side of the camera to its own (Fuchs, Kedem and Naylor 1980, On visible surface generation by a priori tree
structures). What lies in one plane keeps the order in which it is listed.

There are a few planes in most knots, so plain numbers are faster here than arrays; most of what is asked is answered by
the ball round a piece.
"""

from __future__ import annotations

from jointed_crane.core.viewing.planes import PaintedPiece

#: Planes that are tried as what divides the others.
_TRIES = 16
#: How often it is looked on which side of a plane a piece lies, about a microsecond each.
_MOST_LOOKS = 400_000


class Knot:
    """Planes by their numbers, each as (n, -n p), the layer that each is of, and the eye that looks at them: (x, y, z,
    1), or the way towards it with a 0.
    """

    def __init__(self, planes: list[list[float]], layer_of: list[int], eye: tuple[float, float, float, float]) -> None:
        self._planes, self._layer_of, self._eye = planes, layer_of, eye
        self._looks = _MOST_LOOKS

    def painted(self, pieces: list[PaintedPiece], most: int) -> list[PaintedPiece]:
        """Pieces from back to front, cut into so many at most. Depth first without recursion: a pile of planes may be
        as deep as it is high. Past that many, or too much work, what is left is painted by how near it is.
        """
        order: list[PaintedPiece] = []
        waiting = [(pieces, False)]
        count = len(pieces)
        while waiting:
            top, is_in_order = waiting.pop()
            if is_in_order or len(top) < 2:
                order += top
            elif count > most or self._looks < 0:
                order += sorted(top, key=self._nearness)
            else:
                before, within, behind = self._parted(top)
                count += len(before) + len(within) + len(behind) - len(top)
                waiting += [(before, False), (within, True), (behind, False)]
        return order

    def _parted(self, pieces: list[PaintedPiece]) -> tuple[list[PaintedPiece], list[PaintedPiece], list[PaintedPiece]]:
        """What lies nearer to the eye than one of the planes, in it, and farther."""
        divider, sides = self._divider(pieces)
        within, before, behind = [], [], []
        for piece, (is_before, is_behind) in zip(pieces, sides, strict=True):
            if is_before and is_behind:
                within.append(piece)
            elif is_before:
                before.append(piece)
            elif is_behind:
                behind.append(piece)
            else:
                its_behind, its_before = piece.split(self._planes[divider])
                behind.append(its_behind)
                before.append(its_before)
        within.sort(key=lambda piece: piece.row)
        x, y, z, far = self._planes[divider]
        at_x, at_y, at_z, is_place = self._eye
        if x * at_x + y * at_y + z * at_z + far * is_place >= 0:
            return before, within, behind
        return behind, within, before

    def _divider(self, pieces: list[PaintedPiece]) -> tuple[int, list[tuple[bool, bool]]]:
        """The plane that divides pieces, and whether each lies before it and behind it, neither where it is cut: of a
        few of their planes the one that cuts the fewest, then the one that parts them most evenly.
        """
        best: tuple[int, list[tuple[bool, bool]]] | None = None
        least = 0
        for row in {piece.row: None for piece in pieces[:: max(len(pieces) // _TRIES, 1)][:_TRIES]}:
            sides = [self._sides(piece, row) for piece in pieces]
            self._looks -= len(pieces)
            cuts = sum(not (is_before or is_behind) for is_before, is_behind in sides)
            uneven = abs(sum(is_before - is_behind for is_before, is_behind in sides))
            badness = cuts * len(pieces) * 2 + uneven
            if best is None or badness < least:
                best, least = (row, sides), badness
        assert best is not None
        return best

    def _sides(self, piece: PaintedPiece, row: int) -> tuple[bool, bool]:
        """Whether a piece lies before the plane of a polygon, and whether behind: what is of its layer lies in it."""
        if self._layer_of[piece.row] == self._layer_of[row]:
            return True, True
        return piece.sides_of(self._planes[row])

    def _nearness(self, piece: PaintedPiece) -> float:
        """Where there are too many pieces, some order that is the same every time: how near their middles are."""
        x, y, z, is_place = self._eye
        if not is_place:
            return sum(a * b for a, b in zip(piece.middle, (x, y, z), strict=True))
        return -sum((a - b) ** 2 for a, b in zip(piece.middle, (x, y, z), strict=True))
