"""What constraints that act together have to go by, as they ask for it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt

from jointed_crane.core.evaluate.acting.goals import Moment
from jointed_crane.core.evaluate.packing.constraint_columns import Terms, Together
from jointed_crane.core.evaluate.world import World
from jointed_crane.core.geometry.arc_length import Way
from jointed_crane.core.geometry.fields import Column
from jointed_crane.core.shapes.outlines_over_time import outline_over_time
from jointed_crane.core.shapes.paths import path_of

Floats = npt.NDArray[np.float64]


@dataclass(frozen=True)
class GivenTo:
    """A group of constraints over the frames of a moment; `world` holds the waves before theirs. What they ask for is
    described where they do (`constraints.constraint.Given`).
    """

    group: Together
    moment: Moment
    world: World

    @cached_property
    def _terms(self) -> Terms:
        return self.moment.plan.terms_of(self.group)

    @property
    def constraints(self) -> tuple[Any, ...]:
        return self.group.constraints

    @property
    def frame_count(self) -> int:
        return self.moment.frame_count

    @property
    def stands(self) -> bool:
        standing = self.moment.plan.standing
        return bool(standing) and not set(standing).isdisjoint(self.group.rows.tolist())

    @cached_property
    def numbers(self) -> Mapping[str, Floats]:
        return self.moment.numbers(self.group)

    @property
    def art(self) -> tuple[Column, ...]:
        return self._terms.art

    @cached_property
    def points(self) -> list[Floats]:
        return [self.moment.points(goals, self.world) for goals in self._terms.goals]

    @cached_property
    def places(self) -> list[Floats] | None:
        if self.world.is_flat:
            return None
        return [self.moment.points(goals, self.world, 3) for goals in self._terms.goals]

    def linears(self, number: int) -> Floats:
        return self.moment.linears(self._terms.goals[number], self.world, 2 if self.world.is_flat else 3)

    def whole_turns(self, number: int) -> Floats:
        return self.moment.whole_turns(self._terms.goals[number], self.world)

    def way(self, part_id: str, contour: int) -> tuple[Way, bool] | None:
        plan = self.moment.plan
        row = plan.row_of[part_id]
        path = path_of(plan.parts[row], contour, self.moment.frames, self._added(row))
        if path is None:
            return None
        linear, origin = self._placed(row, 2 if self.world.is_flat else 3)
        return path.on_stage(linear, origin), path.is_closed

    def outline(self, place: int) -> tuple[Floats, Floats] | None:
        row = int(self.group.rows[place])
        part = self.moment.plan.parts[row]
        drawing = self.moment.of(self.moment.drawings, np.array(row))
        result = outline_over_time(part, drawing, self.moment.frames, self._added(row))
        return None if result is None else (result.corners, result.reach)

    def _added(self, row: int) -> dict[str, Floats]:
        """What links add to the channels of a row."""
        return {channel: values for (owner, channel), values in self.moment.added.items() if owner == row}

    def column(self, frame: float) -> int:
        return self.moment.column(frame)

    def lies(self, part_id: str) -> tuple[Floats, Floats]:
        return self._placed(self.moment.plan.row_of[part_id], 3)

    def _placed(self, row: int, size: int) -> tuple[Floats, Floats]:
        """The linear parts of a row, shape (frames, size, size), and its origins, shape (frames, size)."""
        at = np.array(row)
        linear = self.moment.matrices(self.world.linear, at, size)
        return np.moveaxis(linear, -1, 0), self.moment.columns(self.world.origin, at, size).T
