"""What is painted, as patches: insides of lines and strokes along them, with their clips; how exact outlines are."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
LineCap = Literal["butt", "round", "square"]
LineJoin = Literal["miter", "round", "bevel"]

#: How far a stored outline may lie from what is painted, px; it is for picking and snapping, not for painting.
SIMPLIFIED = 0.25
MOST_VERTICES = 1500


@dataclass(frozen=True)
class Stroke:
    """How a line is drawn: its width in the px of the line, its ends and corners."""

    width: float
    cap: LineCap = "butt"
    join: LineJoin = "miter"
    miter_limit: float = 4.0


@dataclass(frozen=True)
class Patch:
    """One thing that is painted: the inside of lines, or a stroke along them.

    Attributes
    ----------
    lines : polylines, arrays of shape (points, 2)
    matrix : array, shape (3, 3), from the px of the lines to the page
    clips : each a group of patches on the page; only what lies in some patch of every group is painted
    paint : what it is painted with, as its file says it; outlines do not go by it
    """

    lines: tuple[Floats, ...]
    matrix: Floats = field(default_factory=lambda: np.eye(3))
    is_even_odd: bool = False
    stroke: Stroke | None = None
    clips: tuple[tuple[Patch, ...], ...] = ()
    paint: str = ""

    @cached_property
    def on_page(self) -> list[Floats]:
        """The lines on the page."""
        return [points @ self.matrix[:2, :2].T + self.matrix[:2, 2] for points in self.lines]


def following(counts: npt.NDArray[np.intp]) -> npt.NDArray[np.intp]:
    """For each corner of closed lines laid behind each other, so many corners each, the place of the one after it."""
    after = np.arange(1, int(counts.sum()) + 1)
    begins = np.cumsum(counts) - counts
    after[begins + counts - 1] = begins
    return after


def areas_inside(lines: Sequence[Floats]) -> Floats:
    """The area inside each of closed lines (the shoelace formula), in the unit of their corners, squared."""
    if not lines:
        return np.zeros(0)
    counts = np.array([len(points) for points in lines])
    starts = np.concatenate(lines)
    ends = starts[following(counts)]
    twice = starts[:, 0] * ends[:, 1] - ends[:, 0] * starts[:, 1]
    return np.asarray(np.abs(np.add.reduceat(twice, np.cumsum(counts) - counts)) / 2, dtype=np.float64)
