"""Places a dragged point is drawn to, each with the name the user reads before letting go."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal

import numpy as np
import numpy.typing as npt

from jointed_crane.core.basics.frozen import Memory
from jointed_crane.core.evaluate.pose_at_frame import pose_at, world_at
from jointed_crane.core.geometry.circles import circle_through
from jointed_crane.core.geometry.coordinates import Ring, Vector
from jointed_crane.core.geometry.nine_points import NAMES, nine_points
from jointed_crane.core.geometry.projection import carried, in_art, on_stage
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.outlines.outline import feet_on_sides

Floats = npt.NDArray[np.float64]
SnapKind = Literal[
    "nine points", "vertices", "edges", "circles", "pivots", "centres", "eyelets", "marks", "grid", "pixels"
]

NINE_POINTS: tuple[SnapKind, ...] = ("nine points",)
#: Kinds by how exact a place they name: a point wins over an edge, an edge over the grid, the grid over pixels.
_RANKS: tuple[tuple[SnapKind, ...], ...] = (
    ("nine points", "pivots", "centres", "eyelets", "marks", "circles"),
    ("vertices",),
    ("edges",),
    ("grid",),
    ("pixels",),
)
#: Squares of the cutting mat as it is at first, px on the stage; and the least and largest there may be.
GRID = 40.0
_LEAST_GRID, _LARGEST_GRID = 1e-3, 1e7
#: A ring is a drawn circle where its vertices lie this close to one radius, as a share of it.
_ROUND = 0.02


@dataclass(frozen=True)
class Snap:
    """A place a point was drawn to: px in the part's art space, and its name."""

    point: tuple[float, float]
    name: str


@dataclass(frozen=True)
class _Place:
    on_stage: tuple[float, float]
    name: str
    part: str | None = None
    eyelet: str | None = None


@dataclass(frozen=True)
class Snapping:
    """What a point is drawn to: places of the kinds in `to` that lie `within` px on the stage, where 0 finds none.

    Lines of the grid lie `grid` px on the stage apart.
    """

    within: float = 0.0
    to: tuple[SnapKind, ...] = NINE_POINTS
    grid: float = GRID


#: Points that are drawn to nothing.
NO_SNAPPING = Snapping()
#: The places on all parts at the last frame that was asked for, by kind.
_PLACES: Memory[dict[SnapKind, list[_Place]]] = Memory()


def nearest(
    scene: Scene,
    part: Part,
    at: tuple[float, float],
    snapping: Snapping,
    frame: float | None,
    without_eyelet: str | None = None,
    with_own_pivot: bool = False,
) -> Snap | None:
    """The nearest of the places that a point is drawn to.

    Parameters
    ----------
    at : the point that is dragged, px in the part's art space
    without_eyelet : an eyelet of the part that is dragged itself
    with_own_pivot : whether the part's own pivot is a target too
    """
    if snapping.within <= 0:
        return None
    world = world_at(scene, part.id, frame)
    x, y = on_stage(world, np.array(at, dtype=np.float64))
    here = (float(x), float(y))

    def places(kind: SnapKind) -> Iterator[_Place]:
        if kind in ("grid", "pixels"):
            yield from _on_raster(kind, here, snapping.grid)
        for place in _places(kind, scene, part, world, here, frame, without_eyelet):
            if with_own_pivot or place.name != f"pivot of {part.name}":
                yield place

    result = _closest(places, snapping, here)
    if result is None:
        return None
    x, y = in_art(world, np.array(result.on_stage), part.name)
    return Snap((float(x), float(y)), result.name)


def nearest_on_stage(
    scene: Scene,
    at: tuple[float, float],
    snapping: Snapping,
    frame: float | None,
    without_mark: str | None = None,
) -> Snap | None:
    """The nearest place for a free point on the stage: pivots, centres, eyelets and marks, then grid and pixels.

    `at` and the point found are px on the stage; `without_mark` is one that is dragged itself.
    """
    if snapping.within <= 0:
        return None

    def places(kind: SnapKind) -> Iterator[_Place]:
        if kind in ("pivots", "centres", "eyelets"):
            yield from _of_parts(kind, scene, None, frame, None)
        elif kind == "marks":
            yield from (_Place(mark.place, f"mark {mark.name}") for mark in scene.marks if mark.id != without_mark)
        elif kind in ("grid", "pixels"):
            yield from _on_raster(kind, at, snapping.grid)

    result = _closest(places, snapping, at)
    return None if result is None else Snap(result.on_stage, result.name)


