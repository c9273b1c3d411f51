"""The round end of an art nearest to a point: where a pivot belongs so that its joint closes at every angle."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import islice

import numpy as np
import numpy.typing as npt

from jointed_crane.core.geometry.circles import circle_through
from jointed_crane.core.geometry.coordinates import Ring
from jointed_crane.core.measures.round_joints import ROUND, degrees_followed, distances, radius_inside

Floats = npt.NDArray[np.float64]
#: Places looked at along each side of the art, about how many corners of the outline are looked at for that, and
#: how many places are tried: nobody waits longer for an outline of many corners.
_GRID = 28
_CORNERS = 400
_TRIED = 24
_ROUNDS = 8


def round_end(rings: Sequence[Ring], near: tuple[float, float]) -> tuple[float, float] | None:
    """The centre of the round end that lies nearest to a point, px in art space; None where no end is round: a circle
    about it lies inside the art and follows its outline over at least 120 degrees.

    Places of a grid show where an end may be; a circle is then laid through the corners there again and again, each
    time without those that lie farther off it.
    """
    whole = [np.array(ring, dtype=np.float64) for ring in rings if len(ring) > 2]
    if not whole:
        return None
    every = -(-sum(map(len, whole)) // _CORNERS)
    coarse = [ring[::every] if len(ring) > 8 * every else ring for ring in whole]
    for centre in islice(_candidates(coarse, np.array(near)), _TRIED):
        result = _fitted(whole, centre)
        if result is not None:
            return result
    return None


def _candidates(rings: list[Floats], near: Floats) -> Iterator[Floats]:
    """Places about which the outline may run round, the nearest first."""
    corners = np.concatenate(rings)
    middle = corners.mean(axis=0)
    # Along the art, however it lies: a limb drawn aslant has a box of much more than itself.
    axes = np.linalg.svd(corners - middle, full_matrices=False)[2]
    along = (corners - middle) @ axes.T
    low, high = along.min(axis=0), along.max(axis=0)
    size = np.maximum(high - low, 1e-9)
    # As many places in all, as far apart across the art as along it.
    counts = np.clip(np.sqrt(size / size[::-1]) * _GRID, 6, _GRID**2 / 6).astype(int)
    spans = [np.linspace(low[axis], high[axis], counts[axis] + 2)[1:-1] for axis in (0, 1)]
    points = np.stack(np.meshgrid(*spans), axis=-1).reshape(-1, 2) @ axes + middle
    away = np.min([distances(ring, points) for ring in rings], axis=0)
    step = float(np.max(size / (counts + 1)))
    for at in np.argsort(np.linalg.norm(points - near, axis=1)):
        # Off its centre by a step a circle still follows its end, as near as that; a small one would follow anything.
        if away[at] > 3 * step and degrees_followed(rings, tuple(points[at]), float(away[at]), 1.2 * step) >= ROUND:
            yield points[at]


def _fitted(rings: list[Floats], centre: Floats) -> tuple[float, float] | None:
    """The centre of the circle that the corners about a place lie on; None where that is no round end of the art."""
    corners = np.concatenate([_with_middles(ring) for ring in rings])
    away = np.linalg.norm(corners - centre, axis=1)
    radius = float(away.min())
    slack = radius / 2
    for _ in range(_ROUNDS):
        on_it = corners[np.abs(np.linalg.norm(corners - centre, axis=1) - radius) <= slack]
        if len(on_it) < 5:
            return None
        result, radius = circle_through(on_it)
        centre = np.array(result)
        slack = max(slack / 2, radius / 400)
    inside = radius_inside(rings, result)
    return result if inside and degrees_followed(rings, result, inside) >= ROUND else None


def _with_middles(ring: Floats) -> Floats:
    """The corners of a ring; where it has few, its sides are cut into short ones."""
    if len(ring) > 12:
        return ring
    shares = np.linspace(0, 1, 16, endpoint=False)[:, None]
    return np.concatenate([a + shares * (b - a) for a, b in zip(ring, np.roll(ring, -1, axis=0), strict=True)])
