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
from jointed_crane.core.geometry.nine_points import NAMES, box_corners, nine_points
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.outlines.outline import feet_on_sides
from jointed_crane.core.viewing.projection import carried, in_art, in_art_space, in_space, on_stage, seen_from
from jointed_crane.core.viewing.view import STAGE, View

Floats = npt.NDArray[np.float64]
SnapKind = Literal[
    "nine points", "vertices", "edges", "circles", "pivots", "centres", "corners", "sides", "eyelets", "marks", "grid",
    "pixels",
]  # fmt: skip

NINE_POINTS: tuple[SnapKind, ...] = ("nine points",)
#: Kinds by how exact a place they name: a point wins over an edge, an edge over the grid, the grid over pixels.
_RANKS: tuple[tuple[SnapKind, ...], ...] = (
    ("nine points", "pivots", "centres", "corners", "eyelets", "marks", "circles"),
    ("vertices",),
    ("edges", "sides"),
    ("grid",),
    ("pixels",),
)
#: Squares of the cutting mat as it is at first, px on the stage; and the least and largest there may be.
GRID = 40.0
_LEAST_GRID, _LARGEST_GRID = 1e-3, 1e7
#: An outline with more corners than this counts as its box: it is a picture on a panel, not one.
_MOST_CORNERS = 12
#: A ring is a drawn circle where its vertices lie this close to one radius, as a share of it.
_ROUND = 0.02


@dataclass(frozen=True)
class Snap:
    """A place a point was drawn to: px in the part's art space, and its name; its z where the scene has depth."""

    point: tuple[float, float]
    name: str
    z: float | None = None


@dataclass(frozen=True)
class _Place:
    """A place: px in the view, and in space where it is a point there."""

    on_stage: tuple[float, float]
    name: str
    part: str | None = None
    eyelet: str | None = None
    in_space: Floats | None = None


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
    at: Vector,
    snapping: Snapping,
    frame: float | None,
    without_eyelet: str | None = None,
    with_own_pivot: bool = False,
    view: View = STAGE,
) -> Snap | None:
    """The nearest of the places that a point is drawn to, as a view sees them. In a scene that has depth it comes
    to the very place in space, wherever that lies.

    Parameters
    ----------
    at : the point that is dragged, px in the part's art space
    without_eyelet : an eyelet of the part that is dragged itself
    with_own_pivot : whether the part's own pivot is a target too
    """
    if snapping.within <= 0:
        return None
    world = world_at(scene, part.id, frame)
    here = _pair(seen_from(carried(world, np.array(at, dtype=np.float64)), view))

    def places(kind: SnapKind) -> Iterator[_Place]:
        if kind in ("grid", "pixels"):
            yield from _on_raster(kind, here, snapping.grid)
        for place in _places(kind, scene, part, world, here, frame, without_eyelet, view):
            if with_own_pivot or place.name != f"pivot of {part.name}":
                yield place

    result = _closest(places, snapping, here)
    if result is None:
        return None
    if scene.depth and result.in_space is not None:
        x, y, z = in_art_space(world, result.in_space, part).tolist()
        return Snap((x, y), result.name, z)
    return Snap(_pair(in_art(world, np.array(result.on_stage), part.name, view)), result.name)


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
            yield from _of_parts(kind, scene, None, frame, None, STAGE)
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
    view: View,
) -> Iterator[_Place]:
    if kind == "nine points" and part.bounds is not None:
        points = nine_points(part.bounds)
        for place, there, name in zip(on_stage(world, points, view), in_space(world, points), NAMES, strict=True):
            yield _Place(_pair(place), f"{name} of {part.name}", in_space=there)
    elif kind in ("vertices", "edges", "circles"):
        yield from _on_outline(kind, part, world, here, view)
    elif kind in ("pivots", "centres", "corners", "eyelets"):
        yield from _of_parts(kind, scene, part, frame, without_eyelet, view)
    elif kind == "sides":
        yield from _on_sides(scene, part, here, frame, view)
    elif kind == "marks":
        for mark in scene.marks:
            there = np.array([*mark.place, 0.0])
            yield _Place(_pair(seen_from(there, view)), f"mark {mark.name}", in_space=there)


def _pair(values: Floats) -> tuple[float, float]:
    x, y = values.tolist()
    return x, y


def _on_raster(kind: SnapKind, here: tuple[float, float], grid: float) -> Iterator[_Place]:
    if kind == "grid" and not _LEAST_GRID <= grid <= _LARGEST_GRID:
        return
    step, name = (grid, "grid") if kind == "grid" else (1.0, "whole pixel")
    yield _Place((round(here[0] / step) * step, round(here[1] / step) * step), name)


