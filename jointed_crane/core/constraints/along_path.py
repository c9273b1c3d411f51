"""Along a path: the pivot at a length of a way, turned with it or not."""

from __future__ import annotations

from dataclasses import dataclass
from types import MappingProxyType
from typing import Literal

import numpy as np

from jointed_crane.core.constraints.constraint import (
    Constraint,
    Given,
    Goal,
    Number,
    Spot,
    choice_field,
    count_field,
    goal_field,
)
from jointed_crane.core.constraints.numbers import TURN
from jointed_crane.core.constraints.placements import Floats, PlacedParts, stacked_first
from jointed_crane.core.geometry.aiming import aimed
from jointed_crane.core.geometry.arc_length import MET
from jointed_crane.core.geometry.fields import applied, columns_of_rows
from jointed_crane.core.geometry.plane import angle_of, length_of, shortest, square_to

#: Contours of one picture that may be run along.
MOST_CONTOURS = 20_000
#: At so many places of a path the nearest to a part is looked for.
_LOOKS = 201


@dataclass(frozen=True, kw_only=True)
class AlongPath(Constraint):
    """The pivot runs along a path: that of a pen, an ellipse, or the outline of a part, evenly by its length as it lies
    in space, whatever scales the path unequally. Closed paths run round, open ones end.

    Attributes
    ----------
    goal : the pivot of the part whose picture is the path
    contour : which of its contours or outlines, counted from 0
    turns : whether the part turns with the path
    """

    goal: Goal = goal_field("on")
    contour: int = count_field("Contour", 0, MOST_CONTOURS - 1, default=0, label="Contour of {name}", first=1)
    turns: bool = choice_field("turns with it", True)
    kind: Literal["along a path"] = "along a path"

    WITHOUT = "no longer runs along a path"
    NUMBERS = (
        Number("along", "Share of the path"),
        Number("ahead", "Ahead", unit="px"),
        Number("beside", "Beside the path", unit="px", mirror="xy"),
        TURN,
    )
    BACK = MappingProxyType({"place": ("along", "beside"), "turn": ("turn",)})
    ACT = "Run along the part picked before"
    NEEDS = "a path: pick a part with a shape first, then the part"
    EACH = frozenset({"contour"})

    def fault(self) -> str | None:
        is_there = 0 <= self.contour < MOST_CONTOURS and self.goal.at == "pivot" and self.goal.part is not None
        return None if is_there else "runs along no contour of a part"

    @property
    def heading(self) -> int:
        return 2

    def contours(self) -> tuple[tuple[str, int], ...]:
        return ((self.goal.part or "", self.contour),)

    def on_the_spot(self, spot: Spot) -> dict[str, float]:
        """The share at which the path is nearest to the part, to the nearest of some."""
        way = spot.way(self.goal.part or "", self.contour)
        shares = np.linspace(0.0, 1.0, _LOOKS)
        points, _ = way.at(shares[:, None] * way.length)
        return {"along": float(shares[np.linalg.norm(points[:, 0] - spot.pivot, axis=-1).argmin()])}

    def there(self, placed: PlacedParts, given: Given) -> PlacedParts:
        numbers = given.numbers
        size = 2 if given.places is None else 3
        points, directions, normals = np.zeros((3, size, len(given.constraints), given.frame_count))
        on_path: dict[tuple[str, int], list[int]] = {}
        for place, one in enumerate(given.constraints):
            on_path.setdefault((one.goal.part, one.contour), []).append(place)
        for path, places in on_path.items():
            result = given.way(*path)
            at = np.array(places)
            if result is None:  # no picture any more, so nowhere to run
                for axis, own_place in enumerate(columns_of_rows(placed.place[:size], at)):
                    points[axis, at] = own_place
                continue
            way, is_closed = result
            own = {name: np.broadcast_to(values, points.shape[1:])[at] for name, values in numbers.items()}
            along = way.at(length_along(way.length, is_closed, own))
            points[:, at], directions[:, at] = (np.moveaxis(values, -1, 0) for values in along)
            if size == 3:
                linear, _ = given.lies(path[0])
                normals[:, at] = np.cross(linear[..., 0], linear[..., 1]).T[:, None]
        if size == 3:
            return placed_along_in_space(placed, points, directions, normals, self.turns, dict(numbers))
        return placed_along(placed, points, directions, self.turns, dict(numbers))


def placed_along(
    placed: PlacedParts, points: Floats, directions: Floats, turns: bool, numbers: dict[str, Floats]
) -> PlacedParts:
    """The pivots on points of paths, "beside" px to the right of where the path goes as seen on the screen, and the
    parts turned as the path goes, "turn" degrees beyond it.

    Parameters
    ----------
    points, directions : arrays, shape (2, parts, frames), px; a path that goes nowhere turns nothing
    numbers : arrays by name
    """
    by = numbers["weight"]
    length = length_of(directions)
    goes = length > 0
    with np.errstate(divide="ignore", invalid="ignore"):
        right = np.where(goes, square_to(directions) / length, 0.0)
    after = placed.moved_to(points + numbers["beside"] * right, by)
    if not turns:
        return after
    turn = shortest(angle_of(directions) + np.deg2rad(numbers["turn"]) - placed.heading)
    return after.turned_by(np.where(goes, by * turn, 0.0))


def placed_along_in_space(
    placed: PlacedParts, points: Floats, directions: Floats, normals: Floats, turns: bool, numbers: dict[str, Floats]
) -> PlacedParts:
    """The same in space: "beside" is measured in the plane of the path, to the side that is its right where its front
    is seen on the stage, and the parts' own x is aimed as the path goes.

    Parameters
    ----------
    points, directions : arrays, shape (3, parts, frames), px
    normals : array of the same shape, across the planes of the paths, of any length
    """
    by = numbers["weight"]
    upwards = np.where(normals[2] < 0, -normals, normals)  # one seen from behind lies mirrored on the stage
    right = np.cross(upwards, directions, axis=0)
    length = length_of(right)
    with np.errstate(divide="ignore", invalid="ignore"):
        right = np.where(length > 0, right / length, 0.0)
    after = placed.moved_to(points + numbers["beside"] * right, by)
    if not turns:
        return after
    goes = (directions != 0).any(axis=0)
    own = stacked_first(applied(placed.art, [1.0, 0.0, 0.0]), 3)
    return after.aimed_by(*aimed(own, directions, np.deg2rad(numbers["turn"]), np.where(goes, by, 0.0), 2))


def length_along(length: Floats, is_closed: bool, numbers: dict[str, Floats]) -> Floats:
    """How far along its path a part is, px: "along" is a share of the length, "ahead" px beyond that. Closed paths run
    round, open ones end.
    """
    wanted = numbers["along"] * length + numbers["ahead"]
    if not is_closed:
        return np.clip(wanted, 0.0, length)
    with np.errstate(divide="ignore", invalid="ignore"):
        result = wanted - np.floor(wanted / length + MET) * length
    return np.where(length > 0, np.clip(result, 0.0, length), 0.0)
