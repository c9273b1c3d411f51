"""What is painted, as patches: insides of lines and strokes along them, with their clips; how exact outlines are."""

from __future__ import annotations

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