def _on_outline(kind: SnapKind, part: Part, world: Floats, here: tuple[float, float], view: View) -> Iterator[_Place]:
    for ring in part.drawing.outline if part.drawing else ():
        points = on_stage(world, np.array(ring), view)
        if kind == "circles":
            centre = circle_centre(ring)
            if centre is not None:
                there = in_space(world, np.array([centre]))[0]
                yield _Place(_pair(seen_from(there, view)), f"centre of a circle of {part.name}", in_space=there)
            continue
        if kind == "vertices":
            nearest_one = int(np.argmin(np.hypot(*(points - here).T)))
            there = in_space(world, np.array([ring[nearest_one]]))[0]
            yield _Place(_pair(points[nearest_one]), f"vertex of {part.name}", in_space=there)
        else:
            place, there = nearest_on_ring(points, in_space(world, np.array(ring)), here)
            yield _Place(place, f"edge of {part.name}", in_space=there)


def _on_sides(scene: Scene, part: Part, here: tuple[float, float], frame: float | None, view: View) -> Iterator[_Place]:
    """The nearest point of the edges of each other part."""
    pose = pose_at(scene, frame)
    for other in scene.parts:
        if not other.hidden and other.id != part.id and (corners := panel_corners(other)) is not None:
            there = in_space(pose.world_of(other.id), corners)
            place, foot = nearest_on_ring(seen_from(there, view), there, here)
            yield _Place(place, f"edge of {other.name}", other.id, in_space=foot)


def nearest_on_ring(seen: Floats, there: Floats, here: tuple[float, float]) -> tuple[tuple[float, float], Floats]:
    """The point of a closed ring that is seen nearest to a place: where it is seen, and where it lies in space."""
    (feet,) = feet_on_sides(seen, np.array([here]))
    side = int(np.argmin(((feet - here) ** 2).sum(axis=1)))
    ends, after = seen[side], seen[(side + 1) % len(seen)]
    length = float(((after - ends) ** 2).sum())
    share = float((feet[side] - ends) @ (after - ends)) / length if length else 0.0
    start = there[side]
    return _pair(feet[side]), start + share * (there[(side + 1) % len(there)] - start)


def panel_corners(part: Part) -> Floats | None:
    """The corners of a part taken for a flat panel, px in art space, shape (corners, 2): those of its outline, or of
    its box where that has many or several; None without a picture.
    """
    if part.bounds is None:
        return None
    rings = [ring for ring in part.outline if len(ring) <= _MOST_CORNERS]
    return np.array(rings[0]) if len(rings) == len(part.outline) == 1 else box_corners(part.bounds)


def circle_centre(ring: Ring) -> tuple[float, float] | None:
    """The centre of a ring that is a drawn circle, else None: a least-squares circle its vertices all lie on."""
    points = np.array(ring)
    if len(points) < 8:
        return None
    centre, radius = circle_through(points)
    off = np.abs(np.linalg.norm(points - centre, axis=1) - radius).max()
    return centre if radius > 0 and off <= _ROUND * radius else None


def _of_parts(
    kind: SnapKind, scene: Scene, part: Part | None, frame: float | None, without_eyelet: str | None, view: View
) -> Iterator[_Place]:
    own = None if part is None else part.id
    for place in _held_places(kind, scene, frame, view):
        if place.part != own or kind == "pivots" or (kind == "eyelets" and place.eyelet != without_eyelet):
            yield place


def _held_places(kind: SnapKind, scene: Scene, frame: float | None, view: View) -> list[_Place]:
    """The places on all parts that are not hidden; they stay with the frozen scene for the frame and the view."""
    held = _PLACES.of(scene, dict, (frame, view))
    if kind not in held:
        places = list(_places_on(kind, scene, frame))
        seen = seen_from(np.array([place for place, *_ in places]).reshape(-1, 3), view)
        held[kind] = [
            _Place(_pair(on_view), name, part, eyelet, there)
            for on_view, (there, name, part, eyelet) in zip(seen, places, strict=True)
        ]
    return held[kind]


def _places_on(
    kind: SnapKind, scene: Scene, frame: float | None
) -> Iterator[tuple[Floats, str, str | None, str | None]]:
    """Places in space, each with its name, its part and its eyelet."""
    pose = pose_at(scene, frame)
    for part in scene.parts:
        points: list[tuple[str | None, Vector, str]] = []
        if part.hidden:
            continue
        if kind == "pivots":
            yield pose.pivot_of(part.id), f"pivot of {part.name}", part.id, None
        if kind == "corners" and (corners := panel_corners(part)) is not None:
            for there in in_space(pose.world_of(part.id), corners):
                yield there, f"corner of {part.name}", part.id, None
        if kind == "centres" and part.bounds is not None:
            points.append((None, part.centre, f"centre of {part.name}"))
        if kind == "eyelets":
            points += [(result.id, result.point, f"eyelet {result.name} of {part.name}") for result in part.eyelets]
        for eyelet, point, name in points:
            yield carried(pose.world_of(part.id), np.array(point, dtype=np.float64)), name, part.id, eyelet