def _closest(
    places: Callable[[SnapKind], Iterator[_Place]], snapping: Snapping, here: tuple[float, float]
) -> _Place | None:
    """The nearest place within its distance, of the most exact rank that has one; all px on the stage."""
    for rank in _RANKS:
        result = [place for kind in rank if kind in snapping.to for place in places(kind)]
        distances = [math.dist(place.on_stage, here) for place in result]
        if distances and min(distances) <= snapping.within:
            return result[distances.index(min(distances))]
    return None


def _places(
    kind: SnapKind,
    scene: Scene,
    part: Part,
    world: Floats,
    here: tuple[float, float],
    frame: float | None,
    without_eyelet: str | None,
) -> Iterator[_Place]:
    if kind == "nine points" and part.bounds is not None:
        for (x, y), name in zip(on_stage(world, nine_points(part.bounds)), NAMES, strict=True):
            yield _Place((float(x), float(y)), f"{name} of {part.name}")
    elif kind in ("vertices", "edges", "circles"):
        yield from _on_outline(kind, part, world, here)
    elif kind in ("pivots", "centres", "eyelets"):
        yield from _of_parts(kind, scene, part, frame, without_eyelet)
    elif kind == "marks":
        for mark in scene.marks:
            yield _Place(mark.place, f"mark {mark.name}")


def _on_raster(kind: SnapKind, here: tuple[float, float], grid: float) -> Iterator[_Place]:
    if kind == "grid" and not _LEAST_GRID <= grid <= _LARGEST_GRID:
        return
    step, name = (grid, "grid") if kind == "grid" else (1.0, "whole pixel")
    yield _Place((round(here[0] / step) * step, round(here[1] / step) * step), name)


def _on_outline(kind: SnapKind, part: Part, world: Floats, here: tuple[float, float]) -> Iterator[_Place]:
    for ring in part.drawing.outline if part.drawing else ():
        points = on_stage(world, np.array(ring))
        if kind == "circles":
            centre = circle_centre(ring)
            if centre is not None:
                x, y = on_stage(world, np.array([centre]))[0]
                yield _Place((float(x), float(y)), f"centre of a circle of {part.name}")
            continue
        if kind == "vertices":
            distances = np.hypot(*(points - here).T)
            x, y = points[int(np.argmin(distances))]
            yield _Place((float(x), float(y)), f"vertex of {part.name}")
        else:
            x, y = nearest_on_ring(points, here)
            yield _Place((x, y), f"edge of {part.name}")


def nearest_on_ring(points: Floats, here: tuple[float, float]) -> tuple[float, float]:
    """The point of a closed ring nearest to a point; points of shape (vertices, 2)."""
    (feet,) = feet_on_sides(points, np.array([here]))
    x, y = feet[int(np.argmin(((feet - here) ** 2).sum(axis=1)))]
    return (float(x), float(y))


def circle_centre(ring: Ring) -> tuple[float, float] | None:
    """The centre of a ring that is a drawn circle, else None: a least-squares circle its vertices all lie on."""
    points = np.array(ring)
    if len(points) < 8:
        return None
    centre, radius = circle_through(points)
    off = np.abs(np.linalg.norm(points - centre, axis=1) - radius).max()
    return centre if radius > 0 and off <= _ROUND * radius else None


def _of_parts(
    kind: SnapKind, scene: Scene, part: Part | None, frame: float | None, without_eyelet: str | None
) -> Iterator[_Place]:
    own = None if part is None else part.id
    for place in _held_places(kind, scene, frame):
        if place.part != own or kind == "pivots" or (kind == "eyelets" and place.eyelet != without_eyelet):
            yield place


def _held_places(kind: SnapKind, scene: Scene, frame: float | None) -> list[_Place]:
    """The places on all parts that are not hidden; they stay with the frozen scene for the frame."""
    held = _PLACES.of(scene, dict, frame)
    if kind not in held:
        held[kind] = list(_places_on(kind, scene, frame))
    return held[kind]


def _places_on(kind: SnapKind, scene: Scene, frame: float | None) -> Iterator[_Place]:
    pose = pose_at(scene, frame)
    for part in scene.parts:
        points: list[tuple[str | None, Vector, str]] = []
        if part.hidden:
            continue
        if kind == "pivots":
            x, y = pose.pivot_of(part.id)[:2]
            yield _Place((float(x), float(y)), f"pivot of {part.name}", part.id)
        if kind == "centres" and part.bounds is not None:
            points.append((None, part.centre, f"centre of {part.name}"))
        if kind == "eyelets":
            points += [(result.id, result.point, f"eyelet {result.name} of {part.name}") for result in part.eyelets]
        for eyelet, point, name in points:
            x, y, _ = carried(pose.world_of(part.id), np.array(point, dtype=np.float64))
            yield _Place((float(x), float(y)), name, part.id, eyelet)
