"""Curves as polylines: the subpaths of any number of shapes at once, each as fine as where it is drawn asks."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from itertools import chain, pairwise

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

#: How far a polyline may lie from its curve, px.
FLATNESS = 0.02
#: Most steps of one curve, and of all curves of one shape together where it has many.
_MOST_STEPS, _MOST_POINTS = 400, 200_000
#: Pieces made into points at once; more of them would only take more memory.
_AT_ONCE = 2_000


@dataclass(frozen=True)
class Subpaths:
    """The subpaths of one shape as pieces, each going on from the one before.

    Attributes
    ----------
    controls : x and y of the four control points of each piece, in a row
    is_side : for each piece whether it is a side, of which only the ends count
    counts : pieces of each subpath
    scale : how many times as large the shape is drawn
    """

    controls: Sequence[float]
    is_side: Sequence[bool]
    counts: Sequence[int]
    scale: float = 1.0


def polylines(shapes: Iterable[Subpaths]) -> Iterator[list[Floats]]:
    """For each shape its subpaths as polylines, arrays of shape (points, 2), within FLATNESS px of them once drawn; a
    subpath that leaves what numbers hold is left out.

    The step count of a curve is the bound from the second differences of its control points (Wang's formula; Sederberg,
    Computer Aided Geometric Design, chapter 10, from memory). A straight one takes one step.
    """
    waiting: list[Subpaths] = []
    pieces = 0
    for shape in shapes:
        waiting.append(shape)
        pieces += len(shape.is_side)
        if pieces >= _AT_ONCE:
            yield from _polylines(waiting)
            waiting, pieces = [], 0
    yield from _polylines(waiting)


def _polylines(shapes: Sequence[Subpaths]) -> Iterator[list[Floats]]:
    if not any(len(shape.is_side) for shape in shapes):
        yield from ([] for _ in shapes)
        return
    pieces = [len(shape.is_side) for shape in shapes]
    controls = np.array([*chain.from_iterable(shape.controls for shape in shapes)], dtype=np.float64).reshape(-1, 4, 2)
    is_side = np.array([*chain.from_iterable(shape.is_side for shape in shapes)], dtype=np.bool_)
    counts = np.array([*chain.from_iterable(shape.counts for shape in shapes)], dtype=np.intp)
    scale = np.repeat([shape.scale for shape in shapes], pieces)
    most = np.repeat([min(max(_MOST_POINTS // max(count, 1), 2), _MOST_STEPS) for count in pieces], pieces)
    # Each subpath also takes the point where it begins, at no step of its first piece.
    begins = np.zeros(len(controls), dtype=np.intp)
    begins[np.cumsum(counts) - counts] = 1
    with np.errstate(all="ignore"):
        bends = np.linalg.norm(controls[:, :-2] - 2 * controls[:, 1:-1] + controls[:, 2:], axis=2).max(axis=1) * scale
        wanted = np.where(np.isfinite(bends), np.ceil(np.sqrt(0.75 * bends / FLATNESS)), most)
        steps = np.where(is_side, 1, np.clip(wanted, 1, most)).astype(np.intp)
        total = steps + begins
        owner = np.repeat(np.arange(len(controls)), total)
        step = np.arange(len(owner)) - np.repeat(np.cumsum(total) - total, total) + 1 - begins[owner]
        u = step / steps[owner]
        weights = np.stack([(1 - u) ** 3, 3 * u * (1 - u) ** 2, 3 * u**2 * (1 - u), u**3], axis=1)
        points = np.einsum("pk,pki->pi", weights, controls[owner])
    ends = np.cumsum(np.add.reduceat(total, np.cumsum(counts) - counts))
    is_finite = np.logical_and.reduceat(np.isfinite(points).all(axis=1), np.concatenate([[0], ends[:-1]])).tolist()
    whole = zip(is_finite, pairwise([0, *ends.tolist()]), strict=True)
    for shape in shapes:
        own = [next(whole) for _ in shape.counts]
        yield [points[begin:end] for is_kept, (begin, end) in own if is_kept]
