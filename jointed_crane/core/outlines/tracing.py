"""Outlines of large drawings: everything painted is drawn onto a grid of bounded size, and the grid is traced.

However many lines there are and however they cross, the work is bounded by the size of the grid and the length of the
lines on it; both are made coarser until they fit.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

import contourpy
import numpy as np
import numpy.typing as npt
import shapely

from jointed_crane.core.geometry.coordinates import Bounds, Ring
from jointed_crane.core.outlines.coverage import Places, Windows, filled, windings
from jointed_crane.core.outlines.patches import MOST_VERTICES, SIMPLIFIED, Patch, areas_inside, following
from jointed_crane.core.outlines.strokes import clockwise, stroked

Floats = npt.NDArray[np.float64]
Clip = tuple[Patch, ...]
Clips = tuple[Clip, ...]

#: Cells of the longer side of a grid, and the finest cell, px.
_CELLS = 512
_FINEST = 0.25
#: Cells of all windows that patches are drawn in, and length in cells of all lines.
_MOST_CELLS = 60_000_000
_MOST_LENGTH = 1_500_000
#: More patches than this are drawn together.
_MOST_ALONE = 400
#: Cells and things that are drawn at once: more would only take more memory.
_CELLS_AT_ONCE, _THINGS_AT_ONCE = 2_000_000, 2_000
#: A clip of so many corners and fewer is drawn anew in the window of each thing; masks of others are held, so many.
_FEW_CORNERS, _MOST_MASKS = 500, 40
#: More rings than this are speckles, which are traced on a coarser grid.
_MOST_RINGS = 3000
#: Rings that enclose less than this share of a cell squared, times the cell, are grain.
_GRAIN = 2.0


@dataclass(frozen=True)
class _Crowd:
    """Things that are drawn at once, each the sides of polygons on the page and what clips them.

    Attributes
    ----------
    starts, ends : arrays, shape (sides, 2), px
    counts : sides of each thing, one behind the other
    clips : what clips each
    is_even_odd : the fill rule of each
    """

    starts: Floats
    ends: Floats
    counts: Places
    clips: Sequence[Clips]
    is_even_odd: npt.NDArray[np.bool_]

    @cached_property
    def begins(self) -> Places:
        """The place of the first side of each."""
        return np.asarray(np.cumsum(self.counts) - self.counts, dtype=np.intp)

    def only(self, places: Places) -> _Crowd:
        """The things of these places, in their order; one may come more than once."""
        counts = self.counts[places]
        sides = np.arange(int(counts.sum())) + np.repeat(self.begins[places] - (np.cumsum(counts) - counts), counts)
        clips = [self.clips[place] for place in places.tolist()]
        return _Crowd(self.starts[sides], self.ends[sides], counts, clips, self.is_even_odd[places])

    @cached_property
    def boxes(self) -> tuple[Floats, Floats]:
        """Upper left and lower right corners, shape (things, 2), cut by the boxes of what clips; turned inside out
        where nothing is left.
        """
        low, high = np.full((len(self.counts), 2), np.inf), np.full((len(self.counts), 2), -np.inf)
        is_there = self.counts > 0
        if is_there.any():
            low[is_there] = np.minimum.reduceat(self.starts, self.begins[is_there])
            high[is_there] = np.maximum.reduceat(self.starts, self.begins[is_there])
        groups = list({id(group): group for clips in self.clips for group in clips}.values())
        if groups:
            lows, highs = _crowd([clip for group in groups for clip in group]).boxes
            group_of = np.repeat(np.arange(len(groups)), [len(group) for group in groups])
            group_low, group_high = np.full((len(groups), 2), np.inf), np.full((len(groups), 2), -np.inf)
            np.minimum.at(group_low, group_of, lows)
            np.maximum.at(group_high, group_of, highs)
            place_of = {id(group): place for place, group in enumerate(groups)}
            clipped = np.repeat(np.arange(len(self.counts)), [len(clips) for clips in self.clips])
            by = np.array([place_of[id(group)] for clips in self.clips for group in clips])
            np.maximum.at(low, clipped, group_low[by])
            np.minimum.at(high, clipped, group_high[by])
        return low, high

    @cached_property
    def is_seen(self) -> npt.NDArray[np.bool_]:
        """Whether anything is left of each."""
        low, high = self.boxes
        return np.asarray((high > low).all(axis=1), dtype=np.bool_)


@dataclass(frozen=True)
class _Grid:
    """The grid that is drawn on: where its upper left corner lies and the size of a cell, px; rows and columns; masks
    of heavy clips by the group that they are of.
    """

    corner: Floats
    cell: float
    shape: tuple[int, int]
    masks: dict[int, Floats] = field(default_factory=dict)

    def windows(self, low: Floats, high: Floats) -> tuple[Windows, Places]:
        """The windows of cells that boxes lie in, and the upper left cell of each, shape (boxes, 2): column, row."""
        most = np.array(self.shape[::-1])
        first = np.clip((low - self.corner) / self.cell - 1, 0, most).astype(np.intp)
        last = np.clip((high - self.corner) / self.cell + 2, 0, most).astype(np.intp)
        size = np.maximum(last - first, 0)
        return Windows(size[:, 1], size[:, 0]), first

    def places(self, windows: Windows, first: Places) -> Places:
        """The cell of the grid that each cell of windows is."""
        window, row, column = windows.cells
        return np.asarray((first[window, 1] + row) * self.shape[1] + first[window, 0] + column, dtype=np.intp)


def traced(patches: Sequence[Patch]) -> tuple[Bounds, tuple[Ring, ...]] | None:
    """Bounds and outline of everything painted, or None where nothing is, as `outlines.outline` gives them.

    Bounds are those of the lines themselves, cut by the boxes of what clips them; rings lie within about a cell.
    """
    crowd = _gathered(patches) if len(patches) > _MOST_ALONE else _crowd(patches)
    lows, highs = (corners[crowd.is_seen] for corners in crowd.boxes)
    if not len(lows):
        return None
    low, high = lows.min(axis=0), highs.max(axis=0)
    cell = max(float((high - low).max()) / _CELLS, _FINEST)
    # As fine as the drawing wants, as coarse as drawing all of it in bounded time asks.
    windows = float((highs - lows + cell).prod(axis=1).sum())
    lengths = float(np.abs(crowd.ends - crowd.starts).sum())
    cell = max(cell, float(np.sqrt(windows / _MOST_CELLS)), lengths / _MOST_LENGTH)
    shape = (int(np.ceil((high[1] - low[1]) / cell)) + 1, int(np.ceil((high[0] - low[0]) / cell)) + 1)
    left, top, right, bottom = (float(value) for value in (*low, *high))
    rings = traced_rings(_mask(crowd, _Grid(low, cell, shape)), cell, (left, top))
    return (left, top, right, bottom), rings or (((left, top), (right, top), (right, bottom), (left, bottom)),)


def traced_rings(mask: Floats, cell: float, corner: tuple[float, float]) -> tuple[Ring, ...]:
    """The line between what is covered by half and more and the rest, as closed rings for the even-odd rule.

    Parameters
    ----------
    mask : array, shape (rows, columns), 0 to 1
    cell : the size of a cell, px
    corner : where the upper left corner of the grid lies, px
    """
    lines = contourpy.contour_generator(z=np.pad(mask, 1)).lines(0.5)
    while len(lines) > _MOST_RINGS:  # speckles: what covers half of four cells covers the larger cell that they are
        mask, cell = _coarser(mask), 2 * cell
        lines = contourpy.contour_generator(z=np.pad(mask, 1)).lines(0.5)
    rings = [(np.asarray(line)[:-1] - 0.5) * cell + corner for line in lines if len(line) > 3]
    areas = areas_inside(rings)
    order = [place for place in np.argsort(areas)[::-1] if areas[place] > _GRAIN * cell * cell]
    return simplified([rings[place] for place in order], max(SIMPLIFIED, 0.6 * cell))


def _coarser(mask: Floats) -> Floats:
    """A grid of half as many rows and columns."""
    even = np.pad(mask, [(0, size % 2) for size in mask.shape])
    return np.asarray(even.reshape(even.shape[0] // 2, 2, even.shape[1] // 2, 2).mean(axis=(1, 3)))


def simplified(rings: Sequence[Floats], tolerance: float) -> tuple[Ring, ...]:
    """Rings, largest first, with fewer corners until all of them are few enough to be sent to a page.

    Where even coarse ones are too many the smallest are left out.
    """
    # None has fewer than three corners, so of more rings than a third of all corners the smallest are left out anyway.
    whole = [shapely.LinearRing(points) for points in rings[: max(MOST_VERTICES // 3, 1)]]
    for _ in range(24):
        simple = shapely.simplify(whole, tolerance)
        simple = simple[shapely.get_num_coordinates(simple) > 3]
        if shapely.get_num_coordinates(simple).sum() - len(simple) <= MOST_VERTICES:
            break
        tolerance *= 1.25
    result = [shapely.get_coordinates(ring)[:-1] for ring in simple]
    counts = np.cumsum([len(points) for points in result])
    kept = result[: max(int(np.searchsorted(counts, MOST_VERTICES, side="right")), 1)]
    return tuple(tuple((round(float(x), 3), round(float(y), 3)) for x, y in points) for points in kept)


def _crowd(patches: Sequence[Patch], things: Sequence[int] | None = None) -> _Crowd:
    """Patches as they are drawn, each a thing of its own, or part of the thing whose number is told beside it."""
    numbers = np.arange(len(patches)) if things is None else np.asarray(things, dtype=np.intp)
    fills = [
        (points, place)
        for place, patch in enumerate(patches)
        if patch.stroke is None
        for points in patch.lines
        if len(points) > 2
    ]
    starts, ends, owners = [np.zeros((0, 2))], [np.zeros((0, 2))], [np.zeros(0, dtype=np.intp)]
    if fills:
        counts = np.array([len(points) for points, _ in fills])
        owner = np.repeat([place for _, place in fills], counts)
        corners = _on_page(np.concatenate([points for points, _ in fills]), patches, owner)
        starts, ends, owners = [corners], [corners[following(counts)]], [owner]
    for place, patch in enumerate(patches):
        if patch.stroke is None:
            continue
        linear, shift = patch.matrix[:2, :2], patch.matrix[:2, 2]
        for pieces in stroked(patch.lines, patch.stroke):
            polygons = clockwise(pieces @ linear.T + shift)
            starts.append(polygons.reshape(-1, 2))
            ends.append(np.roll(polygons, -1, axis=1).reshape(-1, 2))
            owners.append(np.full(len(starts[-1]), place))
    start, end, owner = np.concatenate(starts), np.concatenate(ends), np.concatenate(owners)
    # Each patch goes round the same way as a whole, so that patches add up and their holes stay holes.
    areas = np.bincount(owner, start[:, 0] * end[:, 1] - end[:, 0] * start[:, 1], len(patches))
    is_turned = (areas < 0)[owner][:, None]
    start, end = np.where(is_turned, end, start), np.where(is_turned, start, end)
    thing = numbers[owner]
    order = np.argsort(thing, kind="stable")
    total = int(numbers.max(initial=-1)) + 1
    first = [patches[place] for place in np.unique(numbers, return_index=True)[1].tolist()]
    is_even_odd = np.array([patch.is_even_odd and patch.stroke is None for patch in first], dtype=np.bool_)
    counts = np.bincount(thing, minlength=total)
    return _Crowd(start[order], end[order], counts, [patch.clips for patch in first], is_even_odd)


def _on_page(corners: Floats, patches: Sequence[Patch], owner: Places) -> Floats:
    """Corners of patches, shape (corners, 2), where they lie on the page."""
    known: dict[bytes, int] = {}
    number = np.array([known.setdefault(patch.matrix.tobytes(), len(known)) for patch in patches])[owner]
    matrices = np.frombuffer(b"".join(known)).reshape(-1, 3, 3)
    return np.asarray(
        np.einsum("cij,cj->ci", matrices[number, :2, :2], corners) + matrices[number, :2, 2], dtype=np.float64
    )


def _gathered(patches: Sequence[Patch]) -> _Crowd:
    """Patches of a crowd drawn as one where the same clips cut them: each alone would cost more than what it paints."""
    numbers: dict[tuple[int, ...], int] = {}
    things = [numbers.setdefault(tuple(map(id, patch.clips)), len(numbers)) for patch in patches]
    crowd = _crowd(patches, things)
    return replace(crowd, is_even_odd=np.zeros(len(crowd.counts), dtype=np.bool_))


def _mask(crowd: _Crowd, grid: _Grid) -> Floats:
    """How much of each cell of the grid things paint together, shape (rows, columns)."""
    result = np.zeros(grid.shape)
    seen = np.flatnonzero(crowd.is_seen)
    windows, first = grid.windows(*(corners[seen] for corners in crowd.boxes))
    run = np.cumsum(np.maximum(windows.sizes, _CELLS_AT_ONCE // _THINGS_AT_ONCE)) // _CELLS_AT_ONCE
    for number in np.unique(run):
        part = np.flatnonzero(run == number)
        own = Windows(windows.rows[part], windows.columns[part])
        shares = _shares(crowd.only(seen[part]), own, first[part], grid)
        np.maximum.at(result.reshape(-1), grid.places(own, first[part]), shares)
    return result


def _shares(crowd: _Crowd, windows: Windows, first: Places, grid: _Grid) -> Floats:
    """How much of each cell of its window each thing paints."""
    window = np.repeat(np.arange(len(crowd.counts)), crowd.counts)
    corners = grid.corner + first[window] * grid.cell
    starts, ends = (crowd.starts - corners) / grid.cell, (crowd.ends - corners) / grid.cell
    shares = filled(windings(starts, ends, windows, window), np.repeat(crowd.is_even_odd, windows.sizes))
    light: list[tuple[int, Clip]] = []
    for place, clips in enumerate(crowd.clips):
        for group in clips:
            if sum(len(points) for clip in group for points in clip.lines) <= _FEW_CORNERS:
                light.append((place, group))
                continue
            cells = slice(windows.begins[place], windows.begins[place] + windows.sizes[place])
            one = Windows(windows.rows[place : place + 1], windows.columns[place : place + 1])
            shares[cells] *= _heavy(group, grid)[grid.places(one, first[place : place + 1])]
    if light:
        shares *= _left_by(light, windows, first, grid)
    return shares


def _left_by(clips: Sequence[tuple[int, Clip]], windows: Windows, first: Places, grid: _Grid) -> Floats:
    """What clips, each told with the number of the window that it clips, leave of each cell of the windows."""
    of = np.array([place for place, _ in clips])
    own = Windows(windows.rows[of], windows.columns[of])
    left = np.zeros(int(own.sizes.sum()))  # by each clip; where several patches make one, by any of them
    number = np.repeat(np.arange(len(clips)), [len(group) for _, group in clips])
    if len(number):
        each = Windows(own.rows[number], own.columns[number])
        shares = _shares(_crowd([clip for _, group in clips for clip in group]), each, first[of][number], grid)
        np.maximum.at(left, _cells_in(each, own.begins[number]), shares)
    result = np.ones(int(windows.sizes.sum()))
    np.multiply.at(result, _cells_in(own, windows.begins[of]), left)
    return result


def _cells_in(windows: Windows, begins: Places) -> Places:
    """For each cell of windows its place where they begin elsewhere."""
    window, _, _ = windows.cells
    return np.asarray(np.arange(len(window)) + (begins - windows.begins)[window], dtype=np.intp)


def _heavy(group: Clip, grid: _Grid) -> Floats:
    """What a clip of many corners leaves of each cell of the grid: drawn once for all that it clips, as long as those
    come one after the other.
    """
    if id(group) not in grid.masks:
        for oldest in list(grid.masks)[: len(grid.masks) + 1 - _MOST_MASKS]:
            del grid.masks[oldest]
        grid.masks[id(group)] = _mask(_crowd(group), grid).reshape(-1)
    return grid.masks[id(group)]
