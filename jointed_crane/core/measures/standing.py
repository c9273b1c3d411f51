"""How a part stands: on which ground, how far what it stands on slips there, and how far its picture lies above or
below the level of that ground.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import numpy.typing as npt

from jointed_crane.core.constraints.carry import Carry
from jointed_crane.core.constraints.constraint import WEIGHT, number_channel, of_kind
from jointed_crane.core.constraints.follow import Follow
from jointed_crane.core.evaluate import evaluate
from jointed_crane.core.evaluate.pose_at_frame import narrowed
from jointed_crane.core.model.scene import Part, Scene
from jointed_crane.core.shapes.outlines_over_time import outline_over_time
from jointed_crane.core.viewing.projection import carried, on_stage, origin_of, seen_linear_of

Floats = npt.NDArray[np.float64]
#: What lies this far off its level, or slips by this much in a frame, is seen to, px.
SEEN = 0.5
#: A ground that is scaled to less than this has no level.
_VANISHED = 1e-9


@dataclass(frozen=True)
class Stands:
    """How a part stands over frames.

    Attributes
    ----------
    frames : array, shape (frames,)
    slips : array, shape (frames,), how far the point that it stood on at the frame before has gone on its ground since,
        px; 0 before it stands
    heights : array, shape (frames,), how far the lowest of its picture lies above its level, px, below it less than 0;
        no number before it stands
    """

    frames: Floats
    slips: Floats
    heights: Floats

    def off_level(self) -> tuple[float, float] | None:
        """The first frame at which the part stands still above or below its level, and the height there at its worst,
        px; None where it keeps to it.
        """
        still = (self.slips <= SEEN) & (np.append(self.slips[1:], 0.0) <= SEEN)
        off = np.where(still & ~np.isnan(self.heights), self.heights, 0.0)
        is_off = np.abs(off) > SEEN
        if not is_off.any():
            return None
        first = int(is_off.argmax())
        alike = off * np.sign(off[first])
        return float(self.frames[first]), float(np.sign(off[first]) * alike.max())


def stands(part: Part) -> list[tuple[float, float, tuple[float, float, float]]]:
    """From which frame to which a part stands on which point, px in art space; the last stand has no end."""
    ends = (*(foothold.frame for foothold in part.footholds[1:]), np.inf)
    return [(hold.frame, end, hold.point) for hold, end in zip(part.footholds, ends, strict=False)]


def standing(scene: Scene, part_id: str, frames: Floats) -> Stands:
    """How a part stands at ascending frames. Its ground is its parent, or what carries it or what it follows, so that
    it may travel with that; the level is the line, level on the stage, through the point that it first stood on there,
    or through a mark.
    """
    part = scene.part(part_id)
    if not part.footholds:
        return Stands(frames, np.zeros(len(frames)), np.full(len(frames), np.nan))
    grounds = _grounds(part)
    names = [name for name in dict.fromkeys(name for _, name in grounds) if name is not None]
    film = evaluate(narrowed(scene, [part.id, *names]), frames)
    world = film.world[film.index[part.id]]
    below: dict[str | None, Floats] = {name: film.world[film.index[name]] for name in names}
    below[None] = np.broadcast_to(np.eye(4), world.shape)
    slips, heights = np.zeros(len(frames)), np.full(len(frames), np.nan)
    for begin, end, point in stands(part):
        places = carried(world, np.array(point))[:, :2]
        for at, until in pairwise(np.flatnonzero((frames >= begin) & (frames <= end)).tolist()):
            slips[until] = _slip(below[_at(grounds, frames[at])], at, until, places)
    corners = _corners(part, film.drawing[film.index[part.id]], frames, world)
    for columns, name in _stretches(part, grounds, frames):
        line = _level(scene, part, below[name], columns, frames, world)
        if line is not None:
            heights[columns] = line.lowest(corners[columns], columns)
            if part.level is None and abs(heights[columns[0]]) > SEEN:  # its picture does not stand on that line
                heights[columns] = line.lowest(_stood_on(part, frames, world)[columns], columns)
    return Stands(frames, slips, heights)


def _grounds(part: Part) -> list[tuple[float, str | None]]:
    """What the part stands in from which frame on, ids; None is the stage."""
    own = part.parent if part.inherits.position else None
    result: list[tuple[float, str | None]] = [(-np.inf, own)]
    for one in part.constraints:
        if not one.is_on or part.rest_value(number_channel(one.id, WEIGHT.name)) == 0:
            continue
        for follow in of_kind([one], Follow):
            result = [(-np.inf, follow.goal.part)] if follow.position else result
        for carry in of_kind([one], Carry):
            result += [(hold.frame, hold.part or own) for hold in carry.holds]
    return sorted(result, key=lambda each: each[0])


def _at(grounds: Sequence[tuple[float, str | None]], frame: float) -> str | None:
    return [name for begin, name in grounds if begin <= frame][-1]


def _slip(ground: Floats, at: int, until: int, places: Floats) -> float:
    """How far a place has gone on the ground from one frame to the next, px as the stage shows it."""
    linear, origin = seen_linear_of(ground), origin_of(ground)[:, :2]
    if min(abs(np.linalg.det(linear[[at, until]]))) <= _VANISHED:
        return float(np.hypot(*(places[until] - places[at])))
    taken_along = linear[until] @ np.linalg.solve(linear[at], places[at] - origin[at]) + origin[until]
    return float(np.hypot(*(places[until] - taken_along)))


def _stretches(
    part: Part, grounds: Sequence[tuple[float, str | None]], frames: Floats
) -> Iterator[tuple[npt.NDArray[np.intp], str | None]]:
    """The columns of frames at which the part stands on one ground after the other."""
    begins = [max(begin, part.footholds[0].frame) for begin, _ in grounds]
    for (begin, end), (_, name) in zip(pairwise([*begins, np.inf]), grounds, strict=True):
        columns = np.flatnonzero((frames >= begin) & (frames < end))
        if len(columns):
            yield columns, name


def _corners(part: Part, drawing: Floats, frames: Floats, world: Floats) -> Floats:
    """The corners of what the part shows, px on the stage, shape (frames, corners, 2); what it stands on where it shows
    nothing.
    """
    result = outline_over_time(part, drawing, frames)
    if result is not None and result.corners.shape[1]:
        own = np.broadcast_to(result.corners, (len(frames), *result.corners.shape[1:]))
    else:
        known = part.drawings[part.drawing_number(part.rest_value("drawing"))].outline if part.drawings else ()
        rings = np.concatenate([np.array(ring, dtype=np.float64).reshape(-1, 2) for ring in known]) if known else None
        held = [hold.point[:2] for hold in part.footholds] if rings is None else rings
        own = np.broadcast_to(np.array(held), (len(frames), len(held), 2))
    return on_stage(world, own)


def _stood_on(part: Part, frames: Floats, world: Floats) -> Floats:
    """The point that holds at each frame, px on the stage, shape (frames, 1, 2); the first one before it."""
    at = np.searchsorted([hold.frame for hold in part.footholds], frames, side="right")
    points = np.array([hold.point[:2] for hold in part.footholds])[np.maximum(at - 1, 0)]
    return on_stage(world, points[:, None])


@dataclass(frozen=True)
class _Line:
    """A line in a ground, by a point and a direction of it on the stage at every frame."""

    points: Floats
    up: Floats

    def lowest(self, corners: Floats, columns: npt.NDArray[np.intp]) -> Floats:
        """How far the lowest of some corners lies above it, px, shape (columns,)."""
        off = np.einsum("fci,fi->fc", corners - self.points[columns, None], self.up[columns])
        return np.asarray(np.nanmin(off, axis=1), dtype=np.float64)


def _level(
    scene: Scene, part: Part, ground: Floats, columns: npt.NDArray[np.intp], frames: Floats, world: Floats
) -> _Line | None:
    """The level of a part on a ground: level where it begins to stand there, and taken along by the ground."""
    mark = next((mark for mark in scene.marks if mark.id == part.level), None)
    if mark is not None:
        count = len(frames)
        return _Line(np.tile(mark.place, (count, 1)), np.tile((0.0, -1.0), (count, 1)))
    at = columns[0]
    linear, origin = seen_linear_of(ground), origin_of(ground)[:, :2]
    if abs(np.linalg.det(linear[at])) <= _VANISHED:
        return None
    (_, _, point) = next(stand for stand in reversed(stands(part)) if stand[0] <= frames[at])
    place = carried(world[at], np.array(point))[:2]
    points = linear @ np.linalg.solve(linear[at], place - origin[at]) + origin
    along = linear @ np.linalg.solve(linear[at], np.array([1.0, 0.0]))
    sense = np.sign(np.linalg.det(linear)) * np.sign(np.linalg.det(linear[at]))
    size = np.hypot(*along.T)
    up = np.stack([along[:, 1], -along[:, 0]], axis=-1) * (sense / np.where(size > 0, size, 1.0))[:, None]
    return _Line(points, up)
