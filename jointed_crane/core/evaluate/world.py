"""Where parts are on the stage, wave after wave."""

from __future__ import annotations

from dataclasses import dataclass

from jointed_crane.core.geometry.fields import Column, Matrix


@dataclass(frozen=True)
class World:
    """Linear parts, translations, places of the pivots and plain rotations; entries of shape (parts, frames) or plain
    numbers. Plain rotations are kept only where some part inherits partly.
    """

    linear: Matrix
    origin: Column
    place: Column
    plain: Matrix

    @property
    def is_flat(self) -> bool:
        """Whether nothing leaves the plane of the stage, so that there is no room for it."""
        return isinstance(self.place[2], float)
