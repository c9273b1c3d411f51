"""Outlines of large drawings: everything painted is drawn onto a grid of bounded size, and the grid is traced.

However many lines there are and however they cross, the work is bounded by the size of the grid and the length of the
lines on it; both are made coarser until they fit.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import contourpy
import numpy as np
import numpy.typing as npt
import shapely

from jointed_crane.core.geometry.coordinates import Bounds, Ring
from jointed_crane.core.geometry.coverage import filled, windings
from jointed_crane.core.geometry.patches import MOST_VERTICES, SIMPLIFIED, Patch, Stroke, following, signed_areas

Floats = npt.NDArray[np.float64]

#: Cells of the longer side of a grid, and the finest cell, px.
_CELLS = 512
_FINEST = 0.25
#: Cells of all windows that patches are drawn in, and length in cells of all lines.
_MOST_CELLS = 60_000_000
_MOST_LENGTH = 1_500_000
#: More patches than this are drawn together.
_MOST_ALONE = 400
#: A clip of so many corners and fewer is drawn anew in the window of each patch; masks of others are held, so many.
_FEW_CORNERS, _MOST_MASKS = 500, 40
#: Corners of the discs at round ends and corners.
_DISC = np.stack([np.cos(np.arange(16) * np.pi / 8), np.sin(np.arange(16) * np.pi / 8)], axis=1)
#: More rings than this are speckles, which are traced on a coarser grid.
_MOST_RINGS = 3000
#: Rings that enclose less than this share of a cell squared, times the cell, are grain.
_GRAIN = 2.0


@dataclass(frozen=True)
class _Drawn:
    """A patch as the sides of polygons on the page: starts and ends, arrays of shape (sides, 2), and their box."""

    patch: Patch
    starts: Floats
    ends: Floats

    @cached_property
    def box(self) -> tuple[Floats, Floats]:
        """Upper left and lower right corner."""
        return self.starts.min(axis=0), self.starts.max(axis=0)


def traced(patches: Sequence[Patch]) -> tuple[Bounds, tuple[Ring, ...]] | None:
    """Bounds and outline of everything painted, or None where nothing is, as `outlines.outline` gives them.

    Bounds are those of the lines themselves, cut by the boxes of what clips them; rings lie within about a cell.
    """
    drawn = _together(patches) if len(patches) > _MOST_ALONE else []
    drawn += [result for patch in patches if not (drawn and _is_plain(patch)) and (result := _drawn(patch)) is not None]
    boxes = [box for result in drawn if (box := _clipped_box(result)) is not None]
    if not boxes:
        return None
    low = np.min([low for low, _ in boxes], axis=0)
    high = np.max([high for _, high in boxes], axis=0)
    cell = _cell_size(drawn, low, high)
    shape = (int(np.ceil((high[1] - low[1]) / cell)) + 1, int(np.ceil((high[0] - low[0]) / cell)) + 1)
    mask = np.zeros(shape)
    known: dict[int, Floats] = {}
    for result in _gathered(drawn) if len(drawn) > _MOST_ALONE else drawn:
        _draw(mask, result, low, cell, known)
    left, top, right, bottom = (float(value) for value in (*low, *high))
    rings = traced_rings(mask, cell, (left, top))
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
    areas = [abs(_area(ring)) for ring in rings]
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


def _area(ring: Floats) -> float:
    x, y = ring.T
    return float(x[:-1] @ y[1:] - x[1:] @ y[:-1] + x[-1] * y[0] - x[0] * y[-1]) / 2


def _drawn(patch: Patch) -> _Drawn | None:
    if patch.stroke is None:
        pieces = [points[None] for points in patch.on_page if len(points) > 2]
    else:
        linear, shift = patch.matrix[:2, :2], patch.matrix[:2, 2]
        pieces = [_clockwise(piece @ linear.T + shift) for piece in _stroked(patch.lines, patch.stroke)]
    if not pieces:
        return None
    starts = np.concatenate([piece.reshape(-1, 2) for piece in pieces])
    ends = np.concatenate([_following(piece).reshape(-1, 2) for piece in pieces])
    # Each goes round the same way as a whole, so that patches add up and their holes stay holes.
    is_clockwise = (starts[:, 0] * ends[:, 1] - ends[:, 0] * starts[:, 1]).sum() >= 0
    return _Drawn(patch, starts, ends) if is_clockwise else _Drawn(patch, ends, starts)


def _is_plain(patch: Patch) -> bool:
    return patch.stroke is None and not patch.clips


def _together(patches: Sequence[Patch]) -> list[_Drawn]:
    """What fills a crowd of shapes that nothing clips, as one patch for each matrix: what `_drawn` and `_gathered`
    would come to, without a step of Python's own for each of 50,000.
    """
    groups: dict[bytes, list[Patch]] = {}
    for patch in filter(_is_plain, patches):
        groups.setdefault(patch.matrix.tobytes(), []).append(patch)
    result = []
    for group in groups.values():
        lines = [[points for points in patch.lines if len(points) > 2] for patch in group]
        pieces = [points for own in lines for points in own]
        if not pieces:
            continue
        matrix = group[0].matrix
        starts = np.concatenate(pieces) @ matrix[:2, :2].T + matrix[:2, 2]
        counts = np.array([len(points) for points in pieces])
        ends = starts[following(counts)]
        areas = signed_areas(starts, ends, counts)
        # Each patch goes round the same way as a whole, as where it is drawn alone.
        owner = np.repeat(np.arange(len(group)), [len(own) for own in lines])
        is_turned = np.repeat((np.bincount(owner, areas, len(group)) < 0)[owner], counts)[:, None]
        result.append(_Drawn(Patch(()), np.where(is_turned, ends, starts), np.where(is_turned, starts, ends)))
    return result


def _following(corners: Floats) -> Floats:
    """For each corner of polygons, shape (polygons, corners, ...), the one after it."""
    return np.concatenate([corners[:, 1:], corners[:, :1]], axis=1)


def _clockwise(polygons: Floats) -> Floats:
    """Polygons, shape (polygons, corners, 2), all turned the same way round, so that where they overlap they add up."""
    x, y = polygons[..., 0], polygons[..., 1]
    areas = (x * _following(y) - _following(x) * y).sum(axis=1)
    return np.where((areas >= 0)[:, None, None], polygons, polygons[:, ::-1])


def _gathered(drawn: Sequence[_Drawn]) -> list[_Drawn]:
    """Patches of a crowd drawn as one where the same clips cut them: each alone would cost more than what it paints."""
    groups: dict[tuple[int, ...], list[_Drawn]] = {}
    for result in drawn:
        groups.setdefault(tuple(map(id, result.patch.clips)), []).append(result)
    return [
        _Drawn(
            Patch((), clips=group[0].patch.clips),
            np.concatenate([result.starts for result in group]),
            np.concatenate([result.ends for result in group]),
        )
        for group in groups.values()
    ]


def _clipped_box(found: _Drawn) -> tuple[Floats, Floats] | None:
    """The box of a patch, cut by the boxes of what clips it; None where nothing is left."""
    low, high = found.box
    for group in found.patch.clips:
        inside = [box for clip in group if (drawn := _drawn(clip)) and (box := _clipped_box(drawn))]
        if not inside:
            return None
        low = np.maximum(low, np.min([box[0] for box in inside], axis=0))
        high = np.minimum(high, np.max([box[1] for box in inside], axis=0))
    return (low, high) if (high > low).all() else None


def _cell_size(drawn: Sequence[_Drawn], low: Floats, high: Floats) -> float:
    """The size of a cell, px: as fine as the drawing wants, as coarse as drawing all of it in bounded time asks."""
    cell = max(float((high - low).max()) / _CELLS, _FINEST)
    windows = sum(float(np.prod(result.box[1] - result.box[0] + cell)) for result in drawn)
    lengths = sum(float(np.abs(result.ends - result.starts).sum()) for result in drawn)
    return max(cell, float(np.sqrt(windows / _MOST_CELLS)), lengths / _MOST_LENGTH)


def _draw(mask: Floats, found: _Drawn, corner: Floats, cell: float, known: dict[int, Floats]) -> None:
    """Draw one patch onto the mask, in the window of cells that it lies in."""
    rows, columns = mask.shape
    first = np.maximum(((found.box[0] - corner) / cell).astype(int) - 1, 0)
    last = np.minimum(((found.box[1] - corner) / cell).astype(int) + 2, (columns, rows))
    if (last <= first).any():
        return
    window = (slice(first[1], last[1]), slice(first[0], last[0]))
    here = corner + first * cell
    shape = (int(last[1] - first[1]), int(last[0] - first[0]))
    winding = windings((found.starts - here) / cell, (found.ends - here) / cell, shape)
    share = filled(winding, found.patch.is_even_odd and found.patch.stroke is None)
    for group in found.patch.clips:
        if sum(len(points) for clip in group for points in clip.lines) <= _FEW_CORNERS:
            share = share * _clip_mask(group, shape, here, cell, {})
        else:
            share = share * _known_clip_mask(group, mask.shape, corner, cell, known)[window]
    np.maximum(mask[window], share, out=mask[window])


def _clip_mask(
    group: tuple[Patch, ...], shape: tuple[int, ...], corner: Floats, cell: float, known: dict[int, Floats]
) -> Floats:
    """What a clip leaves of the cells from a corner on."""
    result = np.zeros(shape)
    for patch in group:
        drawn = _drawn(patch)
        if drawn is not None:
            _draw(result, drawn, corner, cell, known)
    return result


def _known_clip_mask(
    group: tuple[Patch, ...], shape: tuple[int, ...], corner: Floats, cell: float, known: dict[int, Floats]
) -> Floats:
    """The same of the whole grid, drawn once for all that it clips, as long as those come one after the other."""
    if id(group) not in known:
        for oldest in list(known)[: len(known) + 1 - _MOST_MASKS]:
            del known[oldest]
        known[id(group)] = _clip_mask(group, shape, corner, cell, known)
    return known[id(group)]


def _stroked(lines: Sequence[Floats], stroke: Stroke) -> Iterator[Floats]:
    """A stroke as convex pieces that overlap, arrays of shape (pieces, corners, 2): a box for each side, and what fills
    corners and ends.
    """
    half = stroke.width / 2
    for points in lines:
        keep = np.concatenate([[True], (np.diff(points, axis=0) != 0).any(axis=1)])
        points = points[keep]
        if len(points) < 2:
            continue
        is_closed = len(points) > 3 and bool(np.allclose(points[0], points[-1]))
        ways = np.diff(points, axis=0)
        ways = ways / np.linalg.norm(ways, axis=1, keepdims=True)
        across = half * np.stack([-ways[:, 1], ways[:, 0]], axis=1)
        starts, ends = points[:-1].copy(), points[1:].copy()
        if stroke.cap == "square" and not is_closed:
            starts[0] -= half * ways[0]
            ends[-1] += half * ways[-1]
        yield np.stack([starts + across, ends + across, ends - across, starts - across], axis=1)
        corners = points[:-1] if is_closed else points[1:-1]
        before = np.roll(across, 1, axis=0) if is_closed else across[:-1]
        yield from _corners(corners, before, across if is_closed else across[1:], stroke)
        if stroke.cap == "round" and not is_closed:
            yield points[[0, -1], None] + half * _DISC


def _corners(points: Floats, before: Floats, after: Floats, stroke: Stroke) -> Iterator[Floats]:
    """What fills the corners of a stroke: discs, or the triangles of a bevel with the tips of a miter."""
    if stroke.join == "round":
        yield points[:, None] + stroke.width / 2 * _DISC
        return
    yield np.stack([points, points + before, points + after], axis=1)
    yield np.stack([points, points - before, points - after], axis=1)
    if stroke.join == "miter":
        middle = before + after
        length = (middle**2).sum(axis=1)
        # The tip lies along the sum of the normals; its reach over the half width is the miter ratio (SVG 2, 13.5.5).
        with np.errstate(divide="ignore", invalid="ignore"):
            tip = middle * (2 * (before**2).sum(axis=1) / length)[:, None]
            ratio = 2 * np.linalg.norm(before, axis=1) / np.sqrt(length)
        sharp = ratio <= max(stroke.miter_limit, 1.0)
        for side in (1.0, -1.0):
            tips = np.stack([points, points + side * before, points + side * tip, points + side * after], axis=1)
            yield tips[sharp]
