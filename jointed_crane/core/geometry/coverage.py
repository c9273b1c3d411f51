"""How much of each cell of a grid is painted: curves of any number drawn onto a picture of bounded size.

The cost is that of the lines drawn, whatever they cross: each line adds its signed area to the cells it runs through,
and a running sum along every row turns that into winding numbers. It is the accumulation buffer of font rasterisers
(common practice, no source).
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

#: Lines drawn at once; more of them would only take more memory.
_LINES = 50_000


def windings(starts: Floats, ends: Floats, shape: tuple[int, int]) -> Floats:
    """How often closed lines together go round each cell, averaged over the cell.

    Parameters
    ----------
    starts, ends : arrays, shape (lines, 2), in cells; in any order, as long as all of them together are closed
    shape : rows and columns of the grid

    Returns
    -------
    windings : array of that shape
    """
    rows, columns = shape
    result = np.zeros(rows * (columns + 2))
    for begin in range(0, len(starts), _LINES):
        result += _areas(starts[begin : begin + _LINES], ends[begin : begin + _LINES], shape)
    return np.asarray(np.cumsum(result.reshape(rows, columns + 2), axis=1)[:, :columns], dtype=np.float64)


def _areas(starts: Floats, ends: Floats, shape: tuple[int, int]) -> Floats:
    """What lines add to their own cells and to those that follow, rows of columns + 2 cells one behind the other."""
    rows, columns = shape
    x0, y0, x1, y1 = _cut_at_rows(starts, ends, rows)
    x0, y0, x1, y1 = _cut_at_columns(np.clip(x0, 0, columns), y0, np.clip(x1, 0, columns), y1)
    middle_x, middle_y = (x0 + x1) / 2, (y0 + y1) / 2
    row = np.clip(middle_y.astype(np.intp), 0, rows - 1)
    column = np.clip(middle_x.astype(np.intp), 0, columns)
    height = y1 - y0
    within = height * (column + 1 - middle_x)  # what lies right of the line in its own cell; the next ones get the rest
    cells = row * (columns + 2) + column
    size = rows * (columns + 2)
    result = np.bincount(cells, within, minlength=size) + np.bincount(cells + 1, height - within, minlength=size)
    return np.asarray(result, dtype=np.float64)


def filled(winding: Floats, is_even_odd: bool) -> Floats:
    """Windings as painted shares of each cell, 0 to 1, by a fill rule (SVG 2, 13.4.2)."""
    if not is_even_odd:
        return np.minimum(np.abs(winding), 1.0)
    folded = np.abs(winding) % 2
    return np.asarray(np.minimum(folded, 2 - folded), dtype=np.float64)


def _cut_at_rows(starts: Floats, ends: Floats, rows: int) -> tuple[Floats, ...]:
    """Lines cut where they pass from one row to the next; what lies above and below the grid is left out."""
    (x0, y0), (x1, y1) = starts.T, ends.T
    with np.errstate(divide="ignore", invalid="ignore"):
        slope = np.where(y1 != y0, (x1 - x0) / (y1 - y0), 0.0)
    low, high = np.clip(np.minimum(y0, y1), 0, rows), np.clip(np.maximum(y0, y1), 0, rows)
    begin, end, owner = _steps(low, high)
    is_down = (y1 >= y0)[owner]
    top, bottom = np.where(is_down, begin, end), np.where(is_down, end, begin)
    at = x0[owner] - slope[owner] * y0[owner]
    return at + slope[owner] * top, top, at + slope[owner] * bottom, bottom


def _cut_at_columns(x0: Floats, y0: Floats, x1: Floats, y1: Floats) -> tuple[Floats, ...]:
    """Lines cut where they pass from one column to the next."""
    with np.errstate(divide="ignore", invalid="ignore"):
        slope = np.where(x1 != x0, (y1 - y0) / (x1 - x0), 0.0)
    begin, end, owner = _steps(np.minimum(x0, x1), np.maximum(x0, x1))
    is_right = (x1 >= x0)[owner]
    left, right = np.where(is_right, begin, end), np.where(is_right, end, begin)
    is_upright = (x0 == x1)[owner]
    at = y0[owner] - slope[owner] * x0[owner]
    top = np.where(is_upright, y0[owner], at + slope[owner] * left)
    bottom = np.where(is_upright, y1[owner], at + slope[owner] * right)
    return left, top, right, bottom


def _steps(low: Floats, high: Floats) -> tuple[Floats, Floats, npt.NDArray[np.intp]]:
    """Spans cut at whole numbers: begin and end of each piece, and the span that it belongs to."""
    first = np.floor(low)
    counts = np.maximum(np.ceil(high) - first, 1).astype(np.intp)
    owner = np.repeat(np.arange(len(low)), counts)
    place = np.arange(len(owner)) - np.repeat(np.cumsum(counts) - counts, counts)
    begin = np.maximum(first[owner] + place, low[owner])
    return begin, np.minimum(first[owner] + place + 1, high[owner]), owner
