"""How much of each cell of grids is painted: lines of any number drawn onto pictures of bounded size.

The cost is that of the lines drawn, whatever they cross: each line adds its signed area to the cells it runs through,
and a running sum along every row turns that into winding numbers. It is the accumulation buffer of font rasterisers
(common practice, no source).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]
Places = npt.NDArray[np.intp]

#: Lines drawn at once; more of them would only take more memory.
_LINES = 50_000


@dataclass(frozen=True)
class Windows:
    """Grids of cells, laid one behind the other, row by row.

    Attributes
    ----------
    rows, columns : of each, shape (windows,)
    """

    rows: Places
    columns: Places

    @cached_property
    def sizes(self) -> Places:
        """Cells of each."""
        return np.asarray(self.rows * self.columns, dtype=np.intp)

    @cached_property
    def begins(self) -> Places:
        """The place of the first cell of each."""
        return np.asarray(np.cumsum(self.sizes) - self.sizes, dtype=np.intp)

    @cached_property
    def cells(self) -> tuple[Places, Places, Places]:
        """For each cell of all of them its window, and the row and the column there."""
        window = np.repeat(np.arange(len(self.sizes)), self.sizes)
        row, column = np.divmod(np.arange(len(window)) - self.begins[window], self.columns[window])
        return window, row, column


def windings(starts: Floats, ends: Floats, windows: Windows, window: Places) -> Floats:
    """How often closed lines together go round each cell, averaged over the cell.

    Parameters
    ----------
    starts, ends : arrays, shape (lines, 2), in cells of their windows; in any order, as long as all together are closed
        in each window
    window : the window that each line lies in, shape (lines,)

    Returns
    -------
    windings : array, shape (cells of all windows,)
    """
    count = int(windows.sizes.sum())
    result = np.zeros(count + 2)
    for begin in range(0, len(starts), _LINES):
        part = slice(begin, begin + _LINES)
        result += _areas(starts[part], ends[part], windows, window[part], len(result))
    # What leaves a row on its right is taken up where the next one begins: there all of the row has come to nothing.
    return np.asarray(np.cumsum(result)[:count], dtype=np.float64)


def _areas(starts: Floats, ends: Floats, windows: Windows, window: Places, size: int) -> Floats:
    """What lines add to their own cells and to those that follow."""
    x0, y0, x1, y1, owner = _cut_at_rows(starts, ends, windows.rows[window])
    window = window[owner]
    x0, y0, x1, y1, owner = _cut_at_sides(x0, y0, x1, y1, windows.columns[window])
    window = window[owner]
    x0, y0, x1, y1, owner = _cut_at_columns(x0, y0, x1, y1)
    window = window[owner]
    columns = windows.columns[window]
    middle_x, middle_y = (x0 + x1) / 2, (y0 + y1) / 2
    row = np.minimum(middle_y.astype(np.intp), windows.rows[window] - 1)
    column = middle_x.astype(np.intp)
    height = y1 - y0
    within = height * (column + 1 - middle_x)  # what lies right of the line in its own cell; the next ones get the rest
    cells = windows.begins[window] + row * columns + column
    result = np.bincount(cells, within, minlength=size) + np.bincount(cells + 1, height - within, minlength=size)
    return np.asarray(result, dtype=np.float64)


def _within(values: Floats, most: Places) -> Floats:
    """Values brought between nothing and the most of each."""
    return np.asarray(np.minimum(np.maximum(values, 0.0), most), dtype=np.float64)


def filled(winding: Floats, is_even_odd: npt.NDArray[np.bool_] | bool) -> Floats:
    """Windings as painted shares of each cell, 0 to 1, by a fill rule for all or one for each (SVG 2, 13.4.2)."""
    size = np.abs(winding)
    if not np.any(is_even_odd):
        return np.minimum(size, 1.0)
    folded = np.minimum(size % 2, 2 - size % 2)
    return np.asarray(np.where(is_even_odd, folded, np.minimum(size, 1.0)), dtype=np.float64)


def _cut_at_rows(starts: Floats, ends: Floats, rows: Places) -> tuple[Floats, Floats, Floats, Floats, Places]:
    """Lines cut where they pass from one row to the next, and which each piece is of; what lies above and below its
    window is left out.
    """
    (x0, y0), (x1, y1) = starts.T, ends.T
    with np.errstate(divide="ignore", invalid="ignore"):
        slope = np.where(y1 != y0, (x1 - x0) / (y1 - y0), 0.0)
    low, high = _within(np.minimum(y0, y1), rows), _within(np.maximum(y0, y1), rows)
    begin, end, owner = _steps(low, high)
    is_down = (y1 >= y0)[owner]
    top, bottom = np.where(is_down, begin, end), np.where(is_down, end, begin)
    at = x0[owner] - slope[owner] * y0[owner]
    return at + slope[owner] * top, top, at + slope[owner] * bottom, bottom, owner


def _cut_at_sides(
    x0: Floats, y0: Floats, x1: Floats, y1: Floats, columns: Places
) -> tuple[Floats, Floats, Floats, Floats, Places]:
    """Lines cut where they leave their window sideways, and which each piece is of; what lies outside stands at the
    side that it lies beyond.
    """
    leaves = (np.minimum(x0, x1) < 0) | (np.maximum(x0, x1) > columns)
    staying, leaving = np.flatnonzero(~leaves), np.flatnonzero(leaves)
    begin, way, most = x0[leaving], (x1 - x0)[leaving], columns[leaving]
    with np.errstate(divide="ignore", invalid="ignore"):
        cuts = np.sort(np.clip(np.nan_to_num([-begin / way, (most - begin) / way]), 0, 1), axis=0)
    shares = np.stack([np.zeros(len(leaving)), *cuts, np.ones(len(leaving))])
    x = _within(begin + shares * way, most)
    y = np.where(shares < 1, y0[leaving] + shares * (y1 - y0)[leaving], y1[leaving])
    return (
        np.concatenate([x0[staying], x[:-1].ravel()]),
        np.concatenate([y0[staying], y[:-1].ravel()]),
        np.concatenate([x1[staying], x[1:].ravel()]),
        np.concatenate([y1[staying], y[1:].ravel()]),
        np.concatenate([staying, np.tile(leaving, 3)]),
    )


def _cut_at_columns(x0: Floats, y0: Floats, x1: Floats, y1: Floats) -> tuple[Floats, Floats, Floats, Floats, Places]:
    """Lines cut where they pass from one column to the next, and which each piece is of."""
    with np.errstate(divide="ignore", invalid="ignore"):
        slope = np.where(x1 != x0, (y1 - y0) / (x1 - x0), 0.0)
    begin, end, owner = _steps(np.minimum(x0, x1), np.maximum(x0, x1))
    is_right = (x1 >= x0)[owner]
    left, right = np.where(is_right, begin, end), np.where(is_right, end, begin)
    is_upright = (x0 == x1)[owner]
    at = y0[owner] - slope[owner] * x0[owner]
    top = np.where(is_upright, y0[owner], at + slope[owner] * left)
    bottom = np.where(is_upright, y1[owner], at + slope[owner] * right)
    return left, top, right, bottom, owner


def _steps(low: Floats, high: Floats) -> tuple[Floats, Floats, Places]:
    """Spans cut at whole numbers: begin and end of each piece, and the span that it belongs to."""
    first = np.floor(low)
    counts = np.maximum(np.ceil(high) - first, 1).astype(np.intp)
    owner = np.repeat(np.arange(len(low)), counts)
    place = np.arange(len(owner)) - np.repeat(np.cumsum(counts) - counts, counts)
    begin = np.maximum(first[owner] + place, low[owner])
    return begin, np.minimum(first[owner] + place + 1, high[owner]), owner
