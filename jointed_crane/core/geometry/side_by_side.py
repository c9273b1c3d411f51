"""Boxes laid beside each other in rows, whole, within a frame."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from jointed_crane.core.geometry.coordinates import Bounds

#: Room between boxes as a share of the frame's longer side, the share of the frame that they may fill, and so many
#: numbers of rows that are tried.
_GAP, _FILLED, _MOST_ROWS = 0.02, 0.9, 60


@dataclass(frozen=True)
class Lay:
    """Where a box comes to lie: its px times `scale`, plus (x, y)."""

    scale: float = 1.0
    x: float = 0.0
    y: float = 0.0

    def of(self, point: tuple[float, float]) -> tuple[float, float]:
        """Where a point of the box comes to lie, px."""
        return self.scale * point[0] + self.x, self.scale * point[1] + self.y


def side_by_side(
    boxes: Sequence[Bounds], frame: tuple[float, float], middle: tuple[float, float] | None = None
) -> list[Lay]:
    """Where boxes lie one after the other in rows, in their order, all scaled alike and never up.

    Parameters
    ----------
    boxes : left, top, right, bottom, px
    frame : width and height of what they lie in, px
    middle : where the middle of them all lies, px; by default that of the frame
    """
    sizes = [(right - left, bottom - top) for left, top, right, bottom in boxes]
    gap = _GAP * max(frame)
    whole = sum(width + gap for width, _ in sizes)
    # As many rows as let them be largest, and of those the fewest.
    scale, rows = max(
        ((_scale(rows, sizes, frame, gap), rows) for rows in _broken(sizes, whole, gap)),
        key=lambda one: (one[0], -len(one[1])),
    )
    x, y = middle or (frame[0] / 2, frame[1] / 2)
    heights = [max(sizes[place][1] for place in row) for row in rows]
    top = y - scale * (sum(heights) + gap * (len(rows) - 1)) / 2
    spots = {}
    for row, height in zip(rows, heights, strict=True):
        left = x - scale * _width(row, sizes, gap) / 2
        for place in row:
            width, own = sizes[place]
            at = top + scale * (height - own) / 2
            spots[place] = Lay(scale, left - scale * boxes[place][0], at - scale * boxes[place][1])
            left += scale * (width + gap)
        top += scale * (height + gap)
    return [spots[place] for place in range(len(boxes))]


def _width(row: Sequence[int], sizes: Sequence[tuple[float, float]], gap: float) -> float:
    return sum(sizes[place][0] for place in row) + gap * (len(row) - 1)


def _scale(rows: list[list[int]], sizes: list[tuple[float, float]], frame: tuple[float, float], gap: float) -> float:
    """How large rows may be to lie within the frame, at most as they are."""
    width = max(_width(row, sizes, gap) for row in rows)
    height = sum(max(sizes[place][1] for place in row) for row in rows) + gap * (len(rows) - 1)
    return min(1.0, _FILLED * frame[0] / max(width, 1e-9), _FILLED * frame[1] / max(height, 1e-9))


def _broken(sizes: list[tuple[float, float]], whole: float, gap: float) -> list[list[list[int]]]:
    """The places of boxes in about one row, two rows, and so on."""
    result = []
    for count in range(1, min(len(sizes), _MOST_ROWS) + 1):
        rows: list[list[int]] = [[]]
        taken = 0.0
        for place, (width, _) in enumerate(sizes):
            if rows[-1] and taken + width / 2 > whole / count:
                rows.append([])
                taken = 0.0
            rows[-1].append(place)
            taken += width + gap
        result.append(rows)
    return result
